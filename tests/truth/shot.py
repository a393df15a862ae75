"""A projectile in plain lines: it is launched, falls, drags and bounces."""

import math

import numpy as np


def lobs(
    dt, *, speed=20.0, elevation=50.0, azimuth=None, gravity=20.0, linear=0.0, factor=None,
    first_order=False, quadratic=0.0, bounce=0.0, kept=0.7, muzzle=(0.0, 1.0), every=3.0,
    theta=0.5, per_frame=(), scatter=None, late=False, taps=False,
):  # fmt: skip
    """Return columns of shots from a muzzle, one every so often, shape (n,).

    ``theta``: the share of the new velocity that moves it; ``azimuth``, degrees, makes it one in
    three dimensions; ``scatter``: degrees of azimuth of each shot; ``per_frame`` names what lacks
    its step: gravity, position; it is that of 60 frames/s. ``late``: a frame after the press; ``taps``: each is
    one of its own, else the button is held.
    """
    across, up = muzzle
    x, y, vx, vy = across, up, 0.0, 0.0
    flies = lies = False
    t, wait, shots, rows, due, way = 0.0, 0.5, 0, [], False, azimuth or 0.0
    for h in np.asarray(dt).tolist():
        t += h
        wait -= h
        pressed = wait <= 1e-9
        launch = due if late else pressed
        due = pressed
        if pressed:
            wait += every
        if launch:
            x, y, flies, lies = across, up, True, False
            way = (azimuth or 0.0) + (0.0 if scatter is None else scatter[shots % len(scatter)])
            vx = speed * math.cos(math.radians(elevation))
            vy = speed * math.sin(math.radians(elevation))
            shots += 1
        if flies:
            ox, oy = vx, vy
            vy -= gravity * (1 / 60 if "gravity" in per_frame else h)
            f = (
                factor
                if factor is not None
                else 1 - linear * h
                if first_order
                else math.exp(-linear * h)
            )
            vx, vy = vx * f, vy * f
            loss = 1 - quadratic * math.hypot(vx, vy) * h
            vx, vy = vx * loss, vy * loss
            step = 1 / 60 if "position" in per_frame else h
            x += (theta * vx + (1 - theta) * ox) * step
            y += (theta * vy + (1 - theta) * oy) * step
            if y <= 0 and vy < 0:
                y, lies = 0.0, True
                vx, vy = vx * kept, -vy * bounce
                if vy < 1.0:
                    vx = vy = 0.0
                    flies = False
            else:
                lies = False
        rows.append((t, h, x, y, vx, vy, way, float(pressed or not taps), float(lies)))
    t, dt, x, y, vx, vy, way, fire, touch = np.array(rows).T
    columns = {"t": t, "dt": dt, "x": x, "y": y, "vx": vx, "vy": vy, "in_fire": fire,
               "touch_ground": touch}  # fmt: skip
    if azimuth is not None:
        turn = np.radians(way)
        columns |= {"x": x * np.cos(turn), "z": x * np.sin(turn), "vx": vx * np.cos(turn),
                    "vz": vx * np.sin(turn)}  # fmt: skip
    return columns


def volley(dt, fires, *, speed=30.0, azimuth=0.0):
    """Return columns of straight shots from above, each from the origin in the frame that fires."""
    place, v, rows, t = 0j, 0j, [], 0.0
    for h, fire in zip(np.asarray(dt).tolist(), fires, strict=True):
        t += h
        if fire:
            place, v = 0j, speed * np.exp(1j * math.radians(azimuth))
        place += v * h
        rows.append((t, h, place.real, place.imag, v.real, v.imag))
    return dict(zip(("t", "dt", "x", "y", "vx", "vy"), np.array(rows).T, strict=True))


def steered(dt, force, *, gravity=10.0, start=(0.0, 0.0, 1.0), v=(15.0, 2.0, 12.0), at=20):
    """Return columns of one flight in 3D on which ``force(place, v)`` acts beside gravity."""
    place, v, now, rows, t = np.array(start), np.array(v), np.zeros(3), [], 0.0
    for k, h in enumerate(np.asarray(dt).tolist()):
        t += h
        now = v if k == at else now
        if k >= at and place[2] >= 0:
            now = now + (force(place, now) - np.array([0, 0, gravity])) * h
            place = place + now * h
        rows.append((t, h, *place, *now, float(k == at)))
    names = ("t", "dt", "x", "z", "y", "vx", "vz", "vy", "in_fire")
    return dict(zip(names, np.array(rows).T, strict=True))
