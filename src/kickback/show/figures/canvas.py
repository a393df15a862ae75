"""What figures share: their size, style and line colours, and how they become files."""

import io
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import matplotlib as mpl
from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.figure import Figure
from matplotlib.text import Text

from kickback.show.visible import visible

__all__ = ["LINES", "axis_label", "save_figure", "styled_figure"]

LINES = ("#0072b2", "#d55e00", "#009e73", "#cc79a7", "#e69f00", "#56b4e9")
"""The Okabe–Ito colours, which the colour-blind can tell apart."""

_TICK = r"$\mathdefault"
"""How a number at a tick begins that is written as a formula."""

_STYLE: Any = {
    "font.size": 9.5,
    "axes.spines.top": False,
    "axes.spines.right": False,
    "axes.grid": True,
    "grid.color": "#e4e4e4",
    "grid.linewidth": 0.7,
    "axes.axisbelow": True,
    "svg.hashsalt": "kickback",
}


def axis_label(label: str, unit: object) -> str:
    """Return what an axis shows and its unit, where it has one."""
    return f"{label} [{unit}]" if unit else label


@contextmanager
def styled_figure() -> Iterator[Figure]:
    """Give a new figure of 1280 by 800 dots, to be drawn in the common style."""
    with mpl.rc_context(_STYLE):
        figure = Figure(figsize=(12.8, 8.0), dpi=100, layout="constrained")
        FigureCanvasAgg(figure)
        yield figure


def save_figure(figure: Figure, ending: str) -> bytes:
    """Return a figure as the bytes of a ``png`` or ``svg`` file, free of dates."""
    buffer = io.BytesIO()
    metadata = {"Date": None} if ending == "svg" else {"Software": None}
    for text in figure.findobj(Text):
        # names from files stand in figures too: as they are, and every character of them seen
        words = text.get_text()
        if "$" in words and not words.startswith(_TICK):
            text.set_parse_math(False)
        text.set_text(visible(words))
    with mpl.rc_context(_STYLE):
        figure.savefig(buffer, format=ending, metadata=metadata)
    return buffer.getvalue()
