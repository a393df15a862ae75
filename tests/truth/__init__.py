"""Truth to hold the program against: closed forms and plain frame-by-frame recurrences."""
