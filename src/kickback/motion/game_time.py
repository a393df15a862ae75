"""A take on the game's own clock: the sum of the steps that it used."""

import numpy as np

from kickback.takes.record import replace
from kickback.takes.take import Column, Take

__all__ = ["take_in_game_time"]


def take_in_game_time(take: Take) -> Take:
    """Return a take whose times are sums of ``dt``; frames in which no time passed are left out."""
    passes = take.numbers("dt") > 0
    columns: dict[str, Column] = {name: column[passes] for name, column in take.columns.items()}
    first = float(take.numbers("t")[0] - take.numbers("dt")[0])
    columns["t"] = first + np.cumsum(columns["dt"])
    made = {name: how for name, how in take.made.items() if name != "t"}
    return replace(take, columns=columns, shown_rate=take.frame_rate, made=made)
