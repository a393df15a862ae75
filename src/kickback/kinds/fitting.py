"""What of a game a model's parameters are: read, with how sure each is, and held against it."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any

import numpy as np
import numpy.typing as npt

from kickback.laws.record import Law
from kickback.takes.header import Value
from kickback.takes.record import Record, replace
from kickback.takes.take import FloatArray

__all__ = ["PLAY", "Fitting", "Number", "Played", "Unread"]

PLAY = "the play of its inputs"
"""The source of a number that no law tells."""


class Number(Record, frozen=True, kw_only=True):
    """A parameter that takes show; ``stderr`` is its standard error, None where it is a word.

    ``source`` is the phase that it was read from. ``between``: what a timer is known to lie
    between, s. ``note`` is what its reading leaves open. A ``guess`` is a first value that only
    the play of the inputs can tell.
    """

    name: str
    value: Value
    source: str
    stderr: float | None = None
    between: tuple[float, float] | None = None
    note: str = ""
    guess: bool = False


class Unread(Record, frozen=True, kw_only=True):
    """Parameters that no take shows, and why."""

    names: tuple[str, ...]
    reason: str


class Played(Record, frozen=True, kw_only=True):
    """A stretch of a take beside what the model makes of its inputs; columns of shape (n, m).

    ``own`` are the take's, shape (n,), ``model`` those of m parameter sets, ``noise`` the standard
    error of each of the take's, from the rounding of numbers and times, shape (n,); ``alike``:
    the frames in which both stand or both fly, shape (n, m); ``contact``: further columns of the
    model. ``missing`` says what of the take's world is not played.
    """

    own: Mapping[str, FloatArray]
    model: Mapping[str, FloatArray]
    noise: Mapping[str, FloatArray]
    alike: npt.NDArray[np.bool_]
    contact: Mapping[str, FloatArray] = {}
    missing: str = ""

    def only(self, column: int) -> "Played":
        """Return the same of one parameter set."""
        some = slice(column, column + 1)
        return replace(
            self,
            model={name: one[:, some] for name, one in self.model.items()},
            alike=self.alike[:, some],
            contact={name: one[:, some] for name, one in self.contact.items()},
        )


class Fitting(Record, frozen=True, kw_only=True):
    """How a kind's games become parameters of its model.

    ``read`` takes the laws of takes at one frame rate, and the mistakes that were found, to
    numbers and what is unread. ``play`` plays the inputs of a motion with some full parameter
    sets; it raises InputError for a motion whose inputs were not recorded. ``choices`` are
    further values by name that are tried where no law tells them; ``mistakes`` are those that the
    model can make, ``checked`` fills in its defaults. ``untold`` gives values for what no take
    shows and the model's own would be wrong for; ``lenient`` those that forgive nothing, for what
    is not shown and not needed.
    """

    read: Callable[[Sequence[Law], frozenset[str]], tuple[list[Number], list[Unread]]]
    play: Callable[[Any, Sequence[Mapping[str, Value]]], Played]
    choices: Mapping[str, Sequence[Value]]
    mistakes: frozenset[str]
    untold: Callable[[Mapping[str, Value]], dict[str, Value]]
    lenient: Mapping[str, Value]
    checked: Callable[[Mapping[str, Value], str], dict[str, Value]]
