"""A game's takes to the parameters of a built-in model, which then plays the same inputs."""

from collections.abc import Iterable, Mapping, Sequence
from itertools import product
from typing import TypeVar

import numpy as np

from kickback.causes.cause import Cause
from kickback.errors import InputError
from kickback.framerate.analyse import told_causes
from kickback.framerate.single import SuspectedCause, Suspicion
from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.examining import examine
from kickback.kinds.fitting import PLAY, Fitting, Number, Played, Unread
from kickback.kinds.kind import AnyKind
from kickback.kinds.recovering import recover_laws
from kickback.kinds.table import analyse
from kickback.motion.motion import Motion
from kickback.motion.options import Options
from kickback.takes.header import Value
from kickback.takes.record import replace
from kickback.takes.take import Take
from kickback.tuning.fit.divergence import Held, held_against
from kickback.tuning.fit.record import Fitted
from kickback.tuning.fit.refine import refined, usual_misfit

__all__ = ["fit"]

T = TypeVar("T")

_ALIKE = 0.01
"""Share by which frame rates may differ and be one."""

_VAGUE = 0.25
"""Share of a number from which its error leaves it untold."""

_DIGITS = 10
"""Digits of a number that is known as well as arithmetic tells it."""

_FINER = 20.0
"""How many times finer than its error a number is written: rounding it does no harm."""

_USUAL = 60.0
"""The frame rate that is read first, where several have as many takes."""

_ONE_RATE = (
    "all takes have one even frame rate: nothing tells what belongs to the frame and what to"
    " the second; takes at a second rate would"
)


def fit(takes: Sequence[Take | AnyAnalysis], options: Options | None = None) -> Fitted:
    """Return a game's movement as parameters of the model of its kind.

    The numbers are read from the takes at one frame rate, which becomes the model's
    ``reference_rate``; with other rates, or uneven frames, come the mistakes that the game makes.
    Then the model plays the inputs of every take. Raises InputError for takes of several kinds,
    of one that has no model to fit, in several units, or without recorded inputs.
    """
    analyses = [analyse(take, options) for take in takes]
    kind = _kind_of(analyses)
    fitting = _fitting_of(kind, analyses[0].take.source)
    rate, base = _of_one_rate(analyses)
    causes, suspicions = told_causes(analyses)
    mistakes, fixed = _mistakes(causes, suspicions, base, fitting)
    laws = _chained(recover_laws(one).rows for one in base)
    numbers, unread = fitting.read(laws, mistakes)
    if not numbers:
        raise InputError("no law of these takes is a parameter of the model", base[0].take.source)
    motions = _chained(one.motions for one in base)
    values, numbers = _nearest(fitting, motions, numbers, {"reference_rate": rate, **fixed})
    values, numbers, unmoved = _without_guesses(values, numbers)
    values |= fitting.untold(values)
    held, values = _spared(fitting, analyses, values)
    divergence = _chained(one.divergence for one in held)
    return Fitted(
        kind=kind.name,
        rate=rate,
        length_unit=analyses[0].take.header.length_unit,
        values=values,
        numbers=numbers,
        unread=_by_reason(_parted(unmoved + unread, values, none=False)),
        none=_by_reason(_parted(unmoved + unread, values, none=True)),
        mistakes=sorted(mistakes),
        divergence=divergence,
        metrics=_chained(one.metrics for one in held),
        warnings=_left_open(suspicions),
        fits=all(row.within for row in divergence),
    )


def _spared(
    fitting: Fitting, analyses: Sequence[AnyAnalysis], values: dict[str, Value]
) -> tuple[list[Held], dict[str, Value]]:
    """Return how the model plays the takes, and the values without what they do not need.

    A leniency that no law tells is taken for none where the takes are played as well without.
    """
    spare = {name: none for name, none in fitting.lenient.items() if name not in values}
    bare = {**values, **spare}
    sets = [fitting.checked(own, "fit") for own in (values, bare)]
    played = [[fitting.play(motion, sets) for motion in one.motions] for one in analyses]

    without = _held(analyses, played, 1)
    if all(_alike_played(part) for part in _chained(played)):
        return without, bare
    given = _held(analyses, played, 0)
    return (without, bare) if _many_within(without) >= _many_within(given) else (given, values)


def _held(
    analyses: Sequence[AnyAnalysis], played: Sequence[Sequence[Played]], column: int
) -> list[Held]:
    """Return how takes compare with one of the parameter sets that they were played with."""
    return [
        held_against(one, _rate(one), [part.only(column) for part in parts])
        for one, parts in zip(analyses, played, strict=True)
    ]


def _many_within(held: Sequence[Held]) -> int:
    """Return how many columns the model plays within what is allowed."""
    return sum(row.within for one in held for row in one.divergence)


def _alike_played(played: Played) -> bool:
    """Whether two parameter sets play a motion alike, to the last bit."""
    return all(np.array_equal(one[:, 0], one[:, 1]) for one in played.model.values())


def _parted(unread: Sequence[Unread], values: Mapping[str, Value], *, none: bool) -> list[Unread]:
    """Return what is unread that is taken for none, or that has no value at all."""
    parts = [
        Unread(
            names=tuple(name for name in one.names if (values.get(name) == 0.0) is none),
            reason=one.reason,
        )
        for one in unread
    ]
    return [one for one in parts if one.names]


def _without_guesses(
    values: Mapping[str, Value], numbers: Sequence[Number]
) -> tuple[dict[str, Value], list[Number], list[Unread]]:
    """Return what is told, as it is written, without guesses that no play narrows down."""
    vague = [
        one for one in numbers if one.guess and (one.stderr or 0.0) > _VAGUE * abs(float(one.value))
    ]
    names = {one.name for one in vague}
    kept = [replace(one, value=_written(one)) for one in numbers if one.name not in names]
    own = {one.name: one.value for one in kept}
    return (
        {name: own.get(name, value) for name, value in values.items() if name not in names},
        kept,
        [Unread(names=(one.name,), reason=one.note) for one in vague],
    )


def _by_reason(unread: Sequence[Unread]) -> list[Unread]:
    """Return what is unread, once a reason."""
    reasons = dict.fromkeys(one.reason for one in unread)
    return [
        Unread(names=tuple(_chained(one.names for one in unread if one.reason == why)), reason=why)
        for why in reasons
    ]


def _written(one: Number) -> Value:
    """Return a number with the digits that its error leaves of it."""
    if isinstance(one.value, str | bool):
        return one.value
    value, step = float(one.value), (one.stderr or 0.0) / _FINER
    if step <= abs(value) * 10.0**-_DIGITS:
        return float(f"{value:.{_DIGITS}g}")
    return round(value, -int(np.floor(np.log10(step))))


def _chained(parts: Iterable[Sequence[T]]) -> list[T]:
    return [row for part in parts for row in part]


def _kind_of(analyses: Sequence[AnyAnalysis]) -> AnyKind:
    """Return the kind of all takes; raises InputError where they are of several, or unlike."""
    first = analyses[0]
    kind: AnyKind = first.kind
    for one in analyses[1:]:
        other: AnyKind = one.kind
        if other.name != kind.name:
            raise InputError(
                f"is of the kind '{other.name}', and {first.take.source} of '{kind.name}': "
                "fit takes of one subject",
                one.take.source,
            )
        for key in ("length_unit", "view"):
            mine, its = (getattr(item.take.header, key) for item in (first, one))
            if mine != its:
                raise InputError(
                    f"its '{key}' is '{its}', that of {first.take.source} is '{mine}'",
                    one.take.source,
                )
    return kind


def _fitting_of(kind: AnyKind, source: str) -> Fitting:
    if kind.model is None or kind.model.fitting is None:
        raise InputError(f"is of the kind '{kind.name}'; takes of 'foot' can be fitted", source)
    return kind.model.fitting


def _rate(analysis: AnyAnalysis) -> float:
    """Return a take's usual frame rate, 1/s, that of a physics step of its own where it has one."""
    longest = max(analysis.motions, key=lambda one: len(one.t))
    if longest.clock.even:
        return 1.0 / float(longest.clock.usual)
    return (len(longest.t) - 1) / float(longest.t[-1] - longest.t[0])


def _of_one_rate(
    analyses: Sequence[AnyAnalysis],
) -> tuple[float, list[AnyAnalysis]]:
    """Return the frame rate of most takes, and those of it."""
    rate = _usual([_rate(one) for one in analyses])
    return rate, [one for one in analyses if _alike(_rate(one), rate)]


def _left_open(suspicions: Sequence[Suspicion]) -> list[str]:
    """Return that nothing tells the frame from the second, where takes are of one even rate."""
    return [_ONE_RATE] if suspicions and all(one.even for one in suspicions) else []


def _alike(one: float, other: float) -> bool:
    return abs(one / other - 1) <= _ALIKE


def _usual(rates: Sequence[float]) -> float:
    """Return the rate of most takes; of several alike the one nearest to the usual."""
    return max(
        rates,
        key=lambda rate: (sum(_alike(one, rate) for one in rates), -abs(np.log(rate / _USUAL))),
    )


def _mistakes(
    causes: Sequence[Cause],
    suspicions: Sequence[Suspicion],
    base: Sequence[AnyAnalysis],
    fitting: Fitting,
) -> tuple[frozenset[str], dict[str, Value]]:
    """Return the causes and faults that the model can make, and the values that switch them on."""
    names = {cause.name for cause in causes if cause.verdict != "note"}
    names |= {one.name for one in _suspected(suspicions)}
    names |= {one.code for one in _chained(examine(analysis) for analysis in base)}
    knees = [cause.pace.knee for cause in causes if cause.pace is not None]
    own = frozenset(names & fitting.mistakes)
    fixed: dict[str, Value] = {"largest_step": 1.0 / knees[0]} if knees else {}
    fixed |= {"mistakes": " ".join(sorted(own))} if own else {}
    return own, fixed


def _suspected(suspicions: Sequence[Suspicion]) -> list[SuspectedCause]:
    """Return what single takes show surely."""
    return [one for item in suspicions for one in item.causes if one.confidence == "high"]


def _nearest(
    fitting: Fitting,
    motions: Sequence[Motion],
    numbers: Sequence[Number],
    fixed: Mapping[str, Value],
) -> tuple[dict[str, Value], list[Number]]:
    """Return the values, and numbers brought nearer, with which the model plays nearest.

    Words that no law tells are tried, all together.
    """
    values: dict[str, Value] = {one.name: one.value for one in numbers} | dict(fixed)
    values = fitting.untold(values) | values
    open_words = {name: words for name, words in fitting.choices.items() if name not in values}
    tried = [dict(zip(open_words, words, strict=True)) for words in product(*open_words.values())]
    best: tuple[float, dict[str, Value], list[Number]] | None = None
    for words in tried:
        full = fitting.checked({**values, **words}, "fit")
        new = refined(fitting, motions, full, numbers)
        own = {**values, **{one.name: one.value for one in new}, **words}
        played = [fitting.play(motion, [fitting.checked(own, "fit")]) for motion in motions]
        left = usual_misfit(played)
        if best is None or left < best[0]:
            best = left, own, new
    if best is None:
        raise InputError("there is no motion to fit", "fit")
    _, own, new = best
    picked = [
        Number(name=name, value=own[name], source=PLAY, note="no law tells it")
        for name in open_words
    ]
    return own, [*new, *picked]
