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


THINNED = {
    "test_each_mistake_is_found_and_nothing_else": 5,
    "test_causes_are_told_over_a_plane": 6,
    "test_what_could_exhaust_memory_is_refused": 3,
    "test_every_law_of_the_model_is_recovered": 2,
    "test_gravity_and_drag_are_told_from_exact_uneven_and_printed_takes": 2,
    "test_the_cure_works": 5,
    "test_two_mistakes_are_both_named": 4,
    "test_each_mistake_is_named_alone": 4,
    "test_calls_that_make_no_sense_are_refused": 2,
    "test_calls_that_could_do_harm_are_refused": 2,
    "test_correct_controllers_have_no_finding": 3,
    "test_a_game_is_run_at_every_rate": 2,
    "test_a_bad_take_is_one_sentence_and_status_2": 2,
    "test_bodies_of_physics_libraries_keep_their_metrics_at_other_rates": 2,
    "test_numbers_come_back_within_their_errors_and_play_alike": 3,
    "test_c": 2,
    "test_a_large_file_is_read_in_blocks_and_names_its_lines": 2,
    "test_the_speeds_that_labels_follow_are_told_and_how_late": 2,
    "test_the_stand_in_game_sends_over_every_network_source": 2,
    "test_a_take_in_other_units_gives_the_same_numbers": 2,
    "test_sound_takes_give_no_finding": 3,
    "test_turns_take_as_long_as_their_rule_says": 4,
    "test_the_built_in_character_goes_over_a_plane": 2,
    "test_a_missing_time_step_breaks_what_it_moves": 2,
    "test_correct_code_passes_without_any_setting": 2,
    "test_odd_takes_are_taken_calmly": 3,
    "test_odd_takes_can_be_drawn": 2,
    "test_contact_that_flickers_changes_nothing": 4,
    "test_each_mistake_changes_how_its_term_scales": 3,
    "test_labels_of_the_model_are_read_and_their_faults_found": 2,
    "test_what_the_frame_rates_show_is_fitted_too": 3,
    "test_each_kind_of_movement_has_parameters_of_its_own": 2,
    "test_a_leap_is_exact_in_the_loop_for_each_order_and_rate": 2,
    "test_a_fault_of_the_code_is_found_and_nothing_else": 2,
    "test_dashes_air_jumps_and_sustained_rises_are_read_off": 2,
    "test_uneven_steps_tell_the_laws_and_the_order_without_a_velocity": 3,
    "test_bodies_of_physics_libraries_over_a_plane": 2,
    "test_one_take_with_uneven_times_lets_suspect": 2,
    "test_without_a_velocity_column_times_stay_within_half_a_frame": 3,
    "test_the_wheel_turns_by_the_time_or_by_the_way": 2,
    "test_grip_is_read_while_it_turns_and_after": 2,
    "test_forces_and_resistances_are_told_apart": 2,
    "test_plot_draws_takes_over_each_other": 2,
    "test_frames_of_the_takeoff_are_those_of_a_plain_loop": 2,
}
"""Long tables of slow cases: every so many of their rows are quick, all others long."""


@pytest.hookimpl(tryfirst=True)
def pytest_collection_modifyitems(items):
    """Mark the rows of long tables that the quick run leaves out."""
    seen = {}
    for item in items:
        name = getattr(item, "originalname", item.name)
        if name not in THINNED or item.get_closest_marker("long"):
            continue
        key = (item.path, name)
        seen[key] = seen.get(key, -1) + 1
        if seen[key] % THINNED[name]:
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
