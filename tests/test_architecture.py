"""The import table of the design, and what start-up may load."""

import ast
import subprocess
import sys
from pathlib import Path

import pytest

from conftest import PROGRAM

SOURCE = Path(__file__).parents[1] / "src" / "kickback"
MAY_IMPORT = {
    "errors": set(),
    "takes": {"errors"},
    "models": {"errors", "takes"},
    "motion": {"errors", "takes"},
    "integrity": {"errors", "takes", "motion"},
    "laws": {"errors", "takes", "motion"},
    "metrics": {"errors", "takes", "motion"},
    "framerate": {"errors", "takes", "motion", "laws", "metrics"},
    "comparison": {"errors", "takes", "motion", "metrics"},
    "files": {"errors", "takes"},
    "record": {"errors", "takes", "files"},
    "project": {"errors", "takes", "models", "motion", "metrics", "files"},
    "workflows": {
        "errors",
        "takes",
        "models",
        "motion",
        "integrity",
        "laws",
        "metrics",
        "framerate",
        "comparison",
        "files",
        "record",
        "project",
    },
    "show": {
        "takes",
        "motion",
        "integrity",
        "laws",
        "metrics",
        "framerate",
        "comparison",
        "workflows",
    },
}
ONLY_IN = {
    "click": {"cli"},
    "matplotlib": {"show"},
    "rich": {"show"},
    "socket": {"record"},
    "pyarrow": {"files"},
    "websockets": {"record"},
}
CORE = {"takes", "models", "motion", "integrity", "laws", "metrics", "framerate", "comparison"}


def imports():
    """Yield (file, its package, what it imports) for every import of the source."""
    for path in SOURCE.rglob("*.py"):
        package = path.relative_to(SOURCE).parts[0].removesuffix(".py")
        for node in ast.walk(ast.parse(path.read_text())):
            names = []
            if isinstance(node, ast.Import):
                names = [alias.name for alias in node.names]
            elif isinstance(node, ast.ImportFrom) and node.module:
                names = [node.module]
            for name in names:
                yield path, package, name


def test_imports_go_one_way():
    for path, package, name in imports():
        if package in {"cli", "__init__", "__main__"} or not name.startswith("kickback."):
            continue
        target = name.split(".")[1]
        assert target == package or target in MAY_IMPORT[package], (path.name, name)


def test_packages_stand_only_where_they_belong():
    for path, package, name in imports():
        top = name.split(".")[0]
        assert package in ONLY_IN.get(top, {package}), (path.name, name)
        if top == "matplotlib":
            assert path.parent.name == "figures"


def test_the_core_reads_and_writes_nothing():
    for path in SOURCE.rglob("*.py"):
        package = path.relative_to(SOURCE).parts[0]
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Assert):
                pytest.fail(f"assert in {path}")
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Name):
                assert node.func.id != "print", path
                assert not (package in CORE and node.func.id == "open"), path


def test_public_names_are_listed_and_sorted():
    for path in SOURCE.rglob("*.py"):
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


def loaded(*arguments):
    code = (
        "import sys\nfrom kickback.cli import main\n"
        f"try:\n main({list(arguments)!r})\nexcept SystemExit: pass\n"
        "print(sorted({name.split('.')[0] for name in sys.modules}), file=sys.stderr)"
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


def test_the_program_is_installed():
    assert PROGRAM.exists()
