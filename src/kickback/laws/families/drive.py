"""Drive: an acceleration and a friction that act in turns, where the two can be told apart."""

from functools import partial

import numpy as np

from kickback.laws.families.code import factor, gain, speed_word
from kickback.laws.families.decay import DECAYS, kept_share, smoothing_even, with_rate
from kickback.laws.families.family import Family
from kickback.laws.fit import NO_FIT, Fit
from kickback.laws.least_squares import curved
from kickback.laws.record import Consequence, Law
from kickback.laws.steps import Steps
from kickback.takes.quantities import ACCELERATION, PER_TIME, RATIO, TIME
from kickback.takes.record import replace
from kickback.takes.take import FloatArray

__all__ = ["DRIVE"]


def _fit(steps: Steps, decay: str, gain_of: str, *, first: bool) -> Fit:
    """Fit ``v1 = (v0 + a·g)·f`` or, not ``first``, ``v0·f + a·g``.

    ``f`` is exp(−k·dt), or of the usual step in each frame (``decay`` is ``frame``), or
    1 − k·dt (``first-order``); ``g`` is dt, the usual step in each frame, or dt² over it.
    """
    start = smoothing_even(steps)
    if start.law == "none":
        return NO_FIT
    h, v0, n = steps.usual, steps.v0, len(steps)
    g = {"second": steps.dt, "frame": np.full(n, h), "square": steps.dt**2 / h}[gain_of]
    d = steps.dt if decay != "frame" else np.full(n, h)

    def kept(k: float) -> FloatArray:
        return np.asarray(1 - k * d if decay == "first-order" else np.exp(-k * d))

    def model(p: FloatArray) -> FloatArray:
        f = kept(p[1])
        return np.asarray((v0 + p[0] * g) * f if first else v0 * f + p[0] * g)

    def slopes(p: FloatArray) -> FloatArray:
        f = kept(p[1])
        falls = -d if decay == "first-order" else -d * f
        pushed = v0 + p[0] * g if first else v0
        return np.stack((g * f if first else g, pushed * falls), axis=1)

    k = start.values["rate"]
    done = curved(model, slopes, np.array([start.values["goal"] * k, k]), steps.v1)
    a, k = (float(one) for one in done.found)
    if not done.settled or k <= 0:
        return NO_FIT
    a_error, error = (float(one) for one in done.stderr)
    fit = with_rate(
        "drive", k, error, h, done.misfit, decay, {"acceleration": a}, {"acceleration": a_error}
    )
    return replace(fit, gain=gain_of, friction_first=not first)


def _ahead(law: Law, steps: Steps) -> FloatArray:
    fixed = np.full(len(steps), law.frame)
    gains = {"frame": fixed, "square": steps.dt**2 / law.frame}
    push = law.value("acceleration") * gains.get(law.gain, steps.dt)
    kept = kept_share(law, steps)
    after: FloatArray = steps.v0 * kept + push if law.friction_first else (steps.v0 + push) * kept
    return after


def _follows(law: Law) -> tuple[Consequence, ...]:
    """Return where the two balance: ``a/k``."""
    push = law.constant("acceleration")
    return (
        Consequence(
            phase=str(law.phase), what="settles at about",
            value=push.value / law.value("rate"), unit=push.unit * TIME,
        ),
    )  # fmt: skip


def _pushed(kept: FloatArray, step: FloatArray) -> FloatArray:
    return step * kept


def _pushed_last(_: FloatArray, step: FloatArray) -> FloatArray:
    return step


def _code(law: Law) -> str:
    word, a = speed_word(law.role), law.value("acceleration")
    step = gain(a, law.gain, law.frame)
    sign = "−" if a < 0 else "+"
    if law.friction_first:
        return f"{word} = {word}·{factor(law)} {sign} {step}"
    return f"{word} = ({word} {sign} {step})·{factor(law)}"


DRIVE = Family(
    name="drive",
    words="acceleration and friction",
    constants={"acceleration": ACCELERATION, "rate": PER_TIME, "factor": RATIO, "exponent": RATIO},
    scaling=("acceleration", "rate"),
    code=_code,
    uneven_rules=tuple(
        partial(_fit, decay=decay, gain_of=gain_of, first=first)
        for decay in ("second", "frame", "first-order")
        for gain_of in ("second", "frame", "square")
        for first in (True, False)
    ),
    recurrences=tuple(
        replace(
            decay,
            push=push,
            push_power=power,
            constant="acceleration",
            gain=gain_of,
            friction_first=push is _pushed_last,
        )
        for decay in DECAYS
        for gain_of, power in (("second", 1), ("frame", 0), ("square", 2))
        for push in (_pushed, _pushed_last)
    ),
    tier=2,
    ahead=_ahead,
    follows=_follows,
    stepped=True,
)
