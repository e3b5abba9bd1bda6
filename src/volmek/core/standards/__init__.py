"""Look-ups in the standards' tables, and the handbook."""
