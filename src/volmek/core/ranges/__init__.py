"""Certainty of a design: its unknown values, what they change, and what to find out next."""
