"""``compare``: sides of takes in; what changed, why, and where two takes part, out."""

from collections.abc import Mapping, Sequence
from pathlib import Path

from kickback.errors import InputError, UsageError
from kickback.files.atomic import write_new
from kickback.files.toml import with_table
from kickback.judging.chain import Chain, chain_of
from kickback.judging.compare import Comparison, check_units, compare_cells, rules_of
from kickback.judging.differing import FirstDifference, first_difference
from kickback.judging.pairing import paired
from kickback.judging.repeating import Noise, Repeats, repeats_of
from kickback.judging.samples import Cell, cells_of
from kickback.judging.summary import in_words
from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.table import all_metrics, kind_of
from kickback.metrics.metric import select_metrics
from kickback.project.settings import Settings
from kickback.takes.plain import PlainDict
from kickback.takes.quantities import Unit
from kickback.takes.record import Record, replace
from kickback.workflows.own_names import spoken_changes

__all__ = ["Compared", "Nearest", "Several", "comparing", "keep_noise", "repeating", "side_of"]


class Compared(Record, frozen=True, kw_only=True):
    """A comparison, in words, with why it moved.

    ``sides`` are the first pair of exercises. ``first`` is the first frame in which two takes
    that are all there is of each side differ; None where none does. ``equal`` says that all
    pairs of such are one motion. ``own`` are changed parameters as the game's code has them,
    ``unsaid`` is why they cannot be told so.
    """

    result: Comparison
    words: str
    chain: Chain | None
    sides: tuple[Cell, Cell]
    first: FirstDifference | None = None
    equal: bool = False
    own: Mapping[str, str] = {}
    unsaid: str = ""


class Nearest(Record, frozen=True, kw_only=True):
    """Which of several sides is nearest to a metric's target."""

    metric: str
    unit: Unit
    target: float
    side: str
    value: float


class Several(Record, frozen=True, kw_only=True):
    """Several sides, each held against the first, and which is nearest to each target."""

    found: Sequence[Compared]
    nearest: Sequence[Nearest]

    @property
    def failed(self) -> bool:
        """Whether any side failed."""
        return any(one.result.failed for one in self.found)

    @property
    def unsure(self) -> bool:
        """Whether any metric could not be judged."""
        return any(one.result.unsure for one in self.found)

    def to_records(self) -> list[PlainDict]:
        """Return the flat records; with several sides each says whose it is."""
        if len(self.found) == 1:
            return self.found[0].result.to_records()
        return [
            {**record, "side": one.result.candidate}
            for one in self.found
            for record in one.result.to_records()
        ]


def side_of(takes: Sequence[AnyAnalysis], settings: Settings, only: Sequence[str]) -> list[Cell]:
    """Return a side's takes by exercise, measured, with the noise that the project keeps."""
    cells = cells_of(takes, select_metrics(all_metrics(), only))
    return [replace(cell, noise=_noise(cell, settings)) for cell in cells]


def _noise(cell: Cell, settings: Settings) -> dict[str, float]:
    return {
        name: settings.noise[name].within(sample.unit)
        for name, sample in cell.samples.items()
        if name in settings.noise
    }


def comparing(
    sides: Sequence[Sequence[AnyAnalysis]], settings: Settings, *, only: Sequence[str]
) -> Several:
    """Hold every further side against the first.

    Raises UsageError for an unknown metric, InputError where units differ or takes have no
    partner.
    """
    if len(sides) < 2:
        raise UsageError("compare needs a base and one more: kickback compare BASE CANDIDATE")
    check_units([one.take for side in sides for one in side])
    cells = [side_of(side, settings, only) for side in sides]
    found = [_compared(cells[0], other, settings, only) for other in cells[1:]]
    return Several(found=found, nearest=_nearest(found, settings))


def _nearest(found: Sequence[Compared], settings: Settings) -> list[Nearest]:
    """Return which side is nearest to each target that any of them shows."""
    rows = [(one.result, row) for one in found for row in one.result.rows]
    nearest = []
    for metric, target in settings.targets.items():
        sides = [
            (name, value, row.unit)
            for result, row in rows
            if row.metric == metric
            for name, value in ((result.base, row.base), (result.candidate, row.candidate))
            if value is not None
        ]
        if sides:
            goal = target.within(sides[0][2])
            name, value, unit = min(sides, key=lambda side: abs(side[1] - goal))
            nearest.append(Nearest(metric=metric, unit=unit, target=goal, side=name, value=value))
    return nearest


def _compared(
    base: Sequence[Cell], candidate: Sequence[Cell], settings: Settings, only: Sequence[str]
) -> Compared:
    metrics = select_metrics(all_metrics(), only)
    rules = rules_of(settings.budgets, settings.targets)
    result = compare_cells(base, candidate, metrics, rules)
    pairs = paired(base, candidate).pairs
    fed = [
        (one.analyses[0], other.analyses[0])
        for one, other in pairs
        if len(one.analyses) == 1 == len(other.analyses)
    ]
    found = [first_difference(one, other) for one, other in fed]
    own, unsaid = _own(result, pairs[0][1], settings)
    return Compared(
        result=result,
        words=in_words(result, metrics),
        chain=chain_of(result, *pairs[0]),
        sides=pairs[0],
        first=found[0] if len(pairs) == 1 and found else None,
        equal=bool(found) and len(found) == len(pairs) and all(one is None for one in found),
        own=own,
        unsaid=unsaid,
    )


def _own(result: Comparison, cell: Cell, settings: Settings) -> tuple[dict[str, str], str]:
    """Return changed parameters as the game's code has them, or why they cannot be told so."""
    analysis = cell.analyses[0]
    kind, length = kind_of(analysis.take).name, analysis.take.header.length_unit
    try:
        return spoken_changes(result.parameters, settings, kind, length), ""
    except InputError as error:
        return {}, str(error)


def keep_noise(found: Sequence[Repeats], settings: Settings) -> tuple[Path, int]:
    """Keep the noise of metrics in the project file, whose other lines and comments stay.

    The widest where several exercises show a metric, none where there is none. Returns the file
    and how many metrics.
    Raises UsageError where there is no project file.
    """
    if settings.path is None:
        raise UsageError("--keep needs a project file, kickback.toml: 'kickback new' starts one")
    widest: dict[str, Noise] = {}
    for own in found:
        for one in own.noise:
            if one.width > (widest[one.metric].width if one.metric in widest else 0.0):
                widest[one.metric] = one
    values = {name: f"{one.width:.3g} {one.unit}".strip() for name, one in widest.items()}
    if values:
        write_new(settings.path, with_table(settings.path, "noise", values), replace=True)
    return settings.path, len(values)


def repeating(
    takes: Sequence[AnyAnalysis], settings: Settings, *, only: Sequence[str]
) -> list[Repeats]:
    """Say whether a game plays one parameter set alike again, and how far each metric's noise goes.

    Raises UsageError where no exercise has two takes.
    """
    cells = side_of(takes, settings, only)
    found = [repeats_of(cell) for cell in cells if len(cell.names) > 1]
    if not found:
        raise UsageError(
            "no exercise has two takes: --repeats needs the same parameter set, drill and frame"
            " rate several times"
        )
    return found
