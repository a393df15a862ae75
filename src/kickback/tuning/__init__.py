"""A game as parameters, and parameters for wishes: fit, solve, reach, sweep."""
