"""What the core may do, what start-up may load, and that pages are those of the catalogue."""

import ast
import re
import subprocess
import sys
from pathlib import Path

import pytest
from tools import metric_pages

from conftest import PROGRAM

SOURCE = Path(__file__).parents[1] / "src" / "kickback"
CORE = (
    "errors.py", "takes", "motion", "findings", "metrics", "laws", "causes", "kinds", "judging",
    "framerate", "gate",
)  # fmt: skip
IN_OR_OUT = {
    "open", "print", "input", "read_text", "read_bytes", "write_text", "write_bytes", "mkdir",
    "unlink", "rename", "touch", "exists", "is_file", "is_dir", "iterdir", "glob", "tofile",
    "fromfile", "loadtxt", "savetxt", "genfromtxt", "system", "getenv",
}  # fmt: skip
"""Calls that read or write something: which module may import what, import-linter holds."""


def calls(path):
    """Yield the name of what each call of a file calls."""
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Call):
            yield getattr(node.func, "id", getattr(node.func, "attr", ""))


def test_the_core_reads_and_writes_nothing():
    for part in CORE:
        for path in [SOURCE / part] if part.endswith(".py") else (SOURCE / part).rglob("*.py"):
            assert not IN_OR_OUT & set(calls(path)), path


def test_no_assert_and_no_print_in_the_source():
    for path in SOURCE.rglob("*.py"):
        if path.parent.name != "senders":
            kinds = {type(node) for node in ast.walk(ast.parse(path.read_text()))}
            assert ast.Assert not in kinds, path
            prints = any(
                isinstance(n, ast.Name) and n.id == "print"
                for n in ast.walk(ast.parse(path.read_text()))
            )
            assert not prints, path


def test_public_names_are_listed_and_sorted():
    for path in SOURCE.rglob("*.py"):
        if path.parent.name == "senders":
            continue
        tree = ast.parse(path.read_text())
        listed = [
            ast.literal_eval(node.value)
            for node in tree.body
            if isinstance(node, ast.Assign) and getattr(node.targets[0], "id", "") == "__all__"
        ]
        if path.name not in {"__init__.py", "__main__.py"}:
            assert listed, path
        for names in listed:
            assert names == sorted(
                names, key=lambda name: (not name.isupper(), name.lower() == name, name)
            ), path


def loaded(*arguments, whole=False):
    """Return the packages that a call loads, or all modules by their whole names."""
    code = (
        "import sys\nfrom kickback.cli import main\n"
        f"try:\n main({list(arguments)!r})\nexcept SystemExit: pass\n"
        f"print(sorted({{name if {whole} else name.split('.')[0] for name in sys.modules}}),"
        " file=sys.stderr)"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    return set(ast.literal_eval(done.stderr.strip().splitlines()[-1]))


@pytest.mark.parametrize("arguments", [("--help",), ("measure", "--help"), ("--version",)])
def test_help_loads_no_heavy_library(arguments):
    heavy = {"numpy", "pandas", "scipy", "matplotlib", "pyarrow", "rich", "msgspec"}
    assert not heavy & loaded(*arguments)


@pytest.mark.parametrize(
    ("frames", "heavy"),
    [
        (60, {"pandas", "scipy", "matplotlib", "pyarrow"}),
        (200_000, {"pandas", "scipy", "matplotlib"}),
    ],
)
def test_measuring_loads_no_table_library_that_it_does_not_need(tmp_path, frames, heavy):
    path = tmp_path / "run.csv"
    rows = "".join(f"{n / 60:.4f},{n * 0.1:.3f},0.0\n" for n in range(1, frames))
    path.write_text("t,x,y\n" + rows)
    assert not heavy & loaded("measure", str(path))


def test_measuring_a_character_loads_no_law_no_model_and_no_other_kind(tmp_path):
    path = tmp_path / "run.csv"
    rows = "".join(f"{n / 60:.4f},{n * 0.1:.3f},0.0,1\n" for n in range(1, 60))
    path.write_text("t,x,y,in_move_x\n" + rows)
    every = loaded("measure", str(path), whole=True)
    assert not every & {"numpy.ma", "multiprocessing", "concurrent.futures"}
    mine = {name for name in every if "kickback" in name}
    for unused in ("laws.select", "laws.families.table", "foot.model", "foot.fit", "foot.reach",
                   "vehicle.metrics", "vehicle.motion", "shot.metrics", "shot.motion"):  # fmt: skip
        assert not {name for name in mine if unused in name}, unused


def test_the_program_is_installed():
    assert PROGRAM.exists()


def test_the_pages_of_metrics_are_those_of_the_catalogue():
    for name, text in metric_pages.pages().items():
        assert (metric_pages.FOLDER / name).read_text() == text, "make pages writes them anew"


def test_every_page_that_is_linked_is_there():
    root = SOURCE.parents[1]
    for page in [*root.glob("*.md"), *(root / "docs").rglob("*.md"), SOURCE / "senders/README.md"]:
        for link in re.findall(r"\]\(([^)#]+)(?:#[^)]*)?\)", page.read_text()):
            if "://" not in link:
                assert (page.parent / link).resolve().exists(), (page.name, link)
