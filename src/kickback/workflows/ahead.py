"""What takes will be asked for, worked out ahead of it: many at once, by other processes."""

import pickle
from collections.abc import Callable, Iterable, Sequence
from contextlib import suppress
from functools import partial
from io import BytesIO
from typing import TypeAlias

from kickback.errors import KickbackError
from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.examining import findings_of
from kickback.kinds.kind import AnyKind
from kickback.kinds.measuring import row_of
from kickback.kinds.recovering import laws_of
from kickback.laws.families.table import FAMILIES

__all__ = ["Each", "Job", "work_ahead"]

Job: TypeAlias = Callable[[AnyAnalysis], object]
"""What is asked of an analysis: a function that another process finds by its name."""

Each: TypeAlias = Callable[[Callable[[AnyAnalysis], bytes], Sequence[AnyAnalysis]], Iterable[bytes]]
"""Applies a function to each of some things, in their order."""


def work_ahead(
    analyses: Sequence[AnyAnalysis],
    jobs: Sequence[Job],
    each: Each,
    track: Callable[[Sequence[AnyAnalysis]], Iterable[AnyAnalysis]] = iter,
) -> None:
    """Do jobs for each analysis through ``each``, and keep what they worked out.

    What goes wrong in one is left to whoever asks for it then. ``track`` goes through analyses as
    they are done, and may show how far it is.
    """
    done = each(partial(_done, tuple(jobs)), analyses)
    for analysis, told in zip(track(analyses), done, strict=True):
        rows, findings, laws = pickle.loads(told)  # noqa: S301 - of a process of our own
        row_of.keep(analysis, rows)
        findings_of.keep(analysis, findings)
        if laws:
            laws_of.keep(analysis, _Reader(laws, analysis.kind).load())


def _done(jobs: Sequence[Job], analysis: AnyAnalysis) -> bytes:
    """Return what jobs make of an analysis: measurements, findings and laws."""
    for job in jobs:
        with suppress(KickbackError):
            job(analysis)
    laws = BytesIO()
    if laws_of.kept(analysis):
        _Writer(laws, analysis.kind).dump(laws_of.kept(analysis))
    told = (row_of.kept(analysis), findings_of.kept(analysis), laws.getvalue())
    return pickle.dumps(told, protocol=pickle.HIGHEST_PROTOCOL)


def _named(kind: AnyKind) -> dict[str, object]:
    """Return what laws refer to and every process has of its own, by name."""
    found: dict[str, object] = {}
    for family in (*FAMILIES, *kind.rules.families):
        found[family.name] = family
        for i, model in enumerate(family.models):
            found[f"{family.name} {i}"] = model
            found |= {f"{family.name} {i} {j}": term for j, term in enumerate(model.terms)}
    return found


class _Writer(pickle.Pickler):
    """Writes results; what every process has of its own is written by name."""

    def __init__(self, file: BytesIO, kind: AnyKind) -> None:
        super().__init__(file, protocol=pickle.HIGHEST_PROTOCOL)
        self._names = {id(one): name for name, one in _named(kind).items()}

    def persistent_id(self, of: object) -> str | None:
        """Return the name of what is not written."""
        return self._names.get(id(of))


class _Reader(pickle.Unpickler):
    """Reads what another process of this program has written."""

    def __init__(self, text: bytes, kind: AnyKind) -> None:
        super().__init__(BytesIO(text))
        self._found = _named(kind)

    def persistent_load(self, name: str) -> object:
        """Return what this process has by that name."""
        return self._found[name]
