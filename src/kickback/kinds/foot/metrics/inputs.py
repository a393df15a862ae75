"""Inputs: from a press to the frame that moved because of it, and presses that did nothing."""

from collections.abc import Callable, Sequence
from functools import partial

import numpy as np

from kickback.kinds.foot.scene import Scene
from kickback.metrics.metric import Metric
from kickback.metrics.record import Occurrences, none
from kickback.motion.segments import IntArray, first_where
from kickback.takes.computed_once import computed_once
from kickback.takes.numeric import typical
from kickback.takes.quantities import FRAMES, TIME

__all__ = ["METRICS"]

_MOVES = 1e-6
"""Share of a step at top speed that counts as motion."""

LONGEST = 0.5
"""Seconds after which motion is no longer taken for the answer to a press."""


Pairs = list[tuple[int, int]]
"""Frames that read a press, and the first frame that moved after each."""


def _moved(scene: Scene) -> Pairs:
    """Return the presses of a direction at rest, and what moved because of them."""
    motion, pairs = scene.motion, Pairs()
    if scene.track is not None and motion.inputs.source == "recorded":
        track, pushes = scene.across, scene.pushes
        still = np.abs(pushes.entry) <= motion.rest_speed
        scale = float(np.max(np.abs(track.v), initial=0.0)) * typical(motion.step)
        slack = max(track.quantum / 2, _MOVES * scale)
        press, stop = pushes.press[still], pushes.stop[still]
        for a, b in zip(press.tolist(), stop.tolist(), strict=True):
            near = track.p[a : min(b, a + 1000)] - track.p[a - 1]
            away = int((np.abs(near) > slack).argmax())
            if abs(near[away]) > slack:
                pairs.append((a, a + away))
    return pairs


def _jumped(scene: Scene) -> Pairs:
    """Return the presses of the jump button on the ground, and the first airborne frames."""
    motion, pairs = scene.motion, Pairs()
    jump = motion.inputs.jump
    if jump is not None and motion.up is not None:
        press = np.flatnonzero(jump[1:] > jump[:-1]) + 1
        press = press[motion.grounded[press - 1]]
        thrown = np.zeros(len(motion.t), dtype=bool)
        thrown[motion.flights.start[motion.flights.jump]] = True
        limit = np.append(press[1:], len(motion.t))
        start = first_where(thrown, press, limit)
        pairs += [(int(a), int(b)) for a, b in zip(press, start, strict=True) if b >= 0]
    return pairs


def _dashed(scene: Scene) -> Pairs:
    """Return the presses of the dash button that dashed, and the first frames of the dashes."""
    dashes = scene.motion.dashes
    return list(zip(dashes.press.tolist(), dashes.start.tolist(), strict=True))


@computed_once
def _answers(scene: Scene, of: Sequence[Callable[[Scene], Pairs]]) -> tuple[IntArray, IntArray]:
    """Return the frames that read a press, and the first frame that moved after each."""
    motion = scene.motion
    pairs = [pair for one in of for pair in one(scene)]
    rows = np.array(sorted(pairs), dtype=np.int64).reshape(-1, 2)
    press, moved = rows[:, 0], rows[:, 1]
    soon = motion.t[moved] - motion.begin[press] <= LONGEST
    return press[soon], moved[soon]


_EVERY = (_moved, _jumped)


def _latency(
    scene: Scene, *, frames: bool, of: Sequence[Callable[[Scene], Pairs]] = _EVERY
) -> Occurrences:
    motion = scene.motion
    if motion.inputs.source != "recorded" and motion.inputs.jump is None:
        return none("no input was recorded")
    press, moved = _answers(scene, tuple(of))
    if not len(press):
        return none("no press from rest was followed by motion")
    begin, end = motion.begin[press], motion.t[moved]
    step = motion.step[press]
    blur = np.zeros(len(press))
    if scene.track is not None and scene.track.quantum and _moved in of:
        # rounding hides the first frames of a slow start: anything up to what was seen
        blur = np.maximum(1.0, moved - press)
    if frames:
        value, resolution, slack = (moved - press).astype(np.float64), blur, np.ones(len(press))
    else:
        # a latency is some number of frames: at another rate they last as much longer
        value, resolution = 1e3 * (end - begin), 1e3 * (blur * step + motion.time_grid)
        slack = value
    return Occurrences(value=value, start=begin, end=end, resolution=resolution, frame_shift=slack)


def latency(scene: Scene) -> Occurrences:
    """Measure input latency in frames."""
    return _latency(scene, frames=True)


def latency_time(scene: Scene) -> Occurrences:
    """Measure input latency in milliseconds."""
    return _latency(scene, frames=False)


_NOT_IN_IT = " The input device's and the display's own delay are not in it."

_metric = partial(Metric, group="input")


METRICS = (
    _metric(
        part="latency",
        dimension=FRAMES,
        title="Input latency",
        definition="Frames between the one that read a press, at rest, and the first that moved;"
        " the same frame is 0." + _NOT_IN_IT,
        formula="frame(first motion) − frame(press)",
        measure=latency,
    ),
    _metric(
        part="latency_time",
        dimension=TIME,
        milli=True,
        title="Input latency in time",
        definition="From a press, at the start of the frame that read it, to the end of the"
        " first frame that moved." + _NOT_IN_IT,
        formula="1000·(t(first motion) − t(press))",
        measure=latency_time,
    ),
    *(
        _metric(
            part=f"{name}_latency",
            detail=True,
            dimension=FRAMES,
            title=f"Latency of {what}",
            definition=f"Frames between the one that read a press of {what} and the first that"
            " moved because of it; the same frame is 0." + _NOT_IN_IT,
            formula="frame(first motion) − frame(press)",
            measure=partial(_latency, frames=True, of=(of,)),
        )
        for name, what, of in (
            ("move", "a direction, at rest", _moved),
            ("jump", "the jump button, on the ground", _jumped),
            ("dash", "the dash button", _dashed),
        )
    ),
)
