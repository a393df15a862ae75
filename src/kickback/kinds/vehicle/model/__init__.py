"""A vehicle that is played without a game."""
