"""Laws of a character on foot: pools of equal phases, and what happens between phases."""
