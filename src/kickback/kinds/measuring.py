"""Measuring a take: every metric of its kind's catalogue, or those that were chosen."""

from collections.abc import Collection, Iterable, Sequence

import numpy as np

from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.interrupted import interrupted_occurrences, interruptions_of
from kickback.kinds.table import all_metrics, analyse, kinds_with
from kickback.metrics.metric import Metric, names_in, select_metrics
from kickback.metrics.record import Measurement, Measurements, Occurrences, joined, none
from kickback.motion.fixed_step import FixedStep
from kickback.motion.options import Options
from kickback.takes.computed_once import computed_once
from kickback.takes.numeric import median
from kickback.takes.quantities import TIME
from kickback.takes.record import replace
from kickback.takes.take import Take
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["measure", "row_of"]

WIDER = 1.2
"""Factor from which a resolution is called wider than it could be."""

FINE = 1e-4
"""Share of a value below which nobody minds how its resolution came about."""

SURELY = 4
"""Resolutions within which occurrences are alike."""

_UNCOUNTABLE = "larger than a number can be: the positions or the times are in no sensible unit"

_NAMED = 3
"""Interruptions that a reason names; the others it counts."""

UNLIKE = 0.05
"""Share of the median beyond which occurrences are called unlike each other."""

_QUICKEST = 0.9
"""Share of the highest speed at which those of unlike occurrences were played that count."""

_AS_WELL = 4.0
"""Times by which these may be known worse than the one that is known best."""

_MOST = 0.5
"""Share of the occurrences that are like their median, beyond which it is that of like ones."""


def measure(
    take: Take | AnyAnalysis,
    only: Iterable[str] = (),
    options: Options | None = None,
    *,
    details: bool = True,
    without: Collection[str] = (),
) -> Measurements:
    """Measure the metrics of a take, or of its analysis.

    ``only`` names metrics or groups (``"jump"``, ``"coast.stop_distance"``); all where it
    is empty, but for details where they are not wanted, and for the metrics and groups that it
    goes ``without``. ``options`` say what counts as a plateau and as rest. Raises UsageError for a
    name that is none, InputError for a take that cannot be measured. What a take does not show
    is None with a reason. Where positions leap (a teleport, a screen wrap) each side is measured
    alone.
    """
    analysis = analyse(take, options)
    if names_in(only):
        wanted = select_metrics(all_metrics(), only)
        own = set(analysis.kind.measuring.metrics)
        rows = [row_of(analysis, metric.name) for metric in wanted if metric in own]
        others = [_of_others(analysis, metric) for metric in wanted if metric not in own]
        return Measurements(rows=[*rows, *others])
    left = set(without)
    chosen = [
        metric.name
        for metric in analysis.kind.measuring.metrics
        if (details or not metric.detail) and left.isdisjoint((metric.name, metric.group))
    ]
    return Measurements(rows=[row_of(analysis, name) for name in chosen])


@computed_once
def row_of(analysis: AnyAnalysis, name: str) -> Measurement:
    """Return the measurement of a metric of a take's kind, by its name."""
    metric = analysis.kind.measuring.by_name[name]
    row = _measured(analysis, _scenes(analysis), metric)
    doubts = _doubts(analysis)
    return _doubted(row, metric, _exact_scenes(analysis), doubts) if doubts else row


@computed_once
def _doubts(analysis: AnyAnalysis) -> tuple[str, ...]:
    """Return what makes a take's metrics less certain."""
    doubts = analysis.kind.measuring.doubts
    return tuple(dict.fromkeys(text for motion in analysis.motions for text in doubts(motion)))


@computed_once
def _scenes(analysis: AnyAnalysis) -> list[object]:
    """Return what the metrics look at, of each piece."""
    return [analysis.kind.measuring.scene(motion, None) for motion in analysis.motions]


@computed_once
def _exact_scenes(analysis: AnyAnalysis) -> list[object]:
    """Return the same as it would be if the log were exact."""
    kind = analysis.kind.measuring
    pairs = zip(analysis.motions, _scenes(analysis), strict=True)
    return [kind.scene(kind.exact(motion), scene) for motion, scene in pairs]


def _of_others(analysis: AnyAnalysis, metric: Metric) -> Measurement:
    """Return no value for a metric that a take's kind does not have, and which kinds do."""
    kind = analysis.kind
    having = " and ".join(f"'{one.name}'" for one in kinds_with(metric))
    reason = f"a take of the kind '{kind.name}' has no such metric; {having} has it"
    return _row(analysis, metric, none(reason), None, None, reason)


def _doubted(
    row: Measurement, metric: Metric, exact: Sequence[object], doubts: tuple[str, ...]
) -> Measurement:
    """Return a measurement with the resolution that it would have if its log were exact."""
    if row.value is None or row.resolution is None or metric.display:
        return row
    ideal = metric.combine.of([metric.measure(scene) for scene in exact]).resolution
    if not len(ideal) or median(ideal) >= row.resolution / WIDER:
        return row
    if row.resolution < FINE * abs(row.value):
        return row
    return replace(row, ideal_resolution=median(ideal), doubts=doubts)


def _measured(analysis: AnyAnalysis, scenes: Sequence[object], metric: Metric) -> Measurement:
    every, left_out, tries = _occurrences(analysis, scenes, metric)
    found = _of_the_quickest(analysis, metric, every)
    count = len(found.value)
    value = median(found.value) if count else None
    resolution = median(found.resolution) if count else None
    spread = float(np.ptp(found.value)) if count else 0.0
    reason = _reason(found, left_out, spread, value, resolution or 0.0)
    explained = any(one.told for one in metric.depends)
    if value is not None and resolution is not None and not explained:
        near = max(UNLIKE * abs(value), SURELY * resolution)
        if np.mean(np.abs(found.value - value) <= near) <= _MOST:
            resolution = max(resolution, spread / 2)  # a middle of unlike numbers is not exact
    return replace(
        _row(analysis, metric, every, value, resolution, reason),
        n=count,
        detail=metric.detail or metric.missing(analysis.motions[0].tracks) is not None,
        spread=spread,
        frame_shift=median(found.frame_shift) if count else 0.0,
        left_out=left_out,
        tries=tries,
    )


def _row(
    analysis: AnyAnalysis,
    metric: Metric,
    found: Occurrences,
    value: float | None,
    resolution: float | None,
    reason: str | None,
) -> Measurement:
    """Return the measurement of a metric in a take, without what counts its occurrences."""
    take = analysis.take
    return Measurement(
        take=take.name,
        subject=take.header.subject,
        parameters=take.header.parameters_name,
        frame_rate=take.frame_rate,
        group=metric.group,
        metric=metric.name,
        value=value,
        unit=metric.unit(take.header.length_unit),
        resolution=resolution,
        n=0,
        reason=reason,
        occurrences=found,
        detail=metric.detail,
        clock=analysis.clock,
        by=metric.by,
    )


def _of_the_quickest(analysis: AnyAnalysis, metric: Metric, found: Occurrences) -> Occurrences:
    """Return those of unlike occurrences, known as well as any, of nearly the highest speed."""
    speed = found.given.get(metric.by)
    if speed is None or len(speed) < 2:
        return found
    middle = median(found.value)
    if np.ptp(found.value) <= max(UNLIKE * abs(middle), SURELY * median(found.resolution)):
        return found
    known = found.resolution <= _AS_WELL * found.resolution.min()
    quick = known & (speed >= _QUICKEST * speed[known].max())
    if quick.all():
        return found
    unit, low, high = analysis.take.header.length_unit, speed[quick].min(), speed[quick].max()
    at = f"{low:.4g}" if high - low < 0.005 * high else f"{low:.4g} to {high:.4g}"
    said = f"at {at} {unit}/s, {np.sum(~quick)} at other speeds with --each"
    return found.only(quick, "; ".join(part for part in (found.remark, said) if part))


def _occurrences(
    analysis: AnyAnalysis, scenes: Sequence[object], metric: Metric
) -> tuple[Occurrences, Occurrences, Occurrences | None]:
    """Return the occurrences of a metric that count, those that something interrupts, and tries."""
    if metric.display:
        with np.errstate(all="ignore"):  # numbers near the end of their range show nothing
            return _sound(metric.measure(analysis)), none(""), None
    missing = metric.missing(analysis.motions[0].tracks)
    if missing is not None:
        return missing, none(""), None
    parts, left_out = _uninterrupted(analysis, metric, [metric.measure(one) for one in scenes])
    found = _sound(metric.combine.of(parts))
    tries = joined(parts) if metric.combine.narrows else None
    return _to_the_step(found, metric, analysis.fixed_step), left_out, tries


def _sound(found: Occurrences) -> Occurrences:
    """Return occurrences without those that are larger than a number can be."""
    sound = np.isfinite(found.value) & np.isfinite(found.resolution)
    if sound.all():
        return found
    return found.only(sound) if sound.any() else none(_UNCOUNTABLE)


def _uninterrupted(
    analysis: AnyAnalysis, metric: Metric, parts: Sequence[Occurrences]
) -> tuple[list[Occurrences], Occurrences]:
    """Return the occurrences that nothing interrupts, and those that something does."""
    if not interruptions_of(analysis):
        return list(parts), none("")
    kept, out, why = [], [], []
    for part in parts:
        touched, by = interrupted_occurrences(analysis, metric, part)
        kept.append(part.only(~touched))
        out.append(part.only(touched))
        why += [one.text for one in by if one is not None]
    return kept, replace(joined(out), why=tuple(why))


def _left_out(left_out: Occurrences, many: int) -> str:
    """Say how many occurrences are left out, and what interrupts them."""
    if not left_out.why:
        return ""
    shown = list(dict.fromkeys(left_out.why))
    more = f" and {len(shown) - _NAMED} more" if len(shown) > _NAMED else ""
    return f"{len(left_out.why)} of {many} left out: {', '.join(shown[:_NAMED])}{more}"


def _to_the_step(found: Occurrences, metric: Metric, steps: FixedStep | None) -> Occurrences:
    """Return occurrences whose times are known no better than to a step of the physics."""
    if steps is None or metric.dimension != TIME:
        return found
    least = steps.step * (1000 if metric.milli else 1)
    return replace(found, resolution=np.maximum(found.resolution, least))


def _reason(
    found: Occurrences,
    left_out: Occurrences,
    spread: float,
    value: float | None,
    resolution: float,
) -> str | None:
    out = _left_out(left_out, len(found.value) + len(left_out.value))
    if value is None:
        return out or found.reason or "the take does not show it"
    parts = [text for text in (found.remark, out) if text]
    nothing = ARITHMETIC * median(found.frame_shift)
    if spread > max(UNLIKE * abs(value), SURELY * resolution, nothing):
        low, high = float(found.value.min()), float(found.value.max())
        parts.append(f"unlike occurrences, {low:.4g} to {high:.4g}")
    return "; ".join(parts) or None
