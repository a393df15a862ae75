"""Numbers brought to where the model's own play of the inputs lies nearest to the takes."""

from collections.abc import Callable, Mapping, Sequence
from functools import partial

import numpy as np

from kickback.kinds.fitting import Fitting, Number, Played
from kickback.motion.motion import Motion
from kickback.takes.header import Value
from kickback.takes.record import replace
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["misfit_of", "refined", "usual_misfit"]

_STEP = 1e-7
"""Share by which a number is moved to see what it does: no event comes a frame apart by that."""

_KNOWN = 1e-6
"""Share of a number below which its error is what arithmetic leaves, or of one moment alone."""

_LOOSE = 2e-3
"""Share by which such a number may be off."""

_FAR = 8.0
"""Standard errors of its reading that a number may be brought by."""

_ROUNDS = 10
"""Times that the whole is brought nearer, at most."""

_COARSE = 1e-3
"""Share of an extent that errors are first taken to be at least: while numbers are off, landings
come frames apart, and must not outweigh all others."""

_TIGHT = 1e-8
"""Share by which the last round may still have moved a number, or the whole."""

_HARDLY = 0.01
"""Weight of readings where the replay knows better: it holds only what nothing moves."""

_BLOCK = 64
"""Differences in a row that may go together: what a rounded time does stays for a while."""

_OUTLIER = 4.0
"""Roundings from which a difference counts by its size, not its square: a frame that an event
came earlier or later in."""

_PARTED = 1e6
"""Roundings from which a difference is no worse: where the two have parted."""

Sets = Sequence[Mapping[str, Value]]


def misfit_of(
    played: Sequence[Played], column: int = 0, least: float = ARITHMETIC, *, landings: bool = True
) -> FloatArray:
    """Return what one parameter set leaves of all columns, in their errors, shape (k,).

    ``least`` is the share of a column's extent that an error is at least. Without ``landings``
    frames in which one stands and the other flies count for nothing.
    """
    parts = []
    for one in played:
        for name, own in one.own.items():
            unit = np.maximum(one.noise[name], least * (float(np.ptp(own)) or 1.0))
            off = (one.model[name][:, column] - own) / unit
            parts.append(off if landings else off * one.alike[:, column])
    return np.concatenate(parts)


def usual_misfit(played: Sequence[Played], column: int = 0) -> float:
    """Return how far one parameter set lies from takes, in their errors; past some alike."""
    return float(np.mean(np.minimum(np.abs(misfit_of(played, column)), _PARTED)))


def refined(
    fitting: Fitting,
    motions: Sequence[Motion],
    values: Mapping[str, Value],
    numbers: Sequence[Number],
) -> list[Number]:
    """Return numbers with which the model plays nearest to motions; ``values`` are all of them.

    Those that are continuous are brought nearer by least squares, all at once, each by a few of
    its standard errors at most; differences are weighed by what the takes are rounded to. Where
    uneven times are rounded, neighbouring frames are off together: a block of them then counts as
    one, and the laws' readings, which know of it, as much as their errors let them.
    """
    plain = [fitting.play(motion, [values]) for motion in motions]
    exact = not any(np.any(noise) for one in plain for noise in one.noise.values())
    free = [one for one in numbers if _is_free(one) and not (exact and _is_known(one))]
    if not free:
        return list(numbers)
    found = {one.name: one for one in _Search(fitting, motions, values, free).nearest(exact=exact)}
    return [found.get(one.name, one) for one in numbers]


class _Search:
    """Numbers that are moved: a point says by how many of its errors each."""

    def __init__(
        self,
        fitting: Fitting,
        motions: Sequence[Motion],
        values: Mapping[str, Value],
        free: Sequence[Number],
    ) -> None:
        self._fitting, self._motions, self._values, self._free = fitting, motions, values, free
        self._timed = any(one.clock.grid and not one.clock.even for one in motions)
        self._start = np.array([float(one.value) for one in free])
        self._scale = np.array([_scale(one) for one in free])
        self._move = _STEP * np.abs(self._start) / self._scale
        self._played: dict[bytes, list[Played]] = {}

    def nearest(self, *, exact: bool) -> list[Number]:
        """Return the numbers at the best point, with what is left unknown of them."""
        points = [np.zeros(len(self._free))]
        low = np.maximum(-_FAR, -0.999 * np.abs(self._start) / self._scale) - _STEP
        bounds = low, np.full(len(self._free), _FAR)
        for least, loss in ((_COARSE, "soft_l1"), (ARITHMETIC, "linear" if exact else "soft_l1")):
            of = partial(self._at, least=least, landings=not exact or least == _COARSE)
            points.append(_solved(of, points[-1], bounds, loss))
        best = points[int(np.argmin([usual_misfit(self._about(one)) for one in points]))]
        left, slopes = self._at(best, ARITHMETIC)
        values = self._start + best * self._scale
        paced = max(one.clock.rate_error for one in self._motions)  # of what a second is taken for
        errors = np.hypot(_errors(slopes, left) * self._scale, paced * np.abs(self._start))
        return [
            replace(one, value=float(v), stderr=float(e) if np.isfinite(e) else one.stderr)
            for one, v, e in zip(self._free, values, errors, strict=True)
        ]

    def _about(self, point: FloatArray) -> list[Played]:
        """Return the motions as played at a point, and with each number moved a little."""
        key = point.tobytes()
        if key not in self._played:
            moved = self._start + np.stack((point, *(point + np.diag(self._move)))) * self._scale
            names = [one.name for one in self._free]
            sets = [{**self._values, **dict(zip(names, at, strict=True))} for at in moved.tolist()]
            self._played[key] = [self._fitting.play(motion, sets) for motion in self._motions]
        return self._played[key]

    def _at(
        self, point: FloatArray, least: float, *, landings: bool = True
    ) -> tuple[FloatArray, FloatArray]:
        """Return what a point leaves, shape (k,), and its slopes, shape (k, numbers)."""
        points = [point, *(point + np.diag(self._move))]
        played = self._about(point)
        parts = [misfit_of(played, k, least, landings=landings) for k in range(len(points))]
        left = np.stack(parts, axis=1)
        held = np.stack(points, axis=1)  # by the readings: hardly, or as their errors say
        left = np.vstack((left / _BLOCK**0.5, held) if self._timed else (left, _HARDLY * held))
        return left[:, 0], (left[:, 1:] - left[:, :1]) / self._move


def _solved(
    at: Callable[[FloatArray], tuple[FloatArray, FloatArray]],
    start: FloatArray,
    bounds: tuple[FloatArray, FloatArray],
    loss: str,
) -> FloatArray:
    """Return the point that leaves least; with ``soft_l1`` what is far off counts by its size."""
    from scipy.optimize import least_squares

    known: dict[bytes, tuple[FloatArray, FloatArray]] = {}

    def both(point: FloatArray) -> tuple[FloatArray, FloatArray]:
        key = point.tobytes()
        if key not in known:
            known[key] = at(point)
        return known[key]

    found = least_squares(
        lambda point: both(point)[0],
        np.clip(start, *bounds),
        jac=lambda point: both(point)[1],
        bounds=bounds,
        loss=loss,
        f_scale=_OUTLIER,
        max_nfev=_ROUNDS,
        xtol=_TIGHT,
        ftol=_TIGHT,
    )
    return np.asarray(found.x)


def _is_known(one: Number) -> bool:
    """Whether a law of exact numbers tells a number as well as arithmetic does."""
    return (one.stderr or 0.0) <= _KNOWN * abs(float(one.value))


def _scale(one: Number) -> float:
    """Return by how much a number may be off, to be brought nearer in steps of that."""
    size, stderr = abs(float(one.value)), one.stderr or 0.0
    return stderr if stderr > _KNOWN * size else _LOOSE * size


def _is_free(one: Number) -> bool:
    """Whether a number can be brought nearer: no word, no timer, no count, none without error."""
    return not isinstance(one.value, str | bool) and one.stderr is not None and one.between is None


def _errors(jacobian: FloatArray, left: FloatArray) -> FloatArray:
    """Return standard errors out of the slopes and of what is left, both in roundings.

    The larger of those of differences that are independent, and of ones that go together in
    blocks (the sandwich of sums over blocks).
    """
    spread = max(1.0, float(np.median(np.abs(left)) / 0.6745))
    sizes = np.maximum(np.linalg.norm(jacobian, axis=0), 1e-300)
    even = jacobian / sizes  # or what is hardly moved would be lost beside what is moved by much
    squares = np.linalg.pinv(even.T @ even) / np.outer(sizes, sizes)
    alone = spread**2 * np.diag(squares)
    sums = np.add.reduceat(jacobian * left[:, None], np.arange(0, len(left), _BLOCK), axis=0)
    together = np.diag(squares @ (sums.T @ sums) @ squares)
    return np.asarray(np.sqrt(np.maximum(alone, together)))
