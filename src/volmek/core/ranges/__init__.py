"""How sure a design is: its unknowns, what they change, and what to find out next."""
