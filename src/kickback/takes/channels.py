"""The known columns of a take, as one table: what each is, and its unit."""

from kickback.takes.record import Record

__all__ = ["CHANNELS", "Channel", "channel_of", "is_text"]


class Channel(Record, frozen=True, kw_only=True):
    """One column: its name, kind of quantity, and what it says.

    ``kind`` is one of ``time``, ``position``, ``velocity``, ``angle``, ``contact``,
    ``analogue``, ``button``, ``count``, ``text`` and ``other``.
    """

    name: str
    kind: str
    about: str

    @property
    def is_flag(self) -> bool:
        """Whether the values are 0 or 1."""
        return self.kind in {"contact", "button"}

    def unit(self, length_unit: str) -> str:
        """Return the unit in words, given the take's length unit."""
        return {
            "time": "s",
            "position": length_unit,
            "velocity": f"{length_unit}/s",
            "angle": "deg",
            "contact": "0/1",
            "button": "0/1",
            "analogue": "-1..1",
        }.get(self.kind, "")


_ROWS = (
    ("t", "time", "wall-clock time at the end of the frame's update"),
    ("dt", "time", "the time step that the update used"),
    ("x", "position", "position after the update"),
    ("y", "position", "position after the update"),
    ("z", "position", "position after the update"),
    ("vx", "velocity", "the game's own velocity after the update"),
    ("vy", "velocity", "the game's own velocity after the update"),
    ("vz", "velocity", "the game's own velocity after the update"),
    ("heading", "angle", "facing about up, 0 along +x"),
    ("touch_ground", "contact", "standing on something after the update"),
    ("touch_side", "contact", "touching a wall after the update"),
    ("touch_above", "contact", "touching a ceiling after the update"),
    ("in_move_x", "analogue", "sideways input that the update read"),
    ("in_move_y", "analogue", "second axis of the input that the update read"),
    ("in_throttle", "analogue", "throttle that the update read"),
    ("in_steer", "analogue", "steering that the update read"),
    ("in_jump", "button", "jump button that the update read"),
    ("in_brake", "button", "brake button that the update read"),
    ("in_dash", "button", "dash button that the update read"),
    ("in_fire", "button", "fire button that the update read"),
    ("shot", "other", "which shot the row is of: a number or a word"),
    ("pitch", "angle", "the subject's slope along its facing"),
    ("ground_pitch", "angle", "the ground's slope along the facing"),
    ("camera_x", "position", "what the camera looks at"),
    ("camera_y", "position", "what the camera looks at"),
    ("camera_z", "position", "what the camera looks at"),
    ("camera_heading", "angle", "heading of the camera that the input is seen from"),
    ("platform_vx", "velocity", "velocity of what the subject stands on"),
    ("platform_vy", "velocity", "velocity of what the subject stands on"),
    ("platform_vz", "velocity", "velocity of what the subject stands on"),
    ("target_x", "position", "where what is to be hit is"),
    ("target_y", "position", "where what is to be hit is"),
    ("target_z", "position", "where what is to be hit is"),
    ("tick", "count", "index of the physics step"),
    ("state", "text", "the game's own label for what the subject does"),
    ("surface", "text", "what the subject stands on, in a word"),
    ("event", "text", "a word that the game wants noted at this frame"),
)

CHANNELS = {name: Channel(name=name, kind=kind, about=about) for name, kind, about in _ROWS}


def channel_of(name: str) -> Channel:
    """Return the channel of a column name; unknown names are kept as ``other``."""
    known = CHANNELS.get(name)
    if known is not None:
        return known
    if name.startswith("in_"):
        return Channel(name=name, kind="analogue", about="an input of the game's own")
    return Channel(name=name, kind="other", about="a column of the game's own")


def is_text(name: str) -> bool:
    """Whether a column holds words; columns of the game's own may hold either."""
    return channel_of(name).kind == "text"
