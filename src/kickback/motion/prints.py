"""How the columns of a take were printed, each looked at once."""

from collections.abc import Iterator, Mapping

from kickback.motion.grids import Printed, printed
from kickback.takes.take import Take

__all__ = ["Prints"]


class Prints(Mapping[str, Printed]):
    """How each column of numbers of a take was printed, looked at once a column."""

    def __init__(self, take: Take, known: Mapping[str, Printed] | None = None) -> None:
        self._take = take
        self._known: dict[str, Printed] = dict(known or {})

    def __getitem__(self, name: str) -> Printed:
        """Return how a column was printed; InputError where the take lacks it."""
        if name not in self._known:
            self._known[name] = _printed_raw(self._take, name)
        return self._known[name]

    def __iter__(self) -> Iterator[str]:
        """Iterate over the columns of numbers."""
        return (name for name, one in self._take.columns.items() if one.dtype.kind == "f")

    def __len__(self) -> int:
        """Return the number of columns of numbers."""
        return sum(1 for _ in self)


def _printed_raw(take: Take, name: str) -> Printed:
    """Return how a column was printed; one that a mapping made, by the log's own numbers."""
    values = take.numbers(name)
    scale, offset = take.made.get(name, (1.0, 0.0))
    if (scale, offset) == (1.0, 0.0):
        return printed(values)
    raw = printed((values - offset) / scale)
    return Printed(grid=raw.grid * scale, lattice=raw.lattice * scale, size=raw.size * scale)
