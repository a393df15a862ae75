"""What a projectile's tracks are for."""

from kickback.takes.roles import Role

__all__ = ["ACROSS", "ASIDE", "UP"]

ACROSS = Role(name="across", missing="the take has no motion over the ground")
ASIDE = Role(name="aside", missing="the ground has one axis in a side view")
UP = Role(name="up", missing="no height was recorded", gravity=True)
