"""Constant acceleration: ``v1 = v0 + a·dt``."""

from functools import partial

import numpy as np

from kickback.laws.evidence import PathEvidence
from kickback.laws.families.code import gain, speed_word
from kickback.laws.families.family import Family
from kickback.laws.fit import Fit
from kickback.laws.least_squares import solved
from kickback.laws.path_fit import PathFit
from kickback.laws.record import Law
from kickback.laws.recurrence import Recurrence
from kickback.laws.steps import Steps
from kickback.takes.numerals import plain
from kickback.takes.quantities import ACCELERATION, RATIO, SPEED
from kickback.takes.take import FloatArray

__all__ = ["CONSTANT_ACCELERATION"]

_CURVES = 0.25
"""Share of an acceleration by which it might itself change unseen, for it to be told."""


def _fit(steps: Steps, power: int, clock: str) -> Fit:
    """Fit ``v1 − v0 = a·dt^power / h^(power − 1)``; ``h`` is the usual step."""
    h = steps.usual
    done = solved((steps.dt**power / h ** (power - 1))[:, None], steps.v1 - steps.v0)
    return Fit(
        law="constant-acceleration",
        values={"acceleration": float(done.found[0])},
        stderr={"acceleration": float(done.stderr[0])},
        clock=clock,
        misfit=done.misfit,
    )


def _on_path(path: PathEvidence) -> PathFit | None:
    """Return a constant acceleration where one explains a stretch, and it shows that."""
    bent, decays = path.fine(path.bent), path.fine(path.decays)
    if bent and decays and path.alike(path.bent, path.decays):
        return PathFit(law="none", reason="a line and a decay explain it equally well")
    if not bent or (decays and path.bent.rss > path.decays.rss):
        return None
    change, error = path.curve()
    if error > _CURVES or change > 2 * error:
        return PathFit(law="none", reason="the noise hides whether the change itself changes")
    scale = 2 / path.span**2 if path.position else 1 / path.span
    last = len(path.bent.found) - 1
    return path.told("constant-acceleration", path.bent, ("acceleration", last, scale))


def _step_size(_: Fit, steps: Steps) -> FloatArray:
    return np.abs(steps.v1 - steps.v0)


def _ahead(law: Law, steps: Steps) -> FloatArray:
    fixed = np.full(len(steps), law.frame)
    step = {"frame": fixed, "square": steps.dt**2 / law.frame}.get(law.clock, steps.dt)
    return steps.v0 + law.value("acceleration") * step


def _added(_: FloatArray, step: FloatArray) -> FloatArray:
    return step


def _code(law: Law) -> str:
    near = next((item.value for item in law.constants if item.name == "below"), None)
    limit = "" if near is None else f"   while |{speed_word(law.role)}| < {plain(near)}"
    clock = "frame" if law.by_frame else law.clock
    limit = "   each frame" + limit if clock == "frame" else limit
    value = law.value("acceleration")
    sign = "-" if value < 0 else "+"
    return f"{speed_word(law.role)} {sign}= {gain(value, clock, law.frame)}{limit}"


CONSTANT_ACCELERATION = Family(
    name="constant-acceleration",
    words="constant acceleration",
    constants={"acceleration": ACCELERATION, "below": SPEED, "exponent": RATIO},
    scaling=("acceleration",),
    code=_code,
    rules=(partial(_fit, power=1, clock="even"),),
    uneven_rules=(
        partial(_fit, power=1, clock="second"),
        partial(_fit, power=0, clock="frame"),
        partial(_fit, power=2, clock="square"),
    ),
    recurrences=tuple(
        Recurrence(clock=clock, power=power, push=_added, constant="acceleration")
        for clock, power in (("second", 1), ("frame", 0), ("square", 2))
    ),
    tier=0,
    on_path=_on_path,
    step_size=_step_size,
    ahead=_ahead,
    stepped=True,
)
