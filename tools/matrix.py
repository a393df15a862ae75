"""Runs the quick tests on every supported Python that is installed, each in a venv of its own."""

import os
import shutil
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[1]
PYTHONS = ("3.11", "3.12", "3.13")


def found(version: str) -> str | None:
    """Return the program of a Python version, where it is installed."""
    kept = sorted(Path.home().glob(f".pyenv/versions/{version}.*/bin/python"))
    return str(kept[-1]) if kept else shutil.which(f"python{version}")


def passes(version: str, program: str) -> bool:
    """Whether the quick tests pass on a Python version."""
    venv = ROOT / "build" / f"venv-{version}"
    pip = [str(venv / "bin" / "python"), "-m", "pip", "install", "--quiet"]
    steps = (
        [program, "-m", "venv", str(venv)],
        [*pip, "--disable-pip-version-check", "--editable", ".[dev]"],
        [str(venv / "bin" / "python"), "-m", "pytest", "-n", "auto", "-m", "not long"],
    )
    path = f"{venv / 'bin'}{os.pathsep}{os.environ['PATH']}"
    env = {**os.environ, "PATH": path}
    return all(subprocess.run(step, cwd=ROOT, env=env, check=False).returncode == 0
               for step in steps)  # fmt: skip


def main() -> int:
    """Say for each version whether it passes, fails, or is not installed."""
    failed = False
    for version in PYTHONS:
        program = found(version)
        word = "not installed"
        if program is not None:
            fine = passes(version, program)
            failed = failed or not fine
            word = "passes" if fine else "fails"
        sys.stdout.write(f"Python {version}: {word}\n")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
