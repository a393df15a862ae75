"""Takes at several frame rates: metrics and constants over the rate, causes and cures."""

from collections.abc import Mapping, Sequence
from functools import cache, partial

from kickback.causes.cause import Cause
from kickback.causes.constants import ConstantRow, collect
from kickback.causes.cures import Bench, with_cures
from kickback.causes.evidence import Evidence, evidence_of
from kickback.causes.kinds.frames import STEPPED
from kickback.causes.table import find_causes
from kickback.framerate.explain import explained
from kickback.framerate.groups import Group, by_rate, group_takes
from kickback.framerate.hands import played_alike
from kickback.framerate.judge import at_rate, judge_constant, judge_metric
from kickback.framerate.record import FrameRates, OverRate
from kickback.framerate.single import Suspicion, suspect
from kickback.judging.budgets import Budget
from kickback.judging.samples import unevenness
from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.kind import AnyKind
from kickback.kinds.measuring import measure
from kickback.kinds.recovering import recover_laws
from kickback.kinds.table import all_metrics, analyse
from kickback.metrics.record import Measurement, Measurements
from kickback.motion.options import Options
from kickback.takes.computed_once import computed_once
from kickback.takes.quantities import FRAMES
from kickback.takes.record import replace
from kickback.takes.take import Take

__all__ = ["frame_rates", "measured_over_rates", "told_causes"]


def frame_rates(
    takes: Sequence[Take | AnyAnalysis],
    *,
    only: Sequence[str] = (),
    budgets: Mapping[str, Budget] | None = None,
    options: Options | None = None,
    keep: float = 60.0,
) -> FrameRates:
    """Hold the metrics and laws of takes at different frame rates against each other.

    ``only`` chooses metrics, and with them the causes that move any; ``keep`` is the frame
    rate, 1/s, at which remedies change nothing. A group at a single rate is said, and its
    takes are looked at one by one. Raises UsageError for an unknown metric and InputError
    for a take that cannot be measured.
    """
    groups, warnings = group_takes([analyse(take, options) for take in takes])
    used: list[Group] = []
    rows: list[OverRate] = []
    constants: list[OverRate] = []
    causes: list[tuple[str, Cause]] = []
    suspicions: list[Suspicion] = []
    for group in groups:
        rated = by_rate(group.analyses)
        if len(rated) < 2:
            rate = next(iter(rated))
            warnings.append(
                f"'{group.name}' has takes at {rate:.4g} frames/s only; a second rate would tell"
            )
            suspicions += [_suspected(one, rate) for one in group.analyses]
            continue
        used.append(group)
        found, own, told = _over_rates(group.name, rated, only, budgets or {}, keep)
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


def told_causes(
    analyses: Sequence[AnyAnalysis],
) -> tuple[list[Cause], list[Suspicion]]:
    """Return the causes that laws of takes of one game show, whatever was played in them.

    From several frame rates, or from one what single takes let suspect.
    """
    rated = by_rate(analyses)
    if len(rated) < 2:
        return [], [_suspected(one, next(iter(rated))) for one in analyses]
    kind: AnyKind = analyses[0].kind
    return find_causes(_evidence(_table(rated), rated), kind.rules.causes), []


def _table(rated: Mapping[float, Sequence[AnyAnalysis]]) -> Sequence[ConstantRow]:
    """Return the laws' constants over the rates."""
    takes = [(rate, one) for rate, many in rated.items() for one in many]
    laws = takes[0][1].kind.rules.of_game([recover_laws(one) for _, one in takes])
    return collect([(rate, own) for (rate, _), own in zip(takes, laws, strict=True)])


def _evidence(
    table: Sequence[ConstantRow], rated: Mapping[float, Sequence[AnyAnalysis]]
) -> Evidence:
    """Return what constants over the rates show."""
    return evidence_of(
        table,
        {rate: [one.take for one in many] for rate, many in rated.items()},
        _steps(rated),
    )


def _steps(rated: Mapping[float, Sequence[AnyAnalysis]]) -> dict[float, float]:
    """Return by the display's rate the length of a physics step of its own, s."""
    known = {rate: _step_of(many[0]) for rate, many in rated.items()}
    return {rate: step for rate, step in known.items() if step is not None}


def _step_of(analysis: AnyAnalysis) -> float | None:
    """Return the length of a physics step of its own, s, or None."""
    return None if analysis.fixed_step is None else analysis.fixed_step.step


def _suspected(one: AnyAnalysis, rate: float) -> Suspicion:
    """Return what a single take lets suspect."""
    kind = one.kind
    return suspect(
        one.take.name, rate, recover_laws(one), step=_step_of(one), own=kind.rules.causes
    )


def _over_rates(
    name: str,
    rated: Mapping[float, Sequence[AnyAnalysis]],
    only: Sequence[str],
    budgets: Mapping[str, Budget],
    keep: float,
) -> tuple[list[OverRate], list[OverRate], list[Cause]]:
    """Return a group's metrics, constants and causes."""
    kind: AnyKind = next(iter(rated.values()))[0].kind
    table = _table(rated)
    evidence = _evidence(table, rated)
    powers = evidence.powers
    bench = Bench(keep=keep, scale=1.0, rows=table, powers=powers, advice=kind.rules.order_advice)
    causes = with_cures(find_causes(evidence, kind.rules.causes), bench)
    steady = [row.phase for row in table if powers.get(row.name) == 0 and row.sort in STEPPED]
    again = partial(_by_plays, rated=rated, only=only, budgets=budgets)
    rows, causes = explained(_metrics(name, rated, only, budgets), causes, kind, steady, again)
    if only:  # a cause that moves none of the metrics that were asked for is not asked for
        causes = [cause for cause in causes if cause.metrics]
    return rows, _constants(name, table, powers, causes), causes


def _constants(
    name: str, table: Sequence[ConstantRow], powers: Mapping[str, int], causes: Sequence[Cause]
) -> list[OverRate]:
    """Return a group's constants over the rates, those of one reading of each phase."""
    shown = [row for row in table if row.sort != "theta" and row.constant in row.family.constants]
    return [
        judge_constant(name, row, powers.get(row.name), _shown_by(row, causes)) for row in shown
    ]


def _shown_by(row: ConstantRow, causes: Sequence[Cause]) -> tuple[str, ...]:
    """Return the causes that a constant shows."""
    return tuple(
        cause.name for cause in causes if any(term.row.name == row.name for term in cause.terms)
    )


def _metrics(
    name: str,
    rated: Mapping[float, Sequence[AnyAnalysis]],
    only: Sequence[str],
    budgets: Mapping[str, Budget],
) -> list[OverRate]:
    """Return a group's metrics over the rates."""
    measured = {
        rate: [
            {metric: _longest(one, item) for metric, item in _read(one, only).items()}
            for one in members
        ]
        for rate, members in rated.items()
    }
    samples = next(iter(measured.values()))[0]
    return [
        judge_metric(
            name,
            sample,
            [at_rate(rate, [item[metric] for item in items]) for rate, items in measured.items()],
            budgets,
        )
        for metric, sample in samples.items()
        # a count of frames is judged by its time in seconds
        if sample.unit.dimension != FRAMES and metric not in _framed()
    ]


def _by_plays(
    row: OverRate,
    rated: Mapping[float, Sequence[AnyAnalysis]],
    only: Sequence[str],
    budgets: Mapping[str, Budget],
) -> OverRate:
    """Return a metric that nothing explains, judged by plays that are alike."""
    metric = next(iter(rated.values()))[0].kind.measuring.by_name.get(row.name)
    if metric is None:
        return row
    measured = {
        rate: [_longest(one, _read(one, only)[row.name]) for one in members]
        for rate, members in rated.items()
    }
    return played_alike(row, metric, measured, budgets)


def measured_over_rates(take: AnyAnalysis, only: Sequence[str]) -> Measurements:
    """Measure what is held against other frame rates: nothing that is of a frame in any code."""
    return measure(take, only, without=_framed())


def _read(take: AnyAnalysis, only: Sequence[str]) -> Mapping[str, Measurement]:
    """Return what is measured of a take, by metric."""
    return measured_over_rates(take, only).by_metric()


def _longest(take: AnyAnalysis, item: Measurement) -> Measurement:
    """Return a measurement of which a frame more or less may be one of the longer ones."""
    if not item.frame_shift:
        return item
    return replace(item, frame_shift=(1 + _unevenness(take)) * item.frame_shift)


@computed_once
def _unevenness(take: AnyAnalysis) -> float:
    return unevenness(take.take)


@cache
def _framed() -> frozenset[str]:
    return frozenset(metric.name for metric in all_metrics() if metric.framed)
