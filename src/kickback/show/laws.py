"""Laws as text: the rule as a line of code, its constants, and what follows."""

import textwrap
from collections.abc import Sequence
from typing import TYPE_CHECKING

from kickback.laws.record import Consequence, Constant, Law, Laws
from kickback.show.console import Printer
from kickback.show.tables import notes
from kickback.takes.numerals import plain
from kickback.takes.quantities import ACCELERATION, FRAMES, TIME
from kickback.takes.tolerances import ARITHMETIC

if TYPE_CHECKING:
    from rich.table import Table

__all__ = ["rule_text", "show_laws"]

_EVEN = (
    "All frames lasted equally long: nothing in this take tells whether a constant belongs to the"
    " frame or to the second. A take with uneven times, or one at a second rate, would."
)


def show_laws(printer: Printer, take: str, laws: Laws) -> None:
    """Print a take's laws, one a line, then why there are none, and what follows."""
    printer.line(take, style="bold")
    if not len(laws):
        printer.line("  nothing moves in it")
        return
    room = printer.width - max(len(law.name) + len(rule_text(law)) for law in laws)
    below = room < _BESIDE
    printer.table(lambda narrow: _below(laws) if narrow and below else _table(laws, narrow=narrow))
    _show_consequences(printer, laws.consequences)
    if laws.even:
        for line in _wrapped(printer, _EVEN, 0):
            printer.line(line, style="dim")
    notes(printer, [(law.name, law.reason) for law in laws if law.reason])


def _show_consequences(printer: Printer, told: Sequence[Consequence]) -> None:
    """Print what follows from laws, a line a phase."""
    if told:
        printer.line("what follows")
    for phase in dict.fromkeys(item.phase for item in told):
        texts = [_in_words(item) for item in told if item.phase == phase]
        given = {item.given: None for item in told if item.phase == phase and item.given}
        texts[-1] += "".join(f" ({text})" for text in given)
        for number, line in enumerate(_wrapped(printer, ", ".join(texts), 26)):
            printer.line(f"  {'' if number else phase:<22} {line}")


def _wrapped(printer: Printer, text: str, indent: int) -> list[str]:
    return textwrap.wrap(text, max(40, min(120, printer.width - indent)), break_long_words=False)


def _table(laws: Laws, *, narrow: bool) -> "Table":
    from rich import box
    from rich.table import Table

    headings = (
        ("rule", "constants") if narrow else ("rule", "in words", "constants", "frames", "misfit")
    )
    table = Table(box=box.SIMPLE_HEAD, pad_edge=False, header_style="bold")
    for heading in ("phase", *headings):
        right = heading in {"frames", "misfit"}
        folds = narrow and heading == "constants"
        table.add_column(heading, justify="right" if right else "left", no_wrap=not folds)
    for law in laws:
        cells = [rule_text(law), _constants(law)]
        if not narrow:
            misfit = "" if law.misfit is None or law.family is None else f"{law.misfit:.1e}"
            misfit = "0" if law.misfit == 0 else misfit
            cells = [cells[0], _words(law), cells[1], str(law.frames or ""), misfit]
        table.add_row(law.name, *cells)
    return table


def _below(laws: Laws) -> "Table":
    """Return a table for rules that leave no room beside them: constants stand below each."""
    from rich import box
    from rich.table import Table

    table = Table(box=box.SIMPLE_HEAD, pad_edge=False, header_style="bold")
    table.add_column("phase", no_wrap=True)
    table.add_column("rule, and its constants")
    for law in laws:
        table.add_row(law.name, rule_text(law))
        table.add_row("", _constants(law), style="dim")
    return table


def _words(law: Law) -> str:
    """Return what a law is, in words."""
    if law.family is None:
        return "no rule told"
    return law.family.words + (_CLOCKS.get(law.clock, "") if law.family.stepped else "")


_BESIDE = 40
"""Columns beside phases and rules from which constants stand there."""

_FRAMES_WIDE = 1.6
"""Frames between two presses from which a timer is told by both."""

_CLOCKS = {"frame": ", per frame", "square": ", step twice"}


def rule_text(law: Law) -> str:
    """Return a law as a line of pseudo-code."""
    return "—" if law.family is None else law.family.code(law)


def _constants(law: Law) -> str:
    parts = []
    for item in law.shown:
        known = item.stderr is not None and item.stderr > ARITHMETIC * abs(item.value)
        error = f" ± {item.stderr:.1g}" if known else ""
        unit = f" {item.unit}" if str(item.unit) else ""
        text = f"{item.name} {plain(item.value)}{error}{unit}"
        if item.unit.dimension == FRAMES:
            text = f"{item.value:.4g}{error} frames"
        if item.between is not None and (item.open or _wide(law, item)):
            text = _bound(item, unit)
        if item.unit.dimension == ACCELERATION:
            per_frame = plain(item.value * law.frame)
            text += f" ({per_frame} {item.unit * TIME} a frame)"
        parts.append(text)
    return ", ".join(parts)


def _wide(law: Law, item: Constant) -> bool:
    """Whether a constant is bracketed by more than a frame or so: then the ends are told."""
    low, high = item.between or (0.0, 0.0)
    frame = 1.0 if item.unit.dimension == FRAMES else law.frame
    return high - low > _FRAMES_WIDE * frame


def _bound(item: Constant, unit: str) -> str:
    """Return what a constant is known to lie between, or above."""
    low, high = item.between or (0.0, 0.0)
    if item.unit.dimension == FRAMES:
        ends = f"more than {low:.3g}" if item.open else f"{low:.3g} to {high:.3g}"
        return f"{ends} frames"
    ends = f"more than {plain(low)}" if item.open else f"{plain(low)} to {plain(high)}"
    return f"{item.name} {ends}{unit}"


def _in_words(item: Consequence) -> str:
    return f"{item.what} {plain(item.value)} {item.unit}"
