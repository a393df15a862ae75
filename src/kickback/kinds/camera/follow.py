"""The rule by which a camera follows its subject, axis by axis."""

from collections.abc import Sequence

from kickback.kinds.camera.filmed import Filmed, band_of, followed
from kickback.laws.families.code import factor
from kickback.laws.families.family import Family
from kickback.laws.following import following_laws
from kickback.laws.keys import PhaseKey
from kickback.laws.record import Law
from kickback.motion.motion import Motion
from kickback.takes.numerals import plain
from kickback.takes.quantities import LENGTH, PER_TIME, RATIO, TIME
from kickback.takes.record import replace
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["FOLLOW", "follow_laws"]


def follow_laws(motion: Motion) -> list[Law]:
    """Return the rule by which the camera follows along each axis, or why none is told."""
    return [law for one in followed(motion) for law in _laws(motion, one)]


def _laws(motion: Motion, one: Filmed) -> Sequence[Law]:
    base, band = _base(motion, one), band_of(one)
    if band is None:
        return following_laws(motion, one, base, FOLLOW, LENGTH)
    wide = f"{plain(band.width)} {LENGTH.within(motion.take.header.length_unit)} wide"
    return [replace(base, reason=f"it stands in a band {wide}, whose ends carry it along")]


def _base(motion: Motion, one: Filmed) -> Law:
    return Law(
        take=motion.take.name,
        role=one.role,
        phase=PhaseKey("camera", part=one.role.name.removeprefix("camera ")),
        start=float(motion.begin[0]),
        end=float(motion.t[-1]),
        axis=f"camera_{one.axis}",
        frame=motion.clock.usual,
    )


def _code(law: Law) -> str:
    offset = law.value("offset")
    beside = (
        "" if abs(offset) < ARITHMETIC else f" {'+' if offset > 0 else '−'} {plain(abs(offset))}"
    )
    if any(one.name == "ahead" for one in law.constants):
        beside += f" + {plain(law.value('ahead'))}·speed"
    return f"camera += (subject{beside} − camera)·(1 − {factor(law)})"


FOLLOW = Family(
    name="follow",
    words="smoothing of the camera toward its subject",
    constants={"offset": LENGTH, "rate": PER_TIME, "factor": RATIO, "ahead": TIME},
    scaling=("rate",),
    code=_code,
    stepped=True,
)
