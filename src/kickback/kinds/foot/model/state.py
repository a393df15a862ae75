"""Where the model's subjects are, and what an update of theirs reads."""

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from kickback.kinds.playing.parameters import BoolArray
from kickback.takes.take import FloatArray

__all__ = ["Over", "Read", "State", "at_rest"]

Over = npt.NDArray[Any]
"""A quantity over the ground: along its one axis, or over its plane."""


@dataclass(slots=True)
class State:
    """Where each set's subject is; all arrays of shape (m,).

    ``own`` is the speed that the controller keeps: along a slope, and relative to what carries
    it, where that is so; ``vx`` is the one over the ground. ``wall`` is the side of a wall that
    it touches. Timers are in s.
    """

    x: Over
    y: FloatArray
    own: Over
    vx: Over
    vy: FloatArray
    grounded: BoolArray
    wall: FloatArray
    rising_jump: BoolArray
    jumped: BoolArray
    squats: BoolArray
    stuck: BoolArray
    in_air: FloatArray
    air_jumps: FloatArray
    coyote: FloatArray
    buffer: FloatArray
    hold: FloatArray
    squat: FloatArray
    lag: FloatArray
    hang: FloatArray
    stick: FloatArray
    away: FloatArray


@dataclass(slots=True)
class Read:
    """What an update reads: amounts and buttons; ``pressed`` and ``dash`` are new presses.

    Of all sets alike, or with an entry a set, shape (m,), but for the brake and for down.
    """

    move: complex | Over
    jump: bool | BoolArray
    pressed: bool | BoolArray
    brake: bool
    dash: bool | BoolArray
    down: bool


def at_rest(x: Over, y: FloatArray) -> State:
    """Return the state before the first frame: at rest on the floor."""

    def no() -> BoolArray:
        return np.zeros(len(x), dtype=bool)

    def none() -> FloatArray:
        return np.zeros(len(x))

    return State(
        x=x,
        y=y,
        own=np.zeros_like(x),
        vx=np.zeros_like(x),
        vy=none(),
        grounded=~no(),
        wall=none(),
        rising_jump=no(),
        jumped=no(),
        squats=no(),
        stuck=no(),
        in_air=none(),
        air_jumps=none(),
        coyote=none(),
        buffer=none(),
        hold=none(),
        squat=none(),
        lag=none(),
        hang=none(),
        stick=none(),
        away=none(),
    )
