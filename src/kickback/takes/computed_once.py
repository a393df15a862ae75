"""Working out what belongs to one object once, and keeping it as long as that object lives."""

from collections.abc import Callable, Hashable, Mapping
from functools import update_wrapper
from typing import Generic, ParamSpec, TypeVar
from weakref import WeakKeyDictionary

__all__ = ["ComputedOnce", "computed_once"]

T = TypeVar("T")
P = ParamSpec("P")


class ComputedOnce(Generic[P, T]):
    """A function that works out its result once for each object and further arguments.

    The object comes first, and is kept by identity, weakly; the others must be hashable.
    """

    def __init__(self, make: Callable[P, T]) -> None:
        self._make = make
        self._every: WeakKeyDictionary[object, dict[tuple[Hashable, ...], T]] = WeakKeyDictionary()
        update_wrapper(self, make)

    def __call__(self, *given: P.args, **named: P.kwargs) -> T:
        """Return the result, worked out at the first call."""
        of, *more = given
        found = self._every.setdefault(of, {})
        key = tuple(more)
        if key not in found:
            found[key] = self._make(*given, **named)
        return found[key]

    def kept(self, of: object) -> dict[tuple[Hashable, ...], T]:
        """Return what is known of an object, by the further arguments."""
        return self._every.get(of, {})

    def keep(self, of: object, results: Mapping[tuple[Hashable, ...], T]) -> None:
        """Keep what was worked out of an object elsewhere, by the further arguments."""
        self._every.setdefault(of, {}).update(results)


def computed_once(make: Callable[P, T]) -> ComputedOnce[P, T]:
    """Return a function that works out its result once; see ``ComputedOnce``."""
    return ComputedOnce(make)
