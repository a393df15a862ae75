"""Many takes on several cores: the same as on one, and what goes wrong is said as there."""

import json
import os

import numpy as np
import pytest

from conftest import some, take_of
from kickback.errors import InputError
from kickback.files.write import write_take
from kickback.kinds.measuring import measure
from kickback.kinds.models import simulate
from kickback.kinds.recovering import laws_of, recover_laws
from kickback.kinds.table import analyse
from kickback.takes.computed_once import computed_once
from kickback.takes.record import replace
from kickback.workflows import ahead, cores, reading
from kickback.workflows.cores import Cores

RATES = (30.0, 60.0)


@pytest.fixture
def folder(tmp_path):
    """Takes of a walker and a car, whose rules refer to all that a kind has of its own."""
    for kind, values in (
        ("foot", {"run_speed": 7.0}),
        ("vehicle", {"mistakes": "factor-per-frame"}),
    ):
        for rate in RATES:
            take = simulate(values, kind=kind, frame_rate=rate, jitter=0.05, seed=1)
            columns = {name: one[: int(6 * rate)] for name, one in take.columns.items()}
            (tmp_path / kind).mkdir(exist_ok=True)
            short = replace(take, columns=columns)
            write_take(short, tmp_path / kind / f"{kind}-{rate:g}.jsonl")
    return tmp_path


@pytest.mark.parametrize("kind", some(("foot", "vehicle"), "vehicle"))
@pytest.mark.parametrize(
    "call",
    some(
        (("measure",), ("measure", "--all"), ("framerate",), ("compare",), ("gate",)),
        ("measure", "--all"),
        ("framerate",),
        ("compare",),
    ),
)
def test_commands_say_the_same_on_two_cores(folder, kickback, monkeypatch, kind, call):
    patterns = [kind, kind] if call[0] == "compare" else [kind]
    one = kickback(*call, *patterns, "--format", "json", "--cores", 1)
    for module in (cores, reading):
        monkeypatch.setattr(module, "MANY", 2)
    two = kickback(*call, *patterns, "--format", "json", "--cores", 2)
    assert (one[0], json.loads(one[1])) == (two[0], json.loads(two[1]))
    assert one[2] == two[2]


def test_what_cannot_be_read_or_measured_is_said_as_on_one_core(folder, kickback, monkeypatch):
    (folder / "foot" / "broken.csv").write_text("t,x\n0,1\nzero,2\n")
    one = kickback("measure", "foot", status=2)
    for module in (cores, reading):
        monkeypatch.setattr(module, "MANY", 2)
    assert kickback("measure", "foot", "--cores", 2, status=2) == one
    assert "broken.csv, line 3" in one[2]


def test_processes_are_begun_where_they_pay():
    spread = Cores(2)
    assert not spread.pay([1000] * 39)
    assert spread.pay([1000] * 40)
    assert not spread.pay([399_999])
    assert spread.pay([200_000, 200_000])
    assert not Cores(1).pay([1000] * 100)
    own = os.getpid()
    with spread as one:
        assert set(one.each(_process, [0, 1, 2, 3], pays=False)) == {own}
        assert own not in set(one.each(_process, [0, 1, 2, 3], pays=True))


def _process(_):
    return os.getpid()


def test_results_come_back_with_the_families_of_this_process():
    analysis, jobs = analyse(simulate(kind="vehicle")), (recover_laws, measure)
    ahead.work_ahead([analysis], jobs, map)
    laws = laws_of.kept(analysis)[()]
    fresh = recover_laws(analyse(analysis.shown))
    assert [law.name for law in laws] == [law.name for law in fresh]
    assert all(a.family is b.family for a, b in zip(laws, fresh, strict=True))
    assert any(law.model is not None and law.model in law.family.models for law in laws)


def test_a_job_that_cannot_be_done_is_left_to_whoever_asks():
    n = np.arange(50)
    analysis = analyse(take_of({"t": n / 60, "x": n * 0.1, "z": n * 1.0}, kind="chair"))
    ahead.work_ahead([analysis], [measure], map)
    with pytest.raises(InputError, match="chair"):
        measure(analysis)


def test_what_is_known_of_an_object_can_be_kept():
    calls = []

    @computed_once
    def of(thing, more=0):
        calls.append(more)
        return more + 1

    class Thing:
        pass

    thing = Thing()
    of.keep(thing, {(1,): 9})
    assert (of(thing, 1), of(thing), of(thing)) == (9, 1, 1)
    assert calls == [0]
    assert of.kept(thing) == {(1,): 9, (): 1}
