"""The roles of a workshop; nothing is loaded for them, so that a command that only names them starts quickly."""

from typing import Literal, get_args

Role = Literal["reads", "works", "designs", "administers"]
#: From the one who may least to the one who may everything; each may what those before it may.
ROLES: tuple[Role, ...] = get_args(Role)
#: Each role in words.
SAYS: dict[Role, str] = {
    "reads": "reads: sees everything, changes nothing",
    "works": "works at the panel: keeps the record, reads the meter, seals; does not design",
    "designs": "designs: boards, starters, catalogues, presets",
    "administers": "administers: people, meter addresses, backup, the bin for good",
}


def may(role: Role, needed: Role) -> bool:
    """A role is enough for what needs another one.

    Examples
    --------
    >>> may("designs", "works"), may("works", "designs")
    (True, False)
    """
    return ROLES.index(role) >= ROLES.index(needed)
