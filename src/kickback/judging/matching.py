"""Like with like: what a metric's occurrences come to once they are played alike."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from kickback.judging.samples import Sample
from kickback.metrics.dependence import Dependence
from kickback.motion.segments import BoolArray
from kickback.takes.numeric import median
from kickback.takes.take import FloatArray

__all__ = ["Adjusted", "Matched", "adjusted", "matched", "played_alike"]

_MATTERS = 0.005
"""Share by which what was played must vary to be worth a regression."""

_BENT = 12
"""Occurrences from which a regression may bend."""

_OVERLAP = 1.02
"""Factor by which plays may lie beyond those of the other side."""

_ALIKE = 1.5
"""Occurrences as closely matched as the best, within this factor, count."""

_TINY = 1e-12


class Matched(NamedTuple):
    """One side's value, the other's played likewise, how surely that is so, and how they were."""

    base: float
    candidate: float
    half: float
    how: str


class Adjusted(NamedTuple):
    """Values of each side's takes, all brought to one play, and which that is."""

    base: FloatArray
    candidate: FloatArray
    how: str


class _Plays(NamedTuple):
    """Occurrences of one side: values and takes, shape (k,), and what was given, shape (k, d)."""

    value: FloatArray
    take: FloatArray
    given: FloatArray


def _key(one: Dependence, sides: Sequence[Sample]) -> str:
    """Return under which name both sides know a dependence, or nothing."""
    for name in (one.name, one.instead):
        arrays = [r.given.get(name) for side in sides for r in side.readings]
        if name and arrays and all(a is not None and bool(np.isfinite(a).any()) for a in arrays):
            return name
    return ""


def _plays(sample: Sample, keys: Sequence[str]) -> _Plays:
    value = np.concatenate([one.values for one in sample.readings])
    take = np.concatenate([np.full(len(r.values), k) for k, r in enumerate(sample.readings)])
    columns = [np.concatenate([one.given[key] for one in sample.readings]) for key in keys]
    given = np.stack(columns, axis=1) if columns else np.zeros((len(value), 0))
    known = np.isfinite(given).all(axis=1)
    return _Plays(value[known], take[known], given[known])


def played_alike(
    depends: Sequence[Dependence], base: Sample, candidate: Sample
) -> tuple[list[str], str]:
    """Return the keys under which both sides know each dependence, or why they cannot."""
    keys = [_key(one, (base, candidate)) for one in depends]
    lacking = [one.words for one, key in zip(depends, keys, strict=True) if not key]
    if lacking:
        return [], f"it depends on {lacking[0]}: only equal inputs would tell"
    return keys, ""


def _range(values: FloatArray, unit: str) -> str:
    low, high = float(values.min()), float(values.max())
    text = f"{low:.3g}" if high - low <= _MATTERS * abs(high) else f"{low:.3g} to {high:.3g}"
    return f"{text} {unit}".strip()


def matched(
    depends: Sequence[Dependence], base: Sample, candidate: Sample
) -> tuple[Matched | None, str]:
    """Hold the occurrences of one take against those of another that were played most alike.

    Each occurrence of the base foretells a range for one of the candidate: its value times the
    ratio of what was played, to the lowest and the highest power with which the metric may go
    with that. The common part of these ranges is where it would lie in an unchanged game.
    Returns None, and why, where none is alike.
    """
    keys, why = played_alike(depends, base, candidate)
    if why:
        return None, why
    ours, theirs = (_plays(side, keys) for side in (base, candidate))
    if not len(ours.value) or not len(theirs.value):
        return None, f"nothing says {depends[0].words}"
    low, high = _foretold(depends, ours, theirs, base, candidate)
    known = np.isfinite(low)
    if not known.any():
        return None, _unlike(depends, ours, theirs)
    mid, half = (low + high) / 2, (high - low) / 2
    best = known & (half <= _ALIKE * float(half[known].min()) + _TINY)
    middle = median(mid[best])
    off = median((theirs.value - mid)[best])
    count = f"{int(best.sum())} of {len(best)}"
    how = f"{count} held against plays of the same {_named(depends)}"
    return Matched(middle, middle + off, median(half[best]), how), ""


def _named(depends: Sequence[Dependence]) -> str:
    return " and ".join(dict.fromkeys(one.name for one in depends))


def _foretold(
    depends: Sequence[Dependence], ours: _Plays, theirs: _Plays, base: Sample, candidate: Sample
) -> tuple[FloatArray, FloatArray]:
    """Return between what each of the candidate's values is foretold to lie; NaN where by none.

    Powers hold for motion that is continuous: of a frame's worth, half is left open on either
    side in so far as the plays differ.
    """
    low, high = (np.full(len(theirs.value), np.nan) for _ in range(2))
    for k, given in enumerate(theirs.given):
        least, most = (np.ones(len(ours.value)) for _ in range(2))
        fit, apart = np.ones(len(least), dtype=bool), np.zeros(len(least))
        for d, one in enumerate(depends):
            if one.powers is None:
                fit &= np.abs(ours.given[:, d] - given[d]) <= one.within
                continue
            with np.errstate(divide="ignore", invalid="ignore"):
                ratio = given[d] / ours.given[:, d]
                ends = np.stack([ratio**power for power in one.powers])
            same = np.abs(ours.given[:, d] - given[d]) <= _TINY
            ends = np.where(same, 1.0, ends)
            fit &= np.isfinite(ends).all(axis=0)
            with np.errstate(invalid="ignore"):
                least, most = least * ends.min(axis=0), most * ends.max(axis=0)
                apart = np.maximum(apart, np.where(same, 0.0, np.minimum(np.abs(1 - ratio), 1.0)))
        with np.errstate(invalid="ignore"):
            own, other = apart * base.frame_shift / 2, apart * candidate.frame_shift / 2
            least, most = (ours.value - own) * least - other, (ours.value + own) * most + other
        if fit.any():
            bounds = float(least[fit].max()), float(most[fit].min())
            low[k], high[k] = min(bounds) - base.resolution, max(bounds) + base.resolution
    return low, high


def _unlike(depends: Sequence[Dependence], ours: _Plays, theirs: _Plays) -> str:
    for d, one in enumerate(depends):
        if one.powers is None:
            sides = [_range(side.given[:, d], one.unit) for side in (ours, theirs)]
            return f"no two were alike in {one.words}: {sides[0]} against {sides[1]}"
    return f"no two were alike in {depends[0].words}"


def adjusted(
    depends: Sequence[Dependence], base: Sample, candidate: Sample
) -> tuple[Adjusted | None, str]:
    """Bring the occurrences of several takes a side to one play, by a regression over them all.

    ``ln v = side + Σ p·ln c``, with the power of each play within what the metric allows, and
    bent where there are enough occurrences. Plays that the other side does not have are left
    out. Returns None, and why, where fewer than two takes a side remain.
    """
    keys, why = played_alike(depends, base, candidate)
    if why:
        return None, why
    plays = [_plays(side, keys) for side in (base, candidate)]
    side = np.concatenate([np.full(len(one.value), k) for k, one in enumerate(plays)])
    value, take, given = (
        np.concatenate([getattr(one, name) for one in plays]) for name in ("value", "take", "given")
    )
    keep = _common(depends, side, given)
    few = min(len(np.unique(take[keep & (side == k)])) for k in (0, 1))
    if few < 2:
        return None, _apart(depends, plays)
    side, take, value, given = side[keep], take[keep], value[keep], given[keep]
    moved, how = _brought(depends, side, value, given)
    by_take = [
        np.array([median(moved[(side == k) & (take == t)]) for t in np.unique(take[side == k])])
        for k in (0, 1)
    ]
    return Adjusted(by_take[0], by_take[1], how), ""


def _apart(depends: Sequence[Dependence], plays: Sequence[_Plays]) -> str:
    said = [
        f"{one.words}, {' against '.join(_range(p.given[:, d], one.unit) for p in plays)}"
        for d, one in enumerate(depends)
        if all(len(p.value) for p in plays)
    ]
    return f"too few were played alike in {'; '.join(said) or depends[0].words}"


def _common(depends: Sequence[Dependence], side: FloatArray, given: FloatArray) -> BoolArray:
    """Return which occurrences both sides have the like of."""
    keep = np.ones(len(side), dtype=bool)
    for d, one in enumerate(depends):
        column = given[:, d]
        if one.powers is None:
            near = np.abs(column[:, None] - column[None, :]) <= one.within
            near &= keep[None, :]
            counts = np.minimum(near[:, side == 0].sum(axis=1), near[:, side == 1].sum(axis=1))
            keep &= near[int(np.argmax(counts))]
            continue
        ends = [column[keep & (side == k)] for k in (0, 1)]
        if not all(len(one) for one in ends):
            return np.zeros(len(side), dtype=bool)
        low = max(float(one.min()) for one in ends) / _OVERLAP
        high = min(float(one.max()) for one in ends) * _OVERLAP
        keep &= (column >= low) & (column <= high)
    return keep


def _brought(
    depends: Sequence[Dependence], side: FloatArray, value: FloatArray, given: FloatArray
) -> tuple[FloatArray, str]:
    """Return values at the middle play, and which that is."""
    middle = np.array([median(column) for column in given.T])
    powers = [d for d, one in enumerate(depends) if one.powers and _varies(given[:, d])]
    if not powers or value.min() <= 0 or given[:, powers].min() <= 0:
        return value, f"plays of the same {_named(depends)}"
    logs = np.log(given[:, powers] / middle[powers])
    bent = len(value) >= _BENT
    terms = np.hstack([logs, logs * logs]) if bent else logs
    sides = np.stack([side == 0, side == 1], axis=1).astype(np.float64)
    found, *_ = np.linalg.lstsq(np.hstack([sides, terms]), np.log(value), rcond=None)
    slopes = found[2:]
    if not bent:
        low, high = np.array([depends[d].powers for d in powers], dtype=np.float64).T
        slopes = np.clip(slopes, low, high)
    at = ", ".join(f"{depends[d].name} {middle[d]:.3g} {depends[d].unit}".strip() for d in powers)
    return value / np.exp(terms @ slopes), f"brought to {at}"


def _varies(column: FloatArray) -> bool:
    return float(np.ptp(column)) > _MATTERS * abs(median(column))
