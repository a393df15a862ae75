"""Tools for working on Kickback."""
