"""The roles that columns play for a character on foot seen from the side."""

from kickback.takes.roles import Role

__all__ = ["ACROSS", "UP"]

ACROSS = Role(name="travel", missing="the take has no sideways position")
UP = Role(name="vertical", missing="the take has no height", gravity=True)
