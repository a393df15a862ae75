"""A game loop in a dozen plain lines, one frame at a time, and the closed forms for it.

It shares nothing with the package: what it says is what the program has to find.
"""

import math

import numpy as np

THETA = {"semi-implicit": 1.0, "explicit": 0.0, "trapezoid": 0.5}
RATES = (20, 30, 60, 120, 144, 240, 1000)


def steps(rate, seconds, jitter=0.0, seed=0):
    dt = np.full(round(rate * seconds), 1.0 / rate)
    if jitter:
        dt *= np.random.default_rng(seed).uniform(1 - jitter, 1 + jitter, len(dt))
    return dt


def play(dt, move_at, jump_at=lambda _: 0, *, law="constant", theta=1.0, **p):
    """Return columns of a run: ``move_at(time)`` and ``jump_at(time)`` are the inputs."""
    top, accel, slow, rate = (
        p.get("top", 8.0),
        p.get("accel", 40.0),
        p.get("slow", 32.0),
        p.get("k", 9.0),
    )
    v0, g = p.get("v0", 13.0), p.get("g", 40.0)
    x = y = vx = vy = time = 0.0
    ground, held = True, False
    rows = []
    for h in dt:
        move, jump = move_at(time), jump_at(time)
        goal, old = move * top, vx
        if law == "constant":
            change = (accel if move else slow) * h
            vx = min(vx + change, goal) if vx < goal else max(vx - change, goal)
        else:
            keep = {
                "exact": math.exp(-rate * h),
                "first-order": 1 - rate * h,
                "per-frame": math.exp(-rate / 60),
            }[law]
            vx = goal + (vx - goal) * keep
        x += h * ((1 - theta) * old + theta * vx)
        if jump and not held and ground:
            vy, ground = v0, False
        if held and not jump and vy > 0:
            vy *= p.get("cut", 1.0)
        held = bool(jump)
        if not ground:
            pull = g if vy > 0 else p.get("g_fall", g)
            before, vy = vy, vy - pull * h
            y += h * ((1 - theta) * before + theta * vy)
            if y <= 0 and vy < 0:
                y, vy, ground = 0.0, 0.0, True
        time += h
        rows.append((time, h, x, y, vx, vy, float(ground), float(move), float(jump)))
    names = ("t", "dt", "x", "y", "vx", "vy", "touch_ground", "in_move_x", "in_jump")
    return {
        name: np.array(column) for name, column in zip(names, zip(*rows, strict=True), strict=True)
    }


def during(*spans):
    """Return an input that is ``value`` between ``start`` and ``stop``, else 0."""
    return lambda time: next((v for a, b, v in spans if a - 1e-9 <= time < b - 1e-9), 0)


def press_time(columns, name, value, number=0):
    """Return when the press (or release) of an input happened: the frame's beginning."""
    held = columns[name]
    rows = np.flatnonzero((held[1:] == value) & (held[:-1] != value)) + 1
    row = rows[number]
    return columns["t"][row - 1], int(row)


def sampled_arc(theta, h, v0, g):
    """Return heights of the frames of a jump, from ``y_n = v0·n·h − g·h²·n(n + 2θ − 1)/2``."""
    n = np.arange(0, int(2 * v0 / (g * h)) + 3)
    return v0 * n * h - g * h * h * n * (n + 2 * theta - 1) / 2
