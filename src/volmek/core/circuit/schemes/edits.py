"""Lines of a generated control circuit as somebody changed them: read, checked, and put in the place of the generated ones."""

import re
from collections import Counter
from collections.abc import Iterable, Mapping
from typing import Protocol

from volmek.core.circuit.model.netlist import LIVE, RETURN, Device, positions_closed
from volmek.core.circuit.model.notation import Element, Item, Line, Node, Parallel, elements, parse_line
from volmek.core.document.errors import Problem, ProblemError
from volmek.core.document.model import CircuitEdit, StarterDocument

#: How deep brackets may stand in brackets.
DEEPEST = 6
#: Last digits of the two terminals of a contact, by the kind of device: break, make, change-over, and those that open early.
ENDS: Mapping[str, tuple[str, ...]] = {
    "button": ("12", "34"), "emergency_stop": ("12", "34"), "contactor": ("12", "34", "56"), "relay": ("12", "34", "14"),
    "timer": ("56", "58"), "star_delta_timer": ("78",), "overload": ("56", "78"), "monitor": ("12", "14"),
}  # fmt: skip
_NODE = re.compile(r"[a-z][A-Za-z0-9]{0,20}", re.ASCII)
#: Terminals of contacts that the control circuit may use: those of a main pole have one digit, but for buttons and selectors.
ONE_DIGIT = ("button", "emergency_stop", "selector", "field")


class Making(Protocol):
    """What is asked of a circuit in the making."""

    written: list[tuple[str, str]]

    def named_devices(self) -> Mapping[str, Device]:
        """Devices that the generated circuit has."""
        ...

    def line(self, *parts: str, returns: str = RETURN) -> None:
        """Another line."""
        ...

    def add_line(self, text: str) -> None:
        """A line that the scheme does not have."""
        ...


class Edits:
    """The edits of a document.

    Parameters
    ----------
    document : with ``circuit_edits``; none without one

    Raises
    ------
    ProblemError : a line that cannot be read, or is edited twice.
    """

    def __init__(self, document: StarterDocument | None = None) -> None:
        self.edits: list[CircuitEdit] = list(document.circuit_edits) if document else []
        self.used: set[int] = set()
        problems = []
        for k, edit in enumerate(self.edits):
            if not edit.line and not edit.now:
                problems.append(Problem(f"circuit_edits.{k}.now", "a line that is added is not empty"))
            if edit.line and any(e.line == edit.line for e in self.edits[:k]):
                problems.append(Problem(f"circuit_edits.{k}.line", f"{edit.line} is changed twice"))
            if edit.now and (why := unreadable(edit.now)):
                problems.append(Problem(f"circuit_edits.{k}.now", why))
        if problems:
            raise ProblemError(problems)

    def now(self, line: str) -> str:
        """What a generated line has become; itself where nobody changed it."""
        for k, edit in enumerate(self.edits):
            if edit.line == line:
                self.used.add(k)
                return edit.now
        return line

    def restart(self, words: str) -> str:
        """What happens when the supply comes back, as it was meant; after a change by hand only the proofs say it."""
        return (
            f"{words} So it was generated; it has been changed by hand: the proofs say what holds now."
            if self.edits and words
            else words
        )

    def added(self, b: Making) -> None:
        """Lines that the scheme does not have, and the check of all.

        Raises
        ------
        ProblemError : a line that is not generated any more; a device, contact or node that the circuit does not have, or has twice.
        """
        problems = [
            Problem(f"circuit_edits.{k}.line", f"{edit.line} is not generated any more, since other options were chosen: take this change back or make it anew")
            for k, edit in enumerate(self.edits) if edit.line and k not in self.used
        ]  # fmt: skip
        for edit in self.edits:
            if not edit.line:
                b.written.append(("", edit.now))
        if self.edits and not problems:
            problems = list(self._faults(b))
        if problems:
            raise ProblemError(problems)
        for edit in self.edits:
            if not edit.line:
                b.add_line(edit.now)

    def _faults(self, b: Making) -> Iterable[Problem]:
        devices = b.named_devices()
        whole = [parse_line(now) for _, now in b.written if now]
        uses = Counter(e.terminals for line in whole for e in elements(line))
        nodes = Counter(n for line in whole for n in _nodes(line))
        known = {LIVE, RETURN, *(n for line, _ in b.written if line for n in _nodes(parse_line(line)))}
        generated = {e.terminals for line, _ in b.written if line for e in elements(parse_line(line)) if e.load}
        for k, edit in enumerate(self.edits):
            if not edit.now:
                continue
            line = parse_line(edit.now)
            for e in elements(line):
                if why := _fault(e, devices, generated, uses[e.terminals]):
                    yield Problem(f"circuit_edits.{k}.now", why)
            for n in dict.fromkeys(_nodes(line)):
                if n not in known and nodes[n] < 2:
                    yield Problem(
                        f"circuit_edits.{k}.now",
                        f"node {n} stands in no other line: what is connected to it leads nowhere",
                    )


def unreadable(text: str) -> str:
    """Why a line cannot be taken, with the place; empty where it can.

    Parameters
    ----------
    text : in the notation

    Examples
    --------
    >>> unreadable("bus > S2:3-4 > K1:A1"), unreadable("bus > (S2:3-4 > K1:A1")
    ('', 'bus > (S2:3-4 > K1:A1: a bracket is not closed')
    """
    depth = 0
    for n, letter in enumerate(text, 1):
        depth += {"(": 1, ")": -1}.get(letter, 0)
        if depth > DEEPEST:
            return f"at letter {n}: more than {DEEPEST} brackets in each other"
        if not re.match(r"[\w:>|(). -]", letter, re.ASCII):
            return f"at letter {n}: {letter!r} does not belong to the notation"
    try:
        line = parse_line(text)
    except (ValueError, KeyError, IndexError) as error:
        return f"{text}: {error}" if isinstance(error, ValueError) else f"{text}: cannot be read"
    return _misplaced(line, first=True)


def _misplaced(line: Line, *, first: bool) -> str:
    if not line or (first and len(line) < 2):
        return "a line joins at least two things, as bus > S2:3-4 > r"
    if first and not isinstance(line[0], Node):
        return "a line begins with a node: L, bus, or one that another line leads to"
    for n, item in enumerate(line):
        if isinstance(item, Node) and item.name not in (LIVE, RETURN) and not _NODE.fullmatch(item.name):
            return f"{item.name} is neither a contact, as S2:3-4, nor a node in small letters"
        if isinstance(item, Parallel):
            for branch in item.branches:
                if why := _misplaced(branch, first=False):
                    return why
        elif isinstance(item, Element):
            if item.load and (not first or n != len(line) - 1):
                return f"{item.device} stands last in its line: nothing follows behind a coil or lamp"
        elif not isinstance(item, Node):
            return f"{item} is one terminal: a contact has two, as K1:13-14"
    return ""


def _nodes(line: Line | tuple[Item, ...]) -> Iterable[str]:
    for item in line:
        if isinstance(item, Node):
            yield item.name
        elif isinstance(item, Parallel):
            for branch in item.branches:
                yield from _nodes(branch)


def _fault(e: Element, devices: Mapping[str, Device], loads: set[tuple[str, str]], uses: int) -> str:
    """Why a contact or load cannot stand in the circuit; empty where it can."""
    device = devices.get(e.device)
    name = f"{e.device}:{e.a}" if e.load else f"{e.device}:{e.a}-{e.b}"
    if device is None:
        return f"there is no {e.device} in this circuit"
    if uses > 1:
        return f"{name} stands twice: a contact or coil is wired once, take another one"
    if e.load:
        return "" if e.terminals in loads else f"{name} is no coil or lamp of this circuit"
    if len(e.a) == 1 and device.kind not in ONE_DIGIT:
        return f"{name} is a main pole, which does not belong to the control circuit"
    a, b = (e.a, e.b) if (len(e.a), e.a) <= (len(e.b), e.b) else (e.b, e.a)
    try:
        closed = positions_closed(device, a, b)
    except (ValueError, KeyError):
        return f"{e.device} has no contact {e.a}-{e.b}"
    ends = ENDS.get(device.kind)
    tens = a[:-1] == b[:-1] or device.kind == "star_delta_timer"
    return (
        "" if closed and tens and (ends is None or a[-1] + b[-1] in ends) else f"{e.device} has no contact {e.a}-{e.b}"
    )
