"""Jumps, and hops: jumps whose button was let go early enough to lower the apex."""

from collections.abc import Callable
from functools import partial
from typing import NamedTuple

import numpy as np

from kickback.kinds.foot.arcs import Arcs
from kickback.kinds.foot.metrics.jump_edges import EDGES
from kickback.kinds.foot.metrics.jump_entry import JumpEntry, Triple
from kickback.kinds.foot.metrics.jump_shape import SHAPE
from kickback.kinds.foot.metrics.played import FULL, HOLD, LANDING, PLACE, RUN_UP, STICK, played
from kickback.kinds.foot.roles import ACROSS, UP
from kickback.kinds.foot.scene import LOCATED, NINETY_FIVE, Scene
from kickback.kinds.foot.throws import GROUND_JUMP, JUMP_KINDS, JumpKind
from kickback.kinds.foot.walls import bumps
from kickback.metrics.metric import Metric
from kickback.metrics.record import Occurrences, none
from kickback.motion.segments import BoolArray, IntArray
from kickback.takes.computed_once import computed_once
from kickback.takes.numeric import ROOT_12
from kickback.takes.quantities import LENGTH, SPEED, TIME
from kickback.takes.take import FloatArray

__all__ = ["METRICS"]

_RUN_UP = 0.9
"""Share of the fastest run-up from which a jump is one of the running ones."""

_RESTS = 1e-5
"""Share of its height that a jump's level may be off: what solvers leave of a rest."""

_IMPLIED = 0.02
"""Share of a frame within which a moment is known where displacements are the speed."""

_LEVELS = 0.8
"""Grids within which 95 % of the differences of two rounded heights are right."""

_TWO_TIMES = 2**0.5
"""Two rounded times have an error of so many times that of one."""

_SETTLES = 0.5
"""Seconds after a landing within which a body is at rest height again."""

_SIDEWAYS = 0.1
"""Share of its height that a jump goes sideways to have moved."""


def _moment_resolution(scene: Scene, arcs: Arcs) -> FloatArray:
    """Return how well moments of an arc are located whatever was printed, s."""
    step, up = _step(scene, arcs), scene.motion.up
    if up is not None and up.rounded:
        return np.maximum(step, arcs.sharpness)
    share = LOCATED if up is None or up.source == "reported" else _IMPLIED
    return scene.motion.clock.located(share) * step


def _clock_error(scene: Scene, lasts: FloatArray) -> FloatArray:
    """Return the standard error that the clock leaves of what ``lasts`` so long, s."""
    return scene.motion.clock.span_error(np.nan_to_num(lasts))


def _apex_resolution(scene: Scene, arcs: Arcs) -> FloatArray:
    """Return how well the moment of an apex is known, s.

    It is where the line through two printed speeds is zero; a cut between them bends it.
    """
    sure, up = _moment_resolution(scene, arcs), scene.motion.up
    if up is None:
        return sure
    sure = sure + np.where(arcs.cut & (arcs.release >= arcs.throws.top), _step(scene, arcs), 0.0)
    if up.rounded:  # a flat top's ends are seen at frames
        return sure + 0.5 * _step(scene, arcs)
    pull = np.where(arcs.gravity > 0, arcs.gravity, np.inf)
    printed = np.hypot(
        arcs.apex_lever * up.printed / ROOT_12 / pull, up.theta_error * _step(scene, arcs)
    )
    return sure + NINETY_FIVE * np.hypot(printed, _clock_error(scene, arcs.apex_time))


def _back_error(scene: Scene, arcs: Arcs) -> FloatArray:
    """Return the standard error of the return to a level, s: of two places and a speed's step."""
    up, lasts = scene.motion.up, arcs.back - arcs.begin
    if up is None or up.rounded:
        return np.zeros(len(lasts))
    quick = np.where(np.isfinite(arcs.fall_speed) & (arcs.fall_speed > 0), arcs.fall_speed, np.inf)
    speed = up.printed * arcs.back_share * _step(scene, arcs)
    places = np.hypot(up.quantum * 2**0.5, speed) / ROOT_12 / quick
    return np.hypot(places, _clock_error(scene, lasts))


def _back_resolution(scene: Scene, arcs: Arcs) -> FloatArray:
    """Return how well the return to a level is known, s."""
    known = _moment_resolution(scene, arcs) + NINETY_FIVE * _back_error(scene, arcs)
    return known + np.nan_to_num(arcs.held)


def _step(scene: Scene, arcs: Arcs) -> FloatArray:
    return scene.motion.step[arcs.throws.start]


def _grid(scene: Scene) -> float:
    return scene.motion.up.quantum if scene.motion.up is not None else 0.0


def _takeoff_speed(scene: Scene, arcs: Arcs) -> Triple:
    return arcs.speed, arcs.speed_resolution, arcs.gravity * _step(scene, arcs)


def _apex_height(scene: Scene, arcs: Arcs) -> Triple:
    step = _step(scene, arcs)
    rest = _RESTS * np.abs(arcs.height)  # how still a body rests before it takes off
    return arcs.height, rest + _LEVELS * _grid(scene), arcs.speed * step


def _time_to_apex(scene: Scene, arcs: Arcs) -> Triple:
    return arcs.apex_time, _apex_resolution(scene, arcs), _step(scene, arcs)


def _air_time(scene: Scene, arcs: Arcs) -> Triple:
    return arcs.back - arcs.begin, _back_resolution(scene, arcs), _step(scene, arcs)


def _distance(scene: Scene, arcs: Arcs) -> Triple:
    across = scene.motion.across
    grid = across.quantum if across is not None else 0.0
    late, step = _back_resolution(scene, arcs), _step(scene, arcs)
    slack = arcs.side_speed * step
    if scene.track is not None:  # a frame later it leaves with the speed of a frame later
        start = arcs.throws.start
        v = scene.motion.size
        air = np.where(np.isfinite(arcs.back), arcs.back - arcs.begin, 0.0)
        slack = slack + np.abs(v[start] - v[np.maximum(start - 1, 0)]) * air
    hits = np.concatenate(([0], np.cumsum(bumps(scene.motion))))
    free = hits[arcs.throws.stop] == hits[arcs.throws.start]  # nothing was in its way
    return np.where(free, arcs.reach, np.nan), arcs.side_speed * late + grid, slack


def _landing_speed(scene: Scene, arcs: Arcs) -> Triple:
    late, up, step = _moment_resolution(scene, arcs), scene.motion.up, _step(scene, arcs)
    late = late + np.nan_to_num(arcs.held)
    noise = 0.0 if up is None or up.printed else up.noise
    if up is not None and up.source != "reported":
        late = np.maximum(late, 0.5 * step)
    carried = np.hypot(1 + arcs.back_share, arcs.back_share)  # from two speeds, into the frame
    printed = carried * up.printed / ROOT_12 if up is not None else 0.0
    pull = arcs.fall_gravity
    error = np.hypot(pull * _back_error(scene, arcs), printed)
    return arcs.fall_speed, pull * late + noise + NINETY_FIVE * error, pull * step


def _flight_time(scene: Scene, arcs: Arcs) -> Triple:
    n, stop = len(scene.motion.t), arcs.throws.stop
    landed = scene.motion.t[np.minimum(stop, n - 1)]
    step, whole = _step(scene, arcs), arcs.throws.landed & (stop < n)
    return np.where(whole, landed - arcs.begin, np.nan), step, step


def _drop(scene: Scene, arcs: Arcs) -> Triple:
    throws, up = arcs.throws, scene.motion.up
    if up is None:  # pragma: no cover - arcs need heights
        empty = np.zeros(0)
        return empty, empty, empty
    n, stop = len(up.p), throws.stop
    level, contact = up.p[throws.start - 1], up.p[np.minimum(stop, n - 1)]
    settled = up.p[_settled(scene, stop)]
    nearer = np.abs(settled - level) < np.abs(contact - level)  # it came back out of the floor
    drop = level - np.where(nearer, settled, contact)
    exact = np.maximum(up.quantum, np.where(nearer, np.abs(settled - contact), 0.0))
    fallen = np.where(np.isfinite(arcs.fall_speed), arcs.fall_speed, 0.0) * _step(scene, arcs)
    return np.where(throws.landed & (stop < n), drop, np.nan), exact, fallen


def _settled(scene: Scene, stop: IntArray) -> IntArray:
    """Return the frames, shape (k,), in which bodies that landed at ``stop`` are at rest again.

    Solvers let a body sink into the floor and push it out over some tenths of a second.
    """
    motion = scene.motion
    n = len(motion.t)
    last = np.searchsorted(motion.t, motion.t[np.minimum(stop, n - 1)] + _SETTLES)
    leaves = np.append(motion.flights.start, n)
    after = leaves[np.searchsorted(leaves, stop)]
    rows: IntArray = np.clip(np.minimum(last, after - 1), 0, n - 1)
    return rows


def _missing(scene: Scene, kind: JumpKind, *, hop: bool) -> str:
    """Return why a take shows no such jump at all, or nothing where it does."""
    of_kind = scene.arcs.throws.of(kind)
    if kind is not GROUND_JUMP and not of_kind.any():
        return "no such jump in the take"
    if not of_kind.any():
        return "no jump in the take"
    if hop and scene.motion.inputs.jump is None:
        return "no jump button was recorded, so all are jumps"
    if not (scene.arcs.cut[of_kind] == hop).any():
        return "no jump was cut short" if hop else "every jump was cut short"
    return ""


def _measure(
    scene: Scene,
    *,
    kind: JumpKind,
    hop: bool,
    part: Callable[[Scene, Arcs], Triple],
    sideways: bool,
) -> Occurrences:
    """Measure one quantity of all jumps of a kind, or of all hops."""
    missing = _missing(scene, kind, hop=hop)
    if missing:
        return none(missing)
    arcs = scene.arcs
    value, resolution, slack = part(scene, arcs)
    chosen = arcs.throws.of(kind) & (arcs.cut == hop)
    keep = chosen & np.isfinite(value)
    if not keep.any():
        said = [arcs.reasons[k] for k in np.flatnonzero(chosen) if arcs.reasons[k]]
        return none(said[0] if said else "too few frames in the air")
    if sideways:
        keep &= _running(scene, arcs, keep)
        if not keep.any():
            return none("no jump moved sideways")
    inferred = scene.motion.contact_source != "recorded"
    return Occurrences(
        value=value,
        start=arcs.begin,
        end=np.where(np.isfinite(arcs.back), arcs.back, arcs.begin + np.nan_to_num(arcs.apex_time)),
        resolution=resolution,
        frame_shift=slack,
        remark="ground contact inferred from the motion" if inferred else "",
        given=_given(scene, arcs),
    ).only(keep)


@computed_once
def _given(scene: Scene, arcs: Arcs) -> dict[str, FloatArray]:
    """Return how each jump was played: what metrics of jumps depend on."""
    return played(scene, arcs)


def _running(scene: Scene, arcs: Arcs, known: BoolArray) -> BoolArray:
    """Return the jumps with a run-up like the fastest one's, or else all that moved."""
    fastest = float(arcs.side_speed[known].max())
    if fastest > scene.motion.rest_speed:
        running: BoolArray = arcs.side_speed >= _RUN_UP * fastest
        return running
    moved: BoolArray = arcs.reach > _SIDEWAYS * arcs.height
    return moved


_ENTRIES = (
    JumpEntry(
        part="takeoff_speed",
        dimension=SPEED,
        title="takeoff speed",
        definition="The upward speed that takeoff gives. It is the first airborne frame's"
        " velocity, plus one step of gravity where that frame's displacement shows that"
        " gravity acted in it; where nothing shows it, the resolution is g·dt.",
        formula="v[first airborne] + g·dt where Δy/dt = v + (1 − θ)·g·dt",
        of=_takeoff_speed,
        held=False,
    ),
    JumpEntry(
        part="apex_height",
        dimension=LENGTH,
        title="apex height",
        definition="The highest frame above the position from which the subject took off: what"
        " the player sees, not the ideal parabola between frames.",
        formula="max(y) − y(takeoff); ideally v0²/2g, one frame's v0·dt/2 less or more by the"
        " order of integration",
        of=_apex_height,
        phrases=("{} higher", "{} lower", ""),
    ),
    JumpEntry(
        part="time_to_apex",
        dimension=TIME,
        title="time to apex",
        definition="From takeoff to the vertex of the parabola through the rising positions.",
        formula="t(vertex) − t(takeoff); ideally v0/g",
        of=_time_to_apex,
    ),
    JumpEntry(
        part="air_time",
        dimension=TIME,
        title="air time",
        definition="From takeoff until the takeoff's level is reached again, between frames.",
        formula="t(y = y(takeoff), falling) − t(takeoff); ideally 2·v0/g",
        of=_air_time,
        phrases=("{} longer", "{} shorter", ""),
    ),
    JumpEntry(
        part="distance",
        dimension=LENGTH,
        title="distance",
        definition="How far sideways the subject is when it reaches the takeoff's level again.",
        formula="|x(y = y(takeoff), falling) − x(takeoff)|",
        of=_distance,
        phrases=("{} further", "{} less far", ""),
        sideways=True,
        depends=(RUN_UP, STICK),
    ),
    JumpEntry(
        part="landing_speed",
        dimension=SPEED,
        title="landing speed",
        definition="The downward speed at the takeoff's level, between frames.",
        formula="|vy(y = y(takeoff), falling)|",
        of=_landing_speed,
    ),
    JumpEntry(
        part="flight_time",
        dimension=TIME,
        title="flight time",
        definition="From takeoff to the frame of the actual contact, at whatever level that is.",
        formula="t(contact) − t(takeoff)",
        of=_flight_time,
        depends=(LANDING,),
    ),
    JumpEntry(
        part="drop",
        dimension=LENGTH,
        title="drop",
        definition="How much lower the subject lands than it took off (negative: higher).",
        formula="y(takeoff) − y(contact)",
        of=_drop,
        depends=(PLACE,),
        held=False,
    ),
)

_HOP = " Counted for hops: jumps whose button was let go while rising, which lowered the apex."
_ALONE = " Counted only for jumps {}, from where they begin; not for those cut short."
_CUT_SHORT = (
    " Counted only for jumps {}, from where they begin, whose button was let go while rising,"
    " which lowered the apex."
)


class _Group(NamedTuple):
    """A kind of jump, whole or cut short by letting go: the group of its metrics."""

    name: str
    kind: JumpKind
    hop: bool
    words: str


_GROUPS = (
    _Group("jump", GROUND_JUMP, False, ""),
    _Group("hop", GROUND_JUMP, True, _HOP),
    *(_Group(one.group, one, False, _ALONE.format(one.words)) for one in JUMP_KINDS[1:]),
    *(_Group(one.hop, one, True, _CUT_SHORT.format(one.words)) for one in JUMP_KINDS[1:]),
)

METRICS = tuple(
    Metric(
        group=group.name,
        part=entry.part,
        dimension=entry.dimension,
        title=f"{group.name.replace('_', ' ').capitalize()}: {entry.title}",
        definition=entry.definition + group.words,
        formula=entry.formula,
        measure=partial(
            _measure, kind=group.kind, hop=group.hop, part=entry.of, sideways=entry.sideways
        ),
        needs=(UP, ACROSS) if entry.sideways else (UP,),
        depends=(*entry.depends, *((HOLD if group.hop else FULL,) if entry.held else ())),
        detail=entry.detail,
        whole_frames=entry.whole_frames,
        phrases=tuple(f"{group.name}s {text}".strip() for text in entry.phrases)
        if group.kind is GROUND_JUMP
        else (),
    )
    for group in _GROUPS
    for entry in (*_ENTRIES, *SHAPE, *EDGES)
    if not entry.groups or group.name in entry.groups
)
