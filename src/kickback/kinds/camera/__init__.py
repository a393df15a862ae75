"""A camera that follows its subject."""
