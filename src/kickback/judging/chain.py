"""Why metrics moved: the parameters and the laws' constants that changed, what these foretell."""

import re
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from kickback.judging.compare import ChangedParameter, Comparison, MetricChange
from kickback.judging.samples import Cell, Told
from kickback.kinds.foretold import Foretold
from kickback.kinds.kind import AnyKind
from kickback.kinds.recovering import recover_laws
from kickback.laws.record import Laws
from kickback.takes.header import Value
from kickback.takes.record import Record

__all__ = [
    "Chain",
    "Link",
    "MovedMetric",
    "OtherRule",
    "ShiftedConstant",
    "chain_of",
    "constants_of",
]

_SURELY = 4.0
"""Standard errors beyond which a constant has changed."""

_LEAST = 1e-3
"""Share beyond which a constant's change is worth telling."""

_SHARED = 1e-6
"""Share within which two errors are one: how a row was read, say, rather than noise."""

_LIKE = 0.01
"""Share within which a constant goes with a parameter, and a metric as it is foretold."""

_ERRORS = 2.0
"""Standard errors of what is foretold within which a metric moves as it is."""

_COARSE = 0.25
"""Share of a metric's change that the error of what is foretold is, from which it explains nothing.
"""

_STAYED = 0.25
"""Share of a parameter's change below which a constant that is named alike did not go with it."""


class ShiftedConstant(NamedTuple):
    """A constant of a law on both sides, in its unit, with the standard error of each."""

    name: str
    unit: str
    base: float
    candidate: float
    base_error: float
    candidate_error: float

    @property
    def ratio(self) -> float:
        """Return by what it is multiplied; NaN where it was nothing."""
        return self.candidate / self.base if self.base else float("nan")

    @property
    def error(self) -> float:
        """Return how surely that is known, as a share."""
        pairs = ((self.base, self.base_error), (self.candidate, self.candidate_error))
        return float(sum((error / value) ** 2 for value, error in pairs if value) ** 0.5)

    @property
    def changed(self) -> bool:
        """Whether it is another on the other side, beyond its errors."""
        pair = (self.base_error, self.candidate_error)
        shared = abs(pair[0] - pair[1]) <= _SHARED * max(pair)  # a doubt that both sides have
        return abs(self.ratio - 1) > max(_LEAST, 0.0 if shared else _SURELY * self.error)


class MovedMetric(NamedTuple):
    """A metric that moved, by what share, and by what the laws' constants foretell, in words.

    ``error``: how surely that is foretold, a share.
    """

    metric: str
    share: float
    foretold: float | None
    words: str
    error: float = 0.0

    @property
    def as_foretold(self) -> bool:
        """Whether it moved as the constants say."""
        if self.foretold is None:
            return False
        near = _LIKE * (1 + abs(self.foretold)) + _ERRORS * self.error
        return abs(self.share - self.foretold) <= near


class Link(Record, frozen=True, kw_only=True):
    """A parameter that changed, the constants that went with it, and the metrics that these move.

    ``parameter`` is None where constants changed that no changed parameter goes with. ``besides``
    are groups of metrics that it moved beside those of its own name.
    """

    parameter: ChangedParameter | None
    constants: Sequence[ShiftedConstant]
    metrics: Sequence[MovedMetric]
    besides: Sequence[str] = ()


class OtherRule(NamedTuple):
    """A phase that follows another family of laws on the other side."""

    phase: str
    base: str
    candidate: str


class Chain(Record, frozen=True, kw_only=True):
    """What moved what: links, parameters that moved nothing, metrics that nothing known moved.

    ``rules`` are phases that follow another law, ``switches`` the parameters that may have done
    that: words, and numbers that a constant of one side alone has. ``idle`` are parameters whose
    constants were read on both sides and stayed, ``unseen`` those of which the takes tell nothing.
    """

    links: Sequence[Link]
    rules: Sequence[OtherRule]
    switches: Sequence[ChangedParameter]
    idle: Sequence[ChangedParameter]
    unseen: Sequence[ChangedParameter]
    unexplained: Sequence[MovedMetric]
    parameters_known: bool


def constants_of(laws: Laws) -> dict[str, Told]:
    """Return the constants that a take's laws hold, by the names of records."""
    found: dict[str, Told] = {}
    for law in laws:
        if law.family is None or law.unlike:
            continue
        for item in law.constants:
            if not item.open:
                name = f"{law.name}.{item.name}"
                found.setdefault(
                    name, Told(item.value, item.stderr or 0.0, str(item.unit), law.law)
                )
    return found


def chain_of(result: Comparison, base: Cell, candidate: Cell) -> Chain:
    """Return why the metrics of a comparison moved, read off a take of each side.

    Raises InputError for a take that has no laws to be read.
    """
    read = [_constants_of_side(cell) for cell in (base, candidate)]
    means = _kind(candidate).rules.phases_of_words
    sides = _sharpened(read, result.parameters, means)
    foretold: Sequence[Foretold] = _kind(candidate).rules.foretold
    metrics = {row.metric: _moved(row, foretold, sides) for row in _told_moved(result)}
    links = _links(result.parameters, _changed(*sides), metrics, _kind(candidate))
    rules = _rules(*sides)
    left = _without(result.parameters, [link.parameter for link in links])
    switches = _switches(left, rules, sides)
    idle = [one for one in _without(left, switches) if _stayed(one, sides, means)]
    return Chain(
        links=links,
        rules=rules,
        switches=switches,
        idle=idle,
        unseen=_without(left, [*switches, *idle]),
        unexplained=_unexplained(metrics, links),
        parameters_known=bool(base.values or candidate.values),
    )


def _without(
    parameters: Sequence[ChangedParameter], others: Sequence[ChangedParameter | None]
) -> list[ChangedParameter]:
    return [one for one in parameters if one not in others]


def _sharpened(
    sides: Sequence[Mapping[str, Told]],
    parameters: Sequence[ChangedParameter],
    means: Mapping[str, str],
) -> list[Mapping[str, Told]]:
    """Return the constants of both sides, those that are known poorly as their parameter says.

    That is a parameter of their name which each side's constant agrees with.
    """
    found = [dict(side) for side in sides]
    for one in parameters:
        for name in set(found[0]) & set(found[1]):
            if _ratio(one) is None or _alike(one.name, name, means) <= 0:
                continue
            pair = [side[name] for side in found]
            base, candidate = map(_as_written, pair, (one.base, one.candidate))
            poor = any(each.stderr > _LEAST * abs(each.value) for each in pair)
            if poor and base is not None and candidate is not None:
                found[0][name], found[1][name] = base, candidate
    return list(found)


def _as_written(told: Told, value: Value | None) -> Told | None:
    """Return a constant with the size that a parameter gives it; None where they do not agree."""
    size = abs(float(value or 0.0))
    if abs(abs(told.value) - size) > _SURELY * told.stderr:
        return None
    return told._replace(value=size if told.value >= 0 else -size, stderr=0.0)


def _stayed(
    parameter: ChangedParameter, sides: Sequence[Mapping[str, Told]], means: Mapping[str, str]
) -> bool:
    """Whether a constant that is named like a parameter had its value, and did not go with it."""
    ratio = _ratio(parameter)
    if ratio is None:
        return False
    value = abs(float(parameter.base or 0.0))
    for name, told in sides[0].items():
        other = sides[1].get(name)
        near = abs(abs(told.value) - value) <= max(_LIKE * value, _SURELY * told.stderr)
        if other is None or not near or _alike(parameter.name, name, means) <= 0:
            continue
        both = ShiftedConstant(name, "", told.value, other.value, told.stderr, other.stderr)
        off = abs(both.ratio - 1) + _SURELY * both.error
        if off <= _STAYED * abs(ratio - 1):
            return True
    return False


def _unexplained(metrics: Mapping[str, MovedMetric], links: Sequence[Link]) -> list[MovedMetric]:
    explained = {one.metric for link in links for one in link.metrics}
    return [one for name, one in metrics.items() if name not in explained]


_MOVED = ("changed", "moved", "regressed", "closer", "missed")


def _told_moved(result: Comparison) -> list[MetricChange]:
    return [row for row in result.worst if row.verdict in _MOVED and row.change_relative]


def _kind(cell: Cell) -> AnyKind:
    return cell.analyses[0].kind


def _constants_of_side(cell: Cell) -> Mapping[str, Told]:
    return constants_of(recover_laws(cell.analyses[0])) if cell.analyses else cell.constants


def _changed(base: Mapping[str, Told], candidate: Mapping[str, Told]) -> list[ShiftedConstant]:
    """Return the constants of both sides that are another on the other, beyond their errors."""
    shifted = [
        ShiftedConstant(name, one.unit, one.value, other.value, one.stderr, other.stderr)
        for name, one in base.items()
        if (other := candidate.get(name)) is not None
    ]
    return [one for one in shifted if one.changed]


def _rules(base: Mapping[str, Told], candidate: Mapping[str, Told]) -> list[OtherRule]:
    """Return the phases of both sides whose laws are of different families."""
    ours, theirs = (
        {name.rpartition(".")[0]: one.law for name, one in side.items()}
        for side in (base, candidate)
    )
    both = [phase for phase in ours if phase in theirs]
    return [OtherRule(p, ours[p], theirs[p]) for p in both if ours[p] != theirs[p]]


def _switches(
    parameters: Sequence[ChangedParameter],
    rules: Sequence[OtherRule],
    sides: Sequence[Mapping[str, Told]],
) -> list[ChangedParameter]:
    """Return the parameters that are words, or what a constant of another rule is on one side."""
    if not rules:
        return []
    phases = {rule.phase for rule in rules}
    sizes = [
        [abs(one.value) for name, one in side.items() if name.rpartition(".")[0] in phases]
        for side in sides
    ]
    return [one for one in parameters if _is_word(one) or _is_one_of(one, sizes)]


def _is_word(parameter: ChangedParameter) -> bool:
    return any(isinstance(one, bool | str) for one in (parameter.base, parameter.candidate))


def _is_one_of(parameter: ChangedParameter, sizes: Sequence[Sequence[float]]) -> bool:
    pairs = zip((parameter.base, parameter.candidate), sizes, strict=True)
    return any(
        value and any(abs(one - abs(float(value))) <= _LIKE * one for one in own)
        for value, own in pairs
    )


def _moved(
    row: MetricChange, foretold: Sequence[Foretold], sides: Sequence[Mapping[str, Told]]
) -> MovedMetric:
    """Return a metric that moved, with what the constants of both sides foretell."""
    share = row.change_relative or 0.0
    for one in foretold:
        if one.metric != row.metric or not all(set(one.constants) <= set(side) for side in sides):
            continue
        told = [[side[name] for name in one.constants] for side in sides]
        if all(each.value for side in told for each in side):
            moves, error = _foretells(one, told)
            if error <= max(_COARSE * abs(share), _LEAST):
                return MovedMetric(row.metric, share, moves, one.words, error)
    return MovedMetric(row.metric, share, None, "")


def _foretells(one: Foretold, sides: Sequence[Sequence[Told]]) -> tuple[float, float]:
    """Return by what share a metric moves as the constants of both sides say, and its error."""

    def share(sizes: Sequence[Sequence[float]]) -> float:
        before, after = (one.formula(*side) for side in sizes)
        return after / before - 1

    sizes = [[abs(told.value) for told in side] for side in sides]
    middle, squares = share(sizes), 0.0
    for k in range(len(one.constants)):
        errors = [side[k].stderr for side in sides]
        shared = abs(errors[0] - errors[1]) <= _SHARED * max(errors)  # a doubt that both have
        for bumped in ((0, 1),) if shared else ((0,), (1,)):
            other = [list(side) for side in sizes]
            for number in bumped:
                other[number][k] += errors[number]
            squares += (share(other) - middle) ** 2
    return middle, float(squares**0.5)


def _links(
    parameters: Sequence[ChangedParameter],
    changed: Sequence[ShiftedConstant],
    metrics: Mapping[str, MovedMetric],
    kind: AnyKind,
) -> list[Link]:
    """Return each changed parameter with what went with it, and the constants that none did."""
    numbers = [p for p in parameters if _ratio(p) is not None]
    owner: dict[str, ChangedParameter | None] = {
        one.name: _best(one, numbers, kind.rules.phases_of_words) for one in changed
    }
    links = []
    for parameter in [*numbers, None]:
        own = _own(parameter, changed, owner)
        if not own:
            continue
        moved = [one for name, one in metrics.items() if _moves(own, name, kind)]
        links.append(
            Link(
                parameter=parameter,
                constants=own,
                metrics=moved,
                besides=_besides(parameter, moved),
            )
        )
    return links


def _own(
    parameter: ChangedParameter | None,
    changed: Sequence[ShiftedConstant],
    owner: Mapping[str, ChangedParameter | None],
) -> list[ShiftedConstant]:
    """Return the constants that went with a parameter; of None those that no parameter explains."""
    own = [one for one in changed if owner[one.name] is parameter]
    if parameter is not None:
        return own
    # what follows from a constant that went with a parameter is no other change
    told = {_phase(name) for name, whose in owner.items() if whose is not None}
    return [one for one in own if _phase(one.name) not in told]


def _phase(constant: str) -> str:
    return constant.rpartition(".")[0]


def _ratio(parameter: ChangedParameter) -> float | None:
    pair = (parameter.base, parameter.candidate)
    if any(isinstance(one, bool | str) or not one for one in pair):
        return None
    return float(pair[1]) / float(pair[0])  # type: ignore[arg-type]


def _best(
    constant: ShiftedConstant, parameters: Sequence[ChangedParameter], means: Mapping[str, str]
) -> ChangedParameter | None:
    """Return the parameter that a constant went with: as much, likest named, of its value."""
    near = _LIKE + _SURELY * constant.error
    scored = []
    for one in parameters:
        ratio = _ratio(one) or 1.0
        fit = min(abs(constant.ratio / ratio - 1), abs(constant.ratio * ratio - 1))
        if fit <= near:
            value = abs(abs(float(one.base or 0.0)) - abs(constant.base)) <= near * abs(
                constant.base
            )
            scored.append(((_alike(one.name, constant.name, means), value, -fit), one))
    return max(scored, key=lambda item: item[0])[1] if scored else None


def _words(name: str) -> list[str]:
    parts = re.split(r"[^a-z]+", re.sub(r"([a-z])([A-Z])", r"\1_\2", name).lower())
    return [part for part in parts if part]


def _alike(parameter: str, constant: str, means: Mapping[str, str]) -> int:
    """Return how well a parameter's name goes with a constant's: words of its phase count most.

    A name whose words mean other phases goes with it badly.
    """
    phase, _, kind = constant.replace("speed-up", "speedup").rpartition(".")
    own, last, words = set(_words(phase)), set(_words(kind)), _words(parameter)
    meanings = {one for word in words for one in means.get(word, "").replace("-", "").split()}
    direct = sum(2 if word in own else word in last for word in words)
    meant = 2 if meanings & own else -2 if meanings and not own & set(words) else 0
    return direct + meant


def _moves(constants: Sequence[ShiftedConstant], metric: str, kind: AnyKind) -> bool:
    """Whether one of the constants moves a metric, by the kind's formulas and effects."""
    names = {one.name for one in constants}
    formulas = [one for one in kind.rules.foretold if one.metric == metric]
    if formulas:
        return any(names & set(one.constants) for one in formulas)
    bases = {name.partition(".")[0].partition(" ")[0] for name in names}
    group = metric.partition(".")[0]
    return any({group, metric} & set(kind.rules.groups_of(base)) for base in bases)


def _besides(parameter: ChangedParameter | None, moved: Sequence[MovedMetric]) -> tuple[str, ...]:
    """Return the groups that a parameter moved beside the one that its name is of."""
    if parameter is None:
        return ()
    groups = dict.fromkeys(one.metric.partition(".")[0] for one in moved)
    words = set(_words(parameter.name))
    meant = [group for group in groups if words & set(group.split("_"))]
    meant = meant or [next(iter(groups))] if groups else []
    return tuple(group for group in groups if group not in meant)
