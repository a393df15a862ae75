"""How a character on foot becomes parameters of its model."""

from kickback.kinds.fitting import Fitting
from kickback.kinds.foot.fit.guesses import untold
from kickback.kinds.foot.fit.readings import read_parameters
from kickback.kinds.foot.fit.replay import play_again
from kickback.kinds.foot.model.parameters import (
    FAULTS,
    GROUND_MOVEMENTS,
    INTEGRATORS,
    MISTAKES,
    checked_values,
)

__all__ = ["FOOT_FITTING"]

FOOT_FITTING = Fitting(
    read=read_parameters,
    play=play_again,
    choices={"integrator": INTEGRATORS, "ground_movement": GROUND_MOVEMENTS},
    mistakes=frozenset(MISTAKES | FAULTS),
    untold=untold,
    lenient={"coyote_time": 0.0, "jump_buffer": 0.0},
    checked=checked_values,
)
