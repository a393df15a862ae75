"""The speeds that labels follow, as laws."""

from kickback.kinds.state.labels import STATE, Threshold, labels_of, thresholds_of
from kickback.laws.families.family import Family
from kickback.laws.keys import PhaseKey
from kickback.laws.record import Constant, Law
from kickback.motion.motion import Motion
from kickback.takes.numerals import plain
from kickback.takes.numeric import ROOT_12
from kickback.takes.quantities import SPEED

__all__ = ["THRESHOLD", "threshold_laws"]


def threshold_laws(motion: Motion) -> list[Law]:
    """Return the speeds that labels follow: at which the quicker one begins, and ends."""
    if STATE.name not in motion.tracks:
        return []
    pairs: dict[tuple[str, str], list[Threshold]] = {}
    for one in thresholds_of(labels_of(motion)):
        pairs.setdefault((one.slow, one.fast), []).append(one)
    return [_law(motion, names, found) for names, found in pairs.items()]


def _law(motion: Motion, names: tuple[str, str], found: list[Threshold]) -> Law:
    unit = SPEED.within(motion.take.header.length_unit)
    constants = tuple(
        Constant(
            name="begins" if one.rising else "ends",
            value=one.value,
            unit=unit,
            stderr=max((one.high - one.low) / ROOT_12, 1e-12),
        )
        for one in sorted(found, key=lambda one: not one.rising)
    )
    late = max(one.late for one in found)
    reason = f"the label follows {late} frames late" if late else None
    if any(one.alike for one in found):
        reason = "all changes came about alike: a late label would follow another speed"
    phase = PhaseKey("state", part=f"{names[1]} over {names[0]}")
    return Law(
        take=motion.take.name,
        role=STATE,
        phase=phase,
        start=float(motion.begin[0]),
        end=float(motion.t[-1]),
        axis="state",
        family=THRESHOLD,
        constants=constants,
        frames=sum(one.changes for one in found),
        frame=motion.clock.usual,
        reason=reason,
    )


def _code(law: Law) -> str:
    fast, _, slow = law.phase.part.partition(" over ")
    known = {one.name: plain(one.value) for one in law.constants}
    begins, ends = known.get("begins"), known.get("ends")
    parts = [f"'{fast}' from {begins} on"] if begins else []
    parts += [f"'{slow}' below {ends}"] if ends else []
    return ", ".join(parts)


THRESHOLD = Family(
    name="threshold",
    words="a label that follows the speed",
    constants={"begins": SPEED, "ends": SPEED},
    code=_code,
)
