"""Which takes of two sides are held against each other: those of one exercise."""

from collections.abc import Sequence
from typing import NamedTuple

from kickback.errors import InputError
from kickback.judging.samples import Cell
from kickback.takes.rates import same_rate

__all__ = ["Pairs", "label", "paired"]

_FIELDS = ("subject", "drill", "parameters", "rate")
_WORDS = {"subject": "subjects", "drill": "drills", "rate": "frame rates"}


class Pairs(NamedTuple):
    """Pairs of cells, the exercises that only one side has, and what is odd about the sides."""

    pairs: list[tuple[Cell, Cell]]
    alone: list[str]
    warnings: list[str]


def paired(base: Sequence[Cell], candidate: Sequence[Cell]) -> Pairs:
    """Pair the cells of two sides by subject, drill, parameter set and frame rate.

    What each side has one of alone need not be equal: that is what is compared, or it is said.
    Raises InputError where nothing has a partner.
    """
    free = [name for name in _FIELDS if _single(name, base, candidate)]
    asked = [name for name in _FIELDS if name not in free]
    left = list(candidate)
    pairs: list[tuple[Cell, Cell]] = []
    alone: list[str] = []
    for cell in base:
        other = next((one for one in left if _same(cell, one, asked)), None)
        if other is None:
            alone.append(f"only in the base: {label(cell, asked)}")
        else:
            left.remove(other)
            pairs.append((cell, other))
    alone += [f"only in the candidate: {label(cell, asked)}" for cell in left]
    if not pairs:
        raise InputError(_partnerless(asked, alone))
    return Pairs(pairs, alone, _odd(free, base, candidate))


def _partnerless(asked: Sequence[str], alone: Sequence[str]) -> str:
    words = ["parameter set" if name == "parameters" else name for name in asked]
    shown = "; ".join(alone[:6]) + ("; …" if len(alone) > 6 else "")
    same = f"of the same {', '.join(words)}"
    return f"nothing on one side has a partner on the other, {same}: {shown}"


def label(cell: Cell, names: Sequence[str] = _FIELDS) -> str:
    """Return what an exercise is called, by what tells it from others."""
    own = cell.exercise
    parts = {
        "subject": own.subject,
        "parameters": own.parameters,
        "drill": own.drill or "no drill",
        "rate": f"{own.rate:.4g} frames/s",
    }
    return ", ".join(parts[name] for name in parts if name in names and parts[name])


def _single(name: str, base: Sequence[Cell], candidate: Sequence[Cell]) -> bool:
    """Whether each side has one value of a field."""
    return all(all(_equal(name, side[0], cell) for cell in side) for side in (base, candidate))


def _equal(name: str, one: Cell, other: Cell) -> bool:
    if name == "rate":
        return same_rate(one.exercise.rate, other.exercise.rate, one.loose + other.loose)
    return bool(getattr(one.exercise, name) == getattr(other.exercise, name))


def _same(one: Cell, other: Cell, names: Sequence[str]) -> bool:
    return all(_equal(name, one, other) for name in names)


def _odd(names: Sequence[str], base: Sequence[Cell], candidate: Sequence[Cell]) -> list[str]:
    """Say where the one value that each side has of a field is not the other's."""
    said = []
    for name in names:
        if name == "parameters" or _equal(name, base[0], candidate[0]):
            continue
        ours, theirs = (getattr(side[0].exercise, name) for side in (base, candidate))
        what = f"{ours or 'none'} against {theirs or 'none'}"
        if name == "rate":
            what = f"{ours:.4g} against {theirs:.4g} frames/s"
        said.append(f"the sides' {_WORDS[name]} differ: {what}")
    return said
