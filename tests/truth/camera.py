"""A camera that follows in plain lines: smoothing, a dead zone, looking ahead, one frame late."""

import numpy as np


def follow(subject, dt, rate, *, factor=None, first_order=False, offset=0.0, dead=0.0, ahead=0.0,
           late=False, up_rate=None):  # fmt: skip
    """Return the camera's places for its subject's, shape (n,).

    ``rate``: 1/s; ``factor``: what is left of the way in each frame, instead; ``dead``: half the
    band in which it stands; ``ahead``: seconds of its subject's speed that it looks ahead;
    ``late``: it reads the place before the update; ``up_rate``: another rate while it rises.
    """
    camera, out = subject[0] + offset, []
    for n, h in enumerate(dt):
        place = subject[max(n - 1, 0)] if late else subject[n]
        speed = (subject[n] - subject[max(n - 1, 0)]) / h
        goal = place + offset + ahead * speed
        way = goal - camera
        way = np.sign(way) * max(abs(way) - dead, 0.0)
        k = up_rate if up_rate is not None and way > 0 else rate
        kept = factor if factor is not None else 1 - k * h if first_order else np.exp(-k * h)
        camera += way * (1 - kept)
        out.append(camera)
    return np.array(out)
