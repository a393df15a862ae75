"""Rich's console, on which nothing unprintable comes through. Heavy: loaded when used."""

from collections.abc import Iterable
from typing import Any

from rich.console import Console, ConsoleOptions, RenderableType  # noqa: TID251 - the one place
from rich.segment import Segment
from rich.text import Text

from kickback.show.visible import visible

__all__ = ["SafeConsole"]


class SafeConsole(Console):
    """A console that shows words as they are: no markup in them, no control characters."""

    def __init__(self, **how: Any) -> None:
        """Make a console; ``how`` is Rich's own."""
        super().__init__(markup=False, highlight=False, emoji=False, **how)

    def render_str(self, text: str, **how: Any) -> Text:
        """Return a string as it will be seen, so that columns are as wide as it is."""
        return super().render_str(visible(text), **how)

    def render(
        self, renderable: RenderableType, options: ConsoleOptions | None = None
    ) -> Iterable[Segment]:
        """Return what is drawn; Rich's own control codes stand in segments of their own."""
        for segment in super().render(renderable, options):
            if segment.control:
                yield segment
            else:
                yield Segment(visible(segment.text), segment.style)
