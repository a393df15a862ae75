"""How often a game's numbers come back, and are played alike: the model with random numbers."""

from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from itertools import product
from typing import NamedTuple

import numpy as np

from kickback.kinds.foot.model.exercises import (
    edges_drill,
    moves_drill,
    standard_drill,
    walls_drill,
)
from kickback.kinds.foot.model.parameters import GROUND_MOVEMENTS, INTEGRATORS
from kickback.kinds.foot.model.simulate import simulate
from kickback.takes.build import build_take
from kickback.takes.header import Header, Value
from kickback.takes.take import Take
from kickback.tuning.fit.fit import fit

__all__ = ["fitting_section"]

_DRAWS = 4
_DRILLS = {"standard": standard_drill, "moves": moves_drill, "edges": edges_drill,
           "walls": walls_drill}  # fmt: skip
_LOGS = {"exact, even": (None, 0.0), "exact, uneven": (None, 0.25), "3 decimals, even": (3, 0.0),
         "4 decimals, uneven": (4, 0.25)}  # fmt: skip
_ENDS = {
    "run_speed": (4, 12), "ground_acceleration": (20, 90), "coast_deceleration": (15, 80),
    "brake_deceleration": (30, 120), "smoothing_rate": (4, 15), "stop_rate": (4, 15),
    "friction_rate": (2, 9), "air_acceleration": (8, 40), "gravity_rise": (20, 60),
    "gravity_fall": (20, 80), "jump_speed": (8, 18), "release_cut": (0.2, 0.9),
    "terminal_speed": (12, 30), "dash_speed": (12, 25), "dash_time": (0.1, 0.3),
}  # fmt: skip
_EITHER = frozenset({"run_speed", "smoothing_rate", "stop_rate", "friction_rate"})
"""Numbers that friction and a smoothing share out otherwise: an even rate cannot tell them."""


class _Case(NamedTuple):
    """One take to be fitted: its drill and log by name, and a seed."""

    drill: str
    log: str
    seed: int


class _Outcome(NamedTuple):
    """Whether it is said to fit, and numbers' errors in standard errors."""

    fits: bool
    errors: tuple[float, ...]


def _values(rng: np.random.Generator) -> dict[str, Value]:
    values: dict[str, Value] = {
        name: round(float(rng.uniform(*pair)), 3) for name, pair in _ENDS.items()
    }
    values["ground_movement"] = str(rng.choice(GROUND_MOVEMENTS))
    values["integrator"] = str(rng.choice(INTEGRATORS))
    return values


def _log(take: Take, digits: int | None) -> Take:
    """Return a take as a log of some decimals gives it."""
    if digits is None:
        return take
    columns = {
        name: np.round(column, digits) if column.dtype.kind == "f" else column
        for name, column in take.columns.items()
    }
    return build_take(Header(length_unit="m"), columns, name=take.name)


def _tried(case: _Case) -> _Outcome:
    rng = np.random.default_rng([case.seed, *case.drill.encode(), *case.log.encode()])
    values, (digits, jitter) = _values(rng), _LOGS[case.log]
    take = simulate(values, _DRILLS[case.drill](), frame_rate=float(rng.choice([30, 60, 144])),
                    jitter=jitter, seed=case.seed)  # fmt: skip
    found = fit([_log(take, digits)])
    unlike = found.values.get("ground_movement") != values["ground_movement"]
    skipped = _EITHER if unlike or values["ground_movement"] == "friction" else frozenset()
    errors = []
    for one in found.numbers:
        true = values.get(one.name)
        if one.stderr is None or one.between is not None or one.name in skipped:
            continue
        if isinstance(true, float) and not isinstance(one.value, str):
            errors.append(abs(one.value - true) / max(one.stderr, 1e-8 * abs(true)))
    return _Outcome(found.fits, tuple(errors))


def fitting_section() -> Sequence[str]:
    """Return the table over drills and logs."""
    cases = [_Case(drill, log, seed) for drill, log in product(_DRILLS, _LOGS)
             for seed in range(_DRAWS)]  # fmt: skip
    with ProcessPoolExecutor(2) as pool:
        outcomes = dict(zip(cases, pool.map(_tried, cases), strict=True))
    rows = [
        "| drill | log | said to fit | numbers, where it fits | within 1 error | within 4 |",
        "|---|---|---|---|---|---|",
    ]
    for drill, log in product(_DRILLS, _LOGS):
        found = [outcomes[case] for case in cases if (case.drill, case.log) == (drill, log)]
        errors = np.array([one for item in found if item.fits for one in item.errors])
        shares = (f"{np.mean(errors <= most):.0%}" if errors.size else "" for most in (1.0, 4.0))
        fits = sum(one.fits for one in found)
        rows.append(f"| `{drill}` | {log} | {fits}/{len(found)} | {errors.size} | "
                    + " | ".join(shares) + " |")  # fmt: skip
    return rows
