"""A take's own inputs, played through the model from where the take begins."""

from collections.abc import Mapping, Sequence

import numpy as np

from kickback.errors import InputError
from kickback.kinds.fitting import Played
from kickback.kinds.foot.fit.world import world_of
from kickback.kinds.foot.model.body import run_foot
from kickback.kinds.foot.model.drills import FootDrill
from kickback.kinds.foot.model.state import State, at_rest
from kickback.kinds.foot.motion import FootMotion
from kickback.motion.tracks import Track
from kickback.takes.axes import ground_axes, up_axis
from kickback.takes.header import Value
from kickback.takes.numeric import ROOT_12
from kickback.takes.plain import PlainMap
from kickback.takes.take import FloatArray

__all__ = ["play_again"]

_STEADY = 0.95
"""Share of the frames whose gains of speed are none of an impulse."""

_INPUTS = ("in_move_x", "in_move_y", "in_jump", "in_brake", "in_dash")


class _Replay(FootDrill, frozen=True, kw_only=True):
    """A drill whose inputs are those of a take, frame by frame."""

    held: Mapping[str, FloatArray]

    def read(self, begins: FloatArray) -> dict[str, FloatArray]:
        """Return the inputs of as many updates."""
        return {name: column[: len(begins)] for name, column in self.held.items()}


def play_again(motion: FootMotion, sets: Sequence[Mapping[str, Value]]) -> Played:
    """Play a motion's inputs with m full parameter sets, over the ground that it shows.

    Raises InputError for a motion whose inputs were not recorded.
    """
    take = motion.take
    if "in_move_x" not in take and "in_jump" not in take:
        raise InputError(
            "no inputs were recorded, so they cannot be played again: in_move_x and in_jump",
            take.source or take.name,
        )
    world = world_of(motion)
    held = {name: take.numbers(name) for name in _INPUTS if name in take}
    view = take.header.view
    drill = _Replay(
        name="replay",
        length=float(motion.t[-1] - motion.begin[0]),
        inputs=(),
        view=view,
        columns=tuple(held),
        floor=world.floor,
        held=held,
    )
    columns = run_foot(sets, drill, steps_of_both(motion), _begin(motion, len(sets)))
    own, noise = _own(motion)
    height = up_axis(take.header)
    if height in noise:
        noise[height] = np.hypot(noise[height], world.sinks / 2)
    model = _by_axis(columns, motion)
    return Played(
        own=own,
        model={name: model[name] for name in own},
        noise=noise,
        alike=(columns["touch_ground"] > 0.5) == motion.grounded[:, None],
        missing=world.missing,
        contact={name: columns[name] for name in ("touch_ground", "touch_side")},
    )


def _begin(motion: FootMotion, count: int) -> State:
    """Return the state after the first frame of a motion, for each of some sets."""
    own, _ = _own(motion)
    header = motion.take.header
    axes, up = ground_axes(header), up_axis(header)
    x = sum(unit * own.get(axis, np.zeros(1))[0] for axis, unit in zip(axes, (1, 1j), strict=False))
    v = sum(
        unit * own.get(f"v{axis}", np.zeros(1))[0]
        for axis, unit in zip(axes, (1, 1j), strict=False)
    )
    over = np.complex128 if header.view != "side" else np.float64
    y = own[up][0] if up in own and header.view != "top" else 0.0
    state = at_rest(np.full(count, x, dtype=over), np.full(count, y))
    state.vx = np.full(count, v, dtype=over)
    state.own = state.vx.copy()
    state.grounded = np.full(count, bool(motion.grounded[0]))
    if not motion.grounded[0] and motion.up is not None:
        state.vy = np.full(count, float(motion.up.v[0]))
        rises = bool(
            motion.up.v[0] > 0 and motion.inputs.jump is not None and motion.inputs.jump[0]
        )
        state.rising_jump = state.jumped = np.full(count, rises)
    return state


def steps_of_both(motion: FootMotion) -> FloatArray:
    """Return time steps, shape (n,), s, that rounded times and rounded steps tell together.

    Where both are given their errors are independent, and sums of steps must be the times: least
    squares over all frames, ``min Σ(τ_i − t_i)² + Σ(τ_i − τ_{i−1} − dt_i)²``.
    """
    clock, take = motion.clock, motion.take
    if "dt" not in take or "dt" in take.derived:
        return motion.dt
    dt = take.numbers("dt")
    summed, passed = float(dt[1:].sum()), float(motion.t[-1] - motion.t[0])
    if clock.even or not clock.grid or abs(summed - passed) > len(dt) * clock.grid:
        return motion.dt
    from scipy.linalg import solveh_banded

    many = len(dt)
    # of both sums the normal equations are tridiagonal: the diagonal above, and the one itself
    bands = np.array([np.full(many, -1.0), np.full(many, 3.0)])
    bands[1, [0, -1]] = 2.0
    right = motion.t - motion.t[0]
    right[1:] += dt[1:]
    right[:-1] -= dt[1:]
    times = solveh_banded(bands, right)
    steps = np.concatenate((dt[:1], np.diff(times)))
    return steps if np.all(steps > 0) else motion.dt


def _noise(v: FloatArray, motion: FootMotion) -> tuple[FloatArray, FloatArray]:
    """Return what rounded times leave unknown of a place and of a speed, shape (n,).

    A place is off by the speed times the error, and stays off by what each change of speed left.
    """
    gain = np.abs(np.gradient(v))
    gain = np.minimum(gain, np.quantile(gain, _STEADY))
    time = motion.clock.time_error if not motion.clock.even else 0.0
    left = float(np.max(np.abs(v), initial=0.0)) * np.cumsum(gain)
    return np.sqrt(v * v + left) * time, gain / motion.clock.usual * time


def _own(motion: FootMotion) -> tuple[dict[str, FloatArray], dict[str, FloatArray]]:
    """Return the take's places and speeds by column, and the standard error of each."""
    columns: dict[str, FloatArray] = {}
    noise: dict[str, FloatArray] = {}
    tracks: list[Track | None] = [motion.up]
    tracks += [motion.across] if motion.plane is None else [motion.plane.first, motion.plane.second]
    for track in tracks:
        if track is None:
            continue
        columns[track.axis] = track.p
        columns[f"v{track.axis}"] = track.v if track.logged is None else track.logged
        place, speed = _noise(columns[f"v{track.axis}"], motion)
        noise[track.axis] = np.hypot(place, track.quantum / ROOT_12)
        own = 2 * track.noise if track.logged is None else track.logged_grid
        noise[f"v{track.axis}"] = np.hypot(speed, own / ROOT_12)
    return columns, noise


def _by_axis(columns: PlainMap, motion: FootMotion) -> dict[str, FloatArray]:
    """Return what was played by the columns of the take."""
    header = motion.take.header
    axes, out = ground_axes(header), {}
    parts = (np.real, np.imag) if header.view != "side" else (np.real,)
    for axis, part in zip(axes, parts, strict=True):
        out[axis], out[f"v{axis}"] = part(columns["x"]), part(columns["vx"])
    if header.view != "top":
        out[up_axis(header)], out[f"v{up_axis(header)}"] = columns["y"], columns["vy"]
    return out
