"""What is drawn of a projectile: speed and height over time, its flights, the way from above."""

from collections.abc import Sequence

import numpy as np

from kickback.kinds.picture import Curve, Gauge, Ground, Marks, Now, Path, Paths, Picture, Strip
from kickback.kinds.shot.motion import PAUSED, ShotMotion
from kickback.kinds.shot.reach import envelope
from kickback.kinds.shot.roles import ACROSS, UP
from kickback.kinds.shot.scene import Scene
from kickback.motion.motion import Event
from kickback.takes.axes import ground_axes
from kickback.takes.quantities import LENGTH, SPEED
from kickback.takes.take import FloatArray

__all__ = ["shot_now", "shot_picture"]

_MARKED = ("launch", "apex", "hit")


def shot_picture(motion: ShotMotion, events: Sequence[Event]) -> Picture:
    """Return what a figure of a projectile holds."""
    unit = motion.take.header.length_unit
    curves = [
        Curve(
            label="speed",
            role=ACROSS.name,
            unit=SPEED.within(unit),
            t=_parted(motion, motion.t),
            y=_parted(motion, motion.speed),
        )
    ]
    if motion.flies:
        curves.append(
            Curve(
                label="height",
                role=UP.name,
                unit=LENGTH.within(unit),
                t=_parted(motion, motion.t),
                y=_parted(motion, motion.height),
                marks=_marks(motion, events),
            )
        )
    fire = motion.fire
    return Picture(
        curves=curves,
        inputs=[] if fire is None else [Strip(name="fire", values=fire.astype(np.float64))],
        paths=_paths(motion) if motion.flies else None,
        ground=_ground(motion),
        still=frozenset({"rest"}),
        stands_on=", ".join(f"{name} {track.source}" for name, track in motion.tracks.items()),
    )


def _parted(motion: ShotMotion, values: FloatArray) -> FloatArray:
    """Return values, shape (n,), with a NaN where the log pauses before a shot: nothing flies."""
    begun = np.array(motion.begun, dtype=np.int64)
    paused = begun[motion.step[begun] > PAUSED * motion.clock.usual]
    return np.insert(values, paused[paused > 0], np.nan)


def _marks(motion: ShotMotion, events: Sequence[Event]) -> list[Marks]:
    found = []
    for name in _MARKED:
        times = np.array([event.time for event in events if event.name == name])
        heights = np.interp(times, motion.t, motion.height)
        found.append(Marks(name=name, t=times, y=heights))
    return found


def _paths(motion: ShotMotion) -> Paths:
    """Return the flights over each other, with what is out of reach and the target, if any."""
    scene, items = Scene(motion), []
    for arc in scene.shots:
        rows = slice(max(arc.start - arc.rested, 0), min(arc.stop + arc.hits, len(motion.t)))
        start = scene.launch(arc)
        x = np.abs(motion.ground[rows] - start.ground)
        y = motion.height[rows] - start.height
        items.append(Path(t=motion.t[rows], x=x, y=y, top=int(np.argmax(y))))
    reach = target = None
    if scene.shots and scene.rule is not None:
        first = scene.launch(scene.shots[0])
        reach = envelope(scene, first)
        if scene.target is not None:
            ground, height = scene.target.at(first.time)
            target = (abs(ground - first.ground), height - first.height)
    return Paths(
        one="shot",
        many="shots",
        begin="launch",
        top="apex",
        x="distance",
        y="height",
        items=items,
        limit=reach,
        aim=target,
    )


def _ground(motion: ShotMotion) -> Ground | None:
    axes = ground_axes(motion.take.header)
    if len(axes) != 2:
        return None
    return Ground(
        x=motion.ground.real,
        y=motion.ground.imag,
        speed=motion.speed,
        unit=SPEED.within(motion.take.header.length_unit),
        across=axes[0],
        along=axes[1],
    )


def shot_now(motion: ShotMotion, seconds: float) -> Now:
    """Return a projectile at its last frame, and where it was of late."""
    unit = motion.take.header.length_unit
    gauges = [Gauge(label="speed", value=float(motion.speed[-1]), unit=SPEED.within(unit))]
    if motion.flies:
        gauges.append(
            Gauge(label="height", value=float(motion.height[-1]), unit=LENGTH.within(unit))
        )
    first = int(np.searchsorted(motion.t, motion.t[-1] - seconds))
    across = motion.ground[first:]
    second = motion.height[first:] if motion.flies else across.imag
    trail = list(zip(across.real.tolist(), second.tolist(), strict=True))
    return Now(gauges=gauges, trail=trail)
