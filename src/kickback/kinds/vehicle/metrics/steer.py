"""How a vehicle turns: at full lock, after it, and how much it slides."""

from functools import partial

from kickback.kinds.vehicle.metrics.slides import drifts, lane_change, slides
from kickback.kinds.vehicle.metrics.spans import (
    AT_SPEED,
    CHANGE,
    PLACE,
    RADIUS_AT_SPEED,
)
from kickback.kinds.vehicle.metrics.turns import (
    in_the_air,
    of_turns,
    radius,
    radius_power,
    return_time,
    slip,
    speed_lost,
    standing,
    time_to,
    yaw_rate,
)
from kickback.kinds.vehicle.roles import SIDEWAYS, YAW
from kickback.metrics.metric import LARGEST, Metric
from kickback.takes.quantities import ANGLE, LENGTH, RATIO, SPEED, TIME
from kickback.takes.record import replace

__all__ = ["METRICS"]


_metric = partial(Metric, group="steer", needs=(YAW,))


_AT_SPEED = (AT_SPEED, CHANGE)

METRICS = (
    _metric(
        part="yaw_rate",
        measure=partial(of_turns, one=yaw_rate),
        dimension=ANGLE / TIME,
        title="Turning at full lock",
        definition="How quickly the heading turns at full lock once that is steady: over the last"
        " third of the press.",
        formula="|Δheading| / Δt",
        phrases=("turns {} quicker", "turns {} more slowly", "turns"),
        depends=_AT_SPEED,
        by=AT_SPEED.name,
    ),
    _metric(
        part="time_to_yaw_rate",
        measure=time_to,
        dimension=TIME,
        title="Time to full turning",
        definition="From full lock to 90 % of the turning that it settles at.",
        formula="t(ω = 0.90·ω_full) − t(press); ln(10)/k for a smoothing of rate k",
        depends=_AT_SPEED,
        by=AT_SPEED.name,
    ),
    _metric(
        part="return_time",
        measure=return_time,
        detail=True,
        dimension=TIME,
        title="Return to straight",
        definition="From letting the wheel go at full lock until a tenth of the turning is left.",
        formula="t(ω = 0.10·ω_full) − t(release)",
        depends=_AT_SPEED,
        by=AT_SPEED.name,
    ),
    _metric(
        part="radius",
        measure=partial(of_turns, one=radius, later="way"),
        dimension=LENGTH,
        title="Turning radius",
        definition="The radius of the circle that full lock drives once the turning is steady.",
        formula="|v| / ω, ω in radians/s",
        phrases=("turns {} wider", "turns {} tighter", "turns"),
        depends=(RADIUS_AT_SPEED, CHANGE),
        by=AT_SPEED.name,
    ),
    _metric(
        part="radius_power",
        measure=radius_power,
        detail=True,
        dimension=RATIO,
        title="Turning radius over speed",
        definition="How the radius goes with the speed: 0 where it stays as it is, 1 where it grows"
        " in proportion, 2 with the square of the speed.",
        formula="slope of ln(radius) over ln(|v|), of turns at unlike speeds",
        depends=(PLACE,),
    ),
    _metric(
        part="slip_angle",
        measure=partial(of_turns, one=slip, later="angle"),
        needs=(YAW, SIDEWAYS),
        dimension=ANGLE,
        title="Slip angle",
        definition="By how much the motion points away from the heading at full lock, once that"
        " is steady.",
        formula="arctan(|sideways| / |forward|)",
        depends=(replace(AT_SPEED, powers=(-1.0, 2.0)), CHANGE),
        by=AT_SPEED.name,
    ),
    _metric(
        part="slide_time",
        measure=partial(slides, distance=False),
        needs=(YAW, SIDEWAYS),
        dimension=TIME,
        title="Slide after straightening: time",
        definition="From letting the wheel go until a twentieth of the sideways speed is left.",
        formula="t(s = 0.05·s0) − t(release); ln(20)/k for a grip of rate k",
        phrases=("slides {} longer", "slides {} shorter", "slides"),
        depends=(PLACE,),
        by=AT_SPEED.name,
    ),
    _metric(
        part="slide_distance",
        measure=partial(slides, distance=True),
        needs=(YAW, SIDEWAYS),
        dimension=LENGTH,
        title="Slide after straightening: distance",
        definition="How far it goes aside of its heading in that time.",
        formula="|Σ s·dt|; 0.95·s0/k for a grip of rate k",
        depends=(PLACE,),
        by=AT_SPEED.name,
    ),
    _metric(
        part="speed_lost",
        measure=partial(
            of_turns,
            one=speed_lost,
            unsettled="no full lock was held until its speed fell no more",
        ),
        dimension=RATIO,
        title="Speed lost in a turn",
        definition="How much of its speed it loses while full lock is held.",
        formula="1 − min(|v|) / |v| at the press",
        depends=(PLACE,),
        by=AT_SPEED.name,
    ),
    _metric(
        part="standing_yaw_rate",
        measure=standing,
        detail=True,
        dimension=ANGLE / TIME,
        title="Turning while it stands",
        definition="How quickly full lock turns it without any speed: 0 where it needs some.",
        formula="|Δheading| / Δt at rest",
        depends=(PLACE,),
    ),
    _metric(
        part="air_yaw_rate",
        measure=in_the_air,
        detail=True,
        dimension=ANGLE / TIME,
        title="Turning in the air",
        definition="How quickly the heading turns at full lock in the air.",
        formula="|Δheading| / Δt in the air",
    ),
    _metric(
        part="lane_change_time",
        measure=lane_change,
        detail=True,
        dimension=TIME,
        title="Lane change",
        definition="From the wheel to one side, then to the other, until it goes as before: the"
        " heading within a tenth of the largest turn.",
        formula="t(heading as before) − t(first press)",
        depends=(PLACE,),
    ),
    _metric(
        part="drift_angle",
        measure=partial(drifts, what="angle"),
        needs=(YAW, SIDEWAYS),
        detail=True,
        dimension=ANGLE,
        title="Drift: angle",
        definition="The largest slip of a drift: from 5° of slip up to 10° or more and back, for at"
        " least 0.2 s.",
        formula="max arctan(|sideways| / |forward|)",
        combine=LARGEST,
        depends=(PLACE,),
        by=AT_SPEED.name,
    ),
    _metric(
        part="drift_time",
        measure=partial(drifts, what="time"),
        needs=(YAW, SIDEWAYS),
        detail=True,
        dimension=TIME,
        title="Drift: duration",
        definition="How long a drift lasts.",
        formula="time with 5° of slip or more, of which 10° are reached",
        depends=(PLACE,),
        by=AT_SPEED.name,
    ),
    _metric(
        part="recovery_time",
        measure=partial(drifts, what="recovery"),
        needs=(YAW, SIDEWAYS),
        detail=True,
        dimension=TIME,
        title="Drift: time to recover",
        definition="From letting the wheel go in a drift, or from countersteering, until less than"
        " 5° of slip are left.",
        formula="t(slip < 5°) − t(release)",
        depends=(PLACE,),
        by=AT_SPEED.name,
    ),
    _metric(
        part="drift_exit_speed",
        measure=partial(drifts, what="exit"),
        needs=(YAW, SIDEWAYS),
        detail=True,
        dimension=SPEED,
        title="Drift: speed at its end",
        definition="The speed over the ground with which it leaves a drift.",
        formula="|v| at the last frame of the drift",
        depends=(PLACE,),
        by=AT_SPEED.name,
    ),
)
