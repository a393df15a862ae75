"""The labels that a game gives its subject, held against what it does."""
