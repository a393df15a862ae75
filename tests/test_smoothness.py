"""How even a motion is as it is shown: frame times, repeats, judder, on any display."""

import numpy as np
import pytest

from conftest import take_of, without
from kickback import measure
from kickback.motion.options import Options
from truth.moves import moves
from truth.recurrence import during

THERE_AND_BACK = during((0.5, 4, 1), (4.5, 7.5, -1))


def run(fps=60, jitter=0.0, digits=None, jump=lambda _: 0):
    dt = np.full(8 * fps, 1 / fps)
    dt = dt * np.random.default_rng(3).uniform(1 - jitter, 1 + jitter, len(dt))
    columns = moves(dt, THERE_AND_BACK, jump)
    columns["camera_x"] = columns["x"] - 1.0
    if digits is None:
        return columns
    return {
        n: np.round(c, digits[0] if n in {"t", "dt"} else digits[1]) for n, c in columns.items()
    }


def shown_at(columns, display, *, between=False):
    """Return what a display shows of steps: the last one, or drawn between the last two."""
    t = columns["t"]
    ticks = np.arange(t[1] + 1 / display, t[-1], 1 / display)
    row = np.searchsorted(t, ticks + 1e-9, side="right") - 1
    shown = {name: column[row] for name, column in columns.items()}
    if between:
        share = (ticks - t[row]) / (t[1] - t[0])
        for name in ("x", "y"):
            p = columns[name]
            shown[name] = p[row - 1] + share * (p[row] - p[row - 1])
    return {**shown, "t": ticks, "dt": np.full(len(ticks), 1 / display)}


def smoothness(columns, display=None, **header):
    found = measure(take_of(columns, **header), "smoothness", Options(display=display))
    return {row.metric.removeprefix("smoothness."): row for row in found}


@pytest.mark.parametrize("digits", [None, (4, 3), (3, 2)])
@pytest.mark.parametrize("jitter", [0.0, 0.3])
@pytest.mark.parametrize("rate", [30, 60, 144])
def test_sound_takes_show_nothing_uneven(rate, jitter, digits):
    columns = run(rate, jitter, digits)
    found = smoothness(columns, frame_rate=float(rate))
    for name in ("judder", "judder_length", "screen_judder", "repeats", "hitches"):
        row = found[name]
        assert row.value == 0 or (row.value is None and "rounded" in row.reason), name
    step = 1e3 * np.diff(run(rate, jitter)["t"])
    for name, share in (("frame_time", 0.5), ("frame_time_95", 0.95), ("frame_time_99", 0.99),
                        ("longest_frame", 1.0)):  # fmt: skip
        row = found[name]
        assert abs(row.value - np.quantile(step, share)) <= row.resolution + 1e-2 * (
            digits is not None
        )
    over = np.mean(step > 1.1 * 1e3 / rate)
    assert abs(found["over_budget"].value - over) <= found["over_budget"].resolution + 1e-9


@pytest.mark.parametrize("rate", [30, 60, 144])
def test_one_place_off_is_the_judder_of_its_size(rate):
    """A frame in eight that is off by d bends the path by d, 2d and d: √(6/8)·d in all."""
    columns, off = run(rate), 0.02
    columns["x"] = columns["x"] + off * (np.arange(len(columns["x"])) % 8 == 3)
    row = smoothness(columns)["judder_length"]
    assert row.value == pytest.approx(np.sqrt(6 / 8) * off, rel=0.05)
    assert smoothness(columns)["judder"].value == pytest.approx(row.value * rate / 8.0, rel=1e-6)


def test_a_camera_by_another_clock_trembles_on_the_screen_alone():
    columns = run(144)
    late = columns["x"][np.maximum(np.arange(len(columns["x"])) // 3 * 3, 0)]
    found = smoothness({**columns, "camera_x": late - 1.0})
    assert found["judder"].value == 0
    assert found["screen_judder"].value > 0.5


@pytest.mark.parametrize(("physics", "display"), [(50, 144), (60, 240), (48, 60)])
def test_a_slow_step_under_a_faster_display_repeats_frames(physics, display):
    for row in (
        smoothness(run(physics), display=float(display))["repeats"],
        smoothness(shown_at(run(physics), display))["repeats"],
    ):
        assert row.value == pytest.approx(1 - physics / display, abs=0.02)
    assert smoothness(run(physics), display=float(physics))["repeats"].value == 0


def test_what_is_drawn_between_steps_is_late_by_one():
    jumping = run(50, jump=during((1, 1.5, 1), (2.5, 3, 1), (5, 5.5, 1)))
    drawn = smoothness(without(shown_at(jumping, 144, between=True), "camera_x"))
    assert drawn["drawn_late"].value == pytest.approx(20.0, rel=1e-3)
    assert smoothness(run())["drawn_late"].value is None


def test_a_hitch_is_counted_and_a_pause_is_none():
    columns = run()
    for wait, many, longest in ((0.1, 1, 0.1 + 1 / 60), (2.0, 0, 1 / 60)):
        t = columns["t"] + wait * (np.arange(len(columns["t"])) >= 200)
        dt = np.diff(t, prepend=0.0) if wait < 1 else columns["dt"]
        found = smoothness({**columns, "t": t, "dt": dt})
        assert found["hitches"].value == many
        assert found["longest_frame"].value == pytest.approx(1e3 * longest)


def test_the_display_is_said_on_the_command_line(program, tmp_path):
    program("simulate", "--rate", "50", "-o", "a.csv", status=0)
    _, plain, _ = program("measure", "a.csv", "--only", "smoothness.repeats", status=0)
    _, shown, _ = program(
        "measure", "a.csv", "--only", "smoothness.repeats", "--display", "144", status=0
    )
    assert " 0 " in plain
    assert "0.64" in shown or "0.65" in shown
    assert "not in the range x>0" in program("measure", "a.csv", "--display", "0", status=2)[2]
