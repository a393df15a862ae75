"""The table of output formats that other tools read. Light: what writes one loads when used."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from kickback.takes.plain import PlainMap

__all__ = ["FORMATS", "Format", "format_named"]

Records = Sequence[PlainMap]
Case = tuple[str, str, str | None]
"""A case of a verdict: its name, what it says, and the failure, or None."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Format:
    """One format: ``write`` takes flat records; ``verdicts_only`` cases, with the suite's name."""

    name: str
    write: Callable[..., str]
    verdicts_only: bool = False

    def __post_init__(self) -> None:
        """Refuse an entry that cannot work, when it is made: at import."""
        if not self.name or not callable(self.write):
            raise TypeError(f"the format '{self.name}' is incomplete")


def _json(records: Records) -> str:
    from kickback.show.records import as_json

    return as_json(records)


def _csv(records: Records) -> str:
    from kickback.show.records import as_csv

    return as_csv(records)


def _markdown(records: Records) -> str:
    from kickback.show.records import as_markdown

    return as_markdown(records)


def _junit(suite: str, cases: Sequence[Case]) -> str:
    from kickback.show.records import as_junit

    return as_junit(suite, cases)


FORMATS = (
    Format(name="json", write=_json),
    Format(name="csv", write=_csv),
    Format(name="markdown", write=_markdown),
    Format(name="junit", write=_junit, verdicts_only=True),
)
"""The formats beside text, in the order in which help lists them."""


def format_named(name: str) -> Format:
    """Return a format; KeyError where there is none of that name."""
    for one in FORMATS:
        if one.name == name:
            return one
    raise KeyError(name)
