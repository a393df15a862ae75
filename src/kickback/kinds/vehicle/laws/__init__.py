"""The update rules behind a vehicle."""
