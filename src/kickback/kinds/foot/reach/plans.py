"""What may be pressed to get across a gap: the plans of each way, as frames from the edge on."""

from collections.abc import Callable, Mapping
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from kickback.kinds.clearing import Way
from kickback.kinds.foot.model.state import Read
from kickback.takes.header import Value

__all__ = ["ROUTES", "TAP", "UNPRESSED", "Frames", "Limits", "Plans", "Route", "reads_of"]

Frames = npt.NDArray[np.int64]

UNPRESSED = -1
"""The frame of a press that a plan does not have."""

TAP = 0.06
"""How long the button of a hop is held, s: about the shortest of a thumb."""


class Plans(NamedTuple):
    """Presses, in frames from the start on, each of shape (m,).

    ``press`` is that of the jump: 0 is the last frame on the ground, later ones come after the
    edge. ``hold`` is for how many frames it is held, ``push`` when the direction is pressed,
    ``dash`` and ``again`` when a dash and a second jump are; the latter is held to the end.
    """

    press: Frames
    hold: Frames
    push: Frames
    dash: Frames
    again: Frames


class Limits(NamedTuple):
    """Frames: of a flight and of its rise from the press on, of a squat before it, of a tap.

    ``late`` is how late a press still takes off; ``holds`` are those of which one may get farther
    than every other.
    """

    flight: int
    rise: int
    squat: int
    late: int
    tap: int
    holds: Frames


def _grid(press: Frames, hold: Frames, push: Frames, dash: Frames, again: Frames) -> Plans:
    """Return every combination of presses."""
    grids = np.meshgrid(press, hold, push, dash, again, indexing="ij")
    return Plans(*(one.ravel() for one in grids))


_NO = np.array([UNPRESSED])
_AT_ONCE = np.array([0])


def _presses(limits: Limits) -> Frames:
    return np.arange(limits.late + 1)


def _standing(limits: Limits) -> Plans:
    return _grid(_AT_ONCE, limits.holds, np.arange(limits.flight), _NO, _NO)


def _hop(limits: Limits) -> Plans:
    return _grid(_presses(limits), np.array([limits.tap]), _AT_ONCE, _NO, _NO)


def _running(limits: Limits) -> Plans:
    return _grid(_presses(limits), limits.holds, _AT_ONCE, _NO, _NO)


def _dash(limits: Limits) -> Plans:
    every = _grid(
        _presses(limits), limits.holds, _AT_ONCE, np.arange(1 + limits.squat, limits.flight), _NO
    )
    dashing = every._replace(dash=every.dash + every.press)
    return _joined(_running(limits), dashing)


def _air_jump(limits: Limits) -> Plans:
    every = _grid(
        _presses(limits), limits.holds, _AT_ONCE, _NO, np.arange(2 + limits.squat, limits.flight)
    )
    # the button is let go of for a frame at least before it is pressed again
    held = np.minimum(every.hold, every.again - 1)
    again = every._replace(again=every.again + every.press, hold=held)
    return _joined(_running(limits), again)


def _joined(one: Plans, other: Plans) -> Plans:
    return Plans(*(np.concatenate(pair) for pair in zip(one, other, strict=True)))


def _always(values: Mapping[str, Value]) -> str:
    del values
    return ""


def _needs(name: str, what: str) -> Callable[[Mapping[str, Value]], str]:
    return lambda values: "" if float(values[name]) > 0 else f"there is no {what} ({name} is 0)"


class Route(NamedTuple):
    """A way with the presses that it has.

    ``from_rest``: it has no run-up; ``again``: its second jump comes back up from below.
    """

    way: Way
    plans: Callable[[Limits], Plans]
    from_rest: bool = False
    again: bool = False


def _way(name: str, about: str, missing: Callable[[Mapping[str, Value]], str] = _always) -> Way:
    return Way(name=name, about=about, missing=missing)


_ROUTES = (
    Route(_way("standing", "from a stand at the edge, the direction with the jump or later"),
          _standing, from_rest=True),
    Route(_way("hop", "at full run, the button tapped"), _hop),
    Route(_way("running", "at full run, the button held as long as is best"), _running),
    Route(_way("dash", "the same, with a dash in the air", _needs("dash_speed", "dash")), _dash),
    Route(_way("air_jump", "the same, with a second jump in the air",
               _needs("air_jumps", "jump in the air")), _air_jump, again=True),
)  # fmt: skip

ROUTES: Mapping[str, Route] = {one.way.name: one for one in _ROUTES}
"""The ways to get across by name, the humblest first."""


def reads_of(plans: Plans, frames: int) -> list[Read]:
    """Return what the updates of some frames read."""
    n = np.arange(frames)[:, None]
    first = (n >= plans.press) & (n < plans.press + plans.hold)
    second = (plans.again != UNPRESSED) & (n >= plans.again)
    pressed = (n == plans.press) | ((plans.again != UNPRESSED) & (n == plans.again))
    move = (n >= plans.push).astype(np.float64)
    dash = (plans.dash != UNPRESSED) & (n == plans.dash)
    return [
        Read(
            move=move[k],
            jump=first[k] | second[k],
            pressed=pressed[k],
            brake=False,
            dash=dash[k],
            down=False,
        )
        for k in range(frames)
    ]
