"""A vehicle in plain lines: pedals push along its heading, steering turns it, grip takes the slide.

Headings in degrees; the first axis is 0, they grow toward the second.
"""

import math

import numpy as np


def drive(
    dt, throttle=(), steer=(), brakes=(), *,
    engine=12.0, back=8.0, brake=20.0, rolling=0.0, linear=0.0, factor=None, first_order=False,
    quadratic=0.0, top=None, grip=6.0, grip_factor=None, yaw=90.0, yaw_rate=None, by_speed=None,
    push_last=False, per_frame=(), start=(0.0, 0.0, 30.0), patches=(),
):  # fmt: skip
    """Return columns of a drive over a plane, shape (n,): inputs are (from, until, amount).

    ``linear``: 1/s, as ``exp(−k·dt)``, ``1 − k·dt`` where ``first_order``, or ``factor`` a frame;
    ``quadratic``: 1/length; ``yaw_rate``: 1/s of the way to the wanted turning, at once without;
    ``by_speed``: degrees a length instead of ``yaw``; ``per_frame`` names what lacks its step:
    engine, yaw, quadratic; it is that of 60 frames/s. ``patches``: (from, until, engine, grip) of
    times on brine, all else is salt; with any there is a column ``surface``.
    """
    x, y, heading = start
    vx = vy = turn = 0.0
    t, rows, words, plain = 0.0, [], [], (engine, grip)
    for h in np.asarray(dt).tolist():
        here = [(e, g) for a, b, e, g in patches if a <= t < b]
        engine, grip = here[0] if here else plain
        words.append("brine" if here else "salt")
        gas, wheel = held(throttle, t), held(steer, t)
        stop = held(brakes, t)
        t += h
        wanted = wheel * yaw
        ahead = vx * cos(heading) + vy * sin(heading)
        if by_speed is not None:
            wanted = wheel * by_speed * ahead
        turn = wanted if yaw_rate is None else wanted + (turn - wanted) * math.exp(-yaw_rate * h)
        heading += turn * (1 / 60 if "yaw" in per_frame else h)
        f = vx * cos(heading) + vy * sin(heading)
        s = -vx * sin(heading) + vy * cos(heading)
        push = gas * (engine if gas > 0 else back) * (1 / 60 if "engine" in per_frame else h)
        kept = (
            factor
            if factor is not None
            else 1 - linear * h
            if first_order
            else math.exp(-linear * h)
        )
        if not push_last:
            f += push
        f *= kept
        f -= quadratic * f * abs(f) * (1 / 60 if "quadratic" in per_frame else h)
        if push_last:
            f += push
        loss = (brake * stop + (rolling if gas == 0 or rolling else 0.0)) * h
        f = math.copysign(max(abs(f) - loss, 0.0), f)
        if top is not None:
            f = max(min(f, top), -top)
        s *= grip_factor if grip_factor is not None else math.exp(-grip * h)
        vx, vy = f * cos(heading) - s * sin(heading), f * sin(heading) + s * cos(heading)
        x, y = x + vx * h, y + vy * h
        rows.append((t, h, x, y, vx, vy, heading, gas, wheel, float(stop > 0)))
    names = ("t", "dt", "x", "y", "vx", "vy", "heading", "in_throttle", "in_steer", "in_brake")
    columns = dict(zip(names, np.array(rows).T, strict=True))
    return columns | ({"surface": np.array(words, dtype=object)} if patches else {})


def held(inputs, t):
    """Return the amount that inputs hold at a time."""
    return next((amount for a, b, amount in inputs if a - 1e-9 <= t < b - 1e-9), 0.0)


def cos(degrees):
    """Return the cosine of degrees."""
    return math.cos(math.radians(degrees))


def sin(degrees):
    """Return the sine of degrees."""
    return math.sin(math.radians(degrees))


def align(slope, dt, rate, *, factor=None):
    """Return the pitch, shape (n,), of a body that goes after the slope under it."""
    pitch, out = slope[0], []
    for goal, h in zip(slope, dt, strict=True):
        pitch = goal + (pitch - goal) * (factor if factor is not None else math.exp(-rate * h))
        out.append(pitch)
    return np.array(out)
