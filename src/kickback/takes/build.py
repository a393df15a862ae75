"""From raw columns to a take: what is required, checked and derived."""

from collections.abc import Callable, Mapping, Sequence

import numpy as np

from kickback.errors import InputError, nearest
from kickback.takes.axes import flipped_columns, ground_axes, up_axis
from kickback.takes.channels import CHANNELS, channel_of
from kickback.takes.header import Header
from kickback.takes.numeric import median
from kickback.takes.take import Column, FloatArray, Take

__all__ = ["Place", "build_take"]

Place = Callable[[int | None, str | None], str]
"""Says where frame and column are: ``place(7, "x")`` -> ``"run.csv, line 9, column x"``."""

_SHORTEST = 1e-12
"""Seconds that a frame lasts at the very least: of shorter ones no speed can be told."""

_LARGEST = 1e60
"""The largest number that may stand for a place or a speed: its powers are numbers still."""


def build_take(
    header: Header,
    columns: Mapping[str, Column],
    *,
    name: str,
    source: str = "",
    place: Place | None = None,
    warnings: Sequence[str] = (),
    any_clock: bool = False,
    made: Mapping[str, tuple[float, float]] | None = None,
) -> Take:
    """Check raw columns, derive the time base, and make up positive.

    ``made``: the scale and offset of columns that a mapping made, None without one. Only a
    position and one of ``t``, ``dt`` or the header's ``frame_rate`` are required.
    Raises InputError for a missing position or time base, non-finite numbers, times
    that do not advance (unless ``any_clock`` leaves those to be reported), and fewer than
    two frames.
    """
    where = place or (lambda _frame, _column: source or name)
    _require_position(header, columns, where)
    _check_numbers(columns, where)
    frames = len(next(iter(columns.values())))
    if frames < 2:
        raise InputError(
            f"a take needs at least two frames, this one has {frames}", where(None, None)
        )
    full, derived = _with_time_base(header, dict(columns), where, any_clock=any_clock)
    flips = flipped_columns(header)
    turned: dict[str, Column] = {
        key: -column if key in flips else column for key, column in full.items()
    }
    return Take(
        header=header,
        columns=turned,
        name=name,
        source=source,
        derived=derived,
        warnings=tuple(warnings),
        mapped=made is not None,
        made={
            key: (scale, -offset if key in flips else offset)
            for key, (scale, offset) in (made or {}).items()
        },
    )


def _require_position(header: Header, columns: Mapping[str, Column], where: Place) -> None:
    needed = [*ground_axes(header)]
    if header.view == "side":
        needed.append(up_axis(header))
    missing = [axis for axis in needed if axis not in columns]
    if not missing:
        return
    if any(axis in columns for axis in needed) and header.view == "side":
        return  # one axis alone still carries a jump or a run
    raise InputError(
        f"no column '{missing[0]}' for the position{nearest(missing[0], columns)}"
        " (a mapping names a log's own columns: --map; 'kickback new --from' guesses one)",
        where(None, None),
    )


def _check_numbers(columns: Mapping[str, Column], where: Place) -> None:
    for key, column in columns.items():
        if key not in CHANNELS or column.dtype.kind != "f":
            continue
        bad = np.flatnonzero(~np.isfinite(column))
        if bad.size:
            row = int(bad[0])
            shown = "NaN" if np.isnan(column[row]) else "infinite"
            raise InputError(f"'{key}' is {shown}; it must be a finite number", where(row, key))
        large = np.flatnonzero(np.abs(column) > _LARGEST)
        if large.size:
            row = int(large[0])
            raise InputError(
                f"'{key}' is {float(column[row]):.3g}; numbers beyond ±{_LARGEST:g} are no motion",
                where(row, key),
            )
        if channel_of(key).is_flag:
            odd = np.flatnonzero((column != 0) & (column != 1))
            if odd.size:
                row = int(odd[0])
                raise InputError(
                    f"'{key}' must be 0 or 1, not {float(column[row]):g}",
                    where(row, key),
                )


def _with_time_base(
    header: Header, columns: dict[str, Column], where: Place, *, any_clock: bool
) -> tuple[dict[str, Column], frozenset[str]]:
    """Return the columns with both ``t`` and ``dt``, and the names that were derived."""
    given = set(columns)
    if "dt" in columns:
        _check_positive(columns["dt"], where)
    if "t" not in columns:
        columns |= _counted_times(header, columns, where)
    steps = np.diff(columns["t"])
    _check_unit(steps, where)
    if not any_clock:
        _check_advances(columns["t"], steps, where)
    if "dt" not in columns:
        first = 1 / header.frame_rate if header.frame_rate else median(steps)
        columns["dt"] = np.concatenate(([first], steps))
    order = ["t", "dt", *(key for key in columns if key not in {"t", "dt"})]
    return {key: columns[key] for key in order}, frozenset(set(columns) - given)


def _counted_times(
    header: Header, columns: Mapping[str, Column], where: Place
) -> dict[str, Column]:
    """Return the times that steps add up to, or that a frame rate makes."""
    if "dt" in columns:
        return {"t": np.cumsum(columns["dt"])}
    if header.frame_rate is None:
        raise InputError(
            "no column 't' or 'dt' and no frame_rate in the header: one of them must"
            " say how long a frame lasts",
            where(None, None),
        )
    frames = len(next(iter(columns.values())))
    return {
        "t": np.arange(1, frames + 1) / header.frame_rate,
        "dt": np.full(frames, 1 / header.frame_rate),
    }


def _check_advances(t: FloatArray, steps: FloatArray, where: Place) -> None:
    back = np.flatnonzero(steps <= 0)
    if back.size:
        row = int(back[0]) + 1
        word = "runs backwards" if steps[row - 1] < 0 else "stands still"
        raise InputError(
            f"time {word}: {t[row]:.6g} s after {t[row - 1]:.6g} s; each frame must be later"
            " than the one before",
            where(row, "t"),
        )


def _check_unit(steps: FloatArray, where: Place) -> None:
    usual = median(steps) if steps.size else 1.0
    if 0 < usual < _SHORTEST:
        raise InputError(
            f"the times advance by {usual:.3g} s a frame: they are no seconds", where(1, "t")
        )


def _check_positive(dt: FloatArray, where: Place) -> None:
    bad = np.flatnonzero(dt < 0)
    if bad.size:
        row = int(bad[0])
        raise InputError(
            f"the time step is {dt[row]:g} s; it must not be below 0", where(row, "dt")
        )
    if not np.any(dt > 0):
        raise InputError("the time step is 0 in every frame: nothing moves", where(0, "dt"))
