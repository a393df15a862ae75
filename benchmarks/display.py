"""A physics step under a faster display: the log that such a game writes, and that of its steps."""

from typing import Any

import numpy as np

from benchmarks.game_loop import Hands, Log, Rules, play

__all__ = ["display_log"]

_INPUTS = ("in_move_x", "in_jump")
_PLACES = ("x", "y")


def display_log(
    rules: Rules,
    physics: float,
    frames: np.ndarray[Any, Any],
    stick: Hands,
    button: Hands,
    *,
    interpolated: bool = False,
) -> tuple[dict[str, Any], dict[str, Any]]:
    """Return the columns of a log with a row a display frame, and of one with a row a step.

    ``frames``: how long each display frame lasts, s. As many steps as fit into the time that
    has passed are made in each frame; what is shown lies between the last two steps, where it
    is ``interpolated``, and is the last one otherwise. A step reads the input of its frame.
    """
    h = 1 / physics
    begins = np.concatenate(([0.0], np.cumsum(frames)[:-1]))
    ends = np.cumsum(frames)
    done = np.floor(ends / h + 1e-9).astype(int)
    steps = int(done[-1])
    # the frame in which a step is made: its hands are what the step reads
    frame_of = np.searchsorted(done, np.arange(1, steps + 1), side="left")
    moves = [stick(begins[k]) for k in frame_of]
    jumps = [button(begins[k]) for k in frame_of]
    log: Log = play(
        rules,
        np.full(steps, h),
        lambda time: moves[min(round(time / h), steps - 1)],
        lambda time: jumps[min(round(time / h), steps - 1)],
    )
    shown = {}
    for name, column in log.columns.items():
        if name in {"t", "dt"}:
            continue
        states = np.concatenate(([0.0], column))
        if name == "touch_ground":
            states[0] = 1.0
        if interpolated and name in _PLACES:
            share = ends / h - done
            before = states[np.maximum(done - 1, 0)]
            shown[name] = before + (states[done] - before) * np.clip(share, 0, 1)
        else:
            shown[name] = states[done]
    shown["in_move_x"] = np.array([stick(time) for time in begins])
    shown["in_jump"] = np.array([float(button(time)) for time in begins])
    return {"t": ends, "dt": frames, **shown}, log.columns
