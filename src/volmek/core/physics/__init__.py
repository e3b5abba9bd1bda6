"""Formulas of motors, runs-up, heat and reclosing."""
