"""How many random starters the property of one truth draws: some in every run, all of them whole in `make soak`."""

import os

from hypothesis import Phase

SOAK = os.environ.get("SOAK") == "1"
EXAMPLES = 300
WHOLE = 300 if SOAK else 40
#: A failing starter is told as it was drawn: making it smaller takes longer than reading it.
NO_SHRINKING = (Phase.explicit, Phase.reuse, Phase.generate)
