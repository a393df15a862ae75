"""Walls: sliding down them, sticking to them, and what a jump off one gives and locks."""

from functools import partial

import numpy as np

from kickback.kinds.foot.arcs import Arcs
from kickback.kinds.foot.delays import locked_off_walls
from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.roles import ACROSS, UP
from kickback.kinds.foot.scene import NINETY_FIVE, Scene
from kickback.kinds.foot.throws import WALL_JUMP
from kickback.kinds.foot.walls import slides_of, sticks_of
from kickback.metrics.metric import Metric
from kickback.metrics.record import Occurrences, none
from kickback.metrics.rows import Row, occurrences_of, row_of
from kickback.motion.tracks import Track
from kickback.takes.numeric import ROOT_12
from kickback.takes.quantities import ANGLE, LENGTH, SPEED, TIME

__all__ = ["METRICS"]

_NEAR = 0.01
"""Share of a slide's speed within which it is there."""

_NO_WALL = "no column tells which frames touch a wall (touch_side)"
_NO_SLIDE = "no fall along a wall held its speed for 0.1 s"


def _walled(scene: Scene) -> Track | str:
    """Return the upward motion of a take that shows walls, or why it does not."""
    if "touch_side" not in scene.motion.take:
        return _NO_WALL
    return UP.missing if scene.motion.up is None else scene.motion.up


def slide_speed(scene: Scene) -> Occurrences:
    """Measure the speed at which it slides down a wall."""
    up = _walled(scene)
    if isinstance(up, str):
        return none(up)
    motion = scene.motion
    rows = [row_of(motion, v, (since, b), up.noise) for _, b, since, v in slides_of(motion, up)]
    return occurrences_of(rows, _NO_SLIDE)


def time_to_slide(scene: Scene) -> Occurrences:
    """Measure how long after touching a wall the slide has its speed."""
    up = _walled(scene)
    if isinstance(up, str):
        return none(up)
    motion, rows = scene.motion, []
    for a, b, _, speed in slides_of(motion, up):
        there = np.flatnonzero(-up.v[a:b] >= (1 - _NEAR) * speed - 2 * up.noise)
        row = a + int(there[0])
        first = a + int(np.argmax(up.v[a:b] <= 0))  # a rise along a wall is no slide yet
        step = float(motion.step[row])
        # it is there within the frame that shows it
        value = float(motion.t[row] - motion.t[first])
        rows.append(Row(value, float(motion.t[first]), float(motion.t[row]), step, step))
    return occurrences_of(rows, _NO_SLIDE)


def stick_time(scene: Scene) -> Occurrences:
    """Measure how long it stays where it is after touching a wall, before it slides."""
    up = _walled(scene)
    if isinstance(up, str):
        return none(up)
    motion, rows = scene.motion, []
    for first, gone in zip(*(part.tolist() for part in sticks_of(motion, up)), strict=True):
        rows.append(_span(motion, first, gone, float(motion.begin[gone] - motion.begin[first])))
    return occurrences_of(rows, _NO_SLIDE)


def _span(motion: FootMotion, start: int, stop: int, value: float) -> Row:
    """Return an occurrence of whole frames: they are known, their times as far as printed."""
    sure = NINETY_FIVE * float(motion.clock.span_error(np.array(value)))
    step = float(motion.step[stop]) if value else 0.0
    return Row(value, float(motion.begin[start]), float(motion.begin[stop]), sure, step)


def _off_walls(scene: Scene) -> tuple[Arcs, list[int]]:
    arcs = scene.arcs
    return arcs, np.flatnonzero(arcs.throws.of(WALL_JUMP)).tolist()


_NO_JUMP = "no such jump in the take"


def away(scene: Scene, *, angle: bool) -> Occurrences:
    """Measure the speed away from the wall that a jump off it gives, or its angle."""
    motion, rows = scene.motion, []
    arcs, jumps = _off_walls(scene)
    track = scene.across
    for k in jumps:
        start = int(arcs.throws.start[k])
        across, up = abs(float(track.v[start])), float(arcs.speed[k])
        value = float(np.rad2deg(np.arctan2(up, across))) if angle else across
        sure = track.noise
        if angle:
            size = max(float(np.hypot(up, across)), 1e-12)
            sure = float(np.rad2deg((track.noise + float(arcs.speed_resolution[k])) / size))
        rows.append(row_of(motion, value, (start, start + 1), sure))
    return occurrences_of(rows, _NO_JUMP)


def lockout(scene: Scene) -> Occurrences:
    """Measure how long after a jump off a wall input toward the wall does nothing."""
    motion, rows = scene.motion, []
    if motion.inputs.source != "recorded":
        return none("no input was recorded")
    for start, row in zip(*locked_off_walls(motion, scene.across, scene.arcs.throws), strict=True):
        value = float(motion.begin[row] - motion.begin[start]) * (row - start > 1)
        rows.append(_span(motion, start, row, value))
    return occurrences_of(
        rows, "no input toward the wall was held after a jump off it, until it worked"
    )


def gained(scene: Scene) -> Occurrences:
    """Measure how far from the wall a jump off it leads, until it lands or turns back."""
    motion, rows = scene.motion, []
    arcs, jumps = _off_walls(scene)
    for k in jumps:
        start, stop = int(arcs.throws.start[k]), int(arcs.throws.stop[k])
        place = np.abs(motion.place[start - 1 : stop] - motion.place[start - 1])
        sure = 2 * scene.across.quantum + NINETY_FIVE * scene.across.printed / ROOT_12
        later = float(motion.size[start] * motion.step[start])
        row = row_of(motion, float(place.max()), (start, stop), sure)
        rows.append(row._replace(frame_shift=later))
    return occurrences_of(rows, _NO_JUMP)


METRICS = (
    Metric(
        group="wall",
        part="slide_speed",
        dimension=SPEED,
        title="Wall: slide speed",
        definition="The speed at which it slides down a wall, held for at least 0.1 s.",
        formula="|vy| while it touches a wall in the air and changes by less than 0.1 %",
        measure=slide_speed,
        needs=(UP,),
    ),
    Metric(
        group="wall",
        part="time_to_slide",
        detail=True,
        dimension=TIME,
        title="Wall: time to slide",
        definition="From the first frame that touches the wall and does not rise to the first that"
        " slides at 99 % of the slide's speed.",
        formula="t(|vy| ≥ 0.99·v_slide) − t(touch, vy ≤ 0)",
        measure=time_to_slide,
        needs=(UP,),
    ),
    Metric(
        group="wall",
        part="stick_time",
        dimension=TIME,
        title="Wall: stick time",
        definition="How long it stays where it is at a wall before it slides; 0 where it never"
        " stands still there.",
        formula="t(first frame that moves down) − t(first that stands still)",
        measure=stick_time,
        whole_frames=True,
        needs=(UP,),
    ),
    Metric(
        group="wall_jump",
        part="away_speed",
        dimension=SPEED,
        title="Wall jump: speed away from the wall",
        definition="The speed over the ground of the first frame of a jump off a wall.",
        formula="|vx| of the first frame",
        measure=partial(away, angle=False),
        needs=(ACROSS, UP),
    ),
    Metric(
        group="wall_jump",
        part="angle",
        dimension=ANGLE,
        title="Wall jump: angle",
        definition="The angle of a jump off a wall over the level: 90 is straight up.",
        formula="atan2(takeoff speed, speed away from the wall)",
        measure=partial(away, angle=True),
        needs=(ACROSS, UP),
    ),
    Metric(
        group="wall_jump",
        part="lockout",
        dimension=TIME,
        title="Wall jump: input locked out",
        definition="From a jump off a wall until input toward the wall, held from then on, slows"
        " it: up to then it is not read.",
        formula="t(start of the first frame that slows) − t(takeoff)",
        measure=lockout,
        whole_frames=True,
        needs=(ACROSS, UP),
    ),
    Metric(
        group="wall_jump",
        part="reach",
        dimension=LENGTH,
        title="Wall jump: reach",
        definition="How far from the wall a jump off it leads at most, until its arc ends.",
        formula="max |x − x(takeoff)| over the arc",
        measure=gained,
        needs=(ACROSS, UP),
    ),
)
