"""What the laws of a motion on foot leave of the steps that they were read from."""

from collections.abc import Sequence

from kickback.kinds.foot.laws.pools import travel_pools, vertical_pools
from kickback.kinds.foot.laws.sustained import sustained
from kickback.kinds.foot.laws.tracks import law_track
from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.roles import ACROSS, UP
from kickback.laws.keys import PhaseKey
from kickback.laws.position import POSITION
from kickback.laws.record import Law, Laws
from kickback.laws.residuals import Residuals, foretold
from kickback.laws.steps import Pool, inner, sides_of

__all__ = ["foot_residuals"]

Known = dict[tuple[str, PhaseKey], Law]


def foot_residuals(motion: FootMotion, laws: Laws) -> list[Residuals]:
    """Return ``v1`` less what each law makes of ``v0``, for the steps that it was read from.

    Sideways speeds that were fitted to rounded positions have none: they settle in noise.
    """
    known = {(law.track, law.phase): law for law in laws}
    found = []
    for pool in _as_told(_pools(motion, known), known, motion):
        law = known.get((pool.role.name, pool.phase))
        track = motion.tracks[pool.role.name]
        steps = pool.steps
        if track.source == "displacement":
            steps = inner(steps)
        elif track.rounded:
            steps = pool.every
        ahead = foretold(law, steps) if law is not None else None
        if ahead is not None and len(steps):
            left = steps.v1 - ahead
            found.append(
                Residuals(
                    phase=str(pool.phase), track=pool.role.name, t=motion.t[steps.row], v=left
                )
            )
    return found


def _pools(motion: FootMotion, known: Known) -> list[Pool]:
    pools: list[Pool] = []
    if motion.across is not None and not motion.across.rounded:
        rule = known.get((ACROSS.name, POSITION))
        pools += travel_pools(motion, law_track(motion, motion.across, rule))
    if motion.up is not None:
        rising = law_track(motion, motion.up, known.get((UP.name, POSITION)))
        held = sustained(motion, rising)
        pools += vertical_pools(motion, rising, None if held is None else held.mask)
    return pools


def _as_told(pools: Sequence[Pool], known: Known, motion: FootMotion) -> list[Pool]:
    """Return the pools, by side where the laws are."""
    told = []
    for pool in pools:
        sides = sides_of(pool, motion.across) if motion.across is not None else []
        split = [side for side in sides if (side.role.name, side.phase) in known]
        told += split or [pool]
    return told
