"""Faults inserted into a circuit, and what each does."""
