"""How a vehicle drives: top speeds, how long it takes there, and how it comes to a stop."""

from functools import partial

from kickback.kinds.vehicle.metrics.pushes import (
    acceleration,
    air_ratio,
    response,
    throttle_ratio,
    time_to,
    top_speed,
)
from kickback.kinds.vehicle.metrics.spans import (
    BRAKED_DISTANCE,
    BRAKED_TIME,
    COASTED_DISTANCE,
    COASTED_LOSS,
    COASTED_TIME,
    PEDAL,
    SLID,
)
from kickback.kinds.vehicle.metrics.stops import braked, engine_braking, released, stops
from kickback.kinds.vehicle.roles import FORWARD
from kickback.metrics.metric import LARGEST, Metric
from kickback.takes.quantities import ACCELERATION, LENGTH, RATIO, SPEED, TIME

__all__ = ["METRICS"]

_STOPPED = 0.01
"""Share of the speed at a release below which it has stopped."""

_THERE = 0.99
"""Share of the top speed at which it is called there."""

_metric = partial(Metric, group="drive", needs=(FORWARD,))


METRICS = (
    _metric(
        part="top_speed",
        measure=partial(top_speed, way=1.0),
        dimension=SPEED,
        title="Top speed",
        definition="The speed that full throttle settles at on straight, level ground. What is"
        " still missing at the end is foretold where it is less than a twentieth.",
        formula="v + d2·r/(1 − r), r = d2/d1 the ratio of the last gains; √(a/q) for a push a"
        " against a quadratic resistance q",
        phrases=("drives {} faster", "drives {} slower", "drives"),
    ),
    _metric(
        part="reverse_speed",
        measure=partial(top_speed, way=-1.0),
        dimension=SPEED,
        title="Top speed in reverse",
        definition="The speed that full throttle backward settles at.",
        formula="as drive.top_speed, backward",
    ),
    _metric(
        part="time_to_50",
        measure=partial(time_to, share=0.5),
        detail=True,
        dimension=TIME,
        title="Time to 50 % of top speed",
        definition="From full throttle at rest to half the top speed.",
        formula="t(v = 0.50·v_top) − t(press)",
    ),
    _metric(
        part="time_to_90",
        measure=partial(time_to, share=0.9),
        dimension=TIME,
        title="Time to 90 % of top speed",
        definition="From full throttle at rest to 90 % of the top speed.",
        formula="t(v = 0.90·v_top) − t(press); ln(10)/k against a linear resistance k,"
        " artanh(0.9)·v_top/a against a quadratic one",
        phrases=("speeds up {} more slowly", "speeds up {} sooner", "speeds up"),
    ),
    _metric(
        part="time_to_top_speed",
        measure=partial(time_to, share=_THERE),
        dimension=TIME,
        title="Time to top speed",
        definition="From full throttle at rest to 99 % of the top speed.",
        formula="t(v = 0.99·v_top) − t(press)",
    ),
    _metric(
        part="distance_to_top_speed",
        measure=partial(time_to, share=_THERE, distance=True),
        detail=True,
        dimension=LENGTH,
        title="Distance to top speed",
        definition="How far it goes in the time to top speed.",
        formula="p(v = 0.99·v_top) − p(press); v_top/k·(ln(100) − 0.99) for a push against a"
        " linear resistance k, ln(1/(1 − 0.99²))/2q against a quadratic one q",
    ),
    _metric(
        part="acceleration",
        measure=acceleration,
        detail=True,
        dimension=ACCELERATION,
        title="Acceleration",
        definition="The mean acceleration from full throttle at rest to half the top speed.",
        formula="0.50·v_top / drive.time_to_50",
    ),
    _metric(
        part="response_time",
        measure=response,
        detail=True,
        dimension=TIME,
        title="First response to the throttle",
        definition="From the press of the throttle at rest to the start of the update that moves"
        " it; 0 where that is the same update.",
        formula="t(first update with |v| above rest) − t(press)",
    ),
    _metric(
        part="coast_time",
        measure=partial(stops, spans=released, share=_STOPPED, distance=False),
        dimension=TIME,
        title="Coasting: time",
        definition="From letting the throttle go until 1 % of the speed is left.",
        formula="t(v = 0.01·v0) − t(release); ln(100)/k for a linear resistance k, 99/(q·v0) for"
        " a quadratic one",
        depends=(COASTED_TIME, SLID),
        by="entry",
    ),
    _metric(
        part="coast_distance",
        measure=partial(stops, spans=released, share=_STOPPED, distance=True),
        dimension=LENGTH,
        title="Coasting: distance",
        definition="How far it rolls from letting the throttle go until 1 % of the speed is left.",
        formula="|p(v = 0.01·v0) − p(release)|; 0.99·v0/k for a linear resistance k, ln(100)/q for"
        " a quadratic one",
        phrases=("rolls {} further", "rolls {} less far", "rolls"),
        depends=(COASTED_DISTANCE, SLID),
        by="entry",
    ),
    _metric(
        part="half_time",
        measure=partial(stops, spans=released, share=0.5, distance=False),
        detail=True,
        dimension=TIME,
        title="Coasting: time to half the speed",
        definition="From letting the throttle go until half the speed is left.",
        formula="t(v = v0/2) − t(release); ln(2)/k for a linear resistance k",
        depends=(COASTED_TIME, SLID),
        by="entry",
    ),
    _metric(
        part="engine_braking",
        measure=engine_braking,
        detail=True,
        dimension=ACCELERATION,
        title="Engine braking",
        definition="The mean loss of speed over the first quarter of a second without throttle.",
        formula="(v0 − v(0.25 s)) / 0.25 s",
        depends=(COASTED_LOSS, SLID),
        by="entry",
    ),
    _metric(
        part="brake_time",
        measure=partial(stops, spans=braked, share=0.0, distance=False),
        dimension=TIME,
        title="Braking: time",
        definition="From the brake until it stands; from full throttle against the motion in a"
        " take without brakes.",
        formula="t(v = 0) − t(press); v0/a for a constant brake a",
        depends=(BRAKED_TIME, PEDAL, SLID),
        by="entry",
    ),
    _metric(
        part="brake_distance",
        measure=partial(stops, spans=braked, share=0.0, distance=True),
        dimension=LENGTH,
        title="Braking: distance",
        definition="How far it goes in that time.",
        formula="|p(v = 0) − p(press)|; about v0²/2a for a constant brake a",
        phrases=("brakes {} longer", "brakes {} shorter", "brakes"),
        depends=(BRAKED_DISTANCE, PEDAL, SLID),
        by="entry",
    ),
    _metric(
        part="throttle_ratio",
        measure=throttle_ratio,
        detail=True,
        dimension=RATIO,
        title="Response to partial throttle",
        definition="The speed that a partial throttle settles at, as a share of the top speed, over"
        " the share that is pressed: 1 where the two go together.",
        formula="(v_settled / v_top) / throttle",
    ),
    _metric(
        part="air_ratio",
        measure=air_ratio,
        detail=True,
        dimension=RATIO,
        title="Throttle in the air",
        definition="The push of full throttle in the air, as a share of that on the ground: 0"
        " where it does not drive while airborne. A push is what is gained beyond coasting.",
        formula="(Δv/dt in the air − coasting) / (Δv/dt on the ground − coasting)",
        combine=LARGEST,
    ),
)
