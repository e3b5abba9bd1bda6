"""From the tap in the power circuit, or from outside, to the control breaker; and the wires that the phase monitor measures on."""

from typing import Protocol

from volmek.core.circuit.model.netlist import Contact, Netlist, Wire
from volmek.core.installation.control import ControlSource
from volmek.core.installation.supply import LINES, SupplySystem

CLOSED = frozenset({1})
POLES = (("1", "2"), ("3", "4"))


class Fed(Protocol):
    """Part of a circuit in the making that its feed uses."""

    power: Netlist
    monitor_behind: bool

    @property
    def monitored(self) -> bool: ...
    @property
    def source(self) -> ControlSource: ...
    @property
    def system(self) -> SupplySystem: ...
    @property
    def return_terminal(self) -> str: ...
    @property
    def four_wire(self) -> bool: ...


def make_feed(b: Fed) -> tuple[list[Wire], list[Contact]]:
    """Wires of the feed, and the contacts of its breakers.

    Parameters
    ----------
    b : with the power circuit complete

    References
    ----------
    IEC 60204-1, 7.2.4 and 9.1 (control breaker, transformer); IEC 60364-4-43, 434.2 (taps).
    """
    made = _Feed(b)
    if b.monitored:
        made.monitor()
    made.rails()
    return made.wires, made.contacts


class _Feed:
    def __init__(self, b: Fed) -> None:
        self.b, self.source = b, b.source
        self.wires: list[Wire] = []
        self.contacts: list[Contact] = []
        self.taps: dict[str, tuple[str, str]] = {}
        for line in (*b.system.taken_lines, "N"):
            node = line if self.source.before_main else f"1{line}"
            terminals = [t for t in b.power.nodes.get(node, []) if t.startswith("Q1:")]
            if terminals:
                self.taps[line] = (terminals[0], node)

    def wire(self, number: str, a: str, b: str) -> None:
        self.wires.append(Wire(number, a, b, "feed"))

    def breaker(self, name: str, poles: int) -> None:
        self.contacts += [Contact(name, a, z, CLOSED, "feed") for a, z in POLES[:poles]]

    def monitor(self) -> None:
        """Its sensing wires, after the main breaker or after the contactor; the next tap continues from there."""
        for line in self.b.system.taken_lines:
            behind_main = [t for t in self.b.power.nodes.get(f"1{line}", []) if t.startswith("Q1:")]
            if self.b.monitor_behind:
                begins, number = f"K1:{2 * (LINES.index(line) + 1)}", f"2{line}"
            elif behind_main:
                begins, number = behind_main[0], f"1{line}"
            else:
                continue
            self.wire(number, begins, f"F2:{line}")
            if not self.b.monitor_behind and not self.source.before_main:
                self.taps[line] = (
                    f"F2:{line}",
                    number,
                )  # a terminal of the breaker has room for one more conductor only
        if self.b.four_wire:
            self.wire("N", "supply:N", "F2:N")

    def rails(self) -> None:
        """To both rails."""
        source, back = self.source, self.b.return_terminal
        poles = source.breaker_poles
        self.breaker("F3", poles)
        if source.kind == "separate":
            for k, rail in enumerate(source.rails):
                at = "F3:1" if k == 0 else "F3:3" if poles == 2 else back
                self.wire(rail.number if k == 0 or rail.live else rail.name, f"supply:{rail.name}", at)
            return
        if source.transformed:
            self.breaker("F6", 2)
            self._tapped(source.feeds[0], "F6:1")
            self.wire("T1", "F6:2", "T1:p1")
            self._tapped(source.feeds[1], "F6:3")
            self.wire("T2", "F6:4", "T1:p2")
            self.wire("T3", "T1:s1", "F3:1")
            if poles == 2:
                self.wire("T4", "T1:s2", "F3:3")
            return
        self._tapped(source.feeds[0], "F3:1")
        self._tapped(source.feeds[1], "F3:3" if poles == 2 else back)

    def _tapped(self, conductor: str, to: str) -> None:
        """A conductor of the network, from its tap; a neutral that the starter does not take comes from the incomer."""
        if conductor in self.taps:
            begins, number = self.taps[conductor]
            self.wire(number, begins, to)
        else:
            self.wire(conductor, f"supply:{conductor}", to)
