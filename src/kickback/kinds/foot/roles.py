"""The roles that columns play for a character on foot."""

from kickback.takes.roles import Role

__all__ = ["ACROSS", "ASIDE", "UP"]

ACROSS = Role(name="travel", missing="the take has no sideways position")
ASIDE = Role(name="aside", missing="the take has one ground axis: nothing turns in it")
UP = Role(name="vertical", missing="the take has no height", gravity=True)
