"""Constants from one frame rate, or their per-frame form, to another or to the second.

With ``r`` frames/s behind the given number and ``s`` frames/s wanted, ``per frame`` forms:
a speed ``u`` (length a frame) is ``u·r`` a second; an acceleration (a speed per frame, each
frame) ``a·r²``; a gain in length/s each frame ``a·r``; a factor ``f`` each frame is the rate
``−ln f·r``, and ``f^(r/s)`` at ``s``; a share ``p`` of the way each frame is the factor
``1 − p``; a count of frames ``n`` lasts ``n/r``.
"""

import math
import re
from collections.abc import Callable, Mapping

from kickback.errors import InputError, UsageError
from kickback.takes.record import Record

__all__ = ["KINDS", "UNTOLD", "Retimed", "kind_of", "left_because", "retime"]


class _Kind(Record, frozen=True, kw_only=True):
    """A kind of constant: its per-second form's unit, and both ways between the forms."""

    about: str
    unit: str
    to_second: Callable[[float, float], float]
    to_frame: Callable[[float, float], float]


def _rate_of(factor: float, rate: float) -> float:
    if not 0 < factor <= 1:
        raise UsageError(f"a factor per frame lies above 0 and up to 1, not {factor:g}")
    return 0.0 - math.log(factor) * rate


def _rate_of_share(share: float, rate: float) -> float:
    if not 0 <= share < 1:
        raise UsageError(f"a share of the way per frame lies from 0 to below 1, not {share:g}")
    return 0.0 - math.log1p(-share) * rate


KINDS: Mapping[str, _Kind] = {
    "speed": _Kind(
        about="length a frame, such as a speed or an impulse",
        unit="L/s",
        to_second=lambda value, rate: value * rate,
        to_frame=lambda value, rate: value / rate,
    ),
    "acceleration": _Kind(
        about="length a frame, gained each frame",
        unit="L/s²",
        to_second=lambda value, rate: value * rate * rate,
        to_frame=lambda value, rate: value / (rate * rate),
    ),
    "gain": _Kind(
        about="length a second, gained each frame",
        unit="L/s²",
        to_second=lambda value, rate: value * rate,
        to_frame=lambda value, rate: value / rate,
    ),
    "factor": _Kind(
        about="what the speed is multiplied by each frame",
        unit="1/s",
        to_second=_rate_of,
        to_frame=lambda value, rate: math.exp(-value / rate),
    ),
    "share": _Kind(
        about="the part of the way toward a goal that is made each frame",
        unit="1/s",
        to_second=_rate_of_share,
        to_frame=lambda value, rate: -math.expm1(-value / rate),
    ),
    "timer": _Kind(
        about="a count of frames",
        unit="s",
        to_second=lambda value, rate: value / rate,
        to_frame=lambda value, rate: value * rate,
    ),
}
"""The kinds of constants, by name."""

_WORDS = (
    (
        "timer",
        (
            "time",
            "timer",
            "frames",
            "duration",
            "cooldown",
            "buffer",
            "lockout",
            "delay",
            "coyote",
            "grace",
            "window",
            "hold",
            "ticks",
        ),
    ),
    (
        "acceleration",
        (
            "acceleration",
            "deceleration",
            "gravity",
            "accel",
            "decel",
            "pull",
            "acc",
            "dec",
            "grav",
            "thrust",
            "braking",
        ),
    ),
    ("factor", ("factor", "friction", "damping", "drag", "decay", "multiplier", "mult")),
    ("share", ("share", "lerp", "smoothing", "blend", "follow", "easing")),
    (
        "speed",
        (
            "speed",
            "velocity",
            "impulse",
            "vel",
            "spd",
            "jump",
            "dash",
            "run",
            "walk",
            "sprint",
            "fall",
            "terminal",
            "climb",
            "swim",
            "launch",
            "knockback",
        ),
    ),
)
"""Words of parameters' names by kind; the first kind whose word is in a name is told.

What a ``jump``, ``dash``, ``run`` or ``fall`` alone is, is a speed: ``jump_time`` and
``fall_gravity`` are told by their other word.
"""

_NEITHER = (
    ("rate", "a rate belongs to the second already, or to what its code says"),
    ("height", "a length does not change with the frame rate"),
    ("distance", "a length does not change with the frame rate"),
    ("width", "a length does not change with the frame rate"),
    ("size", "a length does not change with the frame rate"),
    ("count", "a count does not change with the frame rate"),
    ("jumps", "a count does not change with the frame rate"),
    ("max_jumps", "a count does not change with the frame rate"),
)
"""Words of what does not go with the frame rate, and why."""


UNTOLD = "its name does not tell what it is: say --kind NAME=KIND"
"""Why a number is left whose kind is not known."""


class Retimed(Record, frozen=True, kw_only=True):
    """A constant before and after, and of the ``second`` between them.

    ``unit`` is that of the result, ``how`` to write it in code.
    """

    name: str
    kind: str
    value: float
    second: float
    result: float
    unit: str
    how: str


def kind_of(name: str) -> str | None:
    """Return the kind that a parameter's name tells, or None."""
    parts = _parts(name)
    if any(word in parts for word, _ in _NEITHER):
        return None
    for kind, words in _WORDS:
        if any(part in words for part in parts):
            return kind
    return None


def _parts(name: str) -> list[str]:
    """Return the words of a name: ``jumpSpeed`` and ``JUMP_SPEED`` have the same."""
    spaced = re.sub(r"([a-z0-9])([A-Z])", r"\1_\2", name)
    return [part for part in re.split(r"[^a-z0-9]+", spaced.lower()) if part]


def left_because(name: str, value: object) -> str:
    """Return why a parameter is left as it is."""
    if isinstance(value, bool):
        return "it is a switch"
    if isinstance(value, str):
        return "it is a word"
    parts = _parts(name)
    known = next((why for word, why in _NEITHER if word in parts), None)
    return known or UNTOLD


def retime(
    name: str, kind: str, value: float, before: float | None, after: float | None
) -> Retimed:
    """Return a constant at another frame rate.

    ``before`` and ``after``: frames/s of the per-frame form, None for the form that belongs
    to the second. Raises UsageError for a kind that is none or a value that has no such
    form, InputError for a value that is no finite number.
    """
    if kind not in KINDS:
        raise UsageError(f"no kind '{kind}': one of {', '.join(KINDS)}")
    if not math.isfinite(value):
        raise InputError(f"'{name}' must be finite, not {value:g}")
    for rate in (before, after):
        if rate is not None and not 0 < rate <= 100_000:
            raise UsageError(f"a frame rate lies above 0 and up to 100000, not {rate:g}")
    one = KINDS[kind]
    second = value if before is None else one.to_second(value, before)
    if kind in {"factor", "share"} and second < 0:
        raise UsageError(f"a rate is 0 or more, not {second:g}")
    result = second if after is None else one.to_frame(second, after)
    unit = one.unit if after is None else _FRAME_UNITS[kind]
    return Retimed(
        name=name,
        kind=kind,
        value=value,
        second=second,
        result=result,
        unit=unit,
        how=_code(kind, result, after),
    )


_FRAME_UNITS = {
    "speed": "L/frame",
    "acceleration": "L/frame²",
    "gain": "L/s a frame",
    "factor": "",
    "share": "",
    "timer": "frames",
}


def _code(kind: str, value: float, after: float | None) -> str:
    """Return the constant in a line of pseudo-code."""
    number = f"{value:.6g}"
    if after is not None:
        return {
            "speed": f"position += {number}   each frame",
            "acceleration": f"speed += {number}   each frame",
            "gain": f"speed += {number}   each frame",
            "factor": f"speed *= {number}   each frame",
            "share": f"speed += (goal − speed)·{number}   each frame",
            "timer": f"for {max(round(value), 1)} frames",
        }[kind]
    return {
        "speed": f"position += {number}·dt",
        "acceleration": f"speed += {number}·dt",
        "gain": f"speed += {number}·dt",
        "factor": f"speed *= exp(−{number}·dt)",
        "share": f"speed += (goal − speed)·(1 − exp(−{number}·dt))",
        "timer": f"timer −= dt, from {number} s",
    }[kind]
