"""What a look at a vehicle finds: turning without ground, slides that the wheel has left behind."""

import numpy as np

from kickback.findings.finding import Finding, FindingKind, finding, stretches
from kickback.findings.views import VIEW_UNLIKELY
from kickback.kinds.vehicle.heading import heading_reading
from kickback.kinds.vehicle.metrics.turns import turns_of
from kickback.kinds.vehicle.motion import VehicleMotion
from kickback.kinds.vehicle.pedals import FULL
from kickback.kinds.vehicle.phases import slides
from kickback.kinds.vehicle.roles import UP

__all__ = [
    "FINDINGS",
    "check_air",
    "check_heading",
    "check_slides",
    "check_surfaces",
    "check_view",
    "check_wheel",
]

STEERS_IN_AIR = FindingKind(
    code="steers-in-air",
    severity="note",
    advice="turn only on the ground, if its wheels are meant to need it",
)
DRIVES_IN_AIR = FindingKind(
    code="drives-in-air",
    severity="note",
    advice="add the force on the ground only, if its wheels are meant to need it",
)
SLIDES_ON = FindingKind(
    code="slides-on",
    severity="note",
    advice="raise the grip, or take it into account where the road is narrow",
)
WHEEL_REVERSED = FindingKind(
    code="wheel-reversed",
    severity="note",
    advice="turn the sign of the heading or of in_steer in the mapping, if that is not meant",
)

SURFACES = FindingKind(
    code="surfaces-differ",
    severity="note",
    advice="read `law` for each of them; metrics of driving and turning are those on the first",
)
HEADING_UNLIKE = FindingKind(
    code="heading-unlike",
    severity="warning",
    advice="say so in the mapping: slides and forward speeds stand on it",
    explains=("slides-on", "wheel-reversed", "drives-in-air"),
)

FINDINGS = (
    STEERS_IN_AIR,
    DRIVES_IN_AIR,
    SLIDES_ON,
    WHEEL_REVERSED,
    HEADING_UNLIKE,
    VIEW_UNLIKELY,
    SURFACES,
)
"""What these checks may say."""

_TURNS = 5.0
"""Degrees a second from which it turns."""

_LONG = 0.8
"""Seconds from which a slide after straightening is long."""

_GAINS = 0.2
"""Share of the push on the ground from which it drives in the air."""

_MOVES = 0.05
"""Share of the largest step from which a frame moves."""

_STEEP, _OFTEN = 60.0, 0.2
"""Degrees that a vehicle hardly climbs, and the share of frames in which it would have to."""

_FEWEST = 4


def check_air(motion: VehicleMotion) -> list[Finding]:
    """Return turning and driving without ground under it."""
    if motion.contact_source != "recorded":
        return []
    found = []
    air = ~motion.grounded & ~np.concatenate((motion.grounded[:1], motion.grounded[:-1]))
    wheel, gas, yaw = motion.pedals.steer, motion.pedals.throttle, motion.yaw
    if wheel is not None and yaw is not None:
        for a, b in stretches(air & (np.abs(wheel) >= FULL), _FEWEST):
            rate = abs(float(np.mean(yaw.v[a:b])))
            if rate > _TURNS:
                what = f"it turns by {rate:.0f}°/s in the air while steered"
                found.append(finding(STEERS_IN_AIR, a, b, what))
    if gas is not None:
        v = motion.forward.v
        gains = np.diff(v, prepend=v[0]) / motion.dt
        full = (gas >= FULL) & (np.concatenate((gas[:1], gas[:-1])) >= FULL)
        here = gains[full & motion.driven]
        usual = float(np.max(here, initial=0.0))
        for a, b in stretches(air & full, _FEWEST):
            gain = float(np.mean(gains[a:b]))
            if usual > 0 and gain > _GAINS * usual:
                unit = motion.take.header.length_unit
                what = f"throttle gains {gain:.3g} {unit}/s² in the air"
                found.append(finding(DRIVES_IN_AIR, a, b, what))
    return found[:_FEWEST]


def check_heading(motion: VehicleMotion) -> list[Finding]:
    """Return a heading that would point along the motion if it were read another way."""
    found = heading_reading(motion.take)
    if found is None or found[1].plain:
        return []
    plain, best = found
    what = (
        f"the motion is usually {plain.off:.0f}° off the heading, but {best.off:.0f}° with"
        f" {best.words}"
    )
    return [finding(HEADING_UNLIKE, 0, len(motion.t), what, column="heading")]


def check_view(motion: VehicleMotion) -> list[Finding]:
    """Return that a vehicle in a side view is steered, or climbs as no vehicle does."""
    take, up = motion.take, motion.tracks.get(UP.name)
    if take.header.view != "side" or up is None or not np.ptp(up.p):
        return []
    wheels = [name for name in ("in_steer", "heading") if name in take]
    shown = [name for name in wheels if np.ptp(take.numbers(name))]
    way, high = np.abs(np.diff(motion.forward.p)), np.abs(np.diff(up.p))
    moving = np.hypot(way, high) > _MOVES * float(np.max(np.hypot(way, high), initial=0.0))
    steep = (high > np.tan(np.deg2rad(_STEEP)) * way) & moving
    share = float(np.mean(steep[moving])) if moving.any() else 0.0
    if not shown and share < _OFTEN:
        return []
    what = f"'{up.axis}' goes steeper than {_STEEP:.0f}° in {share:.0%} of the moving frames"
    what += "".join(f", and there is '{name}'" for name in shown)
    return [finding(VIEW_UNLIKELY, 0, len(motion.t), what)]


def check_slides(motion: VehicleMotion) -> list[Finding]:
    """Return slides that go on for long after the wheel was let go."""
    wheel = motion.pedals.steer
    if wheel is None or motion.sideways is None:
        return []
    sliding = slides(motion) & (wheel == 0) & motion.grounded
    found = []
    for a, b in stretches(sliding, _FEWEST):
        time = float(motion.t[b - 1] - motion.begin[a])
        if a > 0 and wheel[a - 1] != 0 and time >= _LONG:
            what = f"it goes on sliding for {time:.2f} s after it was straightened"
            found.append(finding(SLIDES_ON, a, b, what))
    return found


def check_surfaces(motion: VehicleMotion) -> list[Finding]:
    """Return that a vehicle drives on several surfaces, the usual one first."""
    if not motion.surfaces:
        return []
    shares = [
        f"'{one.word}' ({float(np.mean(one.on)):.0%} of the frames)" for one in motion.surfaces
    ]
    return [finding(SURFACES, 0, len(motion.t), f"it drives on {', '.join(shares)}")]


def check_wheel(motion: VehicleMotion) -> list[Finding]:
    """Return a wheel that turns the heading against its sign: a column may be turned round."""
    wheel = motion.pedals.steer
    turns = [one for one in turns_of(motion) if np.isfinite(one.turning) and one.speed > 0]
    if wheel is None:
        return []
    ahead = motion.forward.v
    against = [
        one
        for one in turns
        if one.turning * wheel[one.start] < 0 and ahead[one.start] > motion.rest_speed
    ]
    if len(against) < max(1, len(turns) / 2):
        return []
    first, last = min(one.start for one in against), max(one.stop for one in against)
    return [finding(WHEEL_REVERSED, first, last, "plus on the wheel turns the heading to minus")]
