"""How a body goes after the slope under it."""

from kickback.kinds.vehicle.motion import VehicleMotion
from kickback.kinds.vehicle.roles import PITCH
from kickback.laws.families.code import factor
from kickback.laws.families.family import Family
from kickback.laws.followed import Followed
from kickback.laws.following import following_laws
from kickback.laws.keys import PhaseKey
from kickback.laws.record import Law
from kickback.motion.grids import printed_grid
from kickback.takes.numerals import plain
from kickback.takes.quantities import ANGLE, PER_TIME, RATIO
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["ALIGNMENT", "slope_followed", "tilt_laws"]


def slope_followed(motion: VehicleMotion) -> Followed | None:
    """Return the body's pitch and the slope that it follows, degrees; None without columns."""
    tilt = motion.tracks.get(PITCH.name)
    if tilt is None:
        return None
    from kickback.motion.prints import Prints

    grid = printed_grid(Prints(motion.take), "ground_pitch")
    return Followed(
        follower=tilt.p, leader=motion.take.numbers("ground_pitch"), grid=max(tilt.quantum, grid)
    )


def tilt_laws(motion: VehicleMotion) -> list[Law]:
    """Return the rule by which the body aligns with the slope; nothing without its columns."""
    followed = slope_followed(motion)
    if followed is None:
        return []
    base = Law(
        take=motion.take.name,
        role=PITCH,
        phase=PhaseKey("tilt"),
        start=float(motion.begin[0]),
        end=float(motion.t[-1]),
        axis="pitch",
        frame=motion.clock.usual,
    )
    return list(following_laws(motion, followed, base, ALIGNMENT, ANGLE))


def _code(law: Law) -> str:
    offset = law.value("offset")
    beside = (
        "" if abs(offset) < ARITHMETIC else f" {'+' if offset > 0 else '−'} {plain(abs(offset))}"
    )
    return f"pitch += (slope{beside} − pitch)·(1 − {factor(law)})"


ALIGNMENT = Family(
    name="alignment",
    words="smoothing of the body's tilt toward the slope",
    constants={"offset": ANGLE, "rate": PER_TIME, "factor": RATIO},
    scaling=("rate",),
    code=_code,
    stepped=True,
)
