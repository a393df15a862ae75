"""``fit``: takes in, a game as parameters and the text of its file out."""

from collections.abc import Sequence

from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.fitting import Number
from kickback.kinds.models import model_named
from kickback.tuning.fit.fit import fit
from kickback.tuning.fit.record import Fitted

__all__ = ["fit_takes", "parameter_file", "unit_of"]


def fit_takes(takes: Sequence[AnyAnalysis]) -> Fitted:
    """Return a game's movement as parameters; raises InputError for takes that give none."""
    return fit(takes)


def unit_of(result: Fitted, name: str) -> str:
    """Return the unit of a parameter, in the takes' own length unit."""
    known = model_named(result.kind).parameters.get(name)
    if known is None:
        return ""
    return known.unit.replace("L", result.length_unit)


def parameter_file(result: Fitted, name: str, source: str) -> str:
    """Return the text of a parameter file: each number with its error, what is left out said."""
    import tomlkit

    document = tomlkit.document()
    document.add("name", tomlkit.item(name))
    notes = f"Fitted to {source} at {result.rate:.6g} frames/s."
    if not result.fits:
        notes += " The model does not play these takes as the game does."
    document.add("notes", tomlkit.item(notes))
    document.add("length_unit", tomlkit.item(result.length_unit))
    table = tomlkit.table()
    told = {one.name: one for one in result.numbers}
    for key, value in result.values.items():
        item = tomlkit.item(value)
        item.comment(_comment(result, key, told.get(key)))
        table.add(key, item)
    for unread in result.unread:
        table.add(tomlkit.comment(f"left out, {unread.reason}: {', '.join(unread.names)}"))
    document.add("values", table)
    return tomlkit.dumps(document).rstrip("\n") + "\n"


def _comment(result: Fitted, key: str, one: Number | None) -> str:
    """Return what stands behind a number: its error, unit, source, and what is left open."""
    unit = unit_of(result, key)
    if one is None:
        given = {"reference_rate": "the takes' rate, 1/s", "mistakes": "as the frame rates show"}
        why = next((part.reason for part in result.none if key in part.names), "")
        if why:
            return f"{unit}; taken for none: {why}".strip("; ")
        return given.get(key, f"{unit}; no take shows it: as it fits the rest".strip("; "))
    parts = [unit]
    if one.between is not None:
        low, high = one.between
        parts = [f"{low:.4g} to {high:.4g} {unit}".strip()]
    elif one.stderr is not None:
        parts = [f"± {one.stderr:.2g} {unit}".strip()]
    parts += [f"from {one.source}", one.note]
    return "; ".join(" ".join(part.split()) for part in parts if part)
