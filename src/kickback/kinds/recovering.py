"""The laws of a take: those of its pieces between leaps, told once."""

from collections.abc import Sequence

from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.kind import piece_laws
from kickback.kinds.table import analyse
from kickback.laws.keys import PhaseKey
from kickback.laws.record import Law, Laws
from kickback.laws.residuals import Residuals
from kickback.motion.options import Options
from kickback.takes.computed_once import computed_once
from kickback.takes.record import replace
from kickback.takes.take import Take

__all__ = ["recover_laws", "residuals_of"]


def recover_laws(take: Take | AnyAnalysis, options: Options | None = None) -> Laws:
    """Return the update rule behind each phase of a take, and between them.

    Equal phases are pooled. A phase that no rule explains, or that is too short or too
    noisy to tell, has the law ``none`` with the reason. Where the position leaps, each side
    is read alone, and of a phase's laws the one that most frames tell is given. Raises
    InputError for a take that cannot be measured.
    """
    analysis = analyse(take, options)
    return laws_of(analysis)


@computed_once
def laws_of(analysis: AnyAnalysis) -> Laws:
    """Return the laws of an analysed take."""
    return _told_once(piece_laws(analysis), analysis.take.name)


def _told_once(parts: Sequence[Laws], take: str) -> Laws:
    """Return the laws of pieces as those of one take."""
    if len(parts) == 1:
        return parts[0]
    best: dict[tuple[str, PhaseKey], Law] = {}
    for row in (row for part in parts for row in part):
        key = (row.track, row.phase)
        if key not in best or _weight(row) > _weight(best[key]):
            best[key] = replace(row, take=take)
    tracks = list(dict.fromkeys(row.track for row in best.values()))
    rows = sorted(best.values(), key=lambda row: tracks.index(row.track))
    longest = max(parts, key=lambda part: sum(row.frames for row in part))
    return Laws(
        rows=rows,
        even=all(part.even for part in parts),
        consequences=longest.consequences,
        clock_signs=longest.clock_signs,
    )


def _weight(row: Law) -> tuple[bool, int]:
    """Return what makes a law the better told of two."""
    return row.family is not None, row.frames


def residuals_of(analysis: AnyAnalysis) -> list[Residuals]:
    """Return what the laws of each piece leave of its steps."""
    pairs = zip(analysis.motions, piece_laws(analysis), strict=True)
    residuals = analysis.kind.rules.residuals
    return [left for motion, laws in pairs for left in residuals(motion, laws)]
