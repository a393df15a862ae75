"""Laws as text: the rule as a line of code, its constants, and what follows."""

import textwrap
from collections.abc import Callable
from typing import Any

from kickback.laws.consequences import Consequence, follows
from kickback.laws.record import Law, Laws
from kickback.show.console import Printer
from kickback.show.numbers import plain
from kickback.show.tables import notes

__all__ = ["rule_text", "show_laws"]

_EXACT = 1e-9
"""Share of a constant below which its error is that of the arithmetic."""

_EVEN = (
    "All frames lasted equally long: nothing in this take tells whether a constant belongs to the"
    " frame or to the second. A take with uneven times, or one at a second rate, would."
)


def show_laws(printer: Printer, take: str, laws: Laws, *, even: bool) -> None:
    """Print a take's laws, one a line, then why there are none, and what follows."""
    printer.line(take, style="bold")
    if not len(laws):
        printer.line("  nothing moves in it")
        return
    printer.table(lambda narrow: _table(laws, narrow=narrow))
    told = follows(laws)
    if told:
        printer.line("what follows")
        for phase in dict.fromkeys(item.phase for item in told):
            texts = [_told(item) for item in told if item.phase == phase]
            given = {item.given: None for item in told if item.phase == phase and item.given}
            texts[-1] += "".join(f" ({text})" for text in given)
            for number, line in enumerate(_wrapped(printer, ", ".join(texts), 26)):
                printer.line(f"  {'' if number else phase:<22} {line}")
    if even:
        for line in _wrapped(printer, _EVEN, 0):
            printer.line(line, style="dim")
    notes(printer, [(_name(law), law.reason) for law in laws if law.reason])


def _wrapped(printer: Printer, text: str, indent: int) -> list[str]:
    return textwrap.wrap(text, max(40, min(120, printer.width - indent)), break_long_words=False)


def _table(laws: Laws, *, narrow: bool) -> Any:
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
            misfit = "" if law.misfit is None or law.law == "none" else f"{law.misfit:.1e}"
            misfit = "0" if law.misfit == 0 else misfit
            cells = [cells[0], _words(law), cells[1], str(law.frames or ""), misfit]
        table.add_row(_name(law), *cells)
    return table


def _name(law: Law) -> str:
    return f"{law.track} position" if law.phase == "position" else law.phase


def rule_text(law: Law) -> str:
    """Return a law as a line of pseudo-code."""
    writer = _RULES.get(law.law)
    return writer(law) if writer is not None else "—"


def _axis(law: Law) -> str:
    return "speed" if law.track == "travel" else "rise"


def _acceleration(law: Law) -> str:
    near = next((item.value for item in law.constants if item.name == "below"), None)
    limit = "" if near is None else f"   while |rise| < {plain(near)}"
    return _gain(law) + limit


def _gain(law: Law) -> str:
    a, step = law.value("acceleration"), law.frame
    sign = "-" if a < 0 else "+"
    if law.clock == "frame":
        return f"{_axis(law)} {sign}= {plain(abs(a) * step)}   each frame"
    if law.clock == "square":
        return f"{_axis(law)} {sign}= {plain(abs(a) / step)}·dt·dt"
    return f"{_axis(law)} {sign}= {plain(abs(a))}·dt"


def _factor(law: Law) -> str:
    if law.clock == "frame":
        return plain(law.value("factor"))
    if law.clock == "first-order":
        return f"(1 − {plain(law.value('rate'))}·dt)"
    return f"exp(−{plain(law.value('rate'))}·dt)"


def _smoothing(law: Law) -> str:
    return f"{_axis(law)} += ({plain(law.value('goal'))} − {_axis(law)})·(1 − {_factor(law)})"


def _drive(law: Law) -> str:
    speed, a = _axis(law), law.value("acceleration")
    step = {
        "frame": plain(abs(a) * law.frame),
        "square": f"{plain(abs(a) / law.frame)}·dt·dt",
    }.get(law.gain, f"{plain(abs(a))}·dt")
    sign = "−" if a < 0 else "+"
    if law.friction_first:
        return f"{speed} = {speed}·{_factor(law)} {sign} {step}"
    return f"{speed} = ({speed} {sign} {step})·{_factor(law)}"


def _position(law: Law) -> str:
    theta, scale = law.value("theta"), law.value("scale")
    size = "" if abs(scale - 1) < 1e-3 else f"{plain(scale)}·"
    if abs(theta - 1) < 0.02:
        return f"position += {size}new speed·dt"
    if abs(theta) < 0.02:
        return f"position += {size}old speed·dt"
    if abs(theta - 0.5) < 0.02:
        return f"position += {size}mean of both speeds·dt"
    return f"position += {size}({plain(1 - theta)}·old + {plain(theta)}·new speed)·dt"


def _cut(law: Law) -> str:
    names = {item.name for item in law.constants}
    if "factor" in names:
        return f"rise *= {plain(law.value('factor'))}   when jump is let go"
    return f"rise = {plain(law.value('speed'))}   when jump is let go"


def _clamp(law: Law) -> str:
    if law.track == "vertical":
        return f"rise = max(rise, {plain(law.value('speed'))})"
    return f"speed = min(speed, {plain(law.value('speed'))})"


_THROWS = {"takeoff": "takeoff", "air jump": "a jump in the air", "dash": "a dash"}
_RULES: dict[str, Callable[[Law], str]] = {
    "constant-acceleration": _acceleration,
    "friction": lambda law: f"{_axis(law)} *= {_factor(law)}",
    "smoothing": _smoothing,
    "drive": _drive,
    "instant": lambda law: f"{_axis(law)} = {plain(law.value('speed'))}   at once",
    "constant-speed": lambda law: f"{_axis(law)} = {plain(law.value('speed'))}",
    "position-rule": _position,
    "impulse": lambda law: f"{_axis(law)} = {plain(law.value('speed'))}   at {_THROWS[law.phase]}",
    "clamp": _clamp,
    "cut": _cut,
    "timer": lambda law: f"{law.phase.removesuffix(' time')} time {plain(law.value('seconds'))} s",
    "order": lambda law: "collide, then move" if law.value("lag") else "move, then collide",
}


def _words(law: Law) -> str:
    """Return what a law is, in words."""
    if law.law == "none":
        return "no rule told"
    words = _WORDS.get(law.law, law.law.replace("-", " "))
    return words + _CLOCKS.get(law.clock, "")


_CLOCKS = {"frame": ", per frame", "square": ", step twice"}
_WORDS = {
    "smoothing": "smoothing toward a speed",
    "drive": "acceleration and friction",
    "clamp": "held at a limit",
    "impulse": "set at once",
    "cut": "cut short",
    "order": "order at the floor",
}


def _constants(law: Law) -> str:
    parts = []
    for item in law.constants:
        known = item.stderr is not None and item.stderr > _EXACT * abs(item.value)
        error = f" ± {item.stderr:.1g}" if known else ""
        unit = f" {item.unit}" if item.unit else ""
        text = f"{item.name} {plain(item.value)}{error}{unit}"
        if item.unit == "frames":
            text = f"{item.value:.4g}{error} frames"
        if item.name == "acceleration":
            per_frame = plain(item.value * law.frame)
            text += f" ({per_frame} {item.unit.removesuffix('²')} a frame)"
        parts.append(text)
    return ", ".join(parts)


def _told(item: Consequence) -> str:
    return f"{item.what} {plain(item.value)} {item.unit}"
