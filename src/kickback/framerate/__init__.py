"""Takes at several frame rates: groups, verdicts, and constants at another rate."""
