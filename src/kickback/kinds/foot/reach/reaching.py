"""How a character on foot gets across gaps: the ways that it has, and how hard each is."""

from collections.abc import Callable, Mapping
from functools import lru_cache, partial

from kickback.kinds.clearing import Clearing, Reaching
from kickback.kinds.foot.model.parameters import checked_values
from kickback.kinds.foot.reach.flights import Runner
from kickback.kinds.foot.reach.plans import ROUTES
from kickback.kinds.foot.reach.windows import Body, reached
from kickback.takes.header import Value

__all__ = ["FOOT_REACHING"]


def _play(
    values: Mapping[str, Value], rate: float, ceiling: float | None, lowest: float
) -> Callable[[str], Clearing]:
    """Return what plays a way's flights and tells how many takeoffs clear gaps and steps."""
    runner = _runner(tuple(sorted(values.items())), rate, ceiling)
    return partial(_cleared, runner, min(lowest, 0.0))


@lru_cache(maxsize=16)
def _runner(values: tuple[tuple[str, Value], ...], rate: float, ceiling: float | None) -> Runner:
    """Return one parameter set at a frame rate, played once for all that is asked of it."""
    return Runner(dict(values), rate, ceiling)


def _cleared(runner: Runner, lowest: float, way: str) -> Clearing:
    route = ROUTES[way]
    limits = runner.limits(lowest - (runner.second_rise if route.again else 0.0))
    flights = runner.fly(route.plans(limits), limits, standing=route.from_rest)
    body = Body(
        step=0.0 if route.from_rest else runner.step,
        gains=runner.gains,
        later=runner.later,
        walls=runner.walls,
    )
    return partial(reached, flights, body)


FOOT_REACHING = Reaching(
    ways=[one.way for one in ROUTES.values()], checked=checked_values, play=_play
)
