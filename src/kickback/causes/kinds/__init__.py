"""The causes, one object each."""
