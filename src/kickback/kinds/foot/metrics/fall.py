"""Falling: the terminal speed and the way to it, the delay after a ledge, the largest step."""

from functools import partial

import numpy as np

from kickback.kinds.foot.delays import falls_after
from kickback.kinds.foot.fast_fall import falls_by_stick, fast_falls, pull_of
from kickback.kinds.foot.metrics.played import PLACE
from kickback.kinds.foot.metrics.speeds import located
from kickback.kinds.foot.roles import UP
from kickback.kinds.foot.scene import NINETY_FIVE, Scene
from kickback.kinds.foot.walls import held_by_walls
from kickback.metrics.metric import LARGEST, Metric
from kickback.metrics.record import Occurrences, none
from kickback.metrics.rows import Row, occurrences_of, row_of
from kickback.takes.numeric import ROOT_12
from kickback.takes.quantities import LENGTH, RATIO, SPEED, TIME

__all__ = ["METRICS"]

_THERE = 0.99
"""Share of the terminal speed at which it is reached."""

_DOWN = 0.5
"""Amount of the vertical stick from which it is held down."""

_FEWEST = 5
"""Frames of a fall from which it may show a plateau: three that settle and two cut short."""


def terminal_speed(scene: Scene, *, held_down: bool = False) -> Occurrences:
    """Measure the falling speed that no longer grows; ``held_down``: with the stick held down."""
    motion, up = scene.motion, scene.motion.up
    if up is None:
        return none(UP.missing)
    flights, fast, beside = motion.flights, fast_falls(motion), held_by_walls(motion)
    least, change = motion.options.plateau_time, motion.options.plateau_change
    found: list[tuple[float, float, float]] = []
    for top, stop in zip(flights.top.tolist(), flights.stop.tolist(), strict=True):
        # the last frame of all may be cut short by the landing
        final = -float(up.v[max(stop - 2, 0)])
        still_growing = abs(up.v[stop - 3] + final) > change * final + 2 * up.noise
        last = max(stop - 2, 0)
        apart = bool(fast[last]) != held_down or bool(beside[last])
        if stop - top < _FEWEST or still_growing or apart:
            continue
        fall = -up.v[top + 1 : stop]
        off = np.flatnonzero(np.abs(fall[:-1] - final) > change * final + 2 * up.noise)
        settled = top + 1 + (int(off[-1]) + 1 if off.size else 0)
        if final > 0 and motion.t[stop - 2] - motion.begin[settled] >= least:
            found.append((final, float(motion.begin[settled]), float(motion.t[stop - 2])))
    if not found:
        return none(f"no fall held its speed {motion.options.plateau}")
    value, start, end = np.array(found).T
    size = np.full(len(found), up.noise)
    return Occurrences(value=value, start=start, end=end, resolution=size, frame_shift=0 * size)


def _settled(scene: Scene) -> list[tuple[int, int, float]]:
    """Return the top and stop of flights that settle at a falling speed, and that speed."""
    found, up = terminal_speed(scene), scene.motion.up
    if up is None:
        return []
    t, flights = scene.motion.t, scene.motion.flights
    rows = np.searchsorted(t[np.maximum(flights.stop - 2, 0)], found.end)
    return [
        (int(flights.top[k]), int(flights.stop[k]), float(value))
        for k, value in zip(rows.tolist(), found.value, strict=True)
    ]


def time_to_terminal(scene: Scene) -> Occurrences:
    """Measure the time from zero falling speed to 99 % of the terminal one."""
    motion, up, rows = scene.motion, scene.motion.up, []
    if up is None:
        return none(UP.missing)
    for top, stop, speed in _settled(scene):
        fall = -up.v[top:stop]
        ends = int(np.argmax(fall >= _THERE * speed))
        still = np.flatnonzero(fall[:ends] <= 0)  # it may be thrown up once more on the way
        first, hit = top + (int(still[-1]) + 1 if still.size else 0), top + ends
        level = np.array([-_THERE * speed, 0.0])
        at = np.array([hit, first])
        low = np.array([min(first, hit - 1), max(first - 1, 0)])
        sound = (at > 0) & (low >= 0)
        if not sound.all():
            continue
        moment = located(scene, at, level, np.array([first, first]), first=low, track=up)
        over, zero = moment.time.tolist()
        sure = float(np.max(moment.resolution))
        rows.append(Row(over - zero, zero, over, sure, float(motion.step[hit])))
    return occurrences_of(rows, f"no fall held its speed {motion.options.plateau}")


def ledge_delay(scene: Scene) -> Occurrences:
    """Measure how long after leaving a ledge it begins to fall."""
    motion, up, rows = scene.motion, scene.motion.up, []
    if up is None:
        return none(UP.missing)
    flights = motion.flights
    for a, b, jumped in zip(
        flights.start.tolist(), flights.stop.tolist(), flights.jump.tolist(), strict=True
    ):
        if jumped or a == 0:
            continue
        row = falls_after(up, a, b)
        if row < 0:
            continue
        value = max(float(motion.begin[row] - motion.t[a]), 0.0)
        sure = NINETY_FIVE * float(motion.clock.span_error(np.array(value)))
        if up.source != "reported" and up.quantum:  # rounded heights show a fall later
            sure += float(motion.step[row])
        rows.append(
            Row(
                value, float(motion.t[a]), float(motion.t[a]) + value, sure, float(motion.step[row])
            )
        )
    return occurrences_of(rows, "it never left a ledge and fell")


def largest_step(scene: Scene) -> Occurrences:
    """Measure the longest way that it falls in one frame."""
    motion, up = scene.motion, scene.motion.up
    if up is None:
        return none(UP.missing)
    drop = -np.diff(up.p, prepend=up.p[0])
    drop[motion.grounded] = 0.0  # the frame of a landing is cut short by the floor
    if motion.clock.interrupted is not None:
        drop[motion.clock.interrupted] = 0.0
    row = int(np.argmax(drop))
    if drop[row] <= 0:
        return none("nothing falls in the take")
    grid = 2 * up.quantum
    later = float(abs(drop[row] - drop[max(row - 1, 0)]))
    found = row_of(motion, float(drop[row]), (row, row + 1), grid)
    return occurrences_of([found._replace(frame_shift=later)], "")


def fast_fall(scene: Scene) -> Occurrences:
    """Measure how much harder it is pulled down with the stick held down."""
    both, up = falls_by_stick(scene.motion), scene.motion.up
    if isinstance(both, str) or up is None:
        return none(both if isinstance(both, str) else UP.missing)
    held, free = both
    if not held.any() or not free.any():
        return none("no fall with the stick held down" if not held.any() else "all falls with it")
    motion = scene.motion
    pulls = [pull_of(motion, up, mask) for mask in (held, free)]
    if not all(pulls):
        return none("a limit hides the gravity of all such falls")
    ratio = pulls[0] / pulls[1]
    error = up.printed * 2**0.5 / ROOT_12 / motion.clock.usual
    sure = ratio * NINETY_FIVE * error * float(np.hypot(1 / pulls[0], 1 / pulls[1]))
    rows = np.flatnonzero(held)
    return occurrences_of([row_of(motion, ratio, (int(rows[0]), int(rows[-1]) + 1), sure)], "")


_metric = partial(Metric, group="fall", needs=(UP,))


METRICS = (
    _metric(
        part="terminal_speed",
        dimension=SPEED,
        title="Terminal speed",
        definition="The falling speed that settles: it changes by less than 0.1 % for at least"
        " 0.2 s, or by what the project calls settled.",
        formula="|vy| over the plateau before landing",
        measure=terminal_speed,
        phrases=("falls {} faster", "falls {} slower", "falls"),
    ),
    _metric(
        part="fast_terminal_speed",
        detail=True,
        dimension=SPEED,
        title="Terminal speed with the stick held down",
        definition="The falling speed that settles, as for fall.terminal_speed, while the vertical"
        " stick is held down and that makes falls faster.",
        formula="|vy| over the plateau before landing, in_move_y < −0.5",
        measure=partial(terminal_speed, held_down=True),
    ),
    _metric(
        part="time_to_terminal",
        detail=True,
        dimension=TIME,
        title="Time to terminal speed",
        definition="From zero falling speed to 99 % of the terminal speed.",
        formula="t(|vy| = 0.99·v_terminal) − t(vy = 0)",
        measure=time_to_terminal,
    ),
    _metric(
        part="ledge_delay",
        detail=True,
        dimension=TIME,
        title="Delay after a ledge",
        definition="From the end of the first frame off a ledge to the start of the first one that"
        " falls: 0 where gravity acts at once.",
        formula="t(start of the first frame that falls) − t(first airborne frame)",
        measure=ledge_delay,
        whole_frames=True,
    ),
    _metric(
        part="largest_step",
        framed=True,
        detail=True,
        dimension=LENGTH,
        title="Largest step of a fall",
        definition="The longest way down in one frame: a floor that is thinner can be missed.",
        formula="max(−Δy) over the frames in the air",
        measure=largest_step,
        combine=LARGEST,
        depends=(PLACE,),
    ),
    _metric(
        part="fast_fall_ratio",
        dimension=RATIO,
        title="Fast fall",
        definition="How many times as hard it is pulled down with the vertical stick held down,"
        " away from any limit.",
        formula="median(−Δvy/dt, in_move_y < −0.5) / median(−Δvy/dt, else), both while falling",
        measure=fast_fall,
        depends=(PLACE,),
    ),
)
