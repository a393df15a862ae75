"""What a projectile's tracks are for."""

from kickback.takes.roles import Role

__all__ = ["ACROSS", "ASIDE", "SHOT_COLUMN", "UP"]

SHOT_COLUMN = "shot"
"""The column that says which shot a row is of: a number or a word, another with each launch."""

ACROSS = Role(name="across", missing="the take has no motion over the ground")
ASIDE = Role(name="aside", missing="the ground has one axis in a side view")
UP = Role(name="up", missing="no height was recorded", gravity=True)
