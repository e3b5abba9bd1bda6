"""Priority of processes that work in the background."""

import os

#: Steps by which it stands back behind whoever waits for a plain answer.
BEHIND = 10


def give_way() -> None:
    """Let others go first, where the system knows of such a thing."""
    if hasattr(os, "nice"):
        os.nice(BEHIND)
