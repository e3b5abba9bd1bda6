"""The notation in which circuits are written: ``bus > (S2:3-4 | K1:13-14) > K1:A1``.

``>`` is series, ``|`` parallel; ``S2:3-4`` is a contact with its two terminals, the first nearer to the live side;
``K1:A1`` and ``P1`` are loads, whose other terminal goes to the return unless something follows; ``M1:U1`` is a plain
terminal; a word without a colon is a node.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass

#: Designations whose letter makes them a load; K and KT are one at their coil.
LOAD_LETTERS = ("P", "H", "E")
#: Other terminal of a load, by the first.
RETURNS = {"A1": "A2", "X1": "X2", "IN": "COM", "1": "2"}


@dataclass(frozen=True, slots=True)
class Node:
    """A named node."""

    name: str


@dataclass(frozen=True, slots=True)
class Terminal:
    """One terminal, as ``M1:U1``."""

    device: str
    name: str

    def __str__(self) -> str:
        return f"{self.device}:{self.name}"


@dataclass(frozen=True, slots=True)
class Element:
    """A contact or a load between two terminals of a device."""

    device: str
    a: str
    b: str
    load: bool

    @property
    def terminals(self) -> tuple[str, str]:
        """Its terminals, the live one first."""
        return f"{self.device}:{self.a}", f"{self.device}:{self.b}"


@dataclass(frozen=True, slots=True)
class Parallel:
    """Branches side by side."""

    branches: tuple["Line", ...]


Item = Node | Terminal | Element | Parallel
Line = tuple[Item, ...]
_TOKEN = re.compile(r"\s*([()|>]|[A-Za-z0-9_:.-]+)")


def parse_line(text: str) -> Line:
    """A line of the notation.

    Parameters
    ----------
    text : as described above

    Raises
    ------
    ValueError : a bracket is missing or a word cannot be read.

    Examples
    --------
    >>> parse_line("bus > S1:1-2 > K1:A1")[2]
    Element(device='K1', a='A1', b='A2', load=True)
    """
    tokens = _TOKEN.findall(text)
    if "".join(tokens) != re.sub(r"\s", "", text):
        raise ValueError(f"cannot be read: {text}")
    line, rest = _line(tokens)
    if rest:
        raise ValueError(f"a bracket too many: {text}")
    return line


def _line(tokens: list[str]) -> tuple[Line, list[str]]:
    items: list[Item] = []
    while tokens and tokens[0] not in (")", "|"):
        if tokens[0] == ">":
            tokens = tokens[1:]
        if tokens[0] == "(":
            branches: list[Line] = []
            tokens = ["|", *tokens[1:]]
            while tokens and tokens[0] == "|":
                branch, tokens = _line(tokens[1:])
                branches.append(branch)
            if not tokens or tokens[0] != ")":
                raise ValueError("a bracket is not closed")
            tokens = tokens[1:]
            items.append(Parallel(tuple(branches)))
        else:
            items.append(_item(tokens[0]))
            tokens = tokens[1:]
    return tuple(items), tokens


def _item(word: str) -> Item:
    device, colon, terminals = word.partition(":")
    if not colon:
        if device[0] in LOAD_LETTERS and device[1:].isdigit():
            return Element(device, "X1", "X2", load=True)
        return Node(device)
    a, dash, b = terminals.partition("-")
    if a in ("A1", "IN") or (device[0] in LOAD_LETTERS and device[1:].isdigit()):
        return Element(device, a, b or RETURNS[a], load=True)
    if not dash:
        return Terminal(device, a)
    return Element(device, a, b, load=False)


def elements(line: Line) -> Iterator[Element]:
    """Contacts and loads of a line, those of branches too.

    Examples
    --------
    >>> [e.device for e in elements(parse_line("bus > (S2:3-4 | K1:13-14) > K1:A1"))]
    ['S2', 'K1', 'K1']
    """
    for item in line:
        if isinstance(item, Element):
            yield item
        elif isinstance(item, Parallel):
            for branch in item.branches:
                yield from elements(branch)


def series(*parts: str) -> str:
    """Parts one after the other; empty ones are left out.

    Examples
    --------
    >>> series("L", "", "F1:95-96", "bus")
    'L > F1:95-96 > bus'
    """
    return " > ".join(p for p in parts if p)


def parallel(*parts: str) -> str:
    """Branches in parallel; a single one without brackets, empty ones left out.

    Examples
    --------
    >>> parallel("S2:3-4", "K1:13-14")
    '(S2:3-4 | K1:13-14)'
    """
    given = [p for p in parts if p]
    return given[0] if len(given) == 1 else f"({' | '.join(given)})"
