"""``Analysis``: everything that is worked out of one take, each thing once, when first asked for.

What a stretch of frames means is for the kind of subject to say.
"""

from collections.abc import Callable, Sequence
from functools import cached_property
from typing import TYPE_CHECKING, Any, Generic, TypeAlias, TypeVar

import numpy as np

from kickback.motion.clock import clock_of
from kickback.motion.fixed_step import FixedStep, find_fixed_step, take_of_steps
from kickback.motion.game_time import take_in_game_time
from kickback.motion.interruptions import (
    SLOW_MOTION,
    Interruption,
    find_interruptions,
    interrupted_frames,
)
from kickback.motion.motion import Event, Motion, Phase
from kickback.motion.options import Options
from kickback.motion.pieces import pieces_of
from kickback.motion.prints import Prints
from kickback.motion.segments import IntArray
from kickback.takes.record import replace
from kickback.takes.take import Take

if TYPE_CHECKING:
    from kickback.kinds.kind import Kind

__all__ = ["Analysis", "AnyAnalysis", "Piece"]

_WORKED_BACK = 3.0
"""How many times its rounding a state may be off that is worked back from places between two."""

M = TypeVar("M", bound=Motion)


class Piece(Generic[M]):
    """A stretch of a take's frames between leaps, from frame ``start`` on."""

    def __init__(self, start: int, take: Take, analysis: "Analysis[M]") -> None:
        self.start, self.take, self._analysis = start, take, analysis

    @cached_property
    def motion(self) -> M:
        """Return the motion of the stretch; frames are counted from its first one."""
        whole = self._analysis
        clock = clock_of(self.take, whole.prints["t"], whole.prints["dt"])
        if whole.interruptions:
            mask = interrupted_frames(whole.interruptions, len(whole.take))
            clock = replace(clock, interrupted=mask[self.start : self.start + len(self.take)])
        return whole.kind.reading.read(self.take, clock, whole.prints, whole.options)

    @cached_property
    def phases(self) -> Sequence[Phase]:
        """Return the phases; frames are those of the take."""
        found = self._analysis.kind.reading.phases(self.motion)
        move = self.start
        return [replace(one, start=one.start + move, stop=one.stop + move) for one in found]

    @cached_property
    def events(self) -> Sequence[Event]:
        """Return the events; frames are those of the take."""
        found = self._analysis.kind.reading.events(self.motion)
        return [replace(one, frame=one.frame + self.start) for one in found]


class Analysis(Generic[M]):
    """What a take shows: how it was printed, its pieces, their motion, phases and events.

    ``shown`` is the take as it was recorded; ``take`` the one that is read, which has a row a
    step where the physics has one of its own. Frames of what is told are those of ``take``.

    ``kind_of`` tells the kind of subject from the take, and raises InputError where there
    is none for it: nothing that needs no kind asks it.
    """

    def __init__(
        self, take: Take, options: Options, kind_of: "Callable[[Take], Kind[M, object]]"
    ) -> None:
        self.shown, self.options, self._kind_of = take, options, kind_of

    def __reduce__(self) -> tuple[type, tuple[object, ...]]:
        """Return what another process makes the same analysis of."""
        return type(self), (self.shown, self.options, self._kind_of)

    @cached_property
    def kind(self) -> "Kind[M, object]":
        """Return the kind of subject; InputError where there is none for the take."""
        return self._kind_of(self.shown)

    @cached_property
    def prints(self) -> Prints:
        """Return how each column was printed.

        Places that were drawn between steps are no longer on the grid that they were printed to.
        """
        found = self.fixed_step
        if found is None:
            return self._prints_shown
        if not found.between:
            return Prints(self.take)
        axes = {axis: self._prints_shown[axis] for axis in ("x", "y", "z") if axis in self.take}
        wider = {axis: replace(one, grid=_WORKED_BACK * one.grid) for axis, one in axes.items()}
        return Prints(self.take, wider)

    @cached_property
    def clock(self) -> str:
        """Return whose time durations are in: ``wall``, or ``game`` where ``dt`` tells it."""
        wanted = self.shown.header.clock or self.options.clock or "wall"
        return "wall" if "dt" in self.shown.derived else wanted

    @cached_property
    def _timed(self) -> Take:
        return take_in_game_time(self.shown) if self.clock == "game" else self.shown

    @cached_property
    def _prints_shown(self) -> Prints:
        return Prints(self._timed)

    @cached_property
    def fixed_step(self) -> FixedStep | None:
        """Return the physics step under a faster display; None where each frame is a step."""
        return find_fixed_step(self._timed, self._prints_shown)

    @cached_property
    def take(self) -> Take:
        """Return the take that is read: a row a step of the physics."""
        found = self.fixed_step
        return self._timed if found is None else take_of_steps(self._timed, found)

    @cached_property
    def advances(self) -> bool:
        """Whether the clock advances in every frame; without, there is no motion."""
        return bool(np.all(np.diff(self.take.numbers("t")) > 0))

    @cached_property
    def breaks(self) -> IntArray:
        """Return the frames, shape (k,), whose displacement no motion explains."""
        return self.kind.reading.breaks(self.take)

    @cached_property
    def interruptions(self) -> Sequence[Interruption]:
        """Return what interrupts the take, as its clock and its places tell."""
        grids = {axis: self.prints[axis].grid for axis in ("x", "y", "z") if axis in self.take}
        found = find_interruptions(self.take, self.breaks, grids)
        if self.clock == "game":  # its time runs as the motion does
            return [one for one in found if one.kind is not SLOW_MOTION]
        return found

    @cached_property
    def pieces(self) -> Sequence[Piece[M]]:
        """Return the stretches between leaps; the whole take where all are too short."""
        parts = pieces_of(self.take, self.breaks) if len(self.breaks) else []
        return [Piece(start, part, self) for start, part in parts or [(0, self.take)]]

    @cached_property
    def motions(self) -> Sequence[M]:
        """Return the motion of each piece."""
        return [piece.motion for piece in self.pieces]

    @cached_property
    def whole(self) -> M:
        """Return the motion of all frames; what leaps is measured on neither side of the leap."""
        if len(self.pieces) == 1 and len(self.pieces[0].take) == len(self.take):
            return self.motions[0]
        parts = [(piece.start, piece.motion) for piece in self.pieces]
        return self.kind.reading.join(self.take, parts, self.options)

    @cached_property
    def even(self) -> bool:
        """Whether all frames of the take lasted equally long."""
        return all(motion.clock.even for motion in self.motions)

    @property
    def phases(self) -> Sequence[Phase]:
        """Return the phases of all pieces, in the order of tracks and time."""
        every = [phase for piece in self.pieces for phase in piece.phases]
        tracks = list(dict.fromkeys(phase.track for phase in every))
        return sorted(every, key=lambda phase: (tracks.index(phase.track), phase.start))

    @property
    def events(self) -> Sequence[Event]:
        """Return the events of all pieces in the order of time."""
        return [event for piece in self.pieces for event in piece.events]


AnyAnalysis: TypeAlias = Analysis[Any]
"""The analysis of a take of whichever kind."""
