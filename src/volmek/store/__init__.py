"""Keeps jobs, boards and starters in SQLite."""
