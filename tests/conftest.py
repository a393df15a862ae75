"""What tests share: takes from plain columns, and the built program."""

import contextlib
import signal
import subprocess
import sys
from pathlib import Path

import pytest

from kickback.cli.main import main
from kickback.takes.build import build_take
from kickback.takes.header import Header

with contextlib.suppress(ValueError):  # only a main thread may
    # a run in the background ignores Ctrl-C, and programs that it starts would inherit that
    signal.signal(signal.SIGINT, signal.default_int_handler)

PROGRAM = Path(sys.executable).with_name("kickback")


def some(values, *keep):
    """Return cases of which all but those to ``keep`` belong to the long run alone."""
    return [one if one in keep else pytest.param(one, marks=pytest.mark.long) for one in values]


def quick(every):
    """Mark a long table of slow cases: the quick run keeps every so many of its rows."""
    return pytest.mark.quick(every)


@pytest.hookimpl(tryfirst=True)
def pytest_collection_modifyitems(items):
    """Mark the rows of long tables that the quick run leaves out."""
    seen = {}
    for item in items:
        mark = item.get_closest_marker("quick")
        if mark is None or item.get_closest_marker("long"):
            continue
        key = (item.path, item.originalname)
        seen[key] = seen.get(key, -1) + 1
        if seen[key] % mark.args[0]:
            item.add_marker(pytest.mark.long)


def take_of(columns, name="take", **header):
    """Return a take from plain columns; header keys as keywords."""
    header = {"length_unit": "m", **header}
    return build_take(Header(**header), columns, name=name)


def without(columns, *names):
    """Return columns without some of them."""
    return {name: column for name, column in columns.items() if name not in names}


@pytest.fixture
def program(tmp_path, monkeypatch):
    """Run the built program in a temporary folder; returns status, output and errors."""
    monkeypatch.chdir(tmp_path)

    def run(*arguments, stdin=b"", status=None):
        done = subprocess.run(
            [PROGRAM, *map(str, arguments)],
            input=stdin,
            capture_output=True,
            cwd=tmp_path,
            timeout=120,
            check=False,
        )
        return checked(done.returncode, done.stdout.decode(), done.stderr.decode(), status)

    return run


@pytest.fixture
def kickback(program, capsys):
    """Do the same without a process of its own, where the command needs none: far quicker.

    ``test_cli.py`` drives the built program throughout.
    """

    def run(*arguments, stdin=b"", status=None):
        if stdin or "-" in arguments or arguments[0] in {"record", "demo"}:
            return program(*arguments, stdin=stdin, status=status)
        capsys.readouterr()
        with pytest.raises(SystemExit) as stop:
            main([str(argument) for argument in arguments])
        return checked(stop.value.code, *capsys.readouterr(), status)

    return run


def checked(code, out, err, status):
    assert "Traceback" not in err, err
    if status is not None:
        assert code == status, (out, err)
    return code, out, err
