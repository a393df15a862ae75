"""What metrics look at: a motion and the parts of it that several of them share."""

from functools import cached_property

import numpy as np

from kickback.kinds.foot.arcs import Arcs, arcs_of
from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.travel import (
    Plateaus,
    Pushes,
    Releases,
    plateaus_of,
    pushes_of,
    releases_of,
)
from kickback.motion.segments import BoolArray, IntArray
from kickback.motion.tracks import Track
from kickback.takes.numeric import median
from kickback.takes.take import FloatArray

__all__ = ["INFERRED", "LOCATED", "NINETY_FIVE", "UNPLACED", "Scene"]

NINETY_FIVE = 2.0
"""Standard errors within which 95 % of the errors of a printed log lie."""

LOCATED = 2e-5
"""Share of a frame within which a moment is known where the law between frames is."""

_BETWEEN = 0.5
"""Share of a frame within which it is known where no law is."""

INFERRED = "inferred from the motion: no input was recorded"
UNPLACED = "positions are rounded and no input was recorded, so nothing places the release"


class Scene:
    """A motion with its pushes, releases and arcs, each worked out when first asked for.

    ``like`` is a scene whose pushes and releases this one has, for the same motion in
    another resolution.
    """

    def __init__(self, motion: FootMotion, like: "Scene | None" = None) -> None:
        self.motion = motion
        self._like = like

    @cached_property
    def track(self) -> Track | None:
        """Return the sideways motion, or None where the take has none."""
        return self.motion.across

    @property
    def across(self) -> Track:
        """Return the sideways motion of a take that is known to have one."""
        if self.track is None:
            raise LookupError("no sideways position")
        return self.track

    @cached_property
    def plateaus(self) -> Plateaus:
        """Return where full input settles."""
        return self._like.plateaus if self._like else plateaus_of(self.motion, self.across)

    @cached_property
    def pushes(self) -> Pushes:
        """Return the presses of a direction."""
        if self._like:
            return self._like.pushes
        return pushes_of(self.motion, self.plateaus)

    @cached_property
    def coasts(self) -> Releases:
        """Return where the input was let go while moving."""
        if self._like:
            return self._like.coasts
        return releases_of(self.motion, braking=False)

    @cached_property
    def brakes(self) -> Releases:
        """Return where opposite or brake input met motion."""
        if self._like:
            return self._like.brakes
        return releases_of(self.motion, braking=True)

    @cached_property
    def arcs(self) -> Arcs:
        """Return the arcs of all jumps."""
        return arcs_of(self.motion)

    @property
    def no_release(self) -> str:
        """Return why nothing tells when a release or a turn began, or nothing."""
        guessed = self.across.rounded and self.motion.inputs.source == "inferred"
        return UNPLACED if guessed else ""

    @property
    def no_plateau(self) -> str:
        """Return the reason where no speed settles."""
        return f"no full input on the ground held its speed {self.motion.options.plateau}"

    @cached_property
    def remark(self) -> str:
        """Return what to know about metrics that stand on inputs."""
        return INFERRED if self.motion.inputs.source == "inferred" else ""

    def top_speed(self, toward: IntArray) -> FloatArray:
        """Return the usual top speed in each direction, shape (k,); NaN where none.

        The median of that direction's plateaus; of all of them where it has none.
        """
        known = np.isfinite(self.plateaus.speed)
        both = self.plateaus.speed[known]
        overall = median(both) if both.size else float("nan")
        tops = np.full(len(toward), overall)
        for way in set(toward.tolist()):
            own = self.plateaus.speed[known & (self.plateaus.toward == way)]
            if own.size:
                tops[toward == way] = median(own)
        return tops

    @cached_property
    def push_tops(self) -> FloatArray:
        """Return the top speed that each push is held against, shape (k,); NaN where none.

        The push's own plateau; the usual top speed that way where it has none.
        """
        own = np.where(self.pushes.plateau >= 0, self.pushes.plateau, 0)
        if not len(self.plateaus.speed):
            return np.full(len(own), np.nan)
        speed = np.where(self.pushes.plateau >= 0, self.plateaus.speed[own], np.nan)
        return np.where(np.isfinite(speed), speed, self.top_speed(self.pushes.toward))

    def moment_resolution(
        self, time: FloatArray, known: BoolArray, error: FloatArray, track: Track | None = None
    ) -> FloatArray:
        """Return how well moments at ``time``, shape (k,), are located, s.

        A small share of a frame where the law between frames is known and the velocity is the
        game's own, more where frames are uneven, and twice the standard ``error``; half a frame
        otherwise.
        """
        t = self.motion.t
        step = self.motion.step[np.clip(np.searchsorted(t, time), 1, len(t) - 1)]
        sure = known & ((track or self.across).source == "reported")
        located = np.where(sure, self.motion.clock.located(LOCATED), _BETWEEN) * step
        return located + NINETY_FIVE * error
