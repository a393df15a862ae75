"""What is not printable, made visible: the one place that all output goes through.

What a file or a sender holds may stand in any sentence. Terminals obey characters that
they do not show (clear the screen, fill the clipboard, rename the window): none leaves the
program as it came.
"""

import re

__all__ = ["as_line", "in_json", "visible"]

_SPACES = {"\n", "\t"}
"""What is not printable and yet harmless: it is what lines and tables are made of."""

_WORD = re.compile(r"[^\x20-\x7e\n\t]+")


def visible(text: str) -> str:
    """Return a text of which every character can be seen, line ends and tabs aside."""
    return _WORD.sub(lambda found: "".join(map(_shown, found[0])), text)


def as_line(text: str) -> str:
    """Return a text on one line: a line end in it is shown, and begins no other sentence."""
    return visible(text).replace("\n", "\\n").replace("\t", " ")


def in_json(text: str) -> str:
    """Return JSON that means the same, of which every character can be seen."""
    return _WORD.sub(lambda found: "".join(map(_in_json, found[0])), text)


def _shown(mark: str) -> str:
    if mark.isprintable() or mark in _SPACES:
        return mark
    # as Python writes it: \x1b, \u202e
    return mark.encode("unicode_escape", "surrogatepass").decode("ascii")


def _in_json(mark: str) -> str:
    if mark.isprintable() or mark in _SPACES:
        return mark
    units = mark.encode("utf-16-be", "surrogatepass")
    return "".join(f"\\u{units[k]:02x}{units[k + 1]:02x}" for k in range(0, len(units), 2))
