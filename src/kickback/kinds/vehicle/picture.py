"""What is drawn of a vehicle: speeds, turning, slopes, its pedals, and the way from above."""

from collections.abc import Sequence

import numpy as np

from kickback.kinds.picture import Arrow, Curve, Gauge, Ground, Now, Picture, Points, Strip
from kickback.kinds.vehicle.metrics.turns import turns_of
from kickback.kinds.vehicle.motion import VehicleMotion
from kickback.kinds.vehicle.roles import FORWARD, PITCH, SIDEWAYS, UP, YAW
from kickback.motion.motion import Event
from kickback.takes.quantities import ANGLE, LENGTH, SPEED, TIME

__all__ = ["vehicle_now", "vehicle_picture"]

_ARROWS = 40
"""Headings that a map shows."""

_FEWEST = 4
"""Turns that show how a turning goes with the speed."""


def vehicle_picture(motion: VehicleMotion, _events: Sequence[Event]) -> Picture:
    """Return what a figure of a vehicle holds."""
    unit = motion.take.header.length_unit
    speed, turning = SPEED.within(unit), (ANGLE / TIME).within(unit)
    curves = [
        Curve(
            label="forward speed",
            role=FORWARD.name,
            unit=speed,
            t=motion.forward.tv,
            y=motion.forward.v,
        )
    ]
    if motion.yaw is not None:
        curves.append(
            Curve(label="turning", role=YAW.name, unit=turning, t=motion.yaw.tv, y=motion.yaw.v)
        )
    if motion.sideways is not None:
        curves.append(
            Curve(
                label="sideways speed",
                role=SIDEWAYS.name,
                unit=speed,
                t=motion.sideways.tv,
                y=motion.sideways.v,
            )
        )
    if PITCH.name in motion.tracks:
        degrees = ANGLE.within(unit)
        take = motion.take
        curves.append(
            Curve(
                label="tilt",
                role=PITCH.name,
                unit=degrees,
                t=motion.t,
                y=take.numbers("pitch"),
                beside=take.numbers("ground_pitch"),
                names=("body", "slope"),
            )
        )
    if UP.name in motion.tracks:
        curves.append(
            Curve(
                label="height",
                role=UP.name,
                unit=LENGTH.within(unit),
                t=motion.t,
                y=motion.tracks[UP.name].p,
            )
        )
    return Picture(
        curves=curves,
        inputs=_inputs(motion),
        ground=_ground(motion),
        points=_by_speed(motion),
        still=frozenset({"rest", "straight"}),
        stands_on=motion.sources,
    )


def _inputs(motion: VehicleMotion) -> list[Strip]:
    pedals, found = motion.pedals, []
    for name, amount in (("throttle", pedals.throttle), ("steer", pedals.steer)):
        if amount is not None:
            found.append(Strip(name=name, values=amount))
    if pedals.brake is not None:
        found.append(Strip(name="brake", values=pedals.brake.astype(np.float64)))
    return found


def _ground(motion: VehicleMotion) -> Ground | None:
    """Return the way over the ground, with where it points along it."""
    if motion.take.header.view == "side":
        return None
    from kickback.takes.axes import ground_axes

    axes = ground_axes(motion.take.header)
    place = motion.place
    rows = np.unique(np.linspace(0, len(place) - 1, _ARROWS).astype(np.int64))
    along = np.exp(1j * np.deg2rad(motion.heading))
    arrows = [
        Arrow(
            x=float(place[k].real),
            y=float(place[k].imag),
            dx=float(along[k].real),
            dy=float(along[k].imag),
        )
        for k in rows.tolist()
    ]
    return Ground(
        x=place.real,
        y=place.imag,
        speed=np.abs(motion.velocity),
        unit=SPEED.within(motion.take.header.length_unit),
        across=axes[0],
        along=axes[1],
        arrows=arrows if motion.heading_source == "recorded" else [],
        words="heading as arrows",
    )


def _by_speed(motion: VehicleMotion) -> Points | None:
    """Return how turning at full lock goes with the speed."""
    turns = [one for one in turns_of(motion) if np.isfinite(one.turning)]
    if len(turns) < _FEWEST:
        return None
    unit = motion.take.header.length_unit
    return Points(
        title="Turning at full lock over speed",
        x_label=f"speed ({SPEED.within(unit)})",
        y_label=f"turning ({(ANGLE / TIME).within(unit)})",
        x=np.array([one.speed for one in turns]),
        y=np.array([abs(one.turning) for one in turns]),
    )


def vehicle_now(motion: VehicleMotion, seconds: float) -> Now:
    """Return a vehicle at its last frame, and where it was of late."""
    unit = motion.take.header.length_unit
    gauges = [
        Gauge(label="forward speed", value=float(motion.forward.v[-1]), unit=SPEED.within(unit))
    ]
    if motion.yaw is not None:
        gauges.append(
            Gauge(label="turning", value=float(motion.yaw.v[-1]), unit=(ANGLE / TIME).within(unit))
        )
    if motion.sideways is not None:
        gauges.append(
            Gauge(
                label="sideways speed", value=float(motion.sideways.v[-1]), unit=SPEED.within(unit)
            )
        )
    first = int(np.searchsorted(motion.t, motion.t[-1] - seconds))
    place = motion.place[first:]
    return Now(gauges=gauges, trail=[(float(one.real), float(one.imag)) for one in place])
