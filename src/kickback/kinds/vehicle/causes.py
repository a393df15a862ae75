"""Causes of frame-rate dependence that only a vehicle has."""

from kickback.causes.cause import Cause, CauseKind
from kickback.causes.cures import Bench, number, unchanged
from kickback.causes.evidence import Evidence, told
from kickback.causes.kinds.frames import ALL_IN_FRAMES
from kickback.kinds.vehicle.laws.steering import STEERING

__all__ = ["STEERING_PER_FRAME"]


def _tell(evidence: Evidence) -> Cause | None:
    terms = evidence.terms([("turning", 1)])
    return told(STEERING_PER_FRAME, terms) if terms else None


def _cure(cause: Cause, bench: Bench) -> str:
    parts = []
    for term in cause.terms:
        by = "" if term.row.constant == "yaw_rate" else "·speed"
        parts.append(f"heading += {number(bench.values[term.row.name])}·steer{by}·dt")
    return f"multiply by the time step: {', '.join(dict.fromkeys(parts))}; {unchanged(bench)}"


STEERING_PER_FRAME = CauseKind(
    name="steering-per-frame",
    about="the heading turns by an amount per frame, without the time step",
    tell=_tell,
    suspect=lambda laws: [law for law in laws if law.family is STEERING and law.clock == "frame"],
    cure=_cure,
    part_of=(ALL_IN_FRAMES.name,),
)
