"""What is measured of a vehicle."""
