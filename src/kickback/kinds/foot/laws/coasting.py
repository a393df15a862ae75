"""The law of coasting alone, for what is told by going on as if coasting."""

from kickback.kinds.foot.laws.pools import travel_pools
from kickback.kinds.foot.motion import FootMotion
from kickback.laws.keys import PhaseKey
from kickback.laws.pooled import law_of_pool
from kickback.laws.record import Law
from kickback.motion.tracks import Track

__all__ = ["coast_law"]


def coast_law(motion: FootMotion, track: Track) -> Law | None:
    """Return the law of coasting on the ground, or None where there is none."""
    pools = [one for one in travel_pools(motion, track) if one.phase == PhaseKey("coast")]
    laws = [law for pool in pools for law in law_of_pool(motion, track, pool)]
    return next((law for law in laws if law.family is not None), None)
