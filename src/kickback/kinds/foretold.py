"""What a kind's laws foretell of its metrics."""

from collections.abc import Callable
from typing import NamedTuple

__all__ = ["Foretold"]


class Foretold(NamedTuple):
    """A metric in closed form: ``formula`` of the sizes of ``constants``, up to a factor.

    Constants are called as records call them, ``takeoff.speed``; ``words`` say the form.
    """

    metric: str
    constants: tuple[str, ...]
    formula: Callable[..., float]
    words: str
