"""``record``: from running games to takes on disk, reviewed as they end."""

import contextlib
import signal
import tempfile
import time
from collections.abc import Iterator, Sequence
from functools import partial
from itertools import product
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from kickback import __version__
from kickback.errors import InputError, UsageError
from kickback.files.faults import kept_report
from kickback.kinds.playing.drills import Drill
from kickback.project.settings import Settings
from kickback.record.addresses import DEFAULT_SOURCES, LOOPBACK, is_loopback, source_of
from kickback.record.hub import Hub
from kickback.record.ledger import Begun, Finished, Ledger, Notice
from kickback.record.limits import Limits
from kickback.record.take_file import LeftBehind, reason_of, recover
from kickback.takes.record import Record
from kickback.workflows.coaching import Coach
from kickback.workflows.live import LiveView, Watch
from kickback.workflows.reviewing import Review, Reviewer
from kickback.workflows.running import RunPlan, RunResult, Station, count_runs, run_all, words_of

if TYPE_CHECKING:
    from kickback.files.mapping import Mapping

__all__ = ["Observer", "Outcome", "RecordPlan", "record"]

_FRAME = 0.12
"""Seconds between two pictures of the live view."""

_TURN = 0.01
"""Seconds that a game is waited for while others go on beside it."""


class RecordPlan(Record, frozen=True, kw_only=True):
    """What to record and how.

    ``sources``: ``-``, files, ``tcp``, ``udp:9000``, ``ws://…``; the three network sources
    where there are none. ``most``: takes after which to stop. ``token``: what senders
    must give, needed where ``bind`` is not this machine alone.
    """

    sources: Sequence[str] = ()
    folder: Path = Path("takes")
    gap: float = 2.0
    limits: Limits = Limits()
    encoding: str = "jsonl"
    mapping: "Mapping | None" = None
    follow: bool = False
    bind: str = LOOPBACK
    token: str | None = None
    origins: tuple[str, ...] = ()
    drill: Drill | None = None
    most: int | None = None
    runs: RunPlan | None = None


class Outcome(Record, frozen=True, kw_only=True):
    """What a recording came to; ``stopped``: by hand."""

    takes: int
    frames: int
    refused: int
    lost: int
    dropped: int
    first_refusal: str
    unsaved: bool
    stopped: bool
    runs: Sequence[RunResult] = ()


class Observer(Protocol):
    """Who hears of a recording while it goes on."""

    wants_views: bool
    wants_reviews: bool

    def found(self, left: LeftBehind) -> None:
        """Hear of a take that an earlier recorder left open, and that is whole now."""

    def opened(self, addresses: Sequence[str], token: str | None) -> None:
        """Hear that the sources are open."""

    def begun(self, event: Begun) -> None:
        """Hear that a take has begun."""

    def said(self, notice: Notice) -> None:
        """Hear of something worth a sentence."""

    def reviewed(self, review: Review) -> None:
        """Hear of a take that is saved and measured."""

    def view(self, view: LiveView) -> None:
        """See the state of the moment."""

    def planned(self, runs: int) -> None:
        """Hear how many runs of the game there will be."""

    def ran(self, result: RunResult) -> None:
        """Hear that a run of the game is over."""


def record(plan: RecordPlan, settings: Settings, observer: Observer) -> Outcome:
    """Record until the sources end, the takes are complete, or someone interrupts.

    Raises UsageError for a plan that makes no sense, InputError where a source cannot
    be opened, the folder cannot be written, or no frame came from sources that ended.
    """
    return _Recording(plan, settings, observer).run()


class _Recording:
    """One call of ``record``."""

    def __init__(self, plan: RecordPlan, settings: Settings, observer: Observer) -> None:
        if not is_loopback(plan.bind) and not plan.token:
            raise UsageError(
                f"--bind {plan.bind} lets other machines send; that needs a shared --token"
            )
        if plan.token is not None and not (plan.token.isprintable() and plan.token.strip()):
            raise UsageError("--token must be a word of printable characters, not an empty one")
        if plan.runs is not None:
            words_of(plan.runs)
            _check_side_by_side(plan.runs.at_once, plan.sources)
        self.plan, self.observer = plan, observer
        self.hubs = [self._hub() for _ in range(_side_by_side(plan.runs))]
        self.hub = self.hubs[0]
        self.reviewer = Reviewer(
            plan.folder, plan.encoding, settings, plan.drill, measures=observer.wants_reviews
        )
        views = observer.wants_views and len(self.hubs) == 1  # it shows one game
        self.watch = Watch(self.hub, settings) if views else None
        self.coach: Coach | None = None
        self.unsaved = False
        self._next_view = 0.0

    def _hub(self) -> Hub:
        plan = self.plan
        ledger = Ledger(folder=plan.folder, gap=plan.gap, limits=plan.limits)
        if plan.mapping is not None:
            ledger.mapping, ledger.clock = plan.mapping.plain, plan.mapping.clock
        if plan.drill is not None:
            ledger.answer = _drill_line(plan.drill)
        return Hub(ledger, token=plan.token, report=lambda error: kept_report(error, __version__))

    def run(self) -> Outcome:
        self._open()
        reason, stopped = "the end of the recorder", False
        results: list[RunResult] = []
        try:
            self._play(results)
        except KeyboardInterrupt:
            reason, stopped = "stopping the recorder", True
        finally:
            with _undisturbed():
                for hub in self.hubs:
                    hub.close(reason)
        for hub in self.hubs:
            self._tell(hub)
        for review in self.reviewer.close(hurried=stopped):
            self.observer.reviewed(review)
        self._check_frames(stopped=stopped)
        return self._outcome(results, stopped=stopped)

    def _play(self, results: list[RunResult]) -> None:
        """Play the runs that are planned, or record until all sources have ended."""
        if self.plan.runs is None:
            while not self._done():
                self.pump()
            return

        def ran(result: RunResult) -> None:
            results.append(result)
            self.observer.ran(result)

        self.observer.planned(count_runs(self.plan.runs))
        stations = [Station(hub=hub, pump=partial(self.pump, hub)) for hub in self.hubs]
        run_all(self.plan.runs, stations, ran)

    def _outcome(self, results: list[RunResult], *, stopped: bool) -> Outcome:
        """Return what all hubs recorded."""
        ledgers = [hub.ledger for hub in self.hubs]
        return Outcome(
            takes=sum(one.takes for one in ledgers),
            frames=sum(one.frames for one in ledgers),
            refused=sum(one.refused for one in ledgers),
            lost=sum(one.lost for one in ledgers),
            dropped=sum(one.dropped for one in ledgers),
            first_refusal=next((one.first_refusal for one in ledgers if one.refused), ""),
            unsaved=self.unsaved,
            stopped=stopped,
            runs=results,
        )

    def _open(self) -> None:
        """Open the sources, and make whole what an ended recorder left behind."""
        plan = self.plan
        words = [word for word in plan.sources if plan.runs is None or word != "-"]
        if not plan.sources:
            words = ["tcp:0"] if plan.runs is not None else list(DEFAULT_SOURCES)
        for hub, word in product(self.hubs, words):
            hub.add(source_of(word, bind=plan.bind, follow=plan.follow, origins=plan.origins))
        # only now: a call that makes no sense must leave no folder behind
        _check_folder(plan.folder)
        for left in recover(plan.folder):
            self.observer.found(left)
        self.observer.opened([source.address for source in self.hub.sources], plan.token)
        if plan.drill is not None and plan.runs is None:
            self.coach = Coach(plan.drill, self.hub)

    def pump(self, hub: Hub | None = None) -> list[Finished]:
        """Let a hub go round once, pass on what happened, and return the takes that ended."""
        hub = hub or self.hub
        if len(self.hubs) > 1:
            hub.round(_TURN)
        else:
            hub.round()
        cue = self.coach.step() if self.coach is not None else None
        now = time.monotonic()
        if self.watch is not None and now >= self._next_view:
            self._next_view = now + _FRAME
            self.observer.view(self.watch.view(cue))
        elif self.watch is None and cue is not None:
            self.observer.view(LiveView(cue=cue))
        finished = self._tell(hub)
        for review in self.reviewer.reviews():
            self.observer.reviewed(review)
        return finished

    def _tell(self, hub: Hub) -> list[Finished]:
        finished = []
        for event in hub.ledger.taken():
            if isinstance(event, Finished):
                self.unsaved = self.unsaved or bool(event.problem)
                self.reviewer.add(event)
                finished.append(event)
            elif isinstance(event, Begun):
                self.observer.begun(event)
            else:
                self.observer.said(event)
        return finished

    def _done(self) -> bool:
        if self.plan.most is not None and self.hub.ledger.takes >= self.plan.most:
            return True
        return all(getattr(source, "ended", False) for source in self.hub.sources)

    def _check_frames(self, *, stopped: bool) -> None:
        ledger = self.hub.ledger
        if ledger.takes or stopped or self.plan.runs is not None:
            return
        detail = f"; {ledger.first_refusal}" if ledger.first_refusal else ""
        raise InputError(
            f"no frame came{detail}", ", ".join(source.address for source in self.hub.sources)
        )


def _side_by_side(runs: RunPlan | None) -> int:
    """Return how many games send at a time."""
    return 1 if runs is None else max(1, min(runs.at_once, count_runs(runs)))


def _check_side_by_side(many: int, sources: Sequence[str]) -> None:
    """Raise UsageError where games that go on at once would share a port or a file."""
    fixed = [word for word in sources if word != "-" and not word.endswith(":0")]
    if many > 1 and fixed:
        raise UsageError(
            f"--at-once {many}: each game needs a port of its own, so '{fixed[0]}' cannot be used;"
            " tcp:0 takes any free one"
        )


@contextlib.contextmanager
def _undisturbed() -> Iterator[None]:
    """Let takes be finished whatever key is pressed meanwhile."""
    names = ("SIGINT", "SIGTERM", "SIGHUP")
    kinds = [getattr(signal, name) for name in names if hasattr(signal, name)]
    try:
        before = {kind: signal.signal(kind, signal.SIG_IGN) for kind in kinds}
    except ValueError:  # only a main thread may
        before = {}
    try:
        yield
    finally:
        for kind, handler in before.items():
            signal.signal(kind, handler)


def _check_folder(folder: Path) -> None:
    """Raise InputError where no take could be saved in a folder."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with tempfile.NamedTemporaryFile(prefix=".kickback-", dir=folder):
            pass
    except OSError as error:
        raise InputError(
            f"takes cannot be saved there ({reason_of(error)})", str(folder)
        ) from error


def _drill_line(drill: Drill) -> bytes:
    import msgspec

    return msgspec.json.encode({"drill": drill.to_mapping()}) + b"\n"
