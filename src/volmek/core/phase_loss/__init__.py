"""A lost phase, and how a monitor is set for it."""
