"""Which gaps and steps a character on foot clears."""
