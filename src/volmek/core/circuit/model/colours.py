"""Colours of conductors: one answer for drawing, wire list and prints."""

from collections import defaultdict
from functools import cached_property

from volmek.core.circuit.model.netlist import Circuit, Wire
from volmek.core.document.model import StarterDocument
from volmek.core.installation.supply import LINES

#: By school: three lines, neutral, protective, control, control of direct current, control that lives with the main breaker off.
SCHOOLS = {
    "iec": ("brown", "black", "grey", "blue", "green-yellow", "red", "dark blue", "orange"),
    "north_american": ("black", "red", "blue", "white", "green", "red", "blue", "yellow"),
    "red_yellow_blue": ("red", "yellow", "blue", "black", "green", "red", "dark blue", "orange"),
}
NEUTRAL, PROTECTIVE, CONTROL, CONTROL_DC, FOREIGN = 3, 4, 5, 6, 7


def school_of(document: StarterDocument) -> str:
    """The school of wire colours that a document asks for, else that of its practice."""
    return document.control.wire_colours or ("north_american" if document.practice == "nec" else "iec")


class Colours:
    """Colours of the conductors of one circuit in one school.

    References
    ----------
    IEC 60204-1, 13.2.4; IEC 60445; NFPA 79, 13.2.4; older British practice.
    """

    def __init__(self, circuit: Circuit, school: str) -> None:
        self.c, self.school = circuit, SCHOOLS[school]

    @property
    def control(self) -> str:
        """Of a control wire: its own where the circuit stays live with the main breaker off, else by AC or DC."""
        source = self.c.source
        return self.school[FOREIGN if source.alive_with_main_off else CONTROL_DC if source.dc else CONTROL]

    @property
    def protective(self) -> str:
        """Of a protective conductor."""
        return self.school[PROTECTIVE]

    def legend(self) -> list[tuple[str, str]]:
        """Colour and its meaning, for every conductor of the circuit.

        Examples
        --------
        >>> from volmek.core.examples import example
        >>> Colours(example().circuit, "iec").legend()[-2:]
        [('green-yellow', 'protective conductor'), ('red', 'control, AC')]
        """
        c = self.c
        taken = [x for x in c.supply.taken if x in LINES]
        found = [(self.school[LINES.index(x)], x) for x in taken]
        used = {self.wire(w) for w in (*c.feed, *c.wires)}
        if "N" in c.supply.taken or "N" in c.source.feeds or "NF5" in c.sources:
            found.append((self.school[NEUTRAL], "neutral"))
        found.append((self.protective, "protective conductor"))
        if c.lines and self.control in used:
            words = "DC" if c.source.dc else "AC"
            foreign = c.source.alive_with_main_off
            found.append((self.control, "control, live with the main switch off" if foreign else f"control, {words}"))
        if self.foreign and not c.source.alive_with_main_off:
            found.append((self.school[FOREIGN], "from another supply, live with the main switch off"))
        return found

    @cached_property
    def _by_terminal(self) -> dict[str, str]:
        found: dict[str, str] = {}
        for w in (*self.c.feed, *self.c.wires):
            found[w.a] = found[w.b] = self.wire(w)
        return found

    def at(self, terminal: str, lane: int | None = None) -> str:
        """Colour of the conductors at a terminal; of a way without one, by its place among the lines."""
        return self._by_terminal.get(terminal, self.control if lane is None else self.school[lane])

    def wire(self, w: Wire) -> str:
        """Colour of one wire of the circuit."""
        if w.side == "power":
            return self._power(w.number, w.a, w.b)
        if w.number in self.foreign:
            return self.school[FOREIGN]
        if w.side == "feed":
            return self.feed(w)
        return self._rail(w.number) or self.control

    def feed(self, w: Wire) -> str:
        """Of a wire that brings the control circuit its voltage, or the monitor its lines."""
        for end in (w.a, w.b):
            device, _, name = end.partition(":")
            if device in ("supply", self.c.monitor) and name in (*LINES, "N"):
                return self.school[NEUTRAL] if name == "N" else self.control
        if w.number.endswith("N") and "N" in self.c.source.feeds:
            return self.school[NEUTRAL]
        return self._rail(w.number) or self.control

    def foreign_colour(self, source: str) -> str:
        """Of what brings in the heater's own supply."""
        return self.school[NEUTRAL if source.startswith("N") else FOREIGN]

    def _rail(self, number: str) -> str:
        """Of a rail that has not the control colour."""
        for rail in self.c.source.rails:
            if rail.number == number and rail.role == "neutral":
                return self.school[NEUTRAL]
            if rail.number == number and rail.role == "line":
                return self.school[LINES.index(rail.name)]
        return ""

    @cached_property
    def foreign(self) -> set[str]:
        """Numbers of the wires on the heater's supply."""
        return reached(self.c, "LF5") | reached(self.c, "NF5")

    @cached_property
    def _poles(self) -> set[str]:
        """Terminals of the poles, which are numbered in the order of the lines."""
        kinds = ("breaker", "contactor", "overload")
        found = (t for c in self.c.contacts if self.c.devices[c.device].kind in kinds for t in c.terminals)
        return {t for t in found if len(t.partition(":")[2]) == 1}

    @cached_property
    def _lanes(self) -> dict[str, int]:
        """Of a single-phase starter: the conductor that each power wire is joined to through contacts alone."""
        found: dict[str, int] = {}
        for conductor in self.c.supply.taken:
            for number in reached(self.c, conductor, "power"):
                lane = NEUTRAL if conductor == "N" else LINES.index(conductor)
                found[number] = min(found.get(number, lane), lane)
        return found

    def _power(self, number: str, a: str, b: str) -> str:
        if self.c.single_phase:
            return self.school[self._lanes.get(number, 0)]
        if "N" in number:
            return self.school[NEUTRAL]
        poles = [t.partition(":")[2] for t in (a, b) if t in self._poles]
        letter = next((x for x in number if x in "UVW"), "")
        last = number[-1] if number[-1] in "123" else ""
        lane = (int(poles[0]) - 1) // 2 if poles else "UVW".index(letter) if letter else int(last) - 1 if last else 0
        return self.school[lane % 3]


def reached(circuit: Circuit, source: str, side: str = "control") -> set[str]:
    """Numbers of the wires joined to a source through contacts, whatever their position."""
    if source not in circuit.sources:
        return set()
    near: dict[int, set[int]] = defaultdict(set)
    for c in circuit.contacts:
        if c.side == side:
            a, b = (circuit.node_of[t] for t in c.terminals)
            near[a].add(b)
            near[b].add(a)
    found, queue = set(), [circuit.node_of[circuit.sources[source]]]
    while queue:
        at = queue.pop()
        if at not in found:
            found.add(at)
            queue += near[at]
    return {circuit.number_of[t] for t, n in circuit.node_of.items() if n in found} - {""}
