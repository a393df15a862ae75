"""The law of equal phases whose speeds are poor data, from the paths of their stretches."""

from collections.abc import Sequence

import numpy as np

from kickback.laws.families.level import CLAMP, CONSTANT_SPEED
from kickback.laws.families.smoothing import SMOOTHING
from kickback.laws.families.table import choices_of, simple
from kickback.laws.observations import Observations, Stretch
from kickback.laws.record import Law
from kickback.laws.select import Selected, select
from kickback.laws.selected_law import combined
from kickback.laws.steps import Pool, Steps, stretches_of
from kickback.motion.motion import Motion
from kickback.motion.segments import IntArray
from kickback.motion.tracks import Track
from kickback.takes.numeric import median
from kickback.takes.record import replace
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import SURE

__all__ = ["FEWEST_POOR", "law_of_stretches"]

_SETTLED = 1e-3
"""Share of a speed by which it may change and have settled."""

FEWEST_POOR = 8
"""Frames below which a stretch of poor data tells nothing."""

_MOST_PATHS = 40
"""Stretches that settle a law, the longest first."""

_SHARE = 0.4
"""Share of noisy frames that must tell a rule by their own stretch."""

_MOST_TOGETHER = 12
"""Stretches that are fitted with shared constants: each adds columns of its own."""

_SHORT = 4
"""Frames below which a stretch adds nothing to those that are fitted with it."""

_THERE = 0.05
"""Share by which the speed that a smoothing goes toward may differ from the one it reaches."""


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
    told = _Told()
    for a, b in ranges[:_MOST_PATHS]:
        told.add(path, pool.every.between(a, b), settles=pool.settles)
    law = combined(base, told.chosen, unit, told.frames)
    known = sum(fit.frames for fit in told.chosen)
    if path.noisy and known < _SHARE * told.frames:
        # together, pieces of a wander look like a rule
        return replace(base, reason="most of its frames tell no rule", frames=told.frames), None
    if law.family is None and not law.lawless and len(ranges) > 1:
        law = _together(path, pool, ranges[:_MOST_TOGETHER], law, unit)
    return law, _limit(base, pool, law, told, unit)


def _limit(base: Law, pool: Pool, law: Law, told: "_Told", unit: str) -> Law | None:
    """Return the speed that stretches settle at; not one that their law goes toward anyway."""
    limits = [fit for fit in told.limits if fit.law == CONSTANT_SPEED.name]
    if not limits:
        return None
    speed = combined(base, limits, unit, told.held)
    if law.family is SMOOTHING and abs(speed.value("speed") / law.value("goal") - 1) < _THERE:
        return None
    return replace(speed, family=CLAMP, phase=pool.limit or pool.phase)


class _Told:
    """What the stretches of a pool tell: of the way to a speed, and of the speed itself."""

    def __init__(self) -> None:
        self._changing: list[Selected] = []
        self._level: list[Selected] = []
        self.limits: list[Selected] = []
        self.frames = self.held = 0

    @property
    def chosen(self) -> list[Selected]:
        """Return the fits that count: level stretches only where none changes."""
        return self._changing or self._level

    def add(self, path: "_Paths", part: Steps, *, settles: bool) -> None:
        """Fit one stretch, up to where its speed settles."""
        settled = _unsettled(part.v1, path.noise) if settles else 0
        end = len(part) if settled is None else settled
        if FEWEST_POOR <= end < len(part):
            whole = path.fit(part, 0, len(part))
            if whole.law == SMOOTHING.name:  # it settles at the speed that it goes toward
                settled, end = None, len(part)
        (self._changing if end else self._level).append(path.fit(part, 0, end or len(part)))
        self.frames += end or len(part)
        if settled is not None and 0 < end < len(part):
            self.limits.append(path.fit(part, end, len(part)))
            self.held += len(part) - end


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
    if fit.law != SMOOTHING.name or max(len(part) for part in parts) < FEWEST_POOR:
        fit = path.fit_together(parts)
    if fit.law in {"none", CONSTANT_SPEED.name}:
        return alone
    return combined(alone, [fit], unit, sum(len(part) for part in parts))


_TOGETHER = 60
"""Stretches that are fitted at once: what that costs grows with their square."""

_LONGEST = 50_000
"""Frames of a stretch that are fitted: a quarter of an hour of one motion tells all of it."""


class _Paths:
    """One axis's positions, or speeds where the game tells them, and their noise."""

    def __init__(self, motion: Motion, track: Track) -> None:
        self._t, self._v, self._usual = motion.t, track.v, motion.clock.usual
        self._position = track.source != "reported"
        self._y = track.p if self._position else track.v
        quantum = track.quantum if self._position else 2 * track.noise
        own = 0.0 if self._position else _noise(track.v, motion.rest_speed)
        self._rounding = float(quantum / np.sqrt(12))
        self._sigma = max(self._rounding, own)
        self.noise, self.noisy = track.noise, own > self._rounding

    def fit(self, steps: Steps, start: int, stop: int) -> Selected:
        """Fit the path of steps ``[start, stop)``; a stretch's edges may be another rule's."""
        part = steps.between(start, stop)
        rows = _inside(part.row)
        if len(rows) < FEWEST_POOR:
            return Selected(reason="too few frames away from limits, with such noise")
        return self._fitted([self._path(part, rows)])

    def fit_together(self, parts: Sequence[Steps]) -> Selected:
        """Fit the paths of several stretches with the same constants."""
        paths = [self._path(part, rows) for part in parts if len(rows := part.row[1:-1]) >= _SHORT]
        if len(paths) < 2:
            return Selected()
        # each has numbers of its own beside the shared ones: the longest tell the most
        longest = sorted(range(len(paths)), key=lambda k: -len(paths[k].v))[:_TOGETHER]
        return self._fitted([paths[k] for k in sorted(longest)])

    def unlike(self, pool: Pool, ranges: Sequence[tuple[int, int]]) -> list[tuple[int, int]]:
        """Return ranges without those that repeat another's rounding, which adds no knowledge."""
        if not self._rounding:
            return list(ranges)
        kept: dict[tuple[int, bytes], tuple[int, int]] = {}
        for a, b in ranges:
            y = self._y[pool.every.row[a:b]]
            kept.setdefault((b - a, np.round((y - y[0]) / self._rounding).tobytes()), (a, b))
        return list(kept.values())

    def _path(self, part: Steps, rows: IntArray) -> Stretch:
        rows = rows[:_LONGEST]
        turn = -1.0 if float(self._v[rows] @ part.v1[: len(rows)]) < 0 else 1.0
        v, p = turn * self._v[rows], turn * self._y[rows]
        step = np.diff(self._t[rows], prepend=self._t[rows[0]])
        return Stretch(v=v, dt=step, p=p if self._position else None)

    def _fitted(self, paths: Sequence[Stretch]) -> Selected:
        data = Observations.noisy(paths, self._sigma, self._usual, self._rounding)
        return select(data, choices_of([CONSTANT_SPEED, *simple()], data))


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
    return median(third) / (0.6745 * np.sqrt(20)) if third.size else 0.0


def _unsettled(v: FloatArray, noise: float) -> int | None:
    """Return how many frames of a stretch pass before its speed stays where it ends.

    None where it never settles: where the last third still changes.
    """
    n = len(v)
    late = v[2 * n // 3 :]
    if len(late) < 4:
        return None
    sigma = noise or float(np.sqrt(np.mean(np.diff(v, 3) ** 2) / 20))
    level = median(late)
    half = len(late) // 2
    drift = abs(float(np.mean(late[half:]) - np.mean(late[:half])))
    if drift > SURE * max(sigma * np.sqrt(4 / len(late)), _SETTLED * abs(level)):
        return None
    away = np.flatnonzero(np.abs(v - level) > SURE * sigma + _SETTLED * abs(level))
    return int(away[-1]) + 1 if away.size else 0
