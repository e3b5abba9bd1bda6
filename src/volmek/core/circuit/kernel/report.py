"""A circuit and its operation as plain data: wires, lamp truth table, auxiliary contacts, one entry for each operation."""

from collections import Counter
from itertools import zip_longest
from typing import TypedDict

from volmek.core.circuit.kernel.operations import operations, plain_number
from volmek.core.circuit.kernel.operator import lamp_table
from volmek.core.circuit.kernel.simulate import MotorNow, Simulator
from volmek.core.circuit.kernel.state import Event, State
from volmek.core.circuit.kernel.telling import told
from volmek.core.circuit.model.netlist import Circuit, Contact, number_key

#: What may still be on its way when an operation counts as settled [s], and the longest that is waited for it.
SETTLES_S, LONGEST_S = 0.12, 1.0
#: Times that a contactor begins to pull in after one operation when it chatters.
CHATTERS = 4


def has_conductors(circuit: Circuit, contact: Contact) -> bool:
    """Some wire is connected to a contact.

    Parameters
    ----------
    circuit : of the starter
    contact : one of its contacts

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> circuit = example().circuit
    >>> any(has_conductors(circuit, x) for x in circuit.contacts if x.device == "K1")
    True
    """
    return any(circuit.number_of.get(t) for t in contact.terminals)


def auxiliary_contacts(circuit: Circuit) -> dict[str, dict[str, int]]:
    """Make and break contacts that each contactor and relay needs in the control circuit.

    Parameters
    ----------
    circuit : of the starter

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> auxiliary_contacts(example().circuit)["K1"]
    {'no': 1, 'nc': 0}
    """
    found: dict[str, dict[str, int]] = {}
    for name in circuit.of_kind("contactor", "relay"):
        mine = [c for c in circuit.contacts if c.device == name and c.side == "control" and has_conductors(circuit, c)]
        found[name] = {
            "no": sum(c.a[-1] + c.b[-1] in ("34", "14") for c in mine),
            "nc": sum(c.a[-1] + c.b[-1] in ("12", "56") for c in mine),
        }
    return found


def crowded_terminals(circuit: Circuit) -> list[str]:
    """Terminals with more than two conductors.

    Parameters
    ----------
    circuit : of the starter

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> crowded_terminals(example().circuit)
    []

    References
    ----------
    IEC 60204-1, 13.1.1: one conductor a terminal unless it is made for two.
    """
    count: dict[str, int] = {}
    for w in circuit.wires:
        for t in (w.a, w.b):
            count[t] = count.get(t, 0) + 1
    return [t for t, n in count.items() if n > 2]


def as_json(circuit: Circuit) -> dict[str, object]:
    """The whole circuit as plain data.

    Parameters
    ----------
    circuit : of the starter

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> as_json(example().circuit)["auxiliary_contacts"]["K1"]
    {'no': 1, 'nc': 0}
    """
    return {
        "nodes": [{"wire": number, "terminals": terminals} for number, terminals in circuit.nodes()],
        "devices": [
            {"designation": d.designation, "kind": d.kind, "label": d.label, **({"positions": list(d.positions)} if d.positions else {}),
             **({"time_s": d.time_s} if d.time_s else {})}
            for d in sorted(circuit.devices.values(), key=lambda d: d.designation)
        ],
        "wires": [
            {"wire": w.number, "from": w.a, "to": w.b, "circuit": w.side} for w in sorted(circuit.wires, key=lambda w: number_key(w.number))
        ],
        "auxiliary_contacts": auxiliary_contacts(circuit),
        "lamp_table": lamp_table(circuit),
        "restart": circuit.restart,
        "declared": dict(circuit.declared),
        "changed_by_hand": circuit.changed,
        "control_phases": [x for x in circuit.source.feeds if x != "N"],
        "control_source": circuit.source.words,
    }  # fmt: skip


def settled(sim: Simulator, s: State, events: list[Event]) -> State:
    """Let contactors and relays come to rest; time relays go on running. One that chatters never does: it ends there, with an event.

    Parameters
    ----------
    sim : the simulator
    s : its state
    events : gathers what happened

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> sim = Simulator(example().circuit)
    >>> settled(sim, sim.operate(sim.begin(), "press S2"), []).time_s > 0
    True
    """
    until, began = s.time_s + LONGEST_S, Counter[int]()
    while s.time_s < until:
        soon = [at for _, _, at in s.due if at <= s.time_s + SETTLES_S]
        if not soon:
            break
        before = s.positions
        s = sim.advance(s, max(soon) - s.time_s, events)
        began.update(sim.begins(before, s.positions))
        if again := [i for i, times in began.items() if times >= CHATTERS]:
            events += [Event(s.time_s, sim.engine.names[i], "chatters") for i in again]
            break
    return s


class ToldEvent(TypedDict):
    """An event of an operation, as the command line prints it."""

    time_s: float
    device: str
    words: str


class Entry(TypedDict):
    """One operation of a script with what it came to."""

    do: str
    time_s: float
    coils: dict[str, bool]
    lamps: dict[str, bool]
    motor: MotorNow
    events: list[ToldEvent]


def entry(sim: Simulator, operation: str, began_s: float, s: State, events: list[Event]) -> Entry:
    """One operation with what it came to.

    Parameters
    ----------
    sim, s : the simulator and its state after the operation
    operation, began_s : what was done, and when [s]
    events : what happened

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> sim = Simulator(example().circuit)
    >>> entry(sim, "wait 0", 0.0, sim.begin(), [])["coils"]
    {'K1': False}
    """
    live = sim.live(s)
    return {
        "do": operation,
        "time_s": round(began_s, 4),
        "coils": {x.device: x.device in live for x in sim.engine.loads},
        "lamps": sim.lamps(s),
        "motor": sim.motor(s),
        "events": [{"time_s": round(e.time_s, 4), "device": e.device, "words": told(e).words} for e in events],
    }


def run_script(sim: Simulator, script: str) -> list[Entry]:
    """Every operation of a script, settled after each; a wait counts from the operation before it.

    Before and after a ``pause`` nothing settles: the next operation follows after exactly so long, as a race needs it.

    Parameters
    ----------
    sim : the simulator
    script : operations, set apart by semicolons

    Raises
    ------
    ProblemError : an operation that this circuit does not know.

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> [e["coils"]["K1"] for e in run_script(Simulator(example().circuit), "press S2; release S2; press S1")]
    [True, True, False]
    """
    at_once: list[Event] = []  # before anything is done: a short
    s = settled(sim, sim.begin(at_once), [])
    s = s._replace(time_s=0.0, due=tuple((i, p, max(at - s.time_s, 0.0)) for i, p, at in s.due))
    found: list[Entry] = []
    began = 0.0
    todo = list(operations(script))
    for operation, following in zip_longest(todo, todo[1:], fillvalue=""):
        events: list[Event] = at_once if not found else []
        lasts = operation.startswith(("wait ", "pause "))
        seconds = operation.split()[1] if lasts else ""
        if operation.startswith("wait ") and (given := plain_number(seconds)) is not None:
            s = sim.operate(s, f"wait {max(given - (s.time_s - began), 0)}", events)
        else:
            began = s.time_s if not lasts else began
            s = sim.operate(s, operation, events)
        at = s.time_s if lasts else began
        if not operation.startswith("pause ") and not following.startswith("pause "):
            s = settled(sim, s, events)
        if lasts:
            began = s.time_s
        found.append(entry(sim, operation, at, s, events))
    return found
