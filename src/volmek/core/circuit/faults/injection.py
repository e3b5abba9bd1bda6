"""Circuits damaged or changed on purpose: welded contacts, broken and earthed wires, terminals exchanged."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from volmek.core.circuit.kernel.engine import Engine
from volmek.core.circuit.kernel.operations import plain_number
from volmek.core.circuit.model.netlist import Circuit, Side, Wire
from volmek.core.document.errors import Problem, ProblemError

FAULTS = (
    "weld K1, weld K1:5-6, break WIRE, break WIRE/2, earth WIRE, swap A B, remove A B, add A B, exchange K1:21-22, "
    "open K1:13-14 (never closes), dead K1 (its coil does nothing), set KT1 SECONDS, behind F2 (tapped on the load side of the contactor), "
    "with terminals as F1:95 and wire numbers as on the ferrules"
)


@dataclass(frozen=True)
class Damaged:
    """A circuit with its faults.

    Attributes
    ----------
    circuit : with the wires as they are now
    stuck : contacts and contactors that are welded
    earthed : terminals that touch earth
    """

    circuit: Circuit
    stuck: frozenset[str] = field(default=frozenset())
    earthed: frozenset[str] = field(default=frozenset())

    def engine(self) -> Engine:
        """Ready to be asked."""
        return Engine(self.circuit, self.stuck, self.earthed)


def damage(circuit: Circuit, faults: list[str]) -> Damaged:
    """Put faults into a circuit, one after the other.

    Parameters
    ----------
    faults : as ``weld K3:5-6``, ``break 12``, ``earth 12``, ``swap F1:95 F1:97``

    Raises
    ------
    ProblemError : a fault that this circuit cannot have.
    """
    damaged = Damaged(circuit)
    for fault in faults:
        damaged = _one(damaged, " ".join(fault.split()))
    return damaged


def _one(d: Damaged, fault: str) -> Damaged:
    verb, _, rest = fault.partition(" ")
    words, c = rest.split(), d.circuit
    if verb == "weld" and len(words) == 1:
        if words[0] in c.of_kind("contactor", "relay") or any(x.name == words[0] for x in c.contacts):
            return replace(d, stuck=d.stuck | {words[0]})
    elif verb == "break" and len(words) == 1:
        number, _, which = words[0].partition("/")
        chain = [w for w in c.wires if w.number == number]
        n = int(which) if which.isascii() and which.isdigit() else 0 if "/" in words[0] else 1
        if 1 <= n <= len(chain):
            return replace(d, circuit=c.rewired(w for w in c.wires if w is not chain[n - 1]))
    elif verb == "earth" and len(words) == 1:
        touched = frozenset(t for w in c.wires if w.number == words[0] for t in (w.a, w.b))
        if touched:
            return replace(d, earthed=d.earthed | touched)
    elif verb in ("swap", "remove", "add") and len(words) == 2 and all(t in c.node_of for t in words):
        return replace(d, circuit=c.rewired(rewired(c.wires, verb, *words)))
    elif verb == "exchange" and len(words) == 1 and any(x.name == words[0] for x in c.contacts):
        return replace(d, circuit=_exchange(c, words[0]))
    elif verb == "open" and len(words) == 1 and any(x.name == words[0] for x in c.contacts):
        never: frozenset[int] = frozenset()
        return replace(
            d,
            circuit=replace(
                c, contacts=tuple(replace(x, closed_in=never) if x.name == words[0] else x for x in c.contacts)
            ),
        )
    elif verb == "dead" and len(words) == 1 and any(x.device == words[0] for x in c.loads):
        return replace(d, circuit=replace(c, loads=tuple(x for x in c.loads if x.device != words[0])))
    elif verb == "behind" and c.monitor and words == [c.monitor]:
        return replace(d, circuit=replace(c, monitor_behind=True))
    elif (
        verb == "set" and len(words) == 2 and words[0] in c.of_kind("timer", "star_delta_timer") and _seconds(words[1])
    ):
        timer = replace(c.devices[words[0]], time_s=float(words[1]))
        return replace(d, circuit=replace(c, devices={**c.devices, words[0]: timer}))
    raise ProblemError([Problem("fault", f"'{fault}' cannot be here; faults: {FAULTS}")])


def rewired(wires: Sequence[Wire], verb: str, a: str, b: str) -> list[Wire]:
    """Wires after one mistake: two terminals exchanged, a wire added or removed.

    Parameters
    ----------
    wires : as they are
    verb : ``swap``, ``add`` or ``remove``
    a, b : terminals

    Raises
    ------
    ProblemError : a wire to be removed that is not there.

    Examples
    --------
    >>> [w.a for w in rewired([Wire("5", "K1:14", "S2:4", "control")], "swap", "K1:14", "K1:13")]
    ['K1:13']
    """
    if verb == "add":
        numbers = [int(w.number) for w in wires if w.number.isdigit()]
        side: Side = next((w.side for w in wires if a in (w.a, w.b)), "control")
        return [*wires, Wire(str(max(numbers, default=0) + 1), a, b, side)]
    if verb == "remove":
        left = [w for w in wires if {w.a, w.b} != {a, b}]
        if len(left) == len(wires):
            raise ProblemError([Problem("fault", f"no wire runs from {a} to {b}")])
        return left
    other = {a: b, b: a}
    return [
        w if other.keys().isdisjoint((w.a, w.b)) else replace(w, a=other.get(w.a, w.a), b=other.get(w.b, w.b))
        for w in wires
    ]


def _seconds(text: str) -> bool:
    value = plain_number(text)
    return value is not None and 0 < value <= 3600


def _exchange(c: Circuit, name: str) -> Circuit:
    """A break contact in the place of a make contact, or the other way round."""
    everything = frozenset(range(5))
    return replace(
        c, contacts=tuple(replace(x, closed_in=everything - x.closed_in) if x.name == name else x for x in c.contacts)
    )
