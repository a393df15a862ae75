"""Which way on the ground an input points: its axes are the world's, turned ones, or a camera's."""

from itertools import product

import numpy as np
import numpy.typing as npt

from kickback.takes.numeric import median
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["Complexes", "InputAxes", "read_axes", "turn_between"]

Complexes = npt.NDArray[np.complex128]

_SURE = 15.0
"""Degrees by which the pushes of a take may differ from one reading of its axes, usually."""

_ROUND = 3.0
"""Degrees from a right angle within which axes are at it."""

_APART = 15.0
"""Degrees by which directions must differ to be two: one alone does not show a mirrored axis."""


_ENOUGH = 200
"""Pushes that settle how an input's axes lie."""


class InputAxes(Record, frozen=True, kw_only=True):
    """How an input's direction becomes one on the ground.

    It is ``turned`` by so many degrees, after its second axis was turned round where
    ``mirrored``; ``by_camera`` is ±1 where a camera's heading is added or taken off, else 0.
    ``told`` says that the motion shows it; else the input's axes are taken for the ground's.
    ``spread`` is how far pushes usually are from it, degrees.
    """

    turned: float = 0.0
    mirrored: bool = False
    by_camera: int = 0
    told: bool = False
    spread: float = 0.0

    def on_ground(self, stick: Complexes, heading: FloatArray | None) -> Complexes:
        """Return directions on the ground, shape (n,), of a stick's with a camera's heading."""
        turn = np.exp(1j * np.deg2rad(self.turned))
        way = np.conj(stick) if self.mirrored else stick
        if self.by_camera and heading is not None:
            turn = turn * np.exp(1j * self.by_camera * np.deg2rad(heading))
        return np.asarray(way * turn)

    @property
    def words(self) -> str:
        """Return what is known of them, in words."""
        if not self.told:
            return "the input's axes are taken for the ground's"
        parts = [
            text
            for text, present in (
                ("turned with the camera's heading", self.by_camera),
                ("the second the other way", self.mirrored),
                (f"turned by {self.turned:.4g} degrees", self.turned),
            )
            if present
        ]
        said = ", ".join(parts) or "the ground's"
        return f"the input's axes, read from the motion: {said}"


def turn_between(one: Complexes, other: Complexes) -> FloatArray:
    """Return the angle from one direction to another, shape (n,), degrees in (-180, 180]."""
    return np.asarray(np.rad2deg(np.angle(other * np.conj(one))))


def read_axes(stick: Complexes, motion: Complexes, heading: FloatArray | None) -> InputAxes:
    """Return the input's axes from where pushes led, shape (k,): the stick and the motion.

    ``heading``: that of a camera at each, degrees. The simplest reading that most pushes agree
    with: turned, then mirrored, then with the camera. None is told where none fits.
    """
    if not len(stick):
        return InputAxes()
    stride = -(-len(stick) // _ENOUGH)
    stick, motion = stick[::stride], motion[::stride]
    heading = None if heading is None else heading[::stride]
    forms = product([0] if heading is None else [0, 1, -1], [False, True][: 1 + _several(stick)])
    readings = [
        _reading(stick, motion, heading, mirrored=mirrored, by_camera=sign)
        for sign, mirrored in forms
    ]
    good = [one for one in readings if one.spread <= _SURE]
    if not good:
        return InputAxes(spread=min(one.spread for one in readings))
    least = min(one.spread for one in good)
    return next(one for one in good if one.spread <= 2 * least + 1.0)


def _several(stick: Complexes) -> bool:
    """Whether directions lie along more than one line."""
    lines = stick**2 / np.abs(stick) ** 2
    away = np.abs(np.rad2deg(np.angle(lines * np.conj(lines[0])))) / 2
    return bool(np.any(away > _APART))


def _reading(
    stick: Complexes,
    motion: Complexes,
    heading: FloatArray | None,
    *,
    mirrored: bool,
    by_camera: int,
) -> InputAxes:
    axes = InputAxes(mirrored=mirrored, by_camera=by_camera, told=True)
    off = motion * np.conj(axes.on_ground(stick, heading))
    off = off / np.abs(off)
    middle = off[int(np.argmin([np.sum(np.abs(np.angle(off * np.conj(one)))) for one in off]))]
    turns = np.angle(off * np.conj(middle))
    turned = float(np.rad2deg(np.angle(middle))) + float(np.rad2deg(median(turns)))
    right = 90.0 * round(turned / 90.0)
    if abs(turned - right) <= _ROUND:
        turned = right
    turned = (turned + 180.0) % 360.0 - 180.0
    spread = median(np.abs(np.rad2deg(turns)))
    return InputAxes(
        turned=180.0 if turned == -180.0 else turned,
        mirrored=mirrored,
        by_camera=by_camera,
        told=True,
        spread=spread,
    )
