"""Jumps by how long their button was held, how they were run up to, and how many come in a row."""

from functools import partial

import numpy as np

from kickback.kinds.foot.metrics.played import FULL, HOLD, PLACE, played
from kickback.kinds.foot.roles import ACROSS, UP
from kickback.kinds.foot.scene import Scene
from kickback.kinds.foot.throws import AIR_JUMP, GROUND_JUMP, SECOND_AIR_JUMP
from kickback.metrics.metric import LARGEST, Metric
from kickback.metrics.record import Occurrences, none
from kickback.metrics.rows import Row, occurrences_of
from kickback.metrics.windows import WAIT, WORKED
from kickback.motion.segments import BoolArray
from kickback.takes.numeric import median
from kickback.takes.quantities import LENGTH, RATIO, TIME

__all__ = ["METRICS"]

_STANDS, _RUNS = 0.1, 0.9
"""Shares of the highest run-up up to which a jump is a standing one, and from which a running."""

_NO_BUTTON = "no jump button was recorded"


def _ground(scene: Scene) -> BoolArray:
    """Return which arcs are jumps from the ground that topped out, shape (k,)."""
    arcs = scene.arcs
    return np.asarray(arcs.throws.of(GROUND_JUMP) & np.isfinite(arcs.height))


def _rows(scene: Scene, keep: BoolArray) -> list[Row]:
    """Return the apex heights of some jumps."""
    arcs, up = scene.arcs, scene.motion.up
    grid = 0.0 if up is None else up.quantum
    return [
        Row(
            float(arcs.height[k]),
            float(arcs.begin[k]),
            float(arcs.begin[k] + np.nan_to_num(arcs.apex_time[k])),
            grid,
            float(arcs.speed[k] * scene.motion.step[arcs.throws.start[k]]),
        )
        for k in np.flatnonzero(keep).tolist()
    ]


def lowest_hop(scene: Scene) -> Occurrences:
    """Measure the lowest of the hops: the least that the button gives."""
    if scene.motion.inputs.jump is None:
        return none(_NO_BUTTON)
    rows = _rows(scene, _ground(scene) & scene.arcs.cut)
    return occurrences_of([min(rows)] if rows else [], "no jump was cut short")


def full_hold(scene: Scene) -> Occurrences:
    """Measure how long the button must be held for the full height, from hops and jumps."""
    if scene.motion.inputs.jump is None:
        return none(_NO_BUTTON)
    arcs, motion = scene.arcs, scene.motion
    hold = played(scene, arcs)[HOLD.name]
    keep = _ground(scene) & np.isfinite(hold)
    if not (keep & arcs.cut).any():
        return none("no jump was cut short" if keep.any() else "no jump in the take")
    nothing = np.zeros(int(keep.sum()))
    start = arcs.throws.start[keep]
    # what is held beyond the apex was held for the whole rise
    hold = np.where(arcs.cut, hold, np.fmin(hold, arcs.apex_time))
    return Occurrences(
        value=hold[keep],
        start=arcs.begin[keep],
        end=arcs.begin[keep] + hold[keep],
        resolution=nothing,
        frame_shift=motion.step[start],
        given={WORKED: (~arcs.cut[keep]).astype(np.float64)},
    )


def in_a_row(scene: Scene) -> Occurrences:
    """Measure the most jumps of one flight that begin in the air."""
    motion, throws = scene.motion, scene.arcs.throws
    air = throws.of(AIR_JUMP) | throws.of(SECOND_AIR_JUMP)
    if not len(throws):
        return none("no jump in the take")
    rows = [
        Row(
            float(np.sum(air & (throws.start >= a) & (throws.start < b))),
            float(motion.begin[a]),
            float(motion.t[min(b, len(motion.t)) - 1]),
            0.0,
        )
        for a, b in zip(motion.flights.start.tolist(), motion.flights.stop.tolist(), strict=True)
    ]
    return occurrences_of(rows, "no jump in the take")


def _run_up(scene: Scene, *, running: bool) -> tuple[BoolArray, str]:
    """Return which full jumps were run up to, or stood for, or why there are none."""
    arcs, keep = scene.arcs, _ground(scene) & ~scene.arcs.cut
    top = float(np.max(scene.motion.size[scene.motion.grounded], initial=0.0))
    if top <= scene.motion.rest_speed:
        return keep & ~keep, "nothing runs in the take"
    fast = arcs.side_speed >= _RUNS * top
    chosen = keep & (fast if running else arcs.side_speed <= _STANDS * top)
    what = "at full run" if running else "from a stand"
    return chosen, "" if chosen.any() else f"no full jump {what}"


def _height(scene: Scene, *, running: bool) -> Occurrences:
    chosen, reason = _run_up(scene, running=running)
    given = {FULL.name: played(scene, scene.arcs)[FULL.name][chosen]} if chosen.any() else {}
    return occurrences_of(_rows(scene, chosen), reason, given=given)


def run_up_gain(scene: Scene) -> Occurrences:
    """Measure how much higher running jumps are than standing ones."""
    parts = [_height(scene, running=running) for running in (True, False)]
    lacking = [part.reason for part in parts if not len(part.value)]
    if lacking:
        return none(lacking[0])
    high, low = (median(part.value) for part in parts)
    sure = sum(median(part.resolution) for part in parts) / low
    span = (float(scene.motion.t[0]), float(scene.motion.t[-1]))
    return occurrences_of([Row(high / low, *span, sure)], "")


METRICS = (
    Metric(
        group="hop",
        part="lowest_height",
        dimension=LENGTH,
        title="Hop: lowest height",
        definition="The apex height of the lowest hop of the take: the least that a short press"
        " gave.",
        formula="min(jump heights that letting go lowered)",
        measure=lowest_hop,
        needs=(UP,),
        depends=(HOLD,),
        detail=True,
    ),
    Metric(
        group="jump",
        part="full_hold",
        dimension=TIME,
        title="Jump: hold for the full height",
        definition="How long after takeoff the button must be held for letting go to change"
        " nothing more: the middle between the longest hold that lowered the apex and the shortest"
        " longer one, or whole rise, that did not, resolved to half of what lies between.",
        formula="(max(hold that cut) + min(longer hold that did not)) / 2",
        measure=full_hold,
        needs=(UP,),
        combine=WAIT,
    ),
    Metric(
        group="jump",
        part="most_in_the_air",
        dimension=RATIO,
        title="Jump: most in the air",
        definition="The most jumps that began in the air in one flight, without those off walls and"
        " out of dashes.",
        formula="max over flights of the count of jumps in the free air",
        measure=in_a_row,
        needs=(UP,),
        combine=LARGEST,
        detail=True,
    ),
    *(
        Metric(
            group="jump",
            part=f"{name}_height",
            dimension=LENGTH,
            title=f"Jump: height {words}",
            definition=f"jump.apex_height of those full jumps only that are taken {words}: at"
            f" {limit} of the take's highest speed on the ground.",
            formula="max(y) − y(takeoff)",
            measure=partial(_height, running=running),
            needs=(UP, ACROSS),
            depends=(FULL,),
            detail=True,
        )
        for name, words, limit, running in (
            ("running", "at full run", "90 % or more", True),
            ("standing", "from a stand", "10 % or less", False),
        )
    ),
    Metric(
        group="jump",
        part="run_up_gain",
        dimension=RATIO,
        title="Jump: what a run-up gives",
        definition="How high full jumps at full run are, over those from a stand: 1 where a run-up"
        " changes nothing.",
        formula="jump.running_height / jump.standing_height",
        measure=run_up_gain,
        needs=(UP, ACROSS),
        depends=(PLACE,),
        detail=True,
    ),
)
