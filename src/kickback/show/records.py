"""Flat records as JSON, CSV, Markdown and JUnit."""

import csv
import io
import json
import math
from collections.abc import Sequence

from kickback.show.formats import format_named
from kickback.show.visible import as_line, in_json, visible
from kickback.takes.plain import PlainMap

__all__ = ["as_csv", "as_json", "as_junit", "as_markdown", "render_records"]

Record = PlainMap

_FORMULA = ("=", "+", "-", "@", "\t", "\r")
"""What a spreadsheet takes for the beginning of a formula."""


def render_records(records: Sequence[Record], how: str) -> str:
    """Return records in a format, by its name."""
    return format_named(how).write(records)


def as_json(records: Sequence[Record]) -> str:
    """Return one JSON array of flat objects, full precision, null for what is missing."""
    clean = [{key: _finite(value) for key, value in record.items()} for record in records]
    return in_json(json.dumps(clean, indent=1, ensure_ascii=False))


def as_csv(records: Sequence[Record]) -> str:
    """Return a table with a header line; empty cells for what is missing."""
    if not records:
        return ""
    text = io.StringIO(newline="")
    writer = csv.DictWriter(text, fieldnames=list(records[0]), lineterminator="\n")
    writer.writeheader()
    writer.writerows(
        {key: _csv_cell(_finite(value)) for key, value in record.items()} for record in records
    )
    return text.getvalue().rstrip("\n")


def as_markdown(records: Sequence[Record]) -> str:
    """Return a Markdown table; numbers with six significant digits."""
    if not records:
        return ""
    names = list(records[0])
    lines = ["| " + " | ".join(names) + " |", "|" + " --- |" * len(names)]
    lines += ["| " + " | ".join(_cell(record[name]) for name in names) + " |" for record in records]
    return "\n".join(lines)


def as_junit(suite: str, cases: Sequence[tuple[str, str, str | None]]) -> str:
    """Return a JUnit XML report of ``(name, what it says, failure or None)`` cases."""
    from xml.etree import ElementTree as ET

    failures = sum(failure is not None for _, _, failure in cases)
    counts = {"tests": str(len(cases)), "failures": str(failures)}
    root = ET.Element("testsuite", {"name": visible(suite), **counts})
    for name, text, failure in cases:
        case = ET.SubElement(root, "testcase", classname=visible(suite), name=as_line(name))
        if failure is not None:
            ET.SubElement(case, "failure", message=as_line(failure)).text = visible(text)
        else:
            ET.SubElement(case, "system-out").text = visible(text)
    ET.indent(root)
    return ET.tostring(root, encoding="unicode", xml_declaration=True)


def _finite(value: object) -> object:
    return None if isinstance(value, float) and not math.isfinite(value) else value


def _csv_cell(value: object) -> object:
    """Return a cell that is text to a spreadsheet too: none that it takes for a formula."""
    if not isinstance(value, str):
        return value
    return f"'{as_line(value)}" if value.lstrip()[:1] in _FORMULA else as_line(value)


def _cell(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, float):
        return f"{value:.6g}"
    return as_line(str(value)).replace("|", "\\|")
