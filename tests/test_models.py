"""The built-in model against plain recurrences, and what each mistake does to it."""

import numpy as np
import pytest

from conftest import quick, some
from kickback.errors import InputError, UsageError
from kickback.kinds.foot.model.drills import drill_from_mapping
from kickback.kinds.foot.model.parameters import MISTAKES, PARAMETERS, checked_values
from kickback.kinds.foot.model.simulate import simulate, simulate_many
from kickback.kinds.playing.steps import frame_steps
from truth.moves import moves
from truth.recurrence import THETA, during, play

SPANS = ((0.5, 2.0, 1), (3.0, 4.5, 1))
JUMP = (6.0, 6.6, 1)
DRILL = drill_from_mapping(
    {
        "length": 8.0,
        "input": [
            *({"at": a, "until": b, "move_x": v} for a, b, v in SPANS),
            {"at": JUMP[0], "until": JUMP[1], "jump": 1.0},
        ],
    },
    "test",
)


@pytest.mark.parametrize("jitter", [0.0, 0.3])
@pytest.mark.parametrize("order", THETA)
@pytest.mark.parametrize("law", ["constant", "smoothing"])
@pytest.mark.parametrize("rate", some([20, 60, 240], 20))
def test_the_model_is_the_plain_loop(rate, law, order, jitter):
    values = {"ground_movement": law, "integrator": order, "stop_rate": 9.0}
    take = simulate(values, DRILL, frame_rate=rate, jitter=jitter, seed=5)
    dt = frame_steps(rate, 8.0, jitter=jitter, seed=5)
    truth = play(
        dt,
        during(*SPANS),
        during(JUMP),
        theta=THETA[order],
        law={"constant": "constant", "smoothing": "exact"}[law],
    )
    for name in ("t", "dt", "x", "y", "vx", "vy", "touch_ground", "in_move_x", "in_jump"):
        # in the air the model keeps what little smoothing has left of the speed
        assert np.allclose(
            take.numbers(name), truth[name], atol=2e-5 if law == "smoothing" else 1e-9
        )


def test_friction_settles_where_drive_and_decay_balance():
    take = simulate({"ground_movement": "friction", "friction_rate": 6.0}, DRILL, frame_rate=60)
    keep = np.exp(-0.1)
    assert take.numbers("vx").max() == pytest.approx(40 / 60 * keep / (1 - keep), rel=1e-3)


def step_of(take, name, row=None):
    """Return the first change of a column, or the change into a row."""
    change = np.diff(take.numbers(name))
    return change[row if row is not None else np.flatnonzero(change)[0]]


def first_speed(take):
    return abs(step_of(take, "vx"))


def gravity_step(take):
    vy = take.numbers("vy")
    top = int(np.argmax(vy))
    return vy[top] - vy[top + 1]


def decay(take):
    v = take.numbers("vx")
    row = int(np.flatnonzero((v[1:] < v[:-1]) & (v[1:] > 0))[2])
    return -np.log(v[row + 1] / v[row])


def moved_per_speed(take):
    row = int(np.argmax(take.numbers("vx")))
    return step_of(take, "x", row + 2) / take.numbers("vx")[row + 2]


def takeoff(take):
    return take.numbers("vy").max() + gravity_step(take)


@quick(3)
@pytest.mark.parametrize(
    ("mistake", "measure", "movement", "power"),
    [
        (None, first_speed, "constant", -1),
        ("acceleration-per-frame", first_speed, "constant", 0),
        ("dt-twice", first_speed, "constant", -2),
        ("all-in-frames", first_speed, "constant", 0),
        (None, gravity_step, "constant", -1),
        ("gravity-per-frame", gravity_step, "constant", 0),
        ("all-in-frames", gravity_step, "constant", 0),
        (None, moved_per_speed, "constant", -1),
        ("position-per-frame", moved_per_speed, "constant", 0),
        ("all-in-frames", moved_per_speed, "constant", 0),
        (None, takeoff, "constant", 0),
        ("impulse-times-dt", takeoff, "constant", -1),
        (None, decay, "smoothing", -1),
        ("factor-per-frame", decay, "smoothing", 0),
        ("factor-per-frame", decay, "friction", 0),
    ],
)
def test_each_mistake_changes_how_its_term_scales(mistake, measure, movement, power):
    values = {"ground_movement": movement} | ({"mistakes": mistake} if mistake else {})
    slow, fast = (measure(simulate(values, DRILL, frame_rate=rate)) for rate in (60, 120))
    assert np.log2(fast / slow) == pytest.approx(power, abs=1e-6)


def test_a_mistake_changes_nothing_at_the_rate_it_was_tuned_at():
    plain = simulate({}, DRILL, frame_rate=60)
    for mistake in set(MISTAKES) - {"first-order-factor", "integration-order", "dt-clamped"}:
        other = simulate({"mistakes": mistake}, DRILL, frame_rate=60)
        assert np.allclose(other.numbers("x"), plain.numbers("x")), mistake
        assert np.allclose(other.numbers("y"), plain.numbers("y")), mistake


def test_a_first_order_factor_is_one_minus_rate_times_dt():
    values = {"ground_movement": "smoothing", "mistakes": "first-order-factor", "stop_rate": 6.0}
    assert decay(simulate(values, DRILL, frame_rate=60)) == pytest.approx(-np.log(0.9))


def test_a_clamped_step_slows_the_game_below_its_rate():
    slow = simulate({"mistakes": "dt-clamped"}, DRILL, frame_rate=20)
    assert slow.numbers("dt").max() == pytest.approx(0.025)
    assert np.diff(slow.numbers("t")).max() == pytest.approx(0.05)


def test_integration_order_is_the_explicit_one():
    wrong = simulate({"mistakes": "integration-order"}, DRILL)
    explicit = simulate({"integrator": "explicit"}, DRILL)
    assert np.array_equal(wrong.numbers("y"), explicit.numbers("y"))


def ledge_jump(after, mistakes="", rate=60):
    """Run off a ledge and press jump ``after`` seconds later; whether it worked."""
    drill = drill_from_mapping(
        {
            "length": 4.0,
            "floor": [{"x": 0.0, "height": 0.0}, {"x": 8.0, "height": -30.0}],
            "input": [{"at": 0.0, "until": 3.0, "move_x": 1.0}],
        },
        "test",
    )
    gone = int(
        np.flatnonzero(np.diff(simulate({}, drill, frame_rate=rate).numbers("touch_ground")) < 0)[0]
    )
    at = (gone + 1) / rate + after
    press = drill_from_mapping({"input": [{"at": at, "until": at + 0.5, "jump": True}]}, "t").inputs
    full = type(drill)(name="ledge", length=4.0, floor=drill.floor, inputs=(*drill.inputs, *press))
    values = {"coyote_time": 0.1, "mistakes": mistakes}
    return bool(simulate(values, full, frame_rate=rate).numbers("vy").max() > 0)


@pytest.mark.parametrize(("after", "works"), [(0.05, True), (0.09, True), (0.15, False)])
def test_coyote_time_forgives_a_late_jump(after, works):
    assert ledge_jump(after) is works


def test_a_timer_in_frames_runs_out_sooner_at_a_higher_rate():
    assert ledge_jump(0.08, rate=144)
    assert not ledge_jump(0.08, mistakes="timer-in-frames", rate=144)


@pytest.mark.parametrize(("early", "works"), [(0.05, True), (0.2, False)])
def test_a_jump_buffer_keeps_an_early_press(early, works):
    landing = 1.0 + 2 * 13.0 / 40.0
    drill = drill_from_mapping(
        {
            "length": 4.0,
            "input": [
                {"at": 1.0, "until": 1.4, "jump": True},
                {"at": landing - early, "until": landing + 0.6, "jump": True},
            ],
        },
        "test",
    )
    take = simulate({"jump_buffer": 0.1}, drill, frame_rate=240)
    leaps = np.count_nonzero(np.diff(take.numbers("vy")) > 5)
    assert leaps == (4 if works else 2)  # a landing is an upward change too


def test_a_wall_stops_a_run():
    drill = drill_from_mapping(
        {
            "length": 3.0,
            "floor": [{"x": 0.0, "height": 0.0}, {"x": 4.0, "height": 2.0}],
            "input": [{"at": 0.0, "until": 3.0, "move_x": 1.0}],
        },
        "test",
    )
    take = simulate({}, drill)
    assert take.numbers("x").max() <= 4.0
    assert take.numbers("touch_side").max() == 1


def test_many_sets_at_once_are_the_same_as_one_by_one():
    sets = [
        {"run_speed": 5.0},
        {"jump_speed": 9.0, "ground_movement": "smoothing"},
        {"mistakes": "gravity-per-frame"},
    ]
    for values, take in zip(sets, simulate_many(sets, DRILL, frame_rate=144), strict=True):
        alone = simulate(values, DRILL, frame_rate=144)
        assert all(np.array_equal(take.columns[n], alone.columns[n]) for n in alone.columns)


def test_uneven_steps_come_from_the_seed():
    a, b, c = (frame_steps(60, 5, jitter=0.2, seed=seed) for seed in (1, 1, 2))
    assert np.array_equal(a, b)
    assert not np.array_equal(a, c)
    assert np.all((a > 0.8 / 60 - 1e-12) & (a < 1.2 / 60 + 1e-12))


@pytest.mark.parametrize(
    ("values", "sentence"),
    [
        ({"run_sped": 1.0}, "unknown parameter 'run_sped'; did you mean 'run_speed'"),
        ({"run_speed": 0.0}, "'run_speed' must be above 0, not 0"),
        ({"release_cut": -1.0}, "'release_cut' must be 0 or more, not -1"),
        ({"run_speed": "fast"}, "'run_speed' must be a number"),
        ({"run_speed": True}, "'run_speed' must be a number"),
        ({"integrator": 1.0}, "'integrator' must be a word"),
        ({"integrator": "exact"}, "must be one of semi-implicit, explicit, trapezoid"),
        ({"mistakes": "gravity-in-frames"}, "unknown mistake 'gravity-in-frames'"),
        ({"jump_speed": float("inf")}, "must be above 0"),
        ({"stick_dead_zone": 1.0}, "'stick_dead_zone' must be 0.99 or less, not 1"),
    ],
)
def test_parameters_that_make_no_sense(values, sentence):
    with pytest.raises(InputError, match=r"^p: ") as error:
        checked_values(values, "p")
    assert sentence in str(error.value)


def test_all_parameters_have_their_defaults():
    assert checked_values({}, "p") == {name: item.default for name, item in PARAMETERS.items()}


@pytest.mark.parametrize(
    ("change", "sentence"),
    [
        ({"lenght": 3}, "unknown key 'lenght'; did you mean 'length'?"),
        ({"input": []}, "at least one [[input]]"),
        (
            {"input": [{"at": 0, "until": 1, "move": 1}]},
            "unknown key 'move'; did you mean 'move_",
        ),
        ({"input": [{"at": 1, "until": 1, "jump": 1}]}, "must be later than 'at'"),
        ({"input": [{"at": 0, "until": 1}]}, "needs 'at', 'until' and an input"),
        ({"input": [{"at": 0, "until": 1, "move_x": 2}]}, "must lie between -1 and 1"),
        ({"input": [{"at": 0, "until": 1, "jump": -1}]}, "must lie between 0 and 1"),
        ({"input": [{"at": "soon", "until": 1, "jump": 1}]}, "'at' must be a number"),
        ({"input": ["jump"]}, "must be a table"),
        ({"length": -1}, "'length' must be above 0"),
        ({"floor": 3}, "'floor' must be a list"),
        ({"floor": [{"x": 0}]}, "'floor' must be a list"),
        ({"floor": [{"x": 1, "height": 0}, {"x": 0, "height": 1}]}, "must grow"),
        ({"floor": [{"x": 0, "height": 0, "slop": 3}]}, "'slop' in 'floor'; did you mean 'slope'?"),
        ({"floor": [{"x": 0, "height": 0, "slope": 81}]}, "between -80 and 80 degrees"),
        ({"ceiling": [{"x": 0}]}, "'ceiling' must be a list"),
        ({"ceiling": [{"x": 0, "height": 3}], "view": "top"}, "from above a floor is level"),
    ],
)
def test_drills_that_make_no_sense(change, sentence):
    plain = {"input": [{"at": 0, "until": 1, "jump": True}]}
    with pytest.raises(InputError) as error:
        drill_from_mapping(plain | change, "d.toml")
    assert sentence in str(error.value)
    assert str(error.value).startswith("d.toml")


@pytest.mark.parametrize(("rate", "jitter"), [(0, 0), (-60, 0), (1e6, 0), (60, 1.0), (60, -0.1)])
def test_rates_that_make_no_sense(rate, jitter):
    with pytest.raises(UsageError, match="must lie between"):
        frame_steps(rate, 1.0, jitter=jitter)


WAITS = {"squat_time": 0.08, "landing_lag": 0.15, "ledge_hang": 0.1, "fast_fall": 1.5}
AT_WALLS = {"wall_slide_speed": 3.0, "wall_stick_time": 0.12, "wall_jump_speed": 12.0,
            "wall_jump_lockout": 0.15}  # fmt: skip


@pytest.mark.parametrize("rate", [30, 60, 144])
@pytest.mark.parametrize(
    ("drill", "values", "own"),
    [
        (
            {"floor": [{"x": -9, "height": 0}, {"x": 30, "height": -4}], "view": "side", "input": [
                {"at": 0.5, "until": 6.0, "move_x": 1.0}, {"at": 1.0, "until": 1.4, "jump": 1},
                {"at": 2.5, "until": 2.9, "jump": 1}, {"at": 2.85, "until": 3.5, "move_y": -1.0}]},
            WAITS,
            {"squat": 0.08, "lag": 0.15, "hang": 0.1, "fast": 1.5, "ledge": 30.0},
        ),
        (
            {"floor": [{"x": -9, "height": 0}, {"x": 6.05, "height": 99}], "input": [
                {"at": 0.5, "until": 6.0, "move_x": 1.0}, {"at": 1.5, "until": 2.1, "jump": 1},
                {"at": 3.5, "until": 3.9, "jump": 1}, {"at": 4.0, "until": 4.5, "jump": 1}]},
            AT_WALLS,
            {"walls": (6.05,), "slide": 3.0, "stick": 0.12, "wall_jump": 12.0, "wall_lock": 0.15},
        ),
    ],
)  # fmt: skip
def test_the_other_moves_are_those_of_the_plain_loop(drill, values, own, rate):
    numbers = {"integrator": "semi-implicit", "release_cut": 1.0, "air_acceleration": 20.0,
               "coyote_time": 0.0, "jump_buffer": 0.0, "terminal_speed": 1e3}  # fmt: skip
    take = simulate({**numbers, **values}, {**drill, "length": 7.0}, frame_rate=rate)
    spans = [(one["at"], one["until"], one) for one in drill["input"]]
    held = {
        key: during(*((a, b, abs(one[key])) for a, b, one in spans if key in one))
        for key in ("move_x", "jump", "move_y")
    }
    truth = moves(
        np.full(len(take), 1 / rate), held["move_x"], held["jump"], fast_at=held["move_y"],
        accel=40.0, slow=32.0, air_accel=20.0, **own,
    )  # fmt: skip
    for name in ("y", "vy", "vx", "touch_ground", "touch_side"):
        assert np.allclose(take.numbers(name), truth[name], atol=1e-5), name


def over(floor, values, *, until=9.0, length=9.0, rate=60):
    held = [{"at": 0.0, "until": until, "move_x": 1.0}]
    return simulate(values, {"floor": floor, "input": held, "length": length}, frame_rate=rate)


HILL = [{"x": 0, "height": 0}, {"x": 10, "slope": 30.0}, {"x": 30}]
SINE, COSINE = 0.5, 3**0.5 / 2


@pytest.mark.parametrize(
    ("values", "over_ground"),
    [
        ({}, 8.0),
        ({"slope_speed": "along"}, 8.0 * COSINE),
        ({"slope_effect": 0.4}, 8.0 * (1 - 0.4 * SINE)),
        ({"slope_effect": 0.4, "slope_speed": "along"}, 8.0 * (1 - 0.4 * SINE) * COSINE),
    ],
)
def test_a_run_up_a_slope_has_its_speed_along_it_or_over_the_ground(values, over_ground):
    take = over(HILL, values)
    x, y = take.numbers("x"), take.numbers("y")
    on = (x > 15) & (x < 29)
    assert take.numbers("vx")[on] == pytest.approx(over_ground)
    assert y[on] == pytest.approx((x[on] - 10) / 3**0.5)
    assert take.numbers("vy")[on] == pytest.approx(over_ground / 3**0.5)
    assert take.numbers("touch_ground")[on].all()


@pytest.mark.parametrize(("crest", "flies"), [("follow", False), ("fly", True)])
def test_a_crest_is_followed_or_flown_over(crest, flies):
    take = over(HILL, {"crest": crest})
    beyond = take.numbers("x") > 30.01
    assert (take.numbers("touch_ground")[beyond].min() < 0.5) == flies
    if flies:
        rise = 8.0 / 3**0.5
        assert take.numbers("y").max() == pytest.approx(20 / 3**0.5 + rise**2 / 80, abs=0.1)


@pytest.mark.parametrize(("angle", "slides"), [(20.0, True), (40.0, False)])
def test_a_steep_slope_is_slid_down(angle, slides):
    take = over(HILL, {"slide_angle": angle, "slide_acceleration": 10.0}, until=2.5, length=6.0)
    v = take.numbers("vx")
    assert (v.min() < -1) == slides
    if slides:
        assert np.diff(v)[-130] == pytest.approx(-10 / 60)


@pytest.mark.parametrize("kept", [0.0, 0.5, 1.0])
def test_what_stands_on_a_belt_is_carried_and_a_jump_keeps_a_share(kept):
    floor = [{"x": -50, "height": 0, "moves": 3.0}]
    held = [{"at": 1.0, "until": 1.5, "jump": 1.0}, {"at": 3.0, "until": 4.0, "move_x": 1.0}]
    take = simulate({"belt_kept": kept}, {"floor": floor, "input": held, "length": 5.0})
    t, v, ground = (take.numbers(name) for name in ("t", "vx", "touch_ground"))
    assert v[ground < 0.5] == pytest.approx(3.0 * kept)
    assert v[(t > 2.5) & (t < 3.0)] == pytest.approx(3.0)
    assert v[(t > 3.5) & (t < 4.0)] == pytest.approx(11.0)
    assert (take.numbers("platform_vx") == 3.0 * ground).all()


@pytest.mark.parametrize(
    ("amount", "values", "speed"),
    [
        (0.5, {}, 4.0),
        (0.5, {"stick_exponent": 2.0}, 2.0),
        (0.2, {"stick_dead_zone": 0.2}, 0.0),
        (0.6, {"stick_dead_zone": 0.2}, 4.0),
        (0.69, {"walk_below": 0.7, "walk_share": 0.25}, 2.0),
        (0.7, {"walk_below": 0.7, "walk_share": 0.25}, 8.0),
        (1.0, {"stick_dead_zone": 0.3, "stick_exponent": 3.0}, 8.0),
    ],
)
def test_a_stick_answers_by_its_dead_zone_curve_and_threshold(amount, values, speed):
    held = {"input": [{"at": 0.0, "until": 2.0, "move_x": amount}], "length": 1.9}
    assert simulate(values, held).numbers("vx")[-1] == pytest.approx(speed)
    level = {**held, "view": "3d", "input": [{**held["input"][0], "move_y": 0.0}]}
    assert simulate(values, level).numbers("vx")[-1] == pytest.approx(speed)


def test_a_ceiling_stops_a_rise():
    held = {"input": [{"at": 0.2, "until": 1.0, "jump": 1.0}], "length": 2.0}
    take = simulate({}, {**held, "ceiling": [{"x": -5, "height": 1.2}]})
    assert take.numbers("y").max() == pytest.approx(1.2)
    assert simulate({}, held).numbers("y").max() > 2


def test_a_built_in_drill_goes_by_its_name(program, tmp_path):
    (tmp_path / "walls").mkdir()  # a folder of that name is no drill
    assert "690 frames" in program("simulate", "--drill", "walls", "-o", "a", status=0)[1]
    error = program("simulate", "--drill", "wals", status=2)[2]
    assert "neither a drill file nor a built-in drill" in error
    assert "did you mean 'walls'?" in error
