"""Writes ``docs/metrics/`` from the catalogue: a page a group, and a list of all."""

import sys
from pathlib import Path

from kickback.kinds.table import all_metrics
from kickback.metrics.metric import Metric

FOLDER = Path(__file__).parents[1] / "docs" / "metrics"
MADE = "Made from the catalogue by `make pages`; `L` is the take's length unit.\n"


def pages() -> dict[str, str]:
    """Return the pages by file name."""
    groups: dict[str, list[Metric]] = {}
    for metric in all_metrics():
        groups.setdefault(metric.group, []).append(metric)
    found = {f"{group}.md": _page(group, metrics) for group, metrics in groups.items()}
    rows = [
        f"| [`{metric.name}`]({group}.md#{metric.part}) | {_unit(metric)} |"
        f" {metric.definition.split('. ')[0].rstrip('.')} |"
        for group, metrics in groups.items()
        for metric in metrics
    ]
    head = f"# Metrics\n\n{MADE}\n| metric | unit | what it is |\n|---|---|---|\n"
    return {"README.md": head + "\n".join(rows) + "\n", **found}


def _page(group: str, metrics: list[Metric]) -> str:
    parts = [f"# {group}\n\n{MADE}"]
    for metric in metrics:
        facts = [
            f"- formula: `{metric.formula}`",
            f"- unit: {_unit(metric)}",
            f"- of several stretches of a take: the {metric.combine.name}",
        ]
        if metric.needs:
            facts.append(f"- needs: {', '.join(role.name for role in metric.needs)}")
        if metric.depends:
            facts.append(f"- goes with: {'; '.join(one.words for one in metric.depends)}")
        if metric.source:
            facts.append(f"- source: {metric.source}")
        text = "\n".join(facts)
        parts.append(f"## {metric.part}\n\n**{metric.title}.** {metric.definition}\n\n{text}\n")
    return "\n".join(parts)


def _unit(metric: Metric) -> str:
    return str(metric.unit("L")) or "none"


if __name__ == "__main__":
    FOLDER.mkdir(parents=True, exist_ok=True)
    for name, text in pages().items():
        (FOLDER / name).write_text(text, encoding="utf-8")
    sys.stdout.write(f"{FOLDER}: {len(pages())} pages\n")
