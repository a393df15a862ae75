"""``framerate``: takes with their nominal rates in, the analysis and what its figure needs out."""

from collections.abc import Sequence

import numpy as np

from kickback.errors import UsageError
from kickback.framerate.analyse import frame_rates
from kickback.framerate.record import FrameRates
from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.picture import Picture
from kickback.project.settings import Settings
from kickback.takes.record import Record, replace
from kickback.takes.take import Take

__all__ = ["Overlay", "overlays", "rated_takes", "rating"]

_FAR = 0.1
"""Share by which a stated rate may differ from that of the times."""


class Overlay(Record, frozen=True, kw_only=True):
    """One take's motion to be drawn over others'; ``headlines`` are the metrics of its kind."""

    group: str
    rate: float
    unit: str
    picture: Picture
    headlines: Sequence[str]


def rated_takes(takes: Sequence[Take], rates: str | None) -> list[Take]:
    """Return takes with the nominal rates that a list names, in their order.

    Raises UsageError for a list that is no list of rates, has another length, or names a
    rate that is not that of the take's times within a tenth.
    """
    if rates is None:
        return list(takes)
    try:
        wanted = [float(part) for part in rates.split(",")]
    except ValueError as error:
        raise UsageError(f"--rates is a list such as 30,60,144, not '{rates}'") from error
    if len(wanted) != len(takes):
        names = ", ".join(take.name for take in takes)
        raise UsageError(f"--rates names {len(wanted)} rates for {len(takes)} takes ({names})")
    out = []
    for take, rate in zip(takes, wanted, strict=True):
        steps = np.diff(take.numbers("t"))
        real = 1 / float(np.mean(steps)) if len(steps) else rate
        if not rate > 0 or abs(real / rate - 1) > _FAR:
            raise UsageError(f"--rates says {rate:g} for {take.name}, whose times say {real:.4g}")
        out.append(replace(take, header=replace(take.header, frame_rate=rate)))
    return out


def rating(
    takes: Sequence[AnyAnalysis], settings: Settings, *, only: Sequence[str], keep: float | None
) -> FrameRates:
    """Analyse takes over the frame rate.

    Remedies keep the feel of the rate ``keep``, of the project's reference rate without.
    """
    result = frame_rates(
        takes,
        only=only,
        budgets=settings.budgets,
        keep=keep or settings.reference_rate,
    )
    stated = [
        f"{take.name}: its header says {take.header.frame_rate:g} frames/s, its times"
        f" {take.frame_rate:.4g}: the times count"
        for take in (one.take for one in takes)
        if take.header.frame_rate and abs(take.frame_rate / take.header.frame_rate - 1) > 0.05
    ]
    return replace(result, warnings=(*result.warnings, *stated))


def overlays(result: FrameRates) -> list[Overlay]:
    """Return the motions of all takes of a result's groups."""
    found = []
    for group in result.groups:
        for one in group.analyses:
            kind = one.kind
            found.append(
                Overlay(
                    group=group.name,
                    rate=one.take.frame_rate,
                    unit=one.take.header.length_unit,
                    picture=kind.showing.picture(one.whole, one.events),
                    headlines=kind.measuring.headlines,
                )
            )
    return found
