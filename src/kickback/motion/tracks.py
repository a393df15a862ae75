"""The speed along one axis: the game's own where it is the motion, else from positions."""

import numpy as np

from kickback.motion.clock import Clock
from kickback.motion.grids import fitted_speed
from kickback.motion.segments import BoolArray, IntArray
from kickback.takes.numeric import even_share, median, quantile, typical
from kickback.takes.plain import PlainDict
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["Column", "Track", "axis_track"]

_FALLS = 0.01
"""Share of a grid by which exact positions that fall on it may miss their velocities."""

_SEEN = 1e-3
"""Share of a usual step that rounding must be to blur the speeds from it."""

_USUAL = 0.95
"""The percentile of the moving speeds that is called usual: the highest may be a leap."""

_CLIPPED = 0.1
"""Share of the usual speed at which a miss stops counting for more."""

_STILL = 1e-9
"""Share of the usual speed below which nothing moves."""

_ODD = 0.1
"""Share of the moving frames that may miss: landings, stops."""

_BEND_TIME = 0.05
"""Seconds over which the bend of rounded positions is looked at."""

_WIDEST = 0.1
"""Seconds that a window of rounded positions is wide at most, and where nothing bends."""

_TOLD = 0.08
"""Standard error of θ below which the orders of integration, ½ apart, are told apart."""

_SURE, _CLOSE = 3.0, 0.03
"""Standard errors, and a share beside, within which a θ is an order's own."""

_THETAS = (1.0, 0.0, 0.5)
"""Weights of the new velocity in the orders of integration that there are."""

_AGREEMENT = 0.02
"""Share of the usual speed by which a reported velocity may miss the displacement."""

_SUDDEN = 5
"""Times the usual change of speed from which a step is a takeoff or a landing, not the law."""

_ENOUGH = 50_000
"""Steps that settle how velocity and displacement belong together."""


class Track(Record, frozen=True, kw_only=True):
    """One axis of the motion; arrays of shape (n,), units of the take.

    ``v[i]`` is the speed at time ``tv[i]``. ``source`` is ``reported`` (the game's own,
    at the frame's end), ``displacement`` (position differences, at mid-step) or
    ``fitted`` (slopes of windows, where positions are rounded). ``theta`` is the weight
    of the new velocity in the displacement. ``quantum`` is what positions were rounded
    to; ``blur`` adds what rounded times make of it. ``noise`` bounds the error of one ``v``, and
    ``window`` is half the fitted windows' width in frames,
    ``theta_error`` what rounded positions leave unknown of θ. ``axis`` is the letter of its
    column; ``logged`` the game's own velocity, whether it is the motion or not, which was
    rounded to ``logged_grid``.
    """

    axis: str
    logged: FloatArray | None
    logged_grid: float
    p: FloatArray
    v: FloatArray
    tv: FloatArray
    source: str
    theta: float | None
    quantum: float
    blur: float
    noise: float
    window: int = 0
    theta_error: float = 0.0

    @property
    def printed(self) -> float:
        """Return what ``v`` was rounded to where it is the game's own, or 0."""
        return self.logged_grid if self.source == "reported" else 0.0

    @property
    def rounded(self) -> bool:
        """Whether speeds had to be fitted to rounded positions."""
        return self.source == "fitted"


class Column(Record, frozen=True, kw_only=True):
    """One axis as a take holds it: positions, shape (n,), and what they were rounded to, or 0.

    ``logged`` is the game's own velocity, None where the take has none.
    """

    axis: str
    p: FloatArray
    grid: float
    logged: FloatArray | None = None
    logged_grid: float = 0.0


def axis_track(column: Column, clock: Clock, segment: IntArray) -> Track:
    """Return the motion along one axis; ``segment`` numbers the stretches of equal input.

    The reported velocity is used
    where some theta between 0 and 1 makes it explain the displacements; otherwise the
    displacement is the velocity, at mid-step, fitted over some frames where it is rounded.
    """
    t, dt, p, grid = clock.t, clock.dt, column.p, column.grid
    pace = clock.pace()
    seen = np.ones_like(t) if pace is None else pace
    u = np.diff(p) / dt[1:]
    usual, step = _usual_speed(u), typical(clock.step)
    blur = max(grid, usual * clock.grid)
    base: PlainDict = {
        "axis": column.axis,
        "logged": column.logged,
        "logged_grid": column.logged_grid,
        "p": p,
    }
    reported = column.logged
    if reported is not None:
        moves = _moves(reported, u, dt[1:], usual, clock.interrupted)
        theta = 1.0 if moves is None else _theta(moves, usual, blur)
        if theta is not None:
            if moves and grid and moves.usual_miss(theta, usual) * typical(dt) < _FALLS * grid:
                grid = 0.0  # exact positions that happen to fall on a grid
            v, noise = reported * seen, column.logged_grid / 2
            return Track(
                **base,
                v=v,
                tv=t,
                source="reported",
                theta=theta,
                quantum=grid,
                blur=grid,
                noise=noise,
                theta_error=_unsure(moves, grid),
            )
    if blur > _SEEN * usual * step > 0:
        width = _half_width(p, t, blur)
        v, tv = fitted_speed(p, t, width, segment)
        noise = blur / ((2 * width + 1) * step)
        return Track(
            **base,
            v=v,
            tv=tv,
            source="fitted",
            theta=None,
            quantum=grid,
            blur=blur,
            noise=noise,
            window=width,
        )
    v = np.concatenate((u[:1], u)) * seen
    return Track(
        **base,
        v=v,
        tv=t - clock.step / 2,
        source="displacement",
        theta=None,
        quantum=grid,
        blur=blur,
        noise=grid / step,
    )


def _usual_speed(u: FloatArray) -> float:
    """Return the 95th percentile of the speeds while moving."""
    moving = even_share(u)
    moving = np.abs(moving[moving != 0])
    if not moving.size:
        moving = np.abs(u[u != 0])  # an even share may miss a short move
    if not moving.size:
        return 0.0
    at = int(_USUAL * (len(moving) - 1))
    return float(np.partition(moving, at)[at])


class _Moves(Record, frozen=True, kw_only=True):
    """Steps of a moving subject, shape (k,): speeds before and after, displacement, time, row."""

    before: FloatArray
    after: FloatArray
    u: FloatArray
    dt: FloatArray
    row: IntArray

    def miss(self, theta: float) -> FloatArray:
        """Return how far ``(1-θ)·v[n] + θ·v[n+1]`` is from ``u``, shape (k,)."""
        return np.abs(self.u - ((1 - theta) * self.before + theta * self.after))

    def usual_miss(self, theta: float, usual: float) -> float:
        """Return the mean miss, each clipped at a tenth of the usual speed."""
        return float(np.mean(np.minimum(self.miss(theta), _CLIPPED * usual)))


def _moves(
    v: FloatArray, u: FloatArray, dt: FloatArray, usual: float, apart: BoolArray | None
) -> _Moves | None:
    """Return the steps of a take in which it moves: all, or an even share of very many.

    Not those of frames that something interrupts, ``apart``.
    """
    stride = max(1, len(u) // (4 * _ENOUGH))
    moving = _moving(v, u, usual, stride)
    if len(moving) < 100 and stride > 1:
        moving = _moving(v, u, usual, 1)
    if apart is not None:
        moving = moving[~apart[moving + 1]]
    if not moving.size:
        return None
    return _Moves(before=v[moving], after=v[moving + 1], u=u[moving], dt=dt[moving], row=moving)


def _moving(v: FloatArray, u: FloatArray, usual: float, stride: int) -> IntArray:
    """Return every ``stride``-th step, less those without motion."""
    index = np.arange(0, len(u), stride)
    slow = _STILL * usual
    return index[(np.abs(u[index]) > slow) | (np.abs(v[index + 1]) > slow)]


def _theta(moves: _Moves, usual: float, grid: float) -> float | None:
    """Return the θ that explains the displacements, or None where no θ in [0, 1] does.

    Clamped frames (landings, stops) may miss; nine in ten moving frames must agree.
    """
    bend = moves.after - moves.before
    candidates = list(_THETAS)
    power = float(np.sum(bend * bend))
    if power > 0:
        free = float(np.sum((moves.u - moves.before) * bend)) / power
        if 0 <= free <= 1:
            candidates.append(free)
    best = min(candidates, key=lambda theta: moves.usual_miss(theta, usual))
    if grid:
        told, error = _theta_by_sums(moves, grid)
        near = min(_THETAS, key=lambda theta: abs(theta - told))
        if error < _TOLD and abs(near - told) <= _SURE * error + _CLOSE:
            best = near
    wrong = moves.miss(best) > _AGREEMENT * usual + 1.01 * grid / moves.dt
    size = np.abs(bend)
    bent = size[size > 0]
    if bent.size:  # takeoffs and landings are no steps of the law
        calm = size <= _SUDDEN * median(bent)
        wrong = wrong[calm] if np.count_nonzero(calm) >= 4 else wrong
    return best if np.mean(wrong) <= _ODD else None


def _unsure(moves: _Moves | None, grid: float) -> float:
    """Return the error of θ where its rule's own could not be told; 0 where it could, or is."""
    if moves is None or not grid:
        return 0.0
    told, error = _theta_by_sums(moves, grid)
    near = min(abs(theta - told) for theta in _THETAS)
    clear = error < _TOLD and near <= _SURE * error + _CLOSE
    return 0.0 if clear else min(1.0, error)


def _theta_by_sums(moves: _Moves, grid: float) -> tuple[float, float]:
    """Return θ from positions rounded to ``grid``, and its standard error.

    Along steps in a row rounding does not add up: what the speeds before make of a path is
    less than the path by θ times the sum of ``Δv·dt``, and a rounding.
    """
    part = np.concatenate(([0], np.cumsum(np.diff(moves.row) != 1)))
    many = np.bincount(part)

    def along(step: FloatArray) -> FloatArray:
        """Return sums along each part, less their mean."""
        total = np.cumsum(step)
        return np.asarray(total - (np.bincount(part, total) / many)[part])

    tells = along((moves.after - moves.before) * moves.dt)
    left = along((moves.u - moves.before) * moves.dt)
    power = float(tells @ tells)
    if not power:
        return 1.0, np.inf
    return float(tells @ left) / power, grid / float(np.sqrt(12 * power))


def _half_width(p: FloatArray, t: FloatArray, grid: float) -> int:
    """Return half the window, in frames, that balances rounding against blur.

    A window of ``T = sqrt(4·q/a)`` has as much error from the rounding ``q`` as from a
    bend of acceleration ``a``; ``a`` is taken from slopes over a twentieth of a second.
    """
    step = typical(np.diff(t))
    lag = max(1, round(_BEND_TIME / step))
    if len(p) < 4 * lag:
        return 1
    bend = np.abs(p[2 * lag :] - 2 * p[lag:-lag] + p[: -2 * lag]) / (lag * step) ** 2
    a = quantile(bend, _USUAL)
    window = float(np.sqrt(4 * grid / a)) if a > 0 else _WIDEST
    return int(np.clip(round(window / step / 2), 1, max(1, round(_WIDEST / step))))
