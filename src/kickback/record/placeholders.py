"""What stands in a game's command: values go in once, as arguments, quoted for where they stand."""

import re
from collections.abc import Mapping, Sequence

from kickback.errors import UsageError

__all__ = ["PLACEHOLDERS", "filled"]

PLACEHOLDERS = (
    "address", "tcp", "udp", "ws", "rate", "parameters", "drill", "repeat", "name",
)  # fmt: skip
"""What may stand in a command in braces."""

_PLACE = re.compile(r"\{(" + "|".join(PLACEHOLDERS) + r")\}")
_PLAIN = re.compile(r"[\w./:@%+=,\-]*")
"""Words that mean themselves to any shell or interpreter."""

_CODE = re.compile(r"[\s'\"`$;&|<>()\\*?\[\]#~!]")
"""Marks that mean something to a shell: a word with any may be a script."""

_SHELLS = {"sh", "bash", "dash", "ksh", "zsh", "ash", "busybox"}
_NESTED = ("`", "$(", "${", "<<", "$'", '$"')
"""What begins a part of a script with rules of its own."""


def filled(words: Sequence[str], values: Mapping[str, str]) -> list[str]:
    """Return a command's words with values for what stands in braces, each put in once.

    Raises UsageError for a value that would be code where it stands.
    """
    return [_filled(word, words, index, values) for index, word in enumerate(words)]


def _filled(word: str, words: Sequence[str], index: int, values: Mapping[str, str]) -> str:
    script = _CODE.search(_PLACE.sub("", word)) is not None
    shell = script and _runs_shell(words, index)
    parts, end = [], 0
    for place in _PLACE.finditer(word):
        parts.append(word[end : place.start()])
        value = values[place[1]]
        if script and not _PLAIN.fullmatch(value):
            value = _quoted(value, word, place, shell=shell)
        parts.append(value)
        end = place.end()
    return "".join([*parts, word[end:]])


def _runs_shell(words: Sequence[str], index: int) -> bool:
    """Whether a word is what a shell is to run."""
    name = words[0].rpartition("/")[2]
    return name in _SHELLS and re.fullmatch(r"-\w*c", words[index - 1]) is not None


def _quoted(value: str, word: str, place: re.Match[str], *, shell: bool) -> str:
    """Return a value as the quotes that it stands in need it."""
    if not shell or any(mark in word for mark in _NESTED):
        raise UsageError(
            f"--run: '{value}' would be code where {place[0]} stands; write"
            f' "$KICKBACK_{place[1].upper()}" there, or give it as an argument of its own'
        )
    quote = _open_quote(word[: place.start()])
    if quote == "'":
        return value.replace("'", "'\\''")
    if quote == '"':
        return re.sub(r'([\\"$`])', r"\\\1", value)
    return "'" + value.replace("'", "'\\''") + "'"


def _open_quote(text: str) -> str:
    """Return the quote of a shell's script that is open at a text's end, or ""."""
    quote, escaped = "", False
    for mark in text:
        if escaped:
            escaped = False
        elif mark == "\\" and quote != "'":
            escaped = True
        elif quote and mark == quote:
            quote = ""
        elif not quote and mark in "'\"":
            quote = mark
    return quote
