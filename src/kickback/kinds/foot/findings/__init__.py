"""What a take of a character on foot may trip a conclusion over."""
