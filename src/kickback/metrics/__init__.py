"""What a metric is, and what measuring gives."""
