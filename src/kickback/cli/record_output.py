"""What ``kickback record`` says while it runs."""

import os
import shlex
import sys
from collections.abc import Sequence
from typing import TYPE_CHECKING

from kickback.cli.common import units_of
from kickback.cli.output import complain, say

if TYPE_CHECKING:
    from kickback.project.settings import Settings
    from kickback.record.ledger import Begun, Notice
    from kickback.record.take_file import LeftBehind
    from kickback.workflows.live import LiveView
    from kickback.workflows.recording import Outcome
    from kickback.workflows.reviewing import Review
    from kickback.workflows.running import RunResult

__all__ = ["RecordPrinter"]


class RecordPrinter:
    """Says what a recording does: a view that is redrawn on a terminal, plain lines elsewhere."""

    def __init__(self, settings: "Settings", *, quiet: bool) -> None:
        from kickback.show.console import Printer

        terminal = sys.stdout.isatty() and os.environ.get("TERM") != "dumb"
        self.wants_views = terminal and not quiet
        self.wants_reviews = not quiet
        self._quiet = quiet
        self._units = units_of(settings)
        self._printer = Printer()
        self._live = self._printer.live() if self.wants_views else None
        self._last = ""
        self._said_cue: tuple[str, str] | None = None

    def __enter__(self) -> "RecordPrinter":
        """Begin the live view, where there is one."""
        if self._live is not None:
            self._live.start()
        return self

    def __exit__(self, *_: object) -> None:
        """End the live view."""
        if self._live is not None:
            self._live.stop()

    def found(self, left: "LeftBehind") -> None:
        """Say what an ended recorder left behind."""
        self._note(
            f"{left.path}: {left.frames} frames of a recorder that was ended before; now whole"
            + (f", but {left.damaged} lines in it are damaged" if left.damaged else "")
        )

    def opened(self, addresses: Sequence[str], token: str | None) -> None:
        """Say where it listens and reads."""
        needs = " (with the token)" if token else ""
        network = [address for address in addresses if "://" in address]
        if network:
            self._note(f"listening{needs}: {', '.join(network)}")
        for address in addresses:
            if address not in network:
                self._note(f"reading: {address}")

    def begun(self, event: "Begun") -> None:
        """Hear that a take begins; nothing is said of it."""
        del event

    def said(self, notice: "Notice") -> None:
        """Say a sentence of a stream."""
        self._note(f"{notice.origin}: {notice.text}")

    def reviewed(self, review: "Review") -> None:
        """Say what a take measures, or a line where that is all that is wanted."""
        from kickback.show.recording import finished_line, show_review

        self._last = shlex.quote(str(review.finished.path))
        if self._quiet or (review.take is None and not self.wants_views):
            say(finished_line(review))  # a plain line costs a tenth of a styled one
        else:
            show_review(self._printer, review, self._units)
        sys.stdout.flush()

    def view(self, view: "LiveView") -> None:
        """Show the state of the moment, or what a person is told to press."""
        if self._live is not None:
            from kickback.show.live import render_view

            self._live.update(render_view(view, self._printer.width), refresh=True)
        elif view.cue is not None and (view.cue.stage, view.cue.now) != self._said_cue:
            from kickback.show.live import cue_text

            self._said_cue = (view.cue.stage, view.cue.now)
            self._note(cue_text(view.cue))

    def planned(self, runs: int) -> None:
        """Hear how many runs there will be: the lines of their takes say how far it is."""

    def ran(self, result: "RunResult") -> None:
        """Say what went wrong with a run of the game."""
        from kickback.show.recording import run_line

        if result.problem:
            self._note(run_line(result))

    def conclude(self, outcome: "Outcome") -> None:
        """Say what there is to know at the end."""
        from kickback.show.recording import show_runs

        if outcome.runs:
            show_runs(self._printer, outcome.runs)
        if outcome.refused:
            self._note(f"warning: {outcome.refused} lines refused; {outcome.first_refusal}")
        for count, what in (
            (outcome.lost, "lost on the way"),
            (outcome.dropped, "dropped by senders"),
        ):
            if count:
                self._note(f"warning: {count} frames were {what}")
        if outcome.stopped and not outcome.takes:
            self._note("nothing was recorded")
        elif self._last:
            self._note(f"kickback measure {self._last}: every number of the take saved last")

    def _note(self, text: str) -> None:
        if self._live is not None:
            self._printer.line(text, style="dim")
        else:
            complain(text)
