"""The drills that come with the model: what to press to show each kind of move."""

from kickback.kinds.foot.model.drills import Drill, drill_from_mapping

__all__ = ["moves_drill", "plane_drill", "standard_drill"]


def standard_drill() -> Drill:
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


def moves_drill() -> Drill:
    """Return a drill of all moves: runs, dashes (two come too soon), jumps, two in the air."""
    inputs = [
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
    return drill_from_mapping(
        {
            "name": "moves",
            "length": 14.0,
            "floor": [{"x": -500.0, "height": 0.0}],
            "input": [{"at": a, "until": b, name: amount} for a, b, name, amount in inputs],
        },
        "moves drill",
    )


def plane_drill(view: str = "3d") -> Drill:
    """Return a drill over a plane: runs and stops each way, turns by 45, 90 and 180 degrees.

    In three dimensions it jumps as well.
    """
    held = [
        (0.5, 2.0, 1.0, 0.0), (2.0, 3.2, -1.0, 0.0),  # along the first axis, and back
        (4.0, 5.2, 0.0, 1.0), (6.0, 7.2, 1.0, 1.0),  # along the second; a diagonal
        (8.0, 9.0, 1.0, 0.0), (9.0, 10.0, 0.0, 1.0),  # a turn by 90 degrees
        (10.0, 11.0, 1.0, 1.0), (11.0, 12.0, -1.0, -1.0),  # by 45, and by 180
        (13.0, 14.2, -1.0, 0.0), (15.0, 16.2, 0.0, -1.0),
    ]  # fmt: skip
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
