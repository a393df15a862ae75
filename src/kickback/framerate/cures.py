"""What to write instead: the remedy of each cause, with constants that keep the feel at one rate.

A constant's value in its per-second form, as the laws read it at the kept rate, is what
makes code with the time step do there what the code without it did.
"""

from collections.abc import Callable, Mapping, Sequence

import numpy as np

from kickback.framerate.causes import Cause, Term
from kickback.framerate.constants import ConstantRow, value_at
from kickback.takes.record import replace

__all__ = ["with_cures"]

_MOVING = {"acceleration", "gravity", "speed", "impulse"}


def with_cures(
    causes: Sequence[Cause],
    rows: Sequence[ConstantRow],
    powers: Mapping[str, int],
    keep: float,
) -> list[Cause]:
    """Return causes with their remedies; nothing changes at ``keep`` frames/s.

    ``rows``: all constants of the group, ``powers``: their own exponents.
    """
    scale = _position_scale(causes, rows, keep)
    out = []
    for cause in causes:
        values = {
            term.row.name: _kept(cause, term, scale, keep)
            for term in cause.terms
            if term.row.kind != "scale"
        }
        if cause.name in {"position-per-frame", "all-in-frames"} and scale != 1:
            values |= {
                row.name: value_at(row, keep, powers.get(row.name, 0)) * scale
                for row in rows
                if row.kind in _MOVING and row.constant != "push" and row.name in powers
            }
        text = _FIXES[cause.name](cause, values, keep, scale, rows)
        out.append(replace(cause, fix=text, corrected=values))
    return out


def _position_scale(causes: Sequence[Cause], rows: Sequence[ConstantRow], keep: float) -> float:
    """Return how many times faster the position moves at the kept rate than its speed says."""
    if not any(cause.name in {"position-per-frame", "all-in-frames"} for cause in causes):
        return 1.0
    scales = [value_at(row, keep, 1) for row in rows if row.kind == "scale"]
    return float(np.median(scales)) if scales else 1.0


def _kept(cause: Cause, term: Term, scale: float, keep: float) -> float:
    row = term.row
    if cause.name == "first-order-factor":
        linear = float(np.median(-np.expm1(-row.value / row.rate) * row.rate))
        return float(-np.log1p(-min(linear / keep, 1 - 1e-9)) * keep)
    value = value_at(row, keep, term.power)
    return value * scale if row.kind in _MOVING else value


def _g(value: float) -> str:
    return f"{value:.4g}"


def _unchanged(keep: float) -> str:
    return f"at {keep:g} frames/s nothing changes"


def _gains(cause: Cause, values: Mapping[str, float]) -> str:
    """Return the accelerations as lines of code, one for each phase."""
    lines = []
    for term in cause.terms:
        if term.row.name not in values:
            continue
        value = values[term.row.name]
        word = "rise" if term.row.kind == "gravity" else "speed"
        sign = "−" if value < 0 else "+"
        lines.append(f"{word} {sign}= {_g(abs(value))}·dt ({term.row.phase})")
    return ", ".join(dict.fromkeys(lines))


def _step_once(cause: Cause, values: Mapping[str, float], keep: float, *_: object) -> str:
    return f"multiply by the time step, once: {_gains(cause, values)}; {_unchanged(keep)}"


def _position(_: Cause, __: Mapping[str, float], keep: float, scale: float, *___: object) -> str:
    if scale == 1:
        return f"position += speed·dt; {_unchanged(keep)}"
    return (
        f"position += speed·dt, with all speeds and accelerations times {_g(scale)};"
        f" {_unchanged(keep)}"
    )


def _impulse(cause: Cause, values: Mapping[str, float], keep: float, *_: object) -> str:
    set_to = ", ".join(f"{_g(values[t.row.name])} ({t.row.phase})" for t in cause.terms)
    return f"set the speed without the time step: {set_to}; {_unchanged(keep)}"


def _factor(cause: Cause, values: Mapping[str, float], keep: float, *_: object) -> str:
    parts = []
    for term in cause.terms:
        rate = values[term.row.name]
        parts.append(
            f"a factor of {_g(float(np.exp(-rate / keep)))} per frame at {keep:g} frames/s is a"
            f" rate of {_g(rate)} /s: multiply by exp(−{_g(rate)}·dt) ({term.row.phase})"
        )
    return ", ".join(dict.fromkeys(parts))


def _exact(cause: Cause, values: Mapping[str, float], keep: float, *_: object) -> str:
    parts = []
    for term in cause.terms:
        rate = values[term.row.name]
        linear = (1 - float(np.exp(-rate / keep))) * keep
        parts.append(f"exp(−{_g(rate)}·dt) instead of 1 − {_g(linear)}·dt ({term.row.phase})")
    return f"multiply by {', '.join(dict.fromkeys(parts))}; {_unchanged(keep)}"


def _timer(cause: Cause, values: Mapping[str, float], keep: float, *_: object) -> str:
    parts = [
        f"{_g(values[t.row.name])} s ({t.row.phase}, {_g(values[t.row.name] * keep)} frames)"
        for t in cause.terms
    ]
    return f"count seconds: timer −= dt, from {', '.join(parts)}; {_unchanged(keep)}"


def _everything(_: Cause, __: Mapping[str, float], keep: float, *___: object) -> str:
    return (
        f"run the whole update at a fixed step of 1/{keep:g} s, as often as the time that passed"
        f" asks for; or give each term the time step, with its constants of {keep:g} frames/s"
    )


def _clamped(cause: Cause, *_: object) -> str:
    knee = cause.slow.knee if cause.slow is not None else 0.0
    return (
        f"split a long frame into several steps of at most {1000 / knee:.3g} ms, or allow longer"
        " steps, so that game time keeps up"
    )


def _order(
    cause: Cause,
    _: Mapping[str, float],
    keep: float,
    __: float,
    rows: Sequence[ConstantRow],
) -> str:
    text = "position += (old speed + new speed)/2·dt"
    if cause.terms:
        text = "speed = a/k + (speed − a/k)·exp(−k·dt) for a push a against a friction k; " + text
    if cause.theta is None:
        return text.partition("; ")[0]
    speed = takeoff_for_midpoint(rows, cause.theta, keep)
    if speed is not None:
        text += f"; a takeoff speed of {_g(speed)} keeps the apex of {keep:g} frames/s"
    return f"{text}; where a library moves the body, step it at a fixed rate"


def takeoff_for_midpoint(
    rows: Sequence[ConstantRow], theta: float | None, keep: float
) -> float | None:
    """Return the takeoff speed that keeps the highest frame under midpoint integration.

    The frames of a rise are ``y_n = v·n·h − g·h²·n·(n + 2θ − 1)/2`` with ``h = 1/keep``, the
    midpoint's ``v'·n·h − g·h²·n²/2``. None where the takes show no takeoff or no constant
    gravity.
    """
    by_name = {row.name: row for row in rows}
    thrown, rise = by_name.get("takeoff.speed"), by_name.get("rise.acceleration")
    if thrown is None or rise is None or theta is None:
        return None
    g, h = -value_at(rise, keep, 0), 1 / keep
    nearest = int(np.argmin(np.abs(np.log(thrown.rate / keep))))
    v = float(thrown.value[nearest])
    if thrown.stderr[nearest] > 1e-3 * v:  # the row is a step of gravity later, as θ = 1 hides
        v += g / float(thrown.rate[nearest])
    n = np.arange(1, int(2 * v / (g * h)) + 2)
    apex = float(np.max(v * n * h - g * h * h * n * (n + 2 * theta - 1) / 2))
    speed = float(np.sqrt(2 * g * apex))
    for _ in range(4):  # the frame that is highest hardly changes with the speed
        top = max(1, round(speed / (g * h)))
        speed = (apex + g * h * h * top * top / 2) / (top * h)
    return speed


_FIXES: dict[str, Callable[..., str]] = {
    "acceleration-per-frame": _step_once,
    "gravity-per-frame": _step_once,
    "dt-twice": _step_once,
    "position-per-frame": _position,
    "impulse-times-dt": _impulse,
    "factor-per-frame": _factor,
    "first-order-factor": _exact,
    "timer-in-frames": _timer,
    "all-in-frames": _everything,
    "dt-clamped": _clamped,
    "integration-order": _order,
}
