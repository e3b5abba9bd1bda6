"""Reachable states and the rules they are held against."""
