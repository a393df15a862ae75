"""Nothing may depend on the scale of lengths: a take in other units gives the same, in these."""

import numpy as np
import pytest

from conftest import quick, some, take_of
from kickback.kinds.examining import examine
from kickback.kinds.foot.model.exercises import moves_drill
from kickback.kinds.foot.model.simulate import simulate
from kickback.kinds.measuring import measure
from kickback.kinds.recovering import recover_laws

LENGTHS = ("x", "y", "vx", "vy")
SCALES = (2.0**-40, 2.0**-20, 2.0**20, 2.0**40)  # powers of two scale without rounding


def scaled(columns, scale):
    return take_of({n: c * scale if n in LENGTHS else c for n, c in columns.items()})


@quick(2)
@pytest.mark.parametrize("scale", some(SCALES, SCALES[0], SCALES[-1]))
@pytest.mark.parametrize("lacking", [(), ("vx", "vy"), ("vx", "vy", "touch_ground", "in_move_x")])
@pytest.mark.parametrize("movement", some(("constant", "smoothing", "friction"), "constant"))
def test_a_take_in_other_units_gives_the_same_numbers(movement, lacking, scale):
    whole = simulate({"ground_movement": movement}, moves_drill(), frame_rate=60, jitter=0.1)
    columns = {name: c for name, c in whole.columns.items() if name not in lacking}
    one, other = take_of(columns), scaled(columns, scale)
    for ours, theirs in zip(measure(one), measure(other), strict=True):
        assert (ours.n, ours.value is None) == (theirs.n, theirs.value is None), ours.metric
        if ours.value is not None:
            factor = scale**ours.unit.dimension.length
            assert theirs.value == pytest.approx(ours.value * factor, rel=1e-9), ours.metric
    assert [item.code for item in examine(one)] == [item.code for item in examine(other)]
    pairs = list(zip(recover_laws(one), recover_laws(other), strict=True))
    assert pairs
    for ours, theirs in pairs:
        assert (ours.law, str(ours.phase)) == (theirs.law, str(theirs.phase))
        for a, b in zip(ours.constants, theirs.constants, strict=True):
            near = pytest.approx(a.value * scale**a.unit.dimension.length, rel=1e-6, abs=0)
            assert b.value == near or np.isclose(a.value, 0, atol=1e-9), (ours.name, a.name)
