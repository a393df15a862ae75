"""Causes of a dependence on the frame rate, from the joint pattern of the constants' exponents.

The table of section 6 of the design. A constant's own exponent is what remains after those
of the position rule and of a clamped step are taken out, so that causes add up.
"""

from collections.abc import Mapping, Sequence

import numpy as np

from kickback.framerate.clamped import Slow, slow_below
from kickback.framerate.constants import ConstantRow
from kickback.takes.record import Record, replace
from kickback.takes.take import Take

__all__ = ["NAMES", "STEPPED", "Cause", "Term", "find_causes"]

NAMES = {
    "acceleration-per-frame": "acceleration is added once per frame, without the time step",
    "gravity-per-frame": "gravity is added once per frame, without the time step",
    "position-per-frame": "the position moves once per frame by a speed without the time step",
    "impulse-times-dt": "an impulse is multiplied by the time step",
    "dt-twice": "the time step is multiplied in twice",
    "factor-per-frame": "the speed is multiplied by a constant factor each frame",
    "first-order-factor": "the factor is 1 − rate·dt, which is right for small steps only",
    "timer-in-frames": "a timer counts frames",
    "all-in-frames": "the whole controller counts in frames",
    "dt-clamped": "the time step is clamped, or the physics has a fixed rate",
    "integration-order": "what a step does, it does in turns: a matter of the order",
}
"""The causes and what each is, worst first within equal verdicts."""

SLACK = 2e-3
"""Share by which an exact constant may differ between rates and still be one."""

_THETA = 0.02
_BY_POWER = {
    ("acceleration", 1): "acceleration-per-frame",
    ("gravity", 1): "gravity-per-frame",
    ("acceleration", -1): "dt-twice",
    ("gravity", -1): "dt-twice",
    ("scale", 1): "position-per-frame",
    ("scale", -1): "dt-twice",
    ("impulse", -1): "impulse-times-dt",
    ("rate", 1): "factor-per-frame",
    ("time", -1): "timer-in-frames",
}
STEPPED = {"acceleration", "gravity", "rate"}
"""The kinds of constants that a step multiplies."""


class Term(Record, frozen=True, kw_only=True):
    """A constant that shows a cause: with the own exponent that it has."""

    row: ConstantRow
    power: int


class Cause(Record, frozen=True, kw_only=True):
    """A cause in a group: ``verdict`` is breaks, drifts, or note (``integration-order``).

    ``terms`` show it; ``evidence`` says how. ``other`` is a second reading that the takes
    cannot tell from it. ``metrics`` are those that it moves, filled in with the metrics.
    """

    name: str
    verdict: str
    terms: tuple[Term, ...] = ()
    evidence: str = ""
    other: str = ""
    metrics: tuple[str, ...] = ()
    fix: str = ""
    corrected: Mapping[str, float] = {}
    theta: float | None = None
    slow: Slow | None = None


def find_causes(
    rows: Sequence[ConstantRow], by_rate: Mapping[float, Sequence[Take]]
) -> tuple[list[Cause], dict[str, int]]:
    """Return the causes behind a group's constants, and each explained constant's exponent.

    ``rows``: the constants over the rates, ``by_rate``: the takes.
    """
    slow = slow_below(rows, by_rate)
    own = [slow.corrected(row) for row in rows] if slow is not None else list(rows)
    shift = _speed_power(own)
    powers = _powers(own, shift)
    terms: dict[str, list[Term]] = {}
    for row in own:
        power = powers.get(row.name)
        name = _BY_POWER.get((row.kind, power)) if power else None
        if name is not None and power is not None:
            terms.setdefault(name, []).append(Term(row=row, power=power))
        elif row.kind == "rate" and power is None and _first_order(row):
            terms.setdefault("first-order-factor", []).append(Term(row=row, power=0))
    if shift:
        speeds = [row for row in own if row.kind == "speed" and powers.get(row.name) == 0]
        terms["position-per-frame"] = [Term(row=row, power=1) for row in speeds]
    causes = _all_in_frames(own, powers, terms) or [
        Cause(
            name=name,
            verdict="drifts" if name == "first-order-factor" else "breaks",
            terms=tuple(shown),
            evidence=_evidence(name, shown),
            other=_other(name, terms, powers),
        )
        for name, shown in terms.items()
    ]
    if slow is not None:
        causes.append(Cause(name="dt-clamped", verdict="breaks", evidence=slow.text, slow=slow))
    order = _order(own, powers)
    causes += [order] if order is not None else []
    return sorted(causes, key=_rank), powers


def _rank(cause: Cause) -> tuple[int, int]:
    return (("breaks", "drifts", "note").index(cause.verdict), -len(cause.terms))


def _speed_power(rows: Sequence[ConstantRow]) -> int:
    """Return the exponent that the position rule leaves in the speeds themselves.

    Without a velocity column the speeds are those of the motion, and all go with the rate.
    """
    if any(row.kind == "scale" for row in rows):
        return 0
    speeds = [row for row in rows if row.kind == "speed"]
    alike = [row for row in speeds if row.fits(1, SLACK) and not row.fits(0, SLACK)]
    return 1 if alike and len(alike) == len(speeds) else 0


def _powers(rows: Sequence[ConstantRow], shift: int) -> dict[str, int]:
    """Return each constant's own exponent, by name, where one whole number alone fits it.

    ``shift``: the exponent that all speeds share. Of a push that reads as a smoothing the
    constants of one reading alone are kept.
    """
    found: dict[str, int] = {}
    for row in rows:
        moved = row.kind in {"speed", "impulse", "acceleration", "gravity"}
        base = shift if moved else 0
        fits = [power for power in (0, 1, -1) if row.fits(power + base, SLACK)]
        if len(fits) == 1:
            found[row.name] = fits[0]
    for row in rows:
        if row.law == "smoothing" and row.constant == "goal":
            push = f"{row.phase}.push"
            drive = found.get(row.name) != 0 and push in found
            found.pop(row.name if drive else push, None)
    return found


def _first_order(row: ConstantRow) -> bool:
    """Whether ``1 − factor = k·dt`` with one ``k``: the rate ``−ln(1 − k·dt)/dt`` is not one."""
    linear = -np.expm1(-row.value / row.rate) * row.rate
    slope = linear / row.value
    one = replace(row, value=linear, stderr=row.stderr * slope)
    return one.fits(0, SLACK)


def _all_in_frames(
    rows: Sequence[ConstantRow], powers: Mapping[str, int], terms: Mapping[str, Sequence[Term]]
) -> list[Cause]:
    """Return the one cause behind accelerations, rates, positions and timers in frames, if it is.

    Without a timer to tell, the separate mistakes are named as the other reading.
    """
    if "position-per-frame" not in terms:
        return []
    steps = [row for row in rows if row.kind in STEPPED and row.name in powers]
    timers = [row for row in rows if row.kind == "time" and row.name in powers]
    if not steps or any(powers[row.name] != 1 for row in steps):
        return []
    if any(powers[row.name] != -1 for row in timers):
        return []
    every = tuple(term for shown in terms.values() for term in shown)
    parts = [name for name in terms if name in NAMES]
    first = Cause(
        name="all-in-frames",
        verdict="breaks",
        terms=every,
        evidence="accelerations and positions go with the rate"
        + (", timers against it" if timers else ""),
        other="" if timers else f"or {' and '.join(parts)}: a timer in the takes would tell",
    )
    rest = [name for name in terms if name in {"impulse-times-dt", "dt-twice"}]
    return [first, *(
        Cause(name=name, verdict="breaks", terms=tuple(terms[name]),
              evidence=_evidence(name, terms[name]))
        for name in rest
    )]  # fmt: skip


def _evidence(name: str, shown: Sequence[Term]) -> str:
    """Say how the constants show a cause."""
    names = ", ".join(dict.fromkeys(term.row.name for term in shown))
    if name == "first-order-factor":
        return f"{names}: 1 − factor goes with the time step exactly, its rate does not stay"
    powers = sorted({term.power for term in shown})
    first = shown[0].row
    values = ", ".join(f"{value:.4g}" for value in first.value)
    at = f" ({first.name}: {values} {first.unit})".replace(" )", ")")
    return f"{names} ∝ rate^{'/'.join(f'{power:+d}' for power in powers)}{at}"


def _other(name: str, terms: Mapping[str, Sequence[Term]], powers: Mapping[str, int]) -> str:
    """Return the second reading of a factor a frame on a push toward a speed."""
    pushes = (
        [term.row for term in terms[name] if f"{term.row.phase}.goal" in powers]
        if name == "factor-per-frame"
        else []
    )
    if pushes and "acceleration-per-frame" not in terms:
        return "or acceleration and friction both once per frame: the two are one and the same"
    return ""


def _order(rows: Sequence[ConstantRow], powers: Mapping[str, int]) -> Cause | None:
    """Return the note on the order of integration, or None where nothing shows it.

    It is in the position rule where θ is not ½ at all rates, and in a push against friction,
    where the two act in turns: their constants stay, the speed where they balance does not.
    """
    theta, parts = None, []
    for row in rows:
        mean = float(np.median(row.value)) if row.kind == "theta" else 0.5
        if abs(mean - 0.5) > _THETA and float(np.max(np.abs(row.value - mean))) <= _THETA:
            theta, end = mean, "after" if mean > 0.5 else "before"
            parts = [f"the position moves with the speed {end} its update (theta {abs(mean):.3g})"]
    turns = tuple(
        Term(row=row, power=0)
        for row in rows
        if row.constant == "goal" and row.name not in powers and f"{row.phase}.push" in powers
    )
    if turns:
        parts.append("acceleration and friction act in turns")
    if not parts:
        return None
    return Cause(
        name="integration-order",
        verdict="note",
        terms=turns,
        evidence="; ".join(parts),
        theta=theta,
    )
