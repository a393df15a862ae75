"""Names from a wire or a file as names of files: none leads out of its folder."""

__all__ = ["distinct_stems", "file_stem", "safe_name"]

_LONGEST = 200
"""Bytes of a name, less than any file system's limit with an ending and a number."""


def safe_name(name: str) -> str:
    """Return a name from the wire as one of letters, digits, ``-`` and ``_``."""
    kept = "".join(mark if mark.isalnum() or mark in "-_" else "-" for mark in name[:_LONGEST])
    while len(kept.encode()) > 60:
        kept = kept[:-1]
    return kept.strip("-") or "take"


def file_stem(name: str) -> str:
    """Return a name as a file's, without an ending; it carries no path and hides nothing."""
    kept = "".join(
        mark if mark.isprintable() and mark not in '/\\:*?"<>|' else "-" for mark in name[:_LONGEST]
    )
    while len(kept.encode()) > _LONGEST:
        kept = kept[:-1]
    return kept.strip("-. ") or "take"


def distinct_stems(names: list[str]) -> list[str]:
    """Return names of files for names of takes, each another one."""
    found: list[str] = []
    for name in map(file_stem, names):
        number, stem = 1, name
        while stem in found:
            number += 1
            stem = f"{name}-{number}"
        found.append(stem)
    return found
