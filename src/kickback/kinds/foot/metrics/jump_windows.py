"""Lenience: how long after a ledge, and before a landing, a press to jump still counts."""

from collections.abc import Callable
from functools import partial

import numpy as np

from kickback.kinds.foot.late_presses import after_ledges, before_landings
from kickback.kinds.foot.metrics.played import PLACE
from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.press_bounds import PressBounds
from kickback.kinds.foot.roles import UP
from kickback.kinds.foot.scene import Scene
from kickback.metrics.metric import SUM, Metric
from kickback.metrics.record import Occurrences, none
from kickback.metrics.windows import WINDOW, WINDOW_FRAMES, WORKED
from kickback.takes.computed_once import computed_once
from kickback.takes.quantities import FRAMES, RATIO, TIME
from kickback.takes.record import Record

__all__ = ["METRICS"]

_SAVED = 0.25
"""Seconds beyond which no window would reach: a press that far away was for something else."""


class _Window(Record, frozen=True, kw_only=True):
    group: str
    title: str
    of: Callable[[FootMotion], PressBounds]
    where: str
    nowhere: str


_WINDOWS = (
    _Window(
        group="coyote",
        title="Coyote",
        of=after_ledges,
        where="after walking off a ledge",
        nowhere="no press of the jump button after a ledge, but for jumps in the air",
    ),
    _Window(
        group="buffer",
        title="Buffer",
        of=before_landings,
        where="before a landing",
        nowhere="no press of the jump button in the air before a landing",
    ),
)


@computed_once
def _waits(scene: Scene, window: _Window) -> PressBounds:
    return window.of(scene.motion)


def _measure(scene: Scene, *, window: _Window, frames: bool) -> Occurrences:
    """Measure how far presses were from a ledge or a landing, and which of them worked."""
    motion = scene.motion
    if motion.inputs.jump is None:
        return none("no jump button was recorded")
    waits = _waits(scene, window)
    if not len(waits):
        return none(window.nowhere)
    return Occurrences(
        value=waits.frames.astype(np.float64) if frames else waits.wait,
        start=motion.begin[waits.press],
        end=motion.t[waits.press],
        resolution=np.zeros(len(waits)),
        frame_shift=np.ones(len(waits)) if frames else motion.step[waits.press],
        given={WORKED: waits.worked.astype(np.float64)},
    )


def _missed(scene: Scene, *, window: _Window) -> Occurrences:
    """Count the presses that failed and that a longer window would have saved."""
    motion = scene.motion
    if motion.inputs.jump is None:
        return none("no jump button was recorded")
    waits = _waits(scene, window)
    if not len(waits):
        return none(window.nowhere)
    saved = ~waits.worked & ~waits.redeemed & (waits.wait <= _SAVED)
    farthest = float(np.max(waits.wait[saved], initial=0.0))
    nothing = np.zeros(len(waits))
    return Occurrences(
        value=saved.astype(np.float64),
        start=motion.begin[waits.press],
        end=motion.t[waits.press],
        resolution=nothing,
        frame_shift=nothing + 1,  # a frame later a press may do what it did not
        remark=f"a window of {farthest:.3g} s would have saved them" if saved.any() else "",
    )


def _metrics(window: _Window) -> tuple[Metric, ...]:
    definition = (
        f"How long {window.where} a press of the jump button still makes it jump: the middle"
        " between the longest wait that worked and the shortest longer one that did not, resolved"
        " to half of what lies between them."
    )
    formula = "(max(wait that worked) + min(longer wait that failed)) / 2"
    return (
        Metric(
            group=window.group,
            part="window",
            dimension=TIME,
            title=f"{window.title}: window",
            definition=definition,
            formula=formula,
            measure=partial(_measure, window=window, frames=False),
            needs=(UP,),
            combine=WINDOW,
        ),
        Metric(
            group=window.group,
            part="window_frames",
            detail=True,
            dimension=FRAMES,
            title=f"{window.title}: window in frames",
            definition=f"{definition} In frames of the take.",
            formula=formula,
            measure=partial(_measure, window=window, frames=True),
            needs=(UP,),
            combine=WINDOW_FRAMES,
        ),
        Metric(
            group=window.group,
            part="missed",
            dimension=RATIO,
            title=f"{window.title}: presses missed",
            definition=f"How many presses {window.where}, within a quarter of a second of it, did"
            " nothing, then or at the landing: those that a longer window would have saved.",
            formula="count of presses that failed with a wait of at most 0.25 s",
            measure=partial(_missed, window=window),
            needs=(UP,),
            combine=SUM,
            depends=(PLACE,),
        ),
    )


METRICS = tuple(metric for window in _WINDOWS for metric in _metrics(window))
