"""Run the command: ``python -m volmek.cli``."""

from volmek.cli import main

if __name__ == "__main__":
    main()
