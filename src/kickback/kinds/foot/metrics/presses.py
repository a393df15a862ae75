"""Presses without effect, and jumps without a press of their own."""

from collections import Counter
from functools import partial

import numpy as np

from kickback.kinds.foot.dashing import cooldown_of
from kickback.kinds.foot.late_presses import after_ledges, before_landings
from kickback.kinds.foot.metrics.played import PLACE
from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.press_bounds import PressBounds
from kickback.kinds.foot.scene import Scene
from kickback.kinds.foot.throws import GROUND_JUMP
from kickback.metrics.metric import SUM, Metric
from kickback.metrics.record import Occurrences, joined, none
from kickback.motion.segments import any_within, risings
from kickback.takes.quantities import RATIO
from kickback.takes.record import replace

__all__ = ["METRICS"]

_NEARLY = 0.25
"""Seconds by which a press misses a ledge or a landing at most, to have been meant for it."""


def lost_jumps(scene: Scene) -> Occurrences:
    """Count the presses of the jump button without effect; where it shows, why."""
    motion, jump = scene.motion, scene.motion.inputs.jump
    if jump is None or motion.up is None:
        return none("no jump button was recorded")
    press = risings(jump)
    if not len(press):
        return none("the jump button was never pressed")
    throws = scene.arcs.throws.start
    late = np.append(press[1:], len(motion.t))
    worked = any_within(throws, press, late)
    early, ledge = before_landings(motion), after_ledges(motion)
    causes = Counter(_why(motion, row, early, ledge) for row in press[~worked].tolist())
    nothing = np.zeros(len(press))
    return Occurrences(
        value=(~worked).astype(np.float64),
        start=motion.begin[press],
        end=motion.t[press],
        resolution=nothing,
        frame_shift=nothing + 1,  # a frame later a press may do what it did not
        remark=", ".join(f"{count} {why}" for why, count in causes.items()),
    )


def _why(motion: FootMotion, row: int, early: PressBounds, ledge: PressBounds) -> str:
    """Return why a press of the jump button did nothing, as far as it shows."""
    if motion.grounded[row - 1]:
        return "on the ground"
    if row in ledge.press[~ledge.worked] and ledge.wait[ledge.press == row][0] <= _NEARLY:
        return "too late after a ledge"
    if row in early.press[~early.worked] and early.wait[early.press == row][0] <= _NEARLY:
        return "too early before a landing"
    return "in the air"


def lost_dashes(scene: Scene) -> Occurrences:
    """Count the presses of the dash button without effect."""
    motion = scene.motion
    if motion.inputs.dash is None:
        return none("no dash button was recorded")
    press = motion.dashes.presses
    if not len(press):
        return none("the dash button was never pressed")
    lost = ~np.isin(press, motion.dashes.press)
    waits = cooldown_of(motion)
    failed = waits.wait[~waits.worked]
    nothing = np.zeros(len(press))
    return Occurrences(
        value=lost.astype(np.float64),
        start=motion.begin[press],
        end=motion.t[press],
        resolution=nothing,
        frame_shift=nothing + 1,  # a frame later a press may do what it did not
        remark=f"{len(failed)} while cooling down, up to {failed.max():.3g} s after a dash"
        if len(failed)
        else "",
    )


def without_effect(scene: Scene) -> Occurrences:
    """Count the presses of the jump and the dash button without effect."""
    parts = [lost_jumps(scene), lost_dashes(scene)]
    if not any(len(part.value) for part in parts):
        return none("no press of a jump or dash button in the take")
    remarks = [part.remark for part in parts if part.remark]
    return replace(joined(parts), remark=", ".join(remarks))


def held_jumps(scene: Scene) -> Occurrences:
    """Count the jumps from the ground of a button that was held since an earlier one."""
    motion, jump = scene.motion, scene.motion.inputs.jump
    if jump is None or motion.up is None:
        return none("no jump button was recorded")
    throws = scene.arcs.throws
    start = throws.start[throws.of(GROUND_JUMP)]
    if not len(start):
        return none("no jump in the take")
    press = np.flatnonzero(np.diff(jump.astype(np.int8), prepend=np.int8(0)) > 0)
    last = press[np.maximum(np.searchsorted(press, start, side="right") - 1, 0)]
    again = np.isin(last, throws.start) | any_within(throws.start, last, start)
    again &= jump[start] & (last < start)
    nothing = np.zeros(len(start))
    return Occurrences(
        value=again.astype(np.float64),
        start=motion.begin[start],
        end=motion.t[start],
        resolution=nothing,
        frame_shift=nothing + 1,  # a frame later a press may do what it did not
    )


_metric = partial(Metric, group="input")


METRICS = (
    _metric(
        part="without_effect",
        dimension=RATIO,
        title="Presses without effect",
        definition="How many presses of the jump and the dash button did nothing; and where it"
        " shows, why.",
        formula="input.lost_jumps + input.lost_dashes",
        measure=without_effect,
        combine=SUM,
        depends=(PLACE,),
    ),
    _metric(
        part="lost_jumps",
        detail=True,
        dimension=RATIO,
        title="Presses to jump without effect",
        definition="How many presses of the jump button threw it up neither at once nor later, up"
        " to the next press; and where it shows, why.",
        formula="count of presses without a jump before the next press",
        measure=lost_jumps,
        combine=SUM,
        depends=(PLACE,),
    ),
    _metric(
        part="lost_dashes",
        detail=True,
        dimension=RATIO,
        title="Presses to dash without effect",
        definition="How many presses of the dash button did not dash.",
        formula="count of presses without a dash",
        measure=lost_dashes,
        combine=SUM,
        depends=(PLACE,),
    ),
    _metric(
        part="held_jumps",
        detail=True,
        dimension=RATIO,
        title="Jumps of a button that stayed held",
        definition="How many jumps from the ground a button gave that had thrown it up before and"
        " was not let go since: none where each jump needs a press of its own.",
        formula="count of takeoffs whose last press had led to a jump already",
        measure=held_jumps,
        combine=SUM,
        depends=(PLACE,),
    ),
)
