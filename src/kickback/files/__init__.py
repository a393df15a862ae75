"""Reading and writing: CSV, JSON Lines, foreign logs through mappings."""
