"""The drills that come with the model: what to press to show each kind of move."""

from collections.abc import Sequence

from kickback.kinds.foot.model.drills import FootDrill, drill_from_mapping

__all__ = [
    "belt_drill",
    "edges_drill",
    "moves_drill",
    "plane_drill",
    "slopes_drill",
    "standard_drill",
    "stick_drill",
    "walls_drill",
]

_Held = tuple[float, float, str, float]
"""From when until when an input is held, s, its name and its amount."""


def _drill(
    name: str, length: float, held: Sequence[_Held], floor: list[dict[str, float]] | None = None
) -> FootDrill:
    return drill_from_mapping(
        {
            "name": name,
            "view": "side",
            "length": length,
            "floor": floor or [{"x": -500.0, "height": 0.0}],
            "input": [{"at": a, "until": b, key: amount} for a, b, key, amount in held],
        },
        f"{name} drill",
    )


def standard_drill() -> FootDrill:
    """Return a short drill on flat ground: run, coast, run, turn, brake, jump, hop."""
    return drill_from_mapping(
        {
            "name": "standard",
            "length": 12.0,
            "input": [
                {"at": 0.5, "until": 2.0, "move_x": 1.0},
                {"at": 3.5, "until": 5.0, "move_x": 1.0},
                {"at": 5.0, "until": 6.5, "move_x": -1.0},
                {"at": 8.0, "until": 8.5, "jump": 1.0},
                {"at": 10.0, "until": 10.1, "jump": 1.0},
            ],
        },
        "standard drill",
    )


def moves_drill() -> FootDrill:
    """Return a drill of all moves: runs, dashes (two come too soon), jumps, two in the air."""
    held = [
        (0.5, 2.0, "move_x", 1.0),
        (3.0, 3.1, "dash", 1.0),
        (3.3, 3.4, "dash", 1.0),
        (4.5, 4.6, "dash", 1.0),
        (5.6, 6.5, "move_x", 1.0),
        (6.4, 6.45, "dash", 1.0),
        (6.5, 7.6, "move_x", -1.0),
        (6.85, 6.9, "dash", 1.0),
        (7.6, 8.4, "move_x", 1.0),
        (9.0, 9.9, "jump", 1.0),
        (10.6, 11.0, "jump", 1.0),
        (11.15, 11.9, "jump", 1.0),
    ]
    return _drill("moves", 14.0, held)


def plane_drill(view: str = "3d") -> FootDrill:
    """Return a drill over a plane: runs and stops each way, turns by 45, 90 and 180 degrees.

    In three dimensions it jumps as well.
    """
    held = [
        (0.5, 2.0, 1.0, 0.0),
        (2.0, 3.2, -1.0, 0.0),  # along the first axis, and back
        (4.0, 5.2, 0.0, 1.0),
        (6.0, 7.2, 1.0, 1.0),  # along the second; a diagonal
        (8.0, 9.0, 1.0, 0.0),
        (9.0, 10.0, 0.0, 1.0),  # a turn by 90 degrees
        (10.0, 11.0, 1.0, 1.0),
        (11.0, 12.0, -1.0, -1.0),  # by 45, and by 180
        (13.0, 14.2, -1.0, 0.0),
        (15.0, 16.2, 0.0, -1.0),
    ]
    inputs: list[dict[str, float]] = [
        {"at": a, "until": b, "move_x": x, "move_y": y} for a, b, x, y in held
    ]
    jumps = [(17.0, 17.6), (20.5, 20.6)] if view == "3d" else []
    inputs += [{"at": a, "until": b, "jump": 1.0} for a, b in jumps]
    inputs += [{"at": 15.7, "until": 15.8, "dash": 1.0}]
    return drill_from_mapping(
        {"name": f"plane-{view}", "view": view, "length": 23.0 if jumps else 17.0, "input": inputs},
        "plane drill",
    )


def edges_drill() -> FootDrill:
    """Return a drill of takeoffs, landings and ledges: held through, and with down held."""
    held = [
        (0.5, 4.2, "move_x", 1.0),
        (1.3, 1.9, "jump", 1.0),
        (2.8, 3.4, "jump", 1.0),
        (5.2, 5.8, "jump", 1.0),
        (5.45, 6.4, "move_y", -1.0),
        (7.0, 15.0, "move_x", 1.0),
        (10.5, 16.0, "move_y", -1.0),
    ]
    floor = [{"x": -500.0, "height": 0.0}, {"x": 36.0, "height": -8.0}]
    return _drill("edges", 18.0, held, [*floor, {"x": 60.0, "height": -60.0}])


def stick_drill() -> FootDrill:
    """Return a drill of a stick that is pressed by one amount after the other, each from rest."""
    amounts = (0.08, 0.15, 0.25, 0.4, 0.55, 0.7, 0.85, 1.0)
    held = [
        (0.5 + 2.5 * k, 1.8 + 2.5 * k, "move_x", amount if k % 2 else -amount)
        for k, amount in enumerate(amounts)
    ]
    return _drill("stick", 0.5 + 2.5 * len(amounts) + 1.0, held)


def walls_drill() -> FootDrill:
    """Return a drill between two walls: slides down one, and jumps off each."""
    held = [
        (0.5, 5.2, "move_x", 1.0),
        (1.8, 2.4, "jump", 1.0),
        (3.6, 3.8, "jump", 1.0),
        (3.95, 4.4, "jump", 1.0),
        (6.4, 9.6, "move_x", -1.0),
        (8.0, 8.2, "jump", 1.0),
        (8.35, 8.8, "jump", 1.0),
    ]
    high = 80.0
    floor = [{"x": -500.0, "height": high}, {"x": -6.0, "height": 0.0}, {"x": 6.0, "height": high}]
    return _drill("walls", 11.5, held, floor)


def slopes_drill() -> FootDrill:
    """Return a drill over a hill and down a long slope: runs over its crest, and a slide."""
    held = [
        (0.5, 10.5, "move_x", 1.0),
        (11.5, 13.0, "move_x", -1.0),
        (1.2, 1.7, "jump", 1.0),
    ]
    floor = [
        {"x": -500.0, "height": 0.0},
        {"x": 18.0, "slope": 25.0},
        {"x": 30.0},
        {"x": 40.0, "slope": -25.0},
        {"x": 52.0},
        {"x": 58.0, "slope": -20.0},
    ]
    return _drill("slopes", 15.0, held, floor)


def belt_drill() -> FootDrill:
    """Return a drill on ground that moves: carried along, runs with and against it, jumps off."""
    held = [
        (0.5, 1.6, "move_x", 1.0),
        (2.6, 4.0, "move_x", 1.0),
        (5.0, 5.4, "jump", 1.0),
        (6.5, 7.6, "move_x", -1.0),
        (8.6, 10.0, "move_x", 1.0),
        (9.6, 9.9, "jump", 1.0),
    ]
    floor = [{"x": -500.0, "height": 0.0}, {"x": 4.0, "height": 0.0, "moves": 3.0}]
    return _drill("belt", 11.5, held, floor)
