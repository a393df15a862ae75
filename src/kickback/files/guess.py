"""A first guess at a mapping: what a foreign log's columns are, told by name and content."""

import re
from collections.abc import Mapping as Map
from collections.abc import Sequence
from itertools import pairwise
from typing import Any

import numpy as np

from kickback.errors import InputError
from kickback.files.guess_rows import guess_rows
from kickback.files.guess_words import (
    AIR,
    ANGLES,
    AXES,
    CAMERA,
    ELSE,
    FRAME,
    KEYS,
    MOVE,
    PERCENT,
    POSITION,
    STEERED,
    STEP,
    TARGET,
    TIME,
    VELOCITY,
    WORDS,
)
from kickback.files.raw import RawTable, numbers
from kickback.takes.channels import CHANNELS
from kickback.takes.numeric import median
from kickback.takes.plain import PlainDict, PlainMap
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["Guess", "guess_mapping"]

_DEEPEST = 4
"""Levels of objects inside each other that are looked into."""

_WIDE = 300
"""How far a motion reaches from which its lengths look like pixels: no level is so many metres."""

_GROWS = 0.95
"""Share of rows from which a column that grows is a clock: one that is set back is one still."""

_MICROS = 500.0
"""A usual step from which the clock counts µs; in ms it would be two frames a second."""

_MILLIS = 0.5
"""A usual step from which the clock counts ms; in s it would be two frames a second."""

_SELDOM = 0.2
"""Share of the rows in which the number of a shot may change."""

_WHOLE = 100.0
"""The most that a pedal or a wheel says, in percent."""

_LOCK = 90.0
"""The largest angle of a wheel, degrees: beyond it a column is no wheel."""


class Guess(Record, frozen=True, kw_only=True):
    """A mapping in plain form; ``unsure`` says what to look at, ``unused`` what is left over.

    ``rows`` is what a row means, ``spare`` the unused numbers, shape (n,) each.
    """

    header: PlainMap
    columns: PlainMap
    unsure: Sequence[str]
    unused: Sequence[str]
    rows: Map[str, str] = {}
    spare: Map[str, FloatArray] = {}

    @property
    def found(self) -> bool:
        """Whether a position is among the columns: without, the mapping is a skeleton."""
        return any(axis in self.columns for axis in "xyz")


def guess_mapping(table: RawTable) -> Guess:
    """Guess which of a log's columns are ours; raises InputError for a log without frames."""
    if not table.columns or not table.lines:
        raise InputError("holds no frames", table.source)
    cells = _flat(table)
    work = _Work(table, cells)
    work.own()
    work.time()
    work.motion()
    work.rest()
    work.meaning()
    unused = [path for path in cells if path not in work.used]
    return Guess(
        header=work.header,
        columns=work.columns,
        unsure=work.unsure,
        unused=unused,
        rows=work.rows,
        spare=work.spare(unused),
    )


def _flat(table: RawTable) -> dict[str, Sequence[object]]:
    """Return the log's cells by dotted path; lists of words stay whole."""
    found: dict[str, Sequence[object]] = {}

    def open_up(path: str, cells: Any, depth: int) -> None:
        first = next((cell for cell in cells if cell is not None), None)
        keys: Sequence[object] = ()
        if isinstance(first, dict):
            keys = list(first)
        elif isinstance(first, list) and not any(isinstance(item, str) for item in first):
            keys = range(len(first))
        if not keys or depth == _DEEPEST:
            found[path] = cells
            return
        for key in keys:
            open_up(f"{path}.{key}", [_inside(cell, key) for cell in cells], depth + 1)

    for name, cells in table.columns.items():
        open_up(name, cells, 0)
    return found


def _inside(cell: Any, key: Any) -> object:
    try:
        return cell[key]
    except (KeyError, IndexError, TypeError):
        return None


def _tokens(path: str) -> list[str]:
    """Return the words of a name: ``playerPosX`` and ``player_pos.x`` have the same."""
    spaced = re.sub(r"([a-z])([A-Z])", r"\1 \2", path)
    words = [word.lower() for word in re.split(r"[^A-Za-z0-9]+", spaced) if word]
    short = re.fullmatch(r"(p|pos|v|vel|spd)([xyz])", words[-1]) if words else None
    return [*words[:-1], *short.groups()] if short else words


class _Work:
    """The guess as it grows: columns, what was used, what is unsure."""

    def __init__(self, table: RawTable, cells: Map[str, Sequence[object]]) -> None:
        self.header: PlainDict = {}
        self.columns: PlainDict = {}
        self.unsure: list[str] = []
        self.rows: dict[str, str] = {}
        self.used: set[str] = set()
        self._level = False
        self._table = table
        self._cells = cells
        self._words = {path: _tokens(path) for path in cells}
        self._numbers = {path: self._read(path) for path in cells}

    def _read(self, path: str) -> FloatArray | None:
        """Return a column as numbers, shape (n,), or None where it holds something else."""
        try:
            return numbers(path, self._cells[path], self._table)
        except InputError:
            return None

    def _fitting(self, words: set[str] | frozenset[str]) -> list[str]:
        """Return unused paths with one of the words, the shortest name first."""
        fits = [
            path
            for path, own in self._words.items()
            if path not in self.used and words & {*own, "".join(own)}
        ]
        return sorted(fits, key=lambda path: (len(self._words[path]), len(path)))

    def _use(self, name: str, path: str, **how: object) -> None:
        self.columns[name] = {"from": path, **how} if how else path
        self.used.add(path)

    def _mean(self, name: str, paths: Sequence[str]) -> str | None:
        """Return the first path, and say so where others fit as well."""
        if len(paths) > 1:
            others = ", ".join(f"'{path}'" for path in paths[1:4])
            self.unsure.append(f"{name} is taken from '{paths[0]}'; {others} would fit as well")
        return paths[0] if paths else None

    def own(self) -> None:
        """Take columns that have our names already."""
        for path in self._cells:
            if path in CHANNELS and path not in {"t", "dt", "tick"}:
                self._use(path, path)

    def time(self) -> None:
        """Find the clock, the time step and the frame number."""
        steps = [p for p in self._fitting(STEP) if self._grows(p) is False]
        frames = [p for p in self._fitting(FRAME) if self._counts(p)]
        clocks = [p for p in self._fitting(TIME) if self._grows(p) and p not in {*steps, *frames}]
        if path := self._mean("t", clocks):
            usual = median(np.diff(self._cells_of(path)))
            self._use("t", path, **self._scale("t", path, usual))
        if path := self._mean("dt", steps):
            usual = median(self._cells_of(path))
            self._use("dt", path, **self._scale("dt", path, usual))
        self._count(frames, timed=bool(clocks or steps))

    def _count(self, frames: Sequence[str], *, timed: bool) -> None:
        """Use a frame number as a tick, or as the clock where there is no other."""
        if timed and frames:
            self._use("tick", frames[0])
        elif frames:
            self._use("t", frames[0], rate=60)
            self.unsure.append(
                f"'{frames[0]}' counts frames: the rate of 60 frames/s is a mere assumption"
            )
        elif not timed:
            self.header["frame_rate"] = 60
            self.unsure.append("no column looks like a time: frame_rate = 60 is a mere assumption")

    def _grows(self, path: str) -> bool | None:
        """Whether a column grows from row to row, as a clock does; None for words."""
        values = self._numbers[path]
        if values is None or len(values) < 2:
            return None
        return bool(np.mean(np.diff(values) > 0) > _GROWS)

    def _counts(self, path: str) -> bool:
        values = self._numbers[path]
        return values is not None and len(values) > 1 and median(np.diff(values)) == 1

    def _scale(self, name: str, path: str, usual: float) -> dict[str, float]:
        """Return the scale that makes seconds of a usual step."""
        own = set(self._words[path])
        if own & {"us", "micros", "microseconds"} or usual >= _MICROS:
            scale = 1e-6
        elif own & {"ms", "millis", "milliseconds"} or usual >= _MILLIS:
            scale = 1e-3
        else:
            return {}
        words = {1e-6: "microseconds", 1e-3: "milliseconds"}
        self.unsure.append(f"{name} ('{path}') is taken as {words[scale]}")
        return {"scale": scale}

    def motion(self) -> None:
        """Find positions and velocities of one subject, and which way is up."""
        prefixes = {"v": VELOCITY, "camera_": CAMERA, "target_": TARGET, "": POSITION}
        for prefix, words in prefixes.items():
            for axis in "xyz":
                if prefix + axis not in self.columns:
                    self._place(prefix, axis, words)
        if "z" in self.columns and np.ptp(self._values("z")) == 0:
            self.unsure.append("z never changes and is left out")
            del self.columns["z"]
            self.columns.pop("vz", None)
        if {"y", "z"} <= {*self.columns} and np.ptp(self._values("y")) == 0:
            self.unsure.append("y never changes: the ground's second axis is taken from z")
            for ours, theirs in (("y", "z"), ("vy", "vz")):
                self.columns.pop(ours, None)
                if theirs in self.columns:
                    self.columns[ours] = self.columns.pop(theirs)
            self._level = True
        self._orient()

    def _place(self, prefix: str, axis: str, words: set[str]) -> None:
        """Find one axis of positions, velocities or a camera."""
        paths = [p for p in self._along(axis) if words & set(self._words[p])]
        if not prefix and not paths:
            along = self._along(axis)
            paths = [p for p in along if len(self._words[p]) == 1] or self._alike(along, axis)
        if path := self._mean(prefix + axis, paths):
            self._use(prefix + axis, path)

    def _alike(self, paths: Sequence[str], axis: str) -> list[str]:
        """Return the paths whose name is one of a pair but for the axis: arrowX with arrowY."""
        others = {
            tuple(self._words[path][:-1])
            for other in set("xyz") - {axis}
            for path in (*self._along(other), *self.used)
            if AXES.get(self._words[path][-1]) == other
        }
        return [path for path in paths if tuple(self._words[path][:-1]) in others]

    def _orient(self) -> None:
        """Tell the view, which way is up, and the unit of lengths, from the positions found."""
        shown = [axis for axis in "xyz" if axis in self.columns]
        if not shown:
            return
        flat = "y" not in shown
        self.header["view"] = "3d" if len(shown) == 3 else "top" if self._level else "side"
        self.header["up"] = "+z" if flat and "z" in shown else "+y"
        self.unsure.append(
            f'view = "{self.header["view"]}" and up = "{self.header["up"]}" are taken for granted'
        )
        wide = max((float(np.ptp(self._values(axis))) for axis in shown), default=0.0)
        self.header["length_unit"] = "px" if wide > _WIDE else "m"
        self.unsure.append(
            f"lengths are taken as {self.header['length_unit']}, from their size alone"
        )

    def meaning(self) -> None:
        """Tell what the rows mean, and that the subject is steered about a plane."""
        plain = {
            name: self._values(name) * self._factor(name)
            for name in ("t", "dt", *"xyz", "vx", "vy", "vz")
            if name in self.columns
        }
        self.rows, unsure = guess_rows(plain)
        self.unsure += [
            f'{key} = "{word}", from the displacements' for key, word in self.rows.items()
        ]
        self.unsure += [unsure] if unsure else []
        if {"in_throttle", "in_steer"} <= set(self.columns) and self.header.get("view") == "side":
            self.header["view"] = "top"
            self.unsure.append("view is taken as top: a throttle and a steer are a vehicle's")

    def spare(self, unused: Sequence[str]) -> dict[str, FloatArray]:
        """Return the unused columns that hold numbers."""
        return {path: values for path in unused if (values := self._numbers[path]) is not None}

    def _factor(self, name: str) -> float:
        source = self.columns[name]
        scale = source.get("scale", 1.0) if isinstance(source, dict) else 1.0
        return float(scale)

    def _along(self, axis: str) -> list[str]:
        """Return unused columns of numbers whose name ends with an axis."""
        return [
            path
            for path, words in self._words.items()
            if path not in self.used
            and AXES.get(words[-1] if words else "") == axis
            and self._numbers[path] is not None
            and not (set(words) & (ELSE | MOVE))
        ]

    def _values(self, name: str) -> FloatArray:
        source = self.columns[name]
        if isinstance(source, list):
            return np.zeros(1)
        return self._cells_of(source if isinstance(source, str) else source["from"])

    def _cells_of(self, path: str) -> FloatArray:
        found = self._numbers[path]
        return np.zeros(1) if found is None else found

    def rest(self) -> None:
        """Find inputs, contact and words."""
        self._held_keys()
        for name, words in {**STEERED, **WORDS}.items():
            if name not in self.columns:
                self._word(name, words)
        if "in_move_x" not in self.columns:
            self._sideways()
        if "touch_ground" not in self.columns:
            self._word("touch_ground", AIR, invert=True)

    def _sideways(self) -> None:
        """Find the sideways input: a stick, or two keys."""
        moves = [p for p in self._fitting(MOVE) if self._is_stick(p)]
        right, left = (self._fitting({word}) for word in ("right", "left"))
        if moves and (path := self._mean("in_move_x", moves)):
            self._use("in_move_x", path)
        elif right and left:
            self.columns["in_move_x"] = [right[0], {"from": left[0], "scale": -1}]
            self.used |= {right[0], left[0]}
        elif right and KEYS & set(self._words[right[0]]):  # nothing ever goes to the left
            self._use("in_move_x", right[0])

    def _word(self, name: str, words: set[str] | frozenset[str], **how: object) -> None:
        """Find a column by words in its name, and by what it holds."""
        wanted = [p for p in self._fitting(words) if self._holds(name, p)]
        if path := self._mean(name, wanted):
            self._use(name, path, **how, **self._pressed(name, path))

    def _pressed(self, name: str, path: str) -> dict[str, float]:
        """Return the scale of a pedal or a wheel that is no share: percent, or degrees."""
        values = self._numbers[path]
        most = 0.0 if values is None else float(np.max(np.abs(values), initial=0.0))
        if name == "in_brake" and values is not None and not np.isin(values, (0, 1)).all():
            self.unsure.append(f"in_brake ('{path}') counts as pressed above half of its largest")
            return {"above": most / 2}
        if name not in {"in_throttle", "in_steer"} or most <= 1.0:
            return {}
        if name == "in_throttle" or PERCENT & set(self._words[path]) or most > _LOCK:
            self.unsure.append(f"{name} ('{path}') is taken as percent")
            return {"scale": 0.01}
        self.unsure.append(f"full lock of {name} ('{path}') is taken as its largest, {most:g}")
        return {"scale": 1 / most}

    def _is_stick(self, path: str) -> bool:
        """Whether a column is a sideways input: small numbers, not along another axis."""
        values = self._numbers[path]
        words = self._words[path]
        if values is None or AXES.get(words[-1], "x") != "x" or {"y", "vertical"} & set(words):
            return False
        return float(np.max(np.abs(values), initial=0.0)) <= 1.0

    def _holds(self, name: str, path: str) -> bool:
        """Whether a column has the kind of values that one of ours has."""
        values = self._numbers[path]
        if name in {"state", "event", "surface"}:
            return values is None and not isinstance(self._cells[path][0], list)
        if name == "shot":  # a number that stays for a while, or a word
            cells = self._cells[path]
            changes = sum(a != b for a, b in pairwise(cells))
            return 0 < changes < _SELDOM * len(cells)
        if values is None or name in ANGLES:
            return values is not None
        if name in STEERED or name == "in_brake":
            return float(np.max(np.abs(values), initial=0.0)) <= _WHOLE
        return bool(np.all((values == 0) | (values == 1)))

    def _held_keys(self) -> None:
        """Read a column that lists the keys that are held."""
        keys = {"keys", "buttons", "held", "pressed", "inputs"}
        for path in self._fitting(keys):
            words = {word for cell in self._cells[path] for word in _names(cell)}
            if self._numbers[path] is not None or not words:
                continue
            self.used.add(path)
            if {"left", "right"} <= words:
                self.columns["in_move_x"] = [
                    {"from": path, "has": "right"},
                    {"from": path, "has": "left", "scale": -1},
                ]
            for word in sorted(words & {"jump", "dash", "brake", "fire"}):
                self.columns[f"in_{word}"] = {"from": path, "has": word}
            rest = sorted(words - {"left", "right", "jump", "dash", "brake", "fire"})
            if rest:
                self.unsure.append(f"'{path}' also lists {', '.join(rest[:6])}: not mapped")


def _names(cell: object) -> list[str]:
    if isinstance(cell, list):
        return [str(item) for item in cell]
    return [word for word in re.split(r"[;|+,\s]+", str(cell or "")) if word]
