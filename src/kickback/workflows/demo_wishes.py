"""The demo's walk from a game to its parameters, and from wishes to new ones."""

__all__ = ["WISHES"]

WISHES = (
    (
        "The game as parameters",
        "Numbers with errors; the built-in model then plays the same inputs, mistakes and all.",
        ("fit", "takes/brisk-slipup-*.jsonl", "-o", "params/mine.toml", "--force"),
    ),
    (
        "What if?",
        "The fitted game with another gravity, and every metric that it changes.",
        ("simulate", "params/mine.toml", "--set", "gravity_rise=44", "-o", "tries", "--force"),
    ),
    (
        "A wish",
        "The leap shall be four tiles high and two fifths of a second up: what do I write?",
        ("solve", "params/brisk.toml", "--wish", "jump.apex_height=4 tiles", "--wish",
         "jump.time_to_apex=0.4 s", "--keep", "run_speed", "--digits", "2", "-o",
         "params/high.toml", "--force"),
    ),
    (
        "Wishes that exclude each other",
        "The same with the gravity kept: which must be given up, and what each way out gives.",
        ("solve", "params/brisk.toml", "--wish", "jump.apex_height=4 tiles", "--wish",
         "jump.time_to_apex=0.4 s", "--keep", "gravity_rise"),
    ),
    (
        "What can be cleared?",
        "Gaps and steps in tiles, and in how many frames the takeoff does it; also as a map.",
        ("reach", "params/brisk.toml", "--rates", "60,30,144", "--figure", "figures/reach.png",
         "--force"),
    ),
    (
        "A level",
        "Its gaps, each by the humblest way: one is tight on a slow screen, one cannot be cleared.",
        ("reach", "params/brisk.toml", "--level", "levels/rooftops.toml", "--rates", "30,60"),
    ),
    (
        "Which knob moves what?",
        "One per cent of each parameter: what it moves, and what not; also as a map.",
        ("sweep", "params/brisk.toml", "--figure", "figures/sweep.png", "--force"),
    ),
    (
        "Less of a slide, and the same jump",
        "Which parameter makes it stop sooner without touching the jump or the run?",
        ("sweep", "params/brisk.toml", "--move", "coast.stop_distance", "--leave", "jump",
         "--leave", "run"),
    ),
    (
        "What can be had together?",
        "60 leaps: none is high and short at once.",
        ("sweep", "params/brisk.toml", "--vary", "jump_speed=8..16", "--vary",
         "gravity_rise=20..60", "--samples", "60", "--only", "jump", "--trade",
         "jump.apex_height,jump.air_time", "--figure", "figures/trade.png", "-o", "sweep.csv",
         "--force"),
    ),
    (
        "A shot",
        "The flare at a beacon 20 m away, 6 m up: both elevations, and how other rates miss it.",
        ("solve", "params/flare.toml", "--target", "20,6"),
    ),
)  # fmt: skip
"""Title, text and arguments of each step."""
