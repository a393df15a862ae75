"""Laws over a plane: what limits the speed on diagonals, and by what rule a velocity turns."""

from collections.abc import Callable, Sequence

import numpy as np

from kickback.kinds.foot.laws.pools import DIAGONAL, STRAIGHT
from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.plane import Plane
from kickback.kinds.foot.roles import ASIDE
from kickback.kinds.foot.steering import Complexes
from kickback.laws.families.drive import DRIVE
from kickback.laws.families.family import Family
from kickback.laws.families.smoothing import SMOOTHING
from kickback.laws.families.vector import (
    ADD_AND_CAP,
    BY_AXIS,
    BY_LENGTH,
    LIMIT_BY_AXIS,
    LIMIT_BY_LENGTH,
    TURN_RATE,
    VECTOR_SMOOTHING,
)
from kickback.laws.keys import PhaseKey
from kickback.laws.record import Constant, Law
from kickback.motion.segments import BoolArray, IntArray
from kickback.motion.tracks import Track
from kickback.takes.numeric import ROOT_12, median
from kickback.takes.record import Record, replace
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import ARITHMETIC, SURE

__all__ = ["DIAGONAL_LIMIT", "VEER", "plane_laws"]

VEER = PhaseKey("veer")
DIAGONAL_LIMIT = PhaseKey("limit")

_SETTLED = 1e-3
"""Share of a speed by which it may change in a step and be a top speed."""

_FEWEST = 4
"""Steps below which nothing is told."""

_RATIOS = ((1.0, LIMIT_BY_LENGTH), (float(np.sqrt(2)), LIMIT_BY_AXIS))
_NEAR = 0.01
"""Share by which a ratio of speeds may miss one that a rule makes."""

_EXACT = 1e-6
"""Share of the speed that arithmetic may leave of a step."""

_WHOLE = 1.5
"""Steps that are left to the goal at least, for one not to be cut short by it."""

_SAYS = 0.1
"""Share of the usual step that a rule may leave, where nothing is printed that coarsely."""


def plane_laws(motion: FootMotion, track: Track, rows: Sequence[Law]) -> list[Law]:
    """Return what limits the speed over a plane and the rule of turns, as far as they are shown.

    ``rows``: the laws along its lines.
    """
    plane = motion.plane
    if plane is None or track.rounded or motion.inputs.source != "recorded":
        return []
    tops = _goals(_held_speeds(motion, plane, track), rows)
    found = [law for law in (_limit(motion, track, tops),) if law is not None]
    return [*found, *_veering(motion, plane, track, tops)]


class _Tops(Record, frozen=True, kw_only=True):
    """Speeds that full pushes hold, and their frames: along the input's axes, and between them."""

    speed: tuple[float, float]
    frames: tuple[IntArray, IntArray]


def _held_speeds(motion: FootMotion, plane: Plane, track: Track) -> _Tops:
    move, v = motion.inputs.move, track.v
    same = np.abs(np.diff(v, prepend=np.nan)) <= ARITHMETIC * np.abs(v) + 2 * track.noise
    near = np.abs(np.diff(v, prepend=np.nan)) <= _SETTLED * np.abs(v) + 2 * track.noise
    keep = (np.abs(move) == 2) & motion.grounded & ~motion.dashing & plane.straight
    keep &= (move * v > 0) & (np.abs(v) > motion.rest_speed) & ~plane.cut
    rows = np.flatnonzero(keep)
    odd = plane.sector(rows, np.sign(v[rows])) % 2 == 1
    parts = (rows[~odd], rows[odd])
    straight, diagonal = (
        median(np.abs(v[part][same[part]])) if np.sum(same[part]) >= _FEWEST else float("nan")
        for part in parts
    )
    return _Tops(
        speed=(straight, diagonal), frames=(parts[0][near[parts[0]]], parts[1][near[parts[1]]])
    )


def _goals(held: _Tops, rows: Sequence[Law]) -> _Tops:
    """Return the speeds that full pushes go toward: those that a law tells, where none is held."""
    told = {row.phase: row for row in rows if row.family in {SMOOTHING, DRIVE}}
    speeds = []
    for side, speed in zip((STRAIGHT, DIAGONAL), held.speed, strict=True):
        law = told.get(PhaseKey("speed-up", side=side)) or told.get(PhaseKey("speed-up"))
        speeds.append(speed if np.isfinite(speed) or law is None else _settles(law))
    return _Tops(speed=(speeds[0], speeds[1]), frames=held.frames)


def _settles(law: Law) -> float:
    """Return the speed that a smoothing, or a drive and its friction, goes toward."""
    if law.family is SMOOTHING:
        return law.value("goal")
    factor = law.value("factor")
    return law.value("acceleration") * law.frame * factor / (1 - factor)


def _limit(motion: FootMotion, track: Track, tops: _Tops) -> Law | None:
    """Return whether one limit holds whichever way it goes, or each axis has its own."""
    straight, diagonal = tops.speed
    if not all(len(part) for part in tops.frames):
        return None
    ratio = diagonal / straight
    error = ratio * float(np.hypot(track.noise / straight, track.noise / diagonal))
    near = [family for value, family in _RATIOS if abs(ratio / value - 1) <= _NEAR + SURE * error]
    rows = np.concatenate(tops.frames)
    said = f"diagonals go at {ratio:.3f} times the speed along an axis"
    return _law(
        motion,
        DIAGONAL_LIMIT,
        near[0] if near else None,
        {"speed": (straight, track.noise), "ratio": (ratio, error)},
        rows,
        said if near else f"{said}: neither one limit (1) nor one for each axis (1.414)",
    )


class _Steps(Record, frozen=True, kw_only=True):
    """Steps of turns, arrays of shape (k,): ``v0`` to ``v1``, over ``dt``, toward ``goal``.

    ``noise`` is the standard error of one speed, ``usual`` the usual time step, s.
    """

    row: IntArray
    v0: Complexes
    v1: Complexes
    goal: Complexes
    dt: FloatArray
    noise: float
    usual: float

    @property
    def size(self) -> float:
        """Return the usual change of a velocity in a step."""
        return median(np.abs(self.v1 - self.v0))


class _Reading(Record, frozen=True, kw_only=True):
    """How one rule reads the steps: its constants, and what it leaves, root mean square."""

    family: Family
    values: dict[str, float]
    misfit: float
    clock: str = "even"


def _veering(motion: FootMotion, plane: Plane, track: Track, tops: _Tops) -> list[Law]:
    steps = _turn_steps(motion, plane, track, tops)
    if steps is None:
        return []
    readings = [one for fit in _RULES for one in _both_clocks(motion, steps, fit)]
    if not readings:
        return []
    best = min(readings, key=lambda one: one.misfit)
    others = [one.misfit for one in readings if one.family is not best.family]
    next_best = min(others, default=float("inf"))
    untold = _untold(steps, best.misfit, next_best)
    if untold:
        return [_law(motion, VEER, None, {}, steps.row, untold)]
    error = best.misfit / float(np.sqrt(len(steps.row)))
    constants = {
        name: (value, _error_of(name, value, error, steps)) for name, value in best.values.items()
    }
    unit = f"{motion.take.header.length_unit}/s"
    left = "nothing" if best.misfit < _EXACT * steps.size else f"{best.misfit:.2g} {unit}"
    said = f"leaves {left} of a step, the next best rule {next_best:.2g} {unit}"
    law = _law(motion, VEER, best.family, constants, steps.row, said)
    return [replace(law, misfit=best.misfit, clock=best.clock)]


def _untold(steps: _Steps, best: float, next_best: float) -> str:
    """Return why no rule is told by what the best ones leave, or nothing."""
    noise = float(np.sqrt(2)) * steps.noise + _EXACT * float(np.max(np.abs(steps.v1)))
    plain = 0.0 if noise > _SAYS * steps.size else _SAYS * steps.size / SURE
    if best > SURE * noise + plain:
        return f"the rules that are known leave {best:.3g} of a step at least"
    if next_best <= SURE * best and next_best <= noise * SURE:
        return "its turns read as several rules equally well"
    return ""


def _error_of(name: str, value: float, error: float, steps: _Steps) -> float:
    """Return the standard error of a constant from that of a step's speed."""
    return abs(value) * error / max(steps.size, 1e-300) if name != "speed" else error


def _turn_steps(motion: FootMotion, plane: Plane, track: Track, tops: _Tops) -> _Steps | None:
    """Return the steps in which a full push on the ground has motion across its line, if any."""
    move = motion.inputs.move
    rows = np.flatnonzero((np.abs(move[1:]) == 2) & (np.abs(plane.strayed[1:]) > plane.slow)) + 1
    fine = motion.grounded & ~motion.dashing & ~plane.curved
    if motion.clock.interrupted is not None:
        fine &= ~motion.clock.interrupted
    fine &= ~motion.touches_side
    rows = rows[fine[rows] & fine[rows - 1]]
    side = np.sign(move[rows]).astype(np.float64)
    straight, diagonal = tops.speed
    known = straight if np.isfinite(straight) else diagonal
    odd = plane.sector(rows, side) % 2 == 1
    top = np.where(odd, diagonal if np.isfinite(diagonal) else known, known)
    keep = np.isfinite(top)
    rows, side, top = rows[keep], side[keep], top[keep]
    if len(rows) < _FEWEST:
        return None
    noise = max(track.printed, 2 * track.noise if track.source != "reported" else 0.0) / ROOT_12
    return _Steps(
        row=rows,
        v0=plane.velocity[rows - 1],
        v1=plane.velocity[rows],
        goal=plane.line[rows] * side * top,
        dt=motion.dt[rows],
        noise=noise,
        usual=motion.clock.usual,
    )


def _both_clocks(
    motion: FootMotion, steps: _Steps, fit: "Callable[[_Steps], _Reading | None]"
) -> list[_Reading]:
    """Return how a rule reads steps by the second and, where they are uneven, by the frame."""
    plain = fit(steps)
    if motion.clock.even:
        return [] if plain is None else [plain]
    by_frame = fit(replace(steps, dt=np.full(len(steps.dt), steps.usual)))
    pairs = (("second", plain), ("frame", by_frame))
    return [replace(one, clock=clock) for clock, one in pairs if one is not None]


def _rms(left: Complexes) -> float:
    return float(np.sqrt(np.mean(np.abs(left) ** 2)))


def _by_length(steps: _Steps) -> _Reading | None:
    """Fit ``v1 = v0 + a·dt·(goal − v0)/|goal − v0|``."""
    to_go = steps.goal - steps.v0
    left = np.abs(to_go)
    gain = ((steps.v1 - steps.v0) * np.conj(to_go)).real / np.where(left > 0, left, 1.0)
    keep = left > _WHOLE * np.abs(gain)
    if np.count_nonzero(keep) < _FEWEST:
        return None
    a = float(np.sum(gain[keep] * steps.dt[keep]) / np.sum(steps.dt[keep] ** 2))
    ahead = steps.v0 + a * steps.dt * to_go / np.where(left > 0, left, 1.0)
    return _Reading(
        family=BY_LENGTH, values={"acceleration": a}, misfit=_rms((steps.v1 - ahead)[keep])
    )


def _by_axis(steps: _Steps) -> _Reading | None:
    """Fit ``v1 = v0 + a·dt·sign(goal − v0)`` on each axis, no further than the goal."""
    axes = [
        (steps.v0.real, steps.v1.real, steps.goal.real),
        (steps.v0.imag, steps.v1.imag, steps.goal.imag),
    ]
    small = _EXACT * float(np.max(np.abs(steps.goal))) + 2 * steps.noise
    gains, spans = [], []
    for v0, v1, goal in axes:
        free = np.abs(goal - v0) > np.maximum(_WHOLE * np.abs(v1 - v0), small)
        gains.append((np.abs(v1 - v0) / 1.0)[free])
        spans.append(steps.dt[free])
    gain, span = np.concatenate(gains), np.concatenate(spans)
    if len(gain) < _FEWEST:
        return None
    a = float(np.sum(gain * span) / np.sum(span**2))
    most = a * steps.dt
    ahead = [v0 + np.clip(goal - v0, -most, most) for v0, _, goal in axes]
    return _Reading(
        family=BY_AXIS,
        values={"acceleration": a},
        misfit=_rms(steps.v1 - (ahead[0] + 1j * ahead[1])),
    )


def _smoothed(steps: _Steps) -> _Reading | None:
    """Fit ``v1 − goal = (v0 − goal)·exp(−k·dt)``."""
    before, after = steps.v0 - steps.goal, steps.v1 - steps.goal
    size = np.abs(before)
    keep = size > 0.05 * float(np.max(size))
    if np.count_nonzero(keep) < _FEWEST:
        return None
    kept = (after * np.conj(before)).real[keep] / size[keep] ** 2
    if np.any(kept <= 0):
        return None
    weight = size[keep] ** 2
    rate = float(np.sum(-np.log(kept) * steps.dt[keep] * weight))
    rate /= float(np.sum(steps.dt[keep] ** 2 * weight))
    left = after - before * np.exp(-rate * steps.dt)
    factor = float(np.exp(-rate * steps.usual))
    return _Reading(
        family=VECTOR_SMOOTHING, values={"rate": rate, "factor": factor}, misfit=_rms(left[keep])
    )


def _added_and_cut(steps: _Steps) -> _Reading | None:
    """Fit ``w = v0 + a·dt·goal/|goal|``, cut to the length of the goal."""
    unit = steps.goal / np.abs(steps.goal)
    top = np.abs(steps.goal)
    # before the cut v1 lies on the line from v0 along the push: |v1|·s on it
    cross = (np.conj(unit) * steps.v1).imag
    keep = np.abs(cross) > 0.05 * top
    if np.count_nonzero(keep) < _FEWEST:
        return None
    across = (np.conj(unit) * steps.v0).imag
    along0, along1 = (np.conj(unit) * steps.v0).real, (np.conj(unit) * steps.v1).real
    uncut = along1[keep] * across[keep] / cross[keep]
    a = float(np.sum((uncut - along0[keep]) * steps.dt[keep]) / np.sum(steps.dt[keep] ** 2))
    wide = steps.v0 + a * steps.dt * unit
    size = np.abs(wide)
    ahead = wide * np.minimum(1.0, top / size)
    return _Reading(
        family=ADD_AND_CAP,
        values={"acceleration": a, "speed": median(top)},
        misfit=_rms((steps.v1 - ahead)[keep]),
    )


def _turned(steps: _Steps) -> _Reading | None:
    """Fit a direction that turns by ``ω·dt`` toward the goal's, at one speed."""
    to_go = np.angle(steps.goal * np.conj(steps.v0))
    turn = np.angle(steps.v1 * np.conj(steps.v0))
    keep: BoolArray = np.abs(to_go) > _WHOLE * np.abs(turn)
    if np.count_nonzero(keep) < _FEWEST:
        return None
    rate = float(np.sum(np.abs(turn[keep]) * steps.dt[keep]) / np.sum(steps.dt[keep] ** 2))
    ahead = steps.v0 * np.exp(1j * np.sign(to_go) * rate * steps.dt)
    return _Reading(
        family=TURN_RATE,
        values={"rate": float(np.rad2deg(rate))},
        misfit=_rms((steps.v1 - ahead)[keep]),
    )


_RULES: Sequence[Callable[[_Steps], _Reading | None]] = (
    _by_length, _by_axis, _smoothed, _added_and_cut, _turned,
)  # fmt: skip


def _law(
    motion: FootMotion,
    phase: PhaseKey,
    family: Family | None,
    constants: dict[str, tuple[float, float]],
    rows: IntArray,
    reason: str,
) -> Law:
    """Return a law of some steps; without a family it is none, for the ``reason``."""
    unit = motion.take.header.length_unit
    told = (
        ()
        if family is None
        else tuple(
            Constant(name=name, value=value, unit=family.constants[name].within(unit), stderr=error)
            for name, (value, error) in constants.items()
        )
    )
    return Law(
        take=motion.take.name,
        role=ASIDE,
        phase=phase,
        start=float(motion.begin[rows.min()]),
        end=float(motion.t[rows.max()]),
        axis=motion.tracks[ASIDE.name].axis,
        family=family,
        constants=told,
        reason=reason,
        frames=len(rows),
        frame=motion.clock.usual,
    )
