"""What nobody foresaw: the details of a fault of the program, kept in a file for a report."""

import platform
import tempfile
import traceback
from pathlib import Path

__all__ = ["kept_report"]


def kept_report(error: BaseException, version: str) -> str:
    """Write a fault's details to a new file and return its name; "" where none can be written.

    The file is made under a name of its own in the folder for temporary files.
    """
    lines = [
        f"kickback {version}, Python {platform.python_version()}, {platform.platform()}\n\n",
        *traceback.format_exception(error),
    ]
    try:
        with tempfile.NamedTemporaryFile(
            "w",
            prefix="kickback-fault-",
            suffix=".txt",
            delete=False,
            encoding="utf-8",
            errors="backslashreplace",
        ) as file:
            file.writelines(lines)
    except OSError:
        return ""
    return str(Path(file.name))
