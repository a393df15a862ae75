"""The command line. ``main`` is the program; each command loads when it is called."""

from kickback.cli.main import main

__all__ = ["main"]
