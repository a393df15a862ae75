"""Reading TOML files with errors that name the file and, where a key is at fault, its line."""

from pathlib import Path
from typing import Any

from kickback.errors import InputError

__all__ = ["key_line", "read_toml"]


def read_toml(path: Path, what: str) -> tuple[dict[str, Any], str]:
    """Return a TOML file's content and text; raises InputError naming ``what`` it should be."""
    import tomllib

    try:
        text = path.read_text(encoding="utf-8")
        return tomllib.loads(text), text
    except FileNotFoundError as error:
        raise InputError(f"no such {what}", str(path)) from error
    except (OSError, UnicodeDecodeError) as error:
        raise InputError(f"cannot be read as a {what} ({error})", str(path)) from error
    except tomllib.TOMLDecodeError as error:
        raise InputError(f"is not TOML: {error}", str(path)) from error


def key_line(path: Path, text: str, key: str, under: str = "") -> str:
    """Return ``"file, line n"`` for the first line that sets or opens ``key``.

    ``under`` is the table that it stands in; where it is not found there, anywhere.
    """
    import re

    plain = re.escape(key)
    pattern = re.compile(rf"""^\s*(?:\[+\s*)?(?:[\w.-]+\.)?["']?{plain}["']?\s*(?:[=\].]|\]\])""")
    table, anywhere = "", ""
    for number, line in enumerate(text.splitlines(), 1):
        opened = re.match(r"^\s*\[+\s*([^\[\]]+?)\s*\]", line)
        table = opened.group(1) if opened else table
        if pattern.match(line):
            here = f"{path}, line {number}"
            if not under or table == under:
                return here
            anywhere = anywhere or here
    return anywhere or str(path)
