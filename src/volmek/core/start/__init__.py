"""The start of a starter: curves, star time, what follows."""
