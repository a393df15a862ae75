"""The project on disk: kickback.toml, parameter sets, drills."""
