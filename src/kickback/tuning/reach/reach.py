"""Which gaps and steps a parameter set clears, by every way that it has, at some frame rates."""

from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress

import numpy as np

from kickback.errors import UsageError, nearest
from kickback.kinds.clearing import Clearing, Reaching, TooManyError
from kickback.kinds.models import model_named, models
from kickback.takes.header import Value
from kickback.takes.take import FloatArray
from kickback.tuning.reach.record import Reach

__all__ = ["reach", "reaching_of"]

_DOWN = 3.0
"""Tiles below the takeoff down to which landings are looked for, where nobody says how far."""

_MOST = 60
"""Gaps and steps of a grid that nobody asked for."""

_FEWEST, _USUAL = 1.5, 6.0
"""Tiles that a standing jump goes over at least, and about, where nobody says how long they are."""

_FINELY = 121
"""Steps at which the edge of what is cleared is told, beside those of the grid."""


def reaching_of(kind: str) -> Reaching:
    """Return how a kind's model gets across gaps; UsageError where it has none."""
    reaching = model_named(kind).reaching
    if reaching is None:
        known = ", ".join(name for name, one in models().items() if one.reaching is not None)
        raise UsageError(f"gaps are looked at for the kind {known}, not '{kind}'")
    return reaching


def reach(
    parameters: Mapping[str, Value],
    *,
    kind: str = "foot",
    ways: Sequence[str] = (),
    rates: Sequence[float] = (60.0,),
    grid: tuple[FloatArray | None, FloatArray | None] = (None, None),
    ceiling: float | None = None,
    tile: float | None = None,
    length_unit: str = "m",
) -> Reach:
    """Return in how many frames a takeoff clears each gap across with each step up.

    ``grid`` are these, in the length unit, shape (g,) and (s,); whole tiles, as far as any way
    gets, in the place of what is None. A ``tile`` that is not given is a length unit, or a round
    number of them where that is far too short or too long. ``ways`` are all that the set has,
    without any. Raises UsageError for a way, a rate or a grid that is none, InputError for
    parameters that make no sense.
    """
    reaching = reaching_of(kind)
    values = reaching.checked(parameters, "parameters")
    own, missing = _ways(reaching, values, ways)
    _check(rates, ceiling, tile)
    across, up = grid
    tile = tile or _tile(reaching.play(values, rates[0], ceiling, 0.0), own)
    lowest = (-_DOWN * tile if up is None else float(np.min(up, initial=0.0))) - tile
    players = {rate: reaching.play(values, rate, ceiling, lowest) for rate in rates}
    played = _played(players, own, missing, all_of_them=bool(ways))
    if across is None or up is None:
        wide, high = _grid([played[name, rates[0]] for name in own], ceiling, tile)
        across, up = (wide if across is None else across), (high if up is None else up)
    across, up = _gaps(across), _steps(up, ceiling)
    finely = np.linspace(up[0], up[-1], _FINELY)
    return Reach(
        kind=kind,
        values=values,
        across=across,
        up=up,
        ceiling=ceiling,
        length=length_unit,
        tile=tile,
        rates=list(rates),
        ways=own,
        missing=missing,
        found={key: clears(across, up) for key, clears in played.items()},
        finely=finely,
        edges={key: clears(across[:1], finely).farthest for key, clears in played.items()},
    )


def _played(
    players: Mapping[float, Callable[[str], Clearing]],
    own: list[str],
    missing: dict[str, str],
    *,
    all_of_them: bool,
) -> dict[tuple[str, float], Clearing]:
    """Play ways; one with too many presses goes over to the missing, unless all are asked for."""
    played: dict[tuple[str, float], Clearing] = {}
    for name in list(own):
        try:
            played |= {(name, rate): player(name) for rate, player in players.items()}
        except TooManyError as error:
            if all_of_them:
                raise
            missing[name] = str(error)
            own.remove(name)
    return played


def _ways(
    reaching: Reaching, values: Mapping[str, Value], asked: Sequence[str]
) -> tuple[list[str], dict[str, str]]:
    """Return the ways that are looked at, and why others that were not asked against are not."""
    known = {one.name: one.missing(values) for one in reaching.ways}
    for name in asked:
        if name not in known:
            every = ", ".join(known)
            raise UsageError(f"no way '{name}'{nearest(name, known)} (there are {every})")
        if known[name]:
            raise UsageError(f"'{name}' cannot be looked at: {known[name]}")
    own = [name for name, why in known.items() if not why and (not asked or name in asked)]
    return own, {} if asked else {name: why for name, why in known.items() if why}


def _tile(player: Callable[[str], Clearing], ways: Sequence[str]) -> float:
    """Return a length of which the humblest jump on the level goes over some, 1 where it does."""
    far = float("nan")
    with suppress(TooManyError):
        far = float(player(ways[0])(np.array([1.0]), np.array([0.0])).farthest[0])
    if not np.isfinite(far) or _FEWEST <= far <= _MOST / 2:
        return 1.0
    size = 10.0 ** np.floor(np.log10(far / _USUAL))
    return float(size * max(one for one in (1, 2, 5) if one * size <= far / _USUAL))


def _check(rates: Sequence[float], ceiling: float | None, tile: float | None) -> None:
    if not rates or not all(1 <= rate <= 1000 for rate in rates):
        raise UsageError("frame rates lie between 1 and 1000 here")
    if ceiling is not None and not (ceiling > 0 and np.isfinite(ceiling)):
        raise UsageError(f"a ceiling hangs above the ground, not at {ceiling:g}")
    if tile is not None and not (tile > 0 and np.isfinite(tile)):
        raise UsageError(f"a tile is wider than 0, not {tile:g}")


def _gaps(across: FloatArray) -> FloatArray:
    out = np.unique(across)
    if not out.size or not np.isfinite(out).all() or out[0] < 0:
        raise UsageError("gaps are 0 or wider, and one at least")
    return out


def _steps(up: FloatArray, ceiling: float | None) -> FloatArray:
    """Return the steps that lie below the ceiling."""
    out = np.unique(up)
    out = out if ceiling is None else out[out < ceiling]
    if not out.size or not np.isfinite(out).all():
        raise UsageError("there is no step below the ceiling to be looked at")
    return out


def _grid(
    played: Sequence[Clearing], ceiling: float | None, tile: float
) -> tuple[FloatArray, FloatArray]:
    """Return whole tiles across and up, as far as any way gets."""
    steps = tile * np.arange(-_DOWN, _MOST)
    steps = steps if ceiling is None else steps[steps < ceiling]
    farthest = np.array([clears(np.array([tile]), steps).farthest for clears in played])
    some = np.isfinite(farthest)
    wide = float(np.max(farthest, where=some, initial=tile))
    top = float(np.max(steps, where=some.any(axis=0), initial=0.0))
    across = tile * np.arange(1.0, min(_MOST, int(wide / tile) + 1) + 1)
    return across, steps[steps <= top + tile]
