"""Takes in another length unit."""

from kickback.takes.channels import channel_of
from kickback.takes.record import replace
from kickback.takes.take import Column, Take

__all__ = ["in_unit"]


def in_unit(take: Take, unit: str, factor: float) -> Take:
    """Return a take with lengths in ``unit``, ``factor`` of which is one of its own.

    Positions, velocities and the header's floor thickness are converted; columns of the
    game's own are not, as nothing says what they are.
    """
    columns: dict[str, Column] = {
        name: column * factor if channel_of(name).kind in {"position", "velocity"} else column
        for name, column in take.columns.items()
    }
    extra = dict(take.header.extra)
    floor = extra.get("floor_thickness")
    if isinstance(floor, int | float) and not isinstance(floor, bool):
        extra["floor_thickness"] = floor * factor
    made = {
        name: (scale * factor, offset * factor)
        if columns[name] is not take.columns[name]
        else (scale, offset)
        for name, (scale, offset) in take.made.items()
    }
    header = replace(take.header, length_unit=unit, extra=extra)
    return replace(take, columns=columns, header=header, made=made)
