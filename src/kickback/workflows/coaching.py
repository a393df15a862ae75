"""Coaching a person through a drill, and what a take of it lacks."""

import time
from collections.abc import Sequence

from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.measuring import measure
from kickback.kinds.model import DrillPart
from kickback.kinds.playing.drills import Drill
from kickback.kinds.playing.prompts import prompt_at, prompts_of
from kickback.kinds.table import analyse
from kickback.record.hub import Hub
from kickback.takes.record import Record, replace
from kickback.takes.take import Take

__all__ = ["Coach", "Cue", "missing_parts"]

_SHOWN_AT = 120.0
"""Frame rate at which the model shows what a drill should bring about, frames/s."""

_COUNTDOWN = 3.0
"""Seconds to get ready."""

_PAUSE = 4.0
"""Seconds between rounds."""

_HEARD = 0.7
"""Seconds without a frame after which a game is not playing."""


def missing_parts(take: Take | AnyAnalysis, drill: Drill) -> list[str]:
    """Return a sentence for each part of a drill that a take shows too seldom.

    What a drill's inputs should bring about is read off a run of the built-in model with
    default parameters; what counts as a plateau and as rest is what it is for the take.
    """
    analysis = analyse(take)
    kind = analysis.kind
    if kind.model is None or drill.kind != kind.name:
        return []
    parts: Sequence[DrillPart] = kind.model.parts
    names = [part.metric for part in parts]
    model = kind.model.simulate({}, drill, frame_rate=_SHOWN_AT)
    plateau = replace(analysis.options, rest_speed=None)  # the model runs in units of its own
    due = measure(model, names, plateau).by_metric()
    shown = measure(analysis, names).by_metric()
    missing = []
    for part in parts:
        wanted, found = due[part.metric].n, shown[part.metric].n
        if found >= wanted:
            continue
        count = f"no {part.what}" if not found else f"only {found} of {wanted}: {part.what}"
        missing.append(f"{count}: {part.advice}")
    return missing


class Cue(Record, frozen=True, kw_only=True):
    """What a person is told at this moment.

    ``left``: s until ``after`` begins, which is what comes next; ``share``: how much of
    the drill is done, 0 … 1.
    """

    stage: str
    now: str
    left: float
    after: str = ""
    share: float = 0.0


class Coach:
    """Leads through rounds of a drill: wait for the game, count down, prompt, pause.

    Only what falls into a round is saved. Senders that play drills by themselves need no
    coach and are not held back.
    """

    def __init__(self, drill: Drill, hub: Hub) -> None:
        self.drill = drill
        self.prompts = prompts_of(drill)
        self.rounds = 0
        self._hub = hub
        self._stage = "waiting"
        self._since = time.monotonic()
        hub.ledger.holding = True
        hub.ledger.overrides = {"drill": drill.name}

    def step(self) -> Cue:
        """Move on with the clock, and return what to say now."""
        now = time.monotonic()
        passed = now - self._since
        if self._stage == "waiting" and self._heard(now):
            self._enter("countdown")
        elif self._stage in {"countdown", "playing"} and not self._heard(now):
            self._enter("waiting")
        elif self._stage == "countdown" and passed >= _COUNTDOWN:
            self._enter("playing")
        elif self._stage == "playing" and passed >= self.drill.length:
            self.rounds += 1
            self._enter("pause")
        elif self._stage == "pause" and passed >= _PAUSE:
            self._enter("waiting")
        return self._cue(time.monotonic() - self._since)

    def _heard(self, now: float) -> bool:
        streams: Sequence[float] = [
            stream.heard
            for stream in self._hub.streams
            if stream.session.begun and not stream.session.plays_drill
        ]
        return bool(streams) and now - max(streams) < _HEARD

    def _enter(self, stage: str) -> None:
        """Begin a stage; frames are saved during the drill alone."""
        if self._stage == "playing":
            done = stage == "pause"
            self._hub.cut("the end of the drill" if done else "a pause within the drill")
        self._stage, self._since = stage, time.monotonic()
        self._hub.ledger.holding = stage != "playing"

    def _cue(self, passed: float) -> Cue:
        first = self.prompts[0]
        if self._stage == "waiting":
            return Cue(stage="waiting", now="waiting for the game's frames", left=0.0)
        if self._stage == "countdown":
            left = _COUNTDOWN - passed
            return Cue(stage="countdown", now="get ready", left=left, after=first.text)
        if self._stage == "pause":
            return Cue(stage="pause", now="done", left=_PAUSE - passed, after="the next round")
        here, after = prompt_at(self.prompts, passed)
        return Cue(
            stage="playing",
            now=here.text,
            left=here.until - passed,
            after=after.text if after else "the end",
            share=min(1.0, passed / self.drill.length),
        )
