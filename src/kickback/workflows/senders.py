"""``senders``: what a game sends frames with, copied beside it."""

from collections.abc import Sequence
from importlib import resources
from pathlib import Path

from kickback.errors import UsageError, nearest
from kickback.files.atomic import write_new
from kickback.takes.record import Record

__all__ = ["LANGUAGES", "Language", "copy_senders"]


class Language(Record, frozen=True, kw_only=True):
    """A language's sender: the file to copy, its examples, and what it runs on."""

    name: str
    sender: str
    examples: tuple[str, ...]
    about: str


LANGUAGES = (
    Language(
        name="python",
        sender="kickback_sender.py",
        examples=("example.py",),
        about="Python 3.8 and newer; over TCP, UDP, a file or a pipe",
    ),
    Language(
        name="js",
        sender="kickback_sender.js",
        examples=("example.js", "example.html"),
        about="browsers over WebSocket, Node over TCP too",
    ),
    Language(
        name="c",
        sender="kickback_sender.h",
        examples=("example.c",),
        about="C99 and C++, one header; over TCP",
    ),
    Language(
        name="csharp",
        sender="kickback_sender.cs",
        examples=("example.cs",),
        about="C#; over TCP",
    ),
    Language(
        name="lua",
        sender="kickback_sender.lua",
        examples=("example.lua",),
        about="Lua 5.1 and newer; over a file, a pipe or a function of the host",
    ),
)
"""The languages; another one is its files and one entry here."""


def copy_senders(names: Sequence[str], folder: Path, *, force: bool = False) -> list[Path]:
    """Copy senders with their examples into a folder; returns the files.

    Raises UsageError for a language that there is no sender for, InputError for a file that
    exists, unless ``force`` is set; nothing is copied then.
    """
    known = {one.name: one for one in LANGUAGES}
    for name in names:
        if name not in known:
            raise UsageError(f"no sender for '{name}'{nearest(name, known)}")
    source = resources.files("kickback") / "senders"
    files = [file for name in names for file in (known[name].sender, *known[name].examples)]
    contents = {folder / file: (source / file).read_bytes() for file in files}
    for path in contents:
        if path.exists() and not force:
            raise UsageError(f"{path} exists already; --force replaces it")
    for path, data in contents.items():
        write_new(path, data, replace=force)
    return list(contents)
