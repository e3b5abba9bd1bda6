"""Faults put into a circuit, and what each does."""
