"""What of a long work is done already, beside its result, so that it can go on where it stopped."""

import json
from collections.abc import Sequence
from hashlib import sha256
from pathlib import Path

from kickback.errors import InputError
from kickback.takes.plain import PlainDict, PlainMap

__all__ = ["Journal"]


class Journal:
    """Lines of JSON in ``RESULT.part``: first what the work is, then one a piece that is done.

    A line that was cut off counts for nothing. Raises InputError where the file is that of
    another work.
    """

    def __init__(self, result: Path, work: PlainMap) -> None:
        self.result = result
        self.path = result.with_name(f"{result.name}.part")
        self._mark = sha256(json.dumps(work, sort_keys=True).encode()).hexdigest()
        self.done: list[PlainDict] = []
        self._begun = self._read()

    def _read(self) -> bool:
        if not self.path.exists():
            return False
        try:
            text = self.path.read_text(encoding="utf-8")
        except (OSError, ValueError) as error:
            raise InputError(f"cannot be read ({error})", str(self.path)) from error
        rows = []
        for line in text.splitlines():
            try:
                rows.append(json.loads(line))
            except ValueError:
                break
        if not rows or not isinstance(rows[0], dict) or rows[0].get("work") != self._mark:
            raise InputError(
                "is what is done of another call; --force begins this one anew", str(self.path)
            )
        self.done = rows[1:]
        return True

    def add(self, pieces: Sequence[PlainMap]) -> None:
        """Keep pieces that are done."""
        self.path.parent.mkdir(parents=True, exist_ok=True)
        with self.path.open("a" if self._begun else "w", encoding="utf-8") as file:
            if not self._begun:
                file.write(json.dumps({"work": self._mark}) + "\n")
                self._begun = True
            file.writelines(json.dumps(piece) + "\n" for piece in pieces)

    def remove(self) -> None:
        """Take the file away: the result is written."""
        self.path.unlink(missing_ok=True)
