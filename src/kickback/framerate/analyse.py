"""Takes at several frame rates: metrics and constants over the rate, causes and cures."""

from collections.abc import Mapping, Sequence

from kickback.framerate.causes import STEPPED, Cause, find_causes
from kickback.framerate.constants import collect
from kickback.framerate.cures import with_cures
from kickback.framerate.explain import explained
from kickback.framerate.groups import Group, by_rate, group_takes
from kickback.framerate.judge import at_rate, judge_constant, judge_metric
from kickback.framerate.record import FrameRates, OverRate
from kickback.framerate.single import Suspicion, suspect
from kickback.laws.recover import recover_laws
from kickback.metrics.budgets import Budget
from kickback.metrics.measure import measure
from kickback.motion.thresholds import Thresholds
from kickback.takes.take import Take

__all__ = ["frame_rates"]


def frame_rates(
    takes: Sequence[Take],
    *,
    only: Sequence[str] = (),
    budgets: Mapping[str, Budget] | None = None,
    thresholds: Thresholds | None = None,
    keep: float = 60.0,
) -> FrameRates:
    """Hold the metrics and laws of takes at different frame rates against each other.

    ``only`` chooses metrics, and with them the causes that move any; ``keep`` is the frame
    rate, 1/s, at which remedies change nothing. A group at a single rate is said, and its
    takes are looked at one by one. Raises UsageError for an unknown metric and InputError
    for a take that cannot be measured.
    """
    groups, warnings = group_takes(takes)
    used: list[Group] = []
    rows: list[OverRate] = []
    constants: list[OverRate] = []
    causes: list[tuple[str, Cause]] = []
    suspicions: list[Suspicion] = []
    for group in groups:
        rated = by_rate(group.takes)
        if len(rated) < 2:
            rate = next(iter(rated))
            warnings.append(
                f"'{group.name}' has takes at {rate:.4g} frames/s only; a second rate would tell"
            )
            suspicions += [
                suspect(take.name, rate, recover_laws(take, thresholds)) for take in group.takes
            ]
            continue
        used.append(group)
        found, own, told = _over_rates(group.name, rated, only, budgets or {}, thresholds, keep)
        rows += found
        constants += own
        causes += [(group.name, cause) for cause in told]
    return FrameRates(
        groups=used,
        rows=rows,
        constants=constants,
        causes=causes,
        suspicions=suspicions,
        warnings=warnings,
    )


def _over_rates(
    name: str,
    rated: Mapping[float, Sequence[Take]],
    only: Sequence[str],
    budgets: Mapping[str, Budget],
    thresholds: Thresholds | None,
    keep: float,
) -> tuple[list[OverRate], list[OverRate], list[Cause]]:
    """Return a group's metrics, constants and causes."""
    measured = {
        rate: [measure(take, only, thresholds).by_metric() for take in members]
        for rate, members in rated.items()
    }
    samples = next(iter(measured.values()))[0]
    metrics = [
        judge_metric(
            name,
            sample,
            [at_rate(rate, [item[metric] for item in items]) for rate, items in measured.items()],
            budgets,
        )
        for metric, sample in samples.items()
        if sample.unit != "frames"  # a count of frames is judged by its time in seconds
    ]
    table = collect(
        [
            (rate, recover_laws(take, thresholds))
            for rate, members in rated.items()
            for take in members
        ]
    )
    causes, powers = find_causes(table, rated)
    causes = with_cures(causes, table, powers, keep)
    steady = [row.name for row in table if powers.get(row.name) == 0 and row.kind in STEPPED]
    rows, causes = explained(metrics, causes, steady)
    if only:  # a cause that moves none of the metrics that were asked for is not asked for
        causes = [cause for cause in causes if cause.metrics]
    constants = [
        judge_constant(
            name,
            row,
            powers.get(row.name),
            tuple(c.name for c in causes if any(t.row.name == row.name for t in c.terms)),
        )
        for row in table
        if row.kind != "theta" and row.constant != "push"
    ]
    return rows, constants, causes
