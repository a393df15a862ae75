"""What counts in frames: a timer, or the whole controller."""

from collections.abc import Sequence

from kickback.causes.cause import Cause, CauseKind, Term
from kickback.causes.cures import Bench, number, unchanged
from kickback.causes.evidence import Evidence, told
from kickback.causes.kinds.factors import FACTOR_PER_FRAME, FIRST_ORDER_FACTOR
from kickback.causes.kinds.impulse import IMPULSE_TIMES_DT
from kickback.causes.kinds.position import POSITION_PER_FRAME
from kickback.causes.kinds.steps import ACCELERATION_PER_FRAME, DT_TWICE, GRAVITY_PER_FRAME
from kickback.laws.families.moments import TIMER
from kickback.laws.record import Law

__all__ = ["ALL_IN_FRAMES", "STEPPED", "TIMER_IN_FRAMES"]

STEPPED = {"acceleration", "gravity", "rate", "resistance"}
"""The sorts of constants that a step multiplies."""


def _timers(evidence: Evidence) -> Cause | None:
    terms = evidence.terms([("time", -1)])
    return told(TIMER_IN_FRAMES, terms) if terms else None


def _count_seconds(cause: Cause, bench: Bench) -> str:
    parts = []
    for term in cause.terms:
        value = bench.values[term.row.name]
        parts.append(f"{number(value)} s ({term.row.of}, {number(value * bench.keep)} frames)")
    return f"count seconds: timer −= dt, from {', '.join(parts)}; {unchanged(bench)}"


TIMER_IN_FRAMES = CauseKind(
    name="timer-in-frames",
    about="a timer counts frames",
    tell=_timers,
    suspect=lambda laws: [law for law in laws if law.family is TIMER and law.clock == "frame"],
    cure=_count_seconds,
)

_PARTS = (ACCELERATION_PER_FRAME, GRAVITY_PER_FRAME, FACTOR_PER_FRAME, TIMER_IN_FRAMES)
_MISTAKES = (
    ACCELERATION_PER_FRAME,
    GRAVITY_PER_FRAME,
    DT_TWICE,
    POSITION_PER_FRAME,
    IMPULSE_TIMES_DT,
    FACTOR_PER_FRAME,
    TIMER_IN_FRAMES,
    FIRST_ORDER_FACTOR,
)


def _whole(evidence: Evidence) -> Cause | None:
    """Find the one cause behind accelerations, rates, positions and timers in frames, if it is.

    Without a timer to tell, the separate mistakes are named as the other reading.
    """
    found = {kind.name: cause for kind in _MISTAKES if (cause := kind.tell(evidence)) is not None}
    steps = _powers_of(evidence, STEPPED)
    timers = _powers_of(evidence, {"time"})
    if POSITION_PER_FRAME.name not in found or steps != {1} or not timers <= {-1}:
        return None
    terms: list[Term] = [term for cause in found.values() for term in cause.terms]
    how = "accelerations and positions go with the rate"
    how += ", timers against it" if timers else ""
    other = "" if timers else f"or {' and '.join(found)}: a timer in the takes would tell"
    return told(ALL_IN_FRAMES, terms, how, other)


def _powers_of(evidence: Evidence, sorts: set[str]) -> set[int]:
    """Return the exponents that explained constants of some sorts have."""
    return {
        evidence.powers[row.name]
        for row in evidence.rows
        if row.sort in sorts and row.name in evidence.powers
    }


def _suspect_whole(laws: Sequence[Law]) -> list[Law]:
    """Return every law that shows a mistake, where positions and all that steps go by frames."""
    stepped = [law for law in laws if law.family is not None and law.family.stepped]
    steps = {law.clock for law in stepped}
    timers = {law.clock for law in laws if law.family is TIMER} - {"even"}
    if steps != {"frame"} or not timers <= {"frame"} or not POSITION_PER_FRAME.suspect(laws):
        return []
    shown = {id(law): law for kind in _MISTAKES for law in kind.suspect(laws)}
    return list(shown.values())


def _fixed_step(_: Cause, bench: Bench) -> str:
    return (
        f"run the whole update at a fixed step of 1/{bench.keep:g} s, as often as the time that"
        " passed asks for; or give each term the time step, with its constants of"
        f" {bench.keep:g} frames/s"
    )


ALL_IN_FRAMES = CauseKind(
    name="all-in-frames",
    about="the whole controller counts in frames",
    tell=_whole,
    suspect=_suspect_whole,
    cure=_fixed_step,
    everything=True,
    absorbs=(*(kind.name for kind in _PARTS), POSITION_PER_FRAME.name, FIRST_ORDER_FACTOR.name),
)
