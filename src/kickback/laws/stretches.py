"""The law of equal phases whose speeds are poor data, from the paths of their stretches."""

from collections.abc import Sequence

import numpy as np

from kickback.laws.families.level import CLAMP
from kickback.laws.families.table import family_named
from kickback.laws.path import fit_paths
from kickback.laws.path_fit import PathFit
from kickback.laws.record import Constant, Law
from kickback.laws.steps import Pool, Steps, stretches_of
from kickback.motion.motion import Motion
from kickback.motion.segments import IntArray
from kickback.motion.tracks import Track
from kickback.takes.quantities import RATIO
from kickback.takes.record import replace
from kickback.takes.take import FloatArray

__all__ = ["FEWEST_POOR", "law_of_stretches"]

FEWEST_POOR = 8
"""Frames below which a stretch of poor data tells nothing."""

_MOST_PATHS = 40
_SHARE = 0.4
"""Share of noisy frames that must tell a rule by their own stretch."""

_MOST_TOGETHER = 12
_SHORT = 4
"""Frames below which a stretch adds nothing to those that are fitted with it."""

_DISAGREE = 3.0
_THERE = 0.05
_EXACT = 1e-9


def law_of_stretches(
    motion: Motion, track: Track, pool: Pool, base: Law, unit: str
) -> tuple[Law, Law | None]:
    """Fit each stretch of poor data as a path, and pool what the stretches say.

    Returns the law of what comes before the speed settles, and the speed that it settles
    at, where it does. Stretches that are level from their start only count where all are.
    """
    path = _Paths(motion, track)
    ranges = stretches_of(pool.every)
    ranges.sort(key=lambda item: item[0] - item[1])
    ranges = path.unlike(pool, ranges)
    changing: list[PathFit] = []
    level: list[PathFit] = []
    limits: list[PathFit] = []
    frames = held = 0
    for a, b in ranges[:_MOST_PATHS]:
        part = pool.every.between(a, b)
        settles = _unsettled(part.v1, track.noise) if pool.settles else 0
        end = len(part) if settles is None else settles
        if FEWEST_POOR <= end < len(part):
            whole = path.fit(part, 0, len(part))
            if whole.law == "smoothing":  # the speed that it settles at is the one it goes toward
                settles, end = None, len(part)
        (changing if end else level).append(path.fit(part, 0, end or len(part)))
        frames += end or len(part)
        if settles is not None and 0 < end < len(part):
            limits.append(path.fit(part, end, len(part)))
            held += len(part) - end
    law = _combined(base, changing or level, unit, frames)
    told = sum(fit.frames for fit in changing or level)
    if path.noisy and told < _SHARE * frames:  # together, pieces of a wander look like a rule
        return replace(base, reason="most of its frames tell no rule", frames=frames), None
    if law.law == "none" and not law.lawless and len(ranges) > 1:
        law = _together(path, pool, ranges[:_MOST_TOGETHER], law, unit)
    limits = [fit for fit in limits if fit.law == "constant-speed"]
    if not limits:
        return law, None
    speed = _combined(base, limits, unit, held)
    if law.law == "smoothing" and abs(speed.value("speed") / law.value("goal") - 1) < _THERE:
        return law, None  # the speed that it goes toward, reached within the noise
    return law, replace(speed, family=CLAMP, phase=pool.limit or pool.phase)


def _together(
    path: "_Paths", pool: Pool, ranges: Sequence[tuple[int, int]], alone: Law, unit: str
) -> Law:
    """Fit stretches with shared constants, where each alone is too short to tell; else ``alone``.

    A stretch counts up to where its speed settles.
    """
    wholes = [pool.every.between(a, b) for a, b in ranges]
    parts = []
    for part in wholes:
        settles = _unsettled(part.v1, path.noise) if pool.settles else None
        parts.append(part if settles is None else part.between(0, settles))
    fit = path.fit_together(wholes)
    if fit.law != "smoothing" or max(len(part) for part in parts) < FEWEST_POOR:
        fit = path.fit_together(parts)
    if fit.law in {"none", "constant-speed"}:
        return alone
    return _combined(alone, [fit], unit, sum(len(part) for part in parts))


class _Paths:
    """One axis's positions, or speeds where the game tells them, and their noise."""

    def __init__(self, motion: Motion, track: Track) -> None:
        self._t, self._v = motion.t, track.v
        self._position = track.source != "reported"
        self._y = track.p if self._position else track.v
        quantum = track.quantum if self._position else 2 * track.noise
        own = 0.0 if self._position else _noise(track.v, motion.rest_speed)
        self._rounding = float(quantum / np.sqrt(12))
        self._sigma = max(self._rounding, own)
        self.noise, self.noisy = track.noise, own > self._rounding

    def fit(self, steps: Steps, start: int, stop: int) -> PathFit:
        """Fit the path of steps ``[start, stop)``; a stretch's edges may be another rule's."""
        part = steps.between(start, stop)
        rows = _inside(part.row)
        if len(rows) < FEWEST_POOR:
            return PathFit(law="none", reason="too few frames away from limits, with such noise")
        return self._fitted([self._path(part, rows)])

    def fit_together(self, parts: Sequence[Steps]) -> PathFit:
        """Fit the paths of several stretches with the same constants."""
        paths = [self._path(part, rows) for part in parts if len(rows := part.row[1:-1]) >= _SHORT]
        if len(paths) < 2:
            return PathFit(law="none")
        return self._fitted(paths)

    def unlike(self, pool: Pool, ranges: Sequence[tuple[int, int]]) -> list[tuple[int, int]]:
        """Return ranges without those that repeat another's rounding, which adds no knowledge."""
        if not self._rounding:
            return list(ranges)
        kept: dict[tuple[int, bytes], tuple[int, int]] = {}
        for a, b in ranges:
            y = self._y[pool.every.row[a:b]]
            kept.setdefault((b - a, np.round((y - y[0]) / self._rounding).tobytes()), (a, b))
        return list(kept.values())

    def _path(self, part: Steps, rows: IntArray) -> tuple[FloatArray, FloatArray]:
        turn = -1.0 if float(self._v[rows] @ part.v1[: len(rows)]) < 0 else 1.0
        return self._t[rows], turn * self._y[rows]

    def _fitted(self, paths: Sequence[tuple[FloatArray, FloatArray]]) -> PathFit:
        return fit_paths(paths, self._sigma, position=self._position, rounding=self._rounding)


def _inside(rows: IntArray) -> IntArray:
    """Return a long stretch without its first and last frame."""
    return rows[1:-1] if len(rows) > 2 * FEWEST_POOR else rows


def _noise(v: FloatArray, rest: float) -> float:
    """Return the noise of a speed while it moves, from third differences, or 0.

    The median of their sizes, over ``0.6745·√20`` for noise of a bell shape.
    """
    moving = np.abs(v) > rest
    inside = moving[3:] & moving[:-3]
    third = np.abs(np.diff(v, 3))[inside]
    return float(np.median(third)) / (0.6745 * np.sqrt(20)) if third.size else 0.0


def _unsettled(v: FloatArray, noise: float) -> int | None:
    """Return how many frames of a stretch pass before its speed stays where it ends.

    None where it never settles: where the last third still changes.
    """
    n = len(v)
    late = v[2 * n // 3 :]
    if len(late) < 4:
        return None
    sigma = noise or float(np.sqrt(np.mean(np.diff(v, 3) ** 2) / 20))
    level = float(np.median(late))
    half = len(late) // 2
    drift = abs(float(np.mean(late[half:]) - np.mean(late[:half])))
    if drift > _DISAGREE * max(sigma * np.sqrt(4 / len(late)), 1e-3 * abs(level)):
        return None
    away = np.flatnonzero(np.abs(v - level) > _DISAGREE * sigma + 1e-3 * abs(level))
    return int(away[-1]) + 1 if away.size else 0


def _combined(base: Law, fits: Sequence[PathFit], unit: str, frames: int) -> Law:
    """Return the law that most of the told stretches have, its constants weighted together."""
    told = [fit for fit in fits if fit.law != "none"]
    if not told:
        if not fits:
            return replace(base, reason="too few frames away from limits", frames=frames)
        return replace(base, reason=fits[0].reason, lawless=fits[0].lawless, frames=frames)
    names = [fit.law for fit in told]
    law = max(dict.fromkeys(names), key=names.count)
    if names.count(law) <= len(told) / 2:
        return replace(base, reason="its phases read as different rules", frames=frames)
    chosen = [fit for fit in told if fit.law == law]
    lawless = [fit for fit in fits if fit.lawless]
    if len(lawless) >= len(chosen):
        return replace(base, reason="most of its phases follow no known rule", frames=frames)
    constants: list[Constant] = []
    unlike: str | None = None
    for key in chosen[0].values:
        value = np.array([fit.values[key] for fit in chosen])
        floor = _EXACT * float(np.max(np.abs(value))) + 1e-15
        error = np.maximum(np.array([fit.stderr[key] for fit in chosen]), floor)
        mean, size = _weighted(value, error)
        if float(np.max(np.abs(value - mean) / error)) > _DISAGREE + np.log(len(value)):
            unlike = f"its phases disagree: {key} {value.min():.4g} to {value.max():.4g}"
            size = max(size, float(np.std(value)))
        unit_of = family_named(law).constants[key].within(unit)
        constants.append(Constant(name=key, value=mean, unit=unit_of, stderr=size))
    by_name = {item.name: item for item in constants}
    if "rate" in by_name:
        rate = by_name["rate"]
        factor = float(np.exp(-rate.value * base.frame))
        error = factor * base.frame * (rate.stderr or 0.0)
        constants.append(
            Constant(name="factor", value=factor, unit=RATIO.within(unit), stderr=error)
        )
    misfit = float(np.sqrt(np.mean([fit.misfit**2 for fit in chosen])))
    return replace(
        base,
        family=family_named(law),
        constants=tuple(constants),
        reason=unlike,
        unlike=unlike is not None,
        frames=frames,
        misfit=misfit,
    )


def _weighted(value: FloatArray, error: FloatArray) -> tuple[float, float]:
    """Return the mean weighted by 1/σ², and its standard error."""
    weight = 1 / error**2
    return float(np.sum(weight * value) / np.sum(weight)), float(1 / np.sqrt(np.sum(weight)))
