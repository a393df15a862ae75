"""A projectile that is played without a game."""
