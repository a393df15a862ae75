"""One verdict on a build, of all that it is held against."""
