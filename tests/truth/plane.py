"""A loop that moves a point over a plane as games do, in plain lines, and what it comes to."""

import numpy as np

NAMES = ("t", "dt", "x", "z", "vx", "vz", "in_move_x", "in_move_y")

USUAL = {"top": 8.0, "accel": 60.0, "slow": 50.0, "rate": 10.0, "rule": "length", "limit": "length"}


def over_plane(dt, stick_at, **own):
    """Return columns of a run. ``rule``: how the velocity comes to the pressed one; ``limit``:
    whether a stick is shortened to length 1, or each axis goes on its own."""
    p = {**USUAL, **own}
    place, v, time, rows = 0j, 0j, 0.0, []
    for h in dt:
        stick = complex(*stick_at(time))
        wanted = stick / max(1.0, abs(stick)) if p["limit"] == "length" else stick
        goal = wanted * p["top"]
        v = RULES[p["rule"]](v, goal, (p["accel"] if stick else p["slow"]) * h, p, h)
        place += v * h
        time += h
        rows.append((time, h, place.real, place.imag, v.real, v.imag, stick.real, stick.imag))
    return {n: np.array(c) for n, c in zip(NAMES, zip(*rows, strict=True), strict=True)}


def _length(v, goal, most, _p, _h):
    gap = goal - v
    return goal if abs(gap) <= most else v + gap * (most / abs(gap))


def _axis(v, goal, most, _p, _h):
    gap = goal - v
    return v + complex(np.clip(gap.real, -most, most), np.clip(gap.imag, -most, most))


def _smooth(v, goal, _most, p, h):
    return goal + (v - goal) * np.exp(-p["rate"] * h)


def _added(v, goal, most, p, _h):
    if not goal:
        return _length(v, goal, most, p, _h)
    wide = v + goal / abs(goal) * most
    return wide * min(1.0, p["top"] / max(abs(wide), 1e-12))


def _heading(v, goal, most, p, h):
    if not goal or not v:
        return _length(v, goal, most, p, h)
    to_go = np.angle(goal / v)
    size = min(abs(v) + most, p["top"])
    return size * v / abs(v) * np.exp(1j * np.clip(to_go, -p["rate"] * h, p["rate"] * h))


RULES = {"length": _length, "axis": _axis, "smooth": _smooth, "added": _added, "heading": _heading}


def turn_truth(rule, angle, entry, top, *, accel=60.0, rate=10.0):
    """Return when a turn by an angle, degrees, is within 5 degrees and at 90 % of the top speed,
    s: each rule's motion as a continuous one, which its frames lie on, found on a fine grid."""
    t = np.linspace(0, 1.5, 1_500_001)
    start, goal = entry * np.exp(1j * np.deg2rad(angle)), top + 0j
    if rule == "smooth":
        v = goal + (start - goal) * np.exp(-rate * t)
    elif rule == "axis":
        gap = goal - start
        v = (
            start
            + np.sign(gap.real) * np.minimum(accel * t, abs(gap.real))
            + 1j * np.sign(gap.imag) * np.minimum(accel * t, abs(gap.imag))
        )
    else:
        gap = goal - start
        v = start + gap * np.minimum(accel * t / abs(gap), 1.0)
    over = (np.abs(np.angle(v, deg=True)) <= 5) & (np.abs(v) >= 0.9 * top)
    return float(t[int(np.argmax(over))])
