"""A family of laws that only the tests know: a resistance by the root of the speed.

It shows what another family takes: this file, and one line in the table of families.
"""

from kickback.laws.families.code import speed_word
from kickback.laws.families.family import Family
from kickback.laws.step_model import StepModel, resistance
from kickback.takes.numerals import plain
from kickback.takes.quantities import RATIO, SPEED, TIME

ROOT = resistance("root", 0.5)

ROOT_DRAG = Family(
    name="root-drag",
    words="a resistance by the root of the speed",
    constants={"root": RATIO * SPEED / TIME},
    scaling=("root",),
    code=lambda law: f"{speed_word(law.role)} −= {plain(law.value('root'))}·√speed·dt",
    models=tuple(StepModel(terms=(ROOT,), clocks=(clock,)) for clock in ROOT.clocks),
    tier=1,
    stepped=True,
)
