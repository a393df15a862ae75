"""The error tree. Every message says what is wrong, where, and what would be right.

This module imports nothing, so that anything may import it.
"""

__all__ = ["InputError", "KickbackError", "UsageError", "close_to", "nearest"]


class KickbackError(Exception):
    """Anything that a user can cause: shown as one sentence, exit status 2."""


class UsageError(KickbackError):
    """A call that cannot be carried out as it was written."""


class InputError(KickbackError):
    """A file or stream that cannot be read as what it should be.

    ``place`` is where the fault is (``"run.csv, line 7, column x"``); the text
    starts with it.
    """

    def __init__(self, message: str, place: str = "") -> None:
        """Join the place and the message to one sentence."""
        super().__init__(f"{place}: {message}" if place else message)


def close_to(name: str, names: list[str]) -> list[str]:
    """Return the few of ``names`` that are spelt nearly as ``name``, or hold it."""
    import difflib

    close = difflib.get_close_matches(name, names, n=2, cutoff=0.6)
    return close or [item for item in names if name.lower() in item.lower()][:3]


def nearest(name: str, known: object) -> str:
    """Return a hint such as ``"; did you mean 'x'?"`` or a list of what there is.

    ``known`` is an iterable of names. Close spellings come first; without any, up to
    twelve known names are listed; without known names the hint is empty.
    """
    names = [str(item) for item in known]  # type: ignore[attr-defined]
    close = close_to(name, names)
    if close:
        return "; did you mean " + " or ".join(f"'{item}'" for item in close) + "?"
    if not names:
        return ""
    shown = ", ".join(names[:12]) + (", …" if len(names) > 12 else "")
    return f"; there is: {shown}"
