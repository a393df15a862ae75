"""Who hears of a game's runs where something else than recording is the matter."""

from typing import TYPE_CHECKING

from kickback.cli.output import complain
from kickback.show.progress import Counting

if TYPE_CHECKING:
    from collections.abc import Sequence

    from kickback.record.ledger import Begun, Notice
    from kickback.record.take_file import LeftBehind
    from kickback.workflows.live import LiveView
    from kickback.workflows.reviewing import Review
    from kickback.workflows.running import RunResult

__all__ = ["RunProgress"]


class RunProgress:
    """Hears of the game's runs: what is worth a sentence goes to standard error."""

    wants_views = False
    wants_reviews = False

    def __init__(self) -> None:
        self.saved: list[str] = []
        self._bar = Counting("runs of the game")
        self._runs = self._done = 0

    def found(self, left: "LeftBehind") -> None:
        """Hear of what an ended recorder left behind."""

    def opened(self, addresses: "Sequence[str]", token: str | None) -> None:
        """Hear that the sources are open."""

    def begun(self, event: "Begun") -> None:
        """Hear that a take begins."""

    def said(self, notice: "Notice") -> None:
        """Say a sentence of a stream."""
        complain(f"{notice.origin}: {notice.text}")

    def reviewed(self, review: "Review") -> None:
        """Remember where a take is."""
        self.saved.append(str(review.finished.path))

    def view(self, view: "LiveView") -> None:
        """Hear of the moment."""

    def planned(self, runs: int) -> None:
        """Remember how many runs there will be."""
        self._runs = runs

    def ran(self, result: "RunResult") -> None:
        """Show how far it is."""
        del result
        self._done += 1
        self._bar.told(self._done, self._runs)
        if self._done == self._runs:
            self._bar.close()
