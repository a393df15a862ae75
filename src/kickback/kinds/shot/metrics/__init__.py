"""The metrics of a projectile, part by part."""
