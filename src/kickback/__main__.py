"""``python -m kickback``."""

from kickback.cli import main

if __name__ == "__main__":
    main()
