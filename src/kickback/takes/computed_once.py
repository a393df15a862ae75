"""Working out what belongs to one object once, and keeping it as long as that object lives."""

from collections.abc import Callable
from functools import wraps
from typing import ParamSpec, TypeVar
from weakref import WeakKeyDictionary

__all__ = ["computed_once"]

T = TypeVar("T")
P = ParamSpec("P")


def computed_once(make: Callable[P, T]) -> Callable[P, T]:
    """Return a function that works out its result once for each object and further arguments.

    The object comes first, and is kept by identity, weakly; the others must be hashable.
    """
    every: WeakKeyDictionary[object, dict[tuple[object, ...], T]] = WeakKeyDictionary()

    @wraps(make)
    def kept(*given: P.args, **named: P.kwargs) -> T:
        of, *more = given
        found = every.setdefault(of, {})
        key = tuple(more)
        if key not in found:
            found[key] = make(*given, **named)
        return found[key]

    return kept
