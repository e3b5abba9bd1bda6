"""The power circuit as conditions over bits: where the motor is on the lines, and where lines are joined."""

from collections.abc import Callable
from functools import cached_property

from volmek.core.circuit.kernel.power import PowerNet
from volmek.core.circuit.model.behaviour import GOING_OUT, IN
from volmek.core.circuit.model.netlist import Contact
from volmek.core.circuit.proof.diagrams import ALL, NONE
from volmek.core.circuit.proof.model import Model


class Poles:
    """Sets of closed poles, each looked at once.

    Parameters
    ----------
    model : of the control circuit that moves them
    net : of the power circuit, where somebody has one whose results are kept

    References
    ----------
    Each set of poles is one network with phasors; what it does to the motor belongs to every state with those poles.
    """

    def __init__(self, model: Model, net: PowerNet | None = None) -> None:
        self.m, self.d = model, model.d
        self.net = net or PowerNet(model.e.circuit)
        self.present = tuple((p, p) for p in self.net.sources)
        self.contacts: dict[int, list[Contact]] = {}
        for c in model.e.circuit.contacts:
            if c.side == "power":
                self.contacts.setdefault(model.e.index[c.device], []).append(c)

    def _classes(self, i: int, *, arcing: bool) -> dict[frozenset[str], int]:
        """Poles of a device that are closed together, with the states in which just those are."""
        e, found = self.m.e, dict[frozenset[str], int]()
        v = self.m.variables.get(i)
        for position in v.positions if v else (self.m.rest[i],):
            closed = frozenset(
                c.name
                for c in self.contacts[i]
                if c.name in e.stuck_poles or position in c.closed_in or (arcing and position == GOING_OUT and IN in c.closed_in)
            )  # fmt: skip
            found[closed] = self.d.either(found.get(closed, NONE), self.m.at(i, position))
        return found

    def where(self, true_of: Callable[[frozenset[str]], bool], *, arcing: bool = False) -> int:
        """States whose closed poles have a property.

        Parameters
        ----------
        arcing : poles that part count as closed still
        """
        classes = [self._classes(i, arcing=arcing) for i in self.contacts]

        def walk(n: int, closed: frozenset[str]) -> int:
            if n == len(classes):
                return ALL if true_of(closed) else NONE
            return self.d.any_of(self.d.both(when, walk(n + 1, closed | names)) for names, when in classes[n].items())

        return walk(0, frozenset())

    @cached_property
    def fed(self) -> int:
        """The motor is on the lines: a winding has a voltage."""
        return self.where(lambda closed: self.net.state(closed, self.present).connection != "off")

    @cached_property
    def shorted(self) -> int:
        """Two lines are joined, or a winding of a transformer is."""
        return self.where(lambda closed: bool(self.net.shorts(closed, self.present)), arcing=True)

    def shorts_in(self, state: int) -> tuple[str, str]:
        """What is joined in a state in which something is."""
        return self.net.shorts(self._closed(state, arcing=True), self.present)[0]

    def feeding(self, state: int) -> list[str]:
        """Contactors whose poles are closed in a state, in order."""
        closed = {name.partition(":")[0] for name in self._closed(state, arcing=False)}
        return [k for k in self.m.e.circuit.power_contactors if k in closed]

    def _closed(self, state: int, *, arcing: bool) -> frozenset[str]:
        found: frozenset[str] = frozenset()
        for i in self.contacts:
            for names, when in self._classes(i, arcing=arcing).items():
                if self.d.both(state, when):
                    found |= names
        return found
