"""Which places shots of one speed can reach: the envelope of their flights over all elevations."""

import numpy as np

from kickback.kinds.shot.aim import Flight, path
from kickback.kinds.shot.scene import Launch, Scene
from kickback.laws.step_model import LINEAR, PUSH, QUADRATIC
from kickback.takes.take import FloatArray

__all__ = ["envelope"]

_ANGLES, _PLACES = 61, 60


def envelope(scene: Scene, launch: Launch) -> tuple[FloatArray, FloatArray] | None:
    """Return how high shots reach over distances from the launch, shape (k,) each.

    Without drag ``h = v²/2g − g·d²/2v²``; None where there is no gravity.
    """
    rule = scene.rule
    if rule is None or rule.value(PUSH.name) <= 0:
        return None
    speed, g = float(np.hypot(abs(launch.drift), launch.rise)), rule.value(PUSH.name)
    flight = Flight(speed, g, rule.value(LINEAR.name), rule.value(QUADRATIC.name))
    if not speed:
        return None
    if not (flight.linear or flight.quadratic):
        d = np.linspace(0, speed * speed / g, _PLACES)
        return d, speed * speed / (2 * g) - g * d * d / (2 * speed * speed)
    time = np.linspace(0, 3 * speed / g, 4 * _PLACES)
    paths = [path(flight, float(one), time) for one in np.linspace(1, 89, _ANGLES)]
    d = np.linspace(0, max(float(np.max(x[y >= 0], initial=0.0)) for x, y in paths), _PLACES)
    high = [np.interp(d, x, y, right=-np.inf) for x, y in paths]
    # between the steepest paths that were tried lies more: what is further off is a bound
    return d, np.maximum.accumulate(np.max(high, axis=0)[::-1])[::-1]
