"""Netlist of a circuit: devices with positions, contacts, loads, and wires from terminal to terminal."""

from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from itertools import pairwise
from typing import Generic, Literal, TypeVar

from volmek.core.circuit.model.behaviour import BEHAVIOURS, DeviceKind
from volmek.core.circuit.model.notation import Element, Line, Node, Parallel, Terminal, parse_line
from volmek.core.installation.connection import MotorConnection
from volmek.core.installation.control import ControlSource
from volmek.core.installation.designations import STRIP
from volmek.core.installation.supply import SupplySystem

T = TypeVar("T")


class Joined(Generic[T]):
    """Sets of joined things, each with one root (union-find with halved paths)."""

    def __init__(self) -> None:
        self.parent: dict[T, T] = {}

    def root(self, x: T) -> T:
        """Root of the set of ``x``; a thing not seen before is a set of its own."""
        parent = self.parent
        parent.setdefault(x, x)
        while parent[x] != x:
            parent[x] = parent[parent[x]]
            x = parent[x]
        return x

    def join(self, a: T, b: T) -> None:
        """Put the set of ``b`` to that of ``a``, whose root it takes."""
        self.parent[self.root(b)] = self.root(a)


Form = Literal[
    "breaker", "fuse", "motor_breaker", "centrifugal", "current_relay", "potential_relay",
    "float_fill", "float_drain", "pressure", "thermostat", "limit",
]  # fmt: skip
Side = Literal["control", "power", "feed"]
#: What a device is there for, where several are of one kind; its designation is only its name.
Role = Literal[
    "main_breaker", "control_breaker", "primary_breaker", "heater_breaker", "control_transformer", "strip", "line", "star", "delta",
    "trip_relay", "second_start", "reset", "jog", "jog_selector", "duty", "heater_switch", "standby_pressure", "winding_switch", "run_capacitor",
]  # fmt: skip

#: Nodes of the two sides of the control supply.
RETURN, LIVE = "0", "L"


@dataclass(frozen=True, slots=True)
class Device:
    """A device and what is particular about it.

    Attributes
    ----------
    designation, kind, label : which it is
    positions : names of a selector's positions, the first at rest
    closed_in : terminals of a selector's contacts with the positions in which they are closed
    time_s : setting of a time relay, ramp of a soft starter
    pause_s : pause of a star-delta relay, ramp down of a soft starter
    opens : a field contact that opens on what it watches
    form : what a breaker, a field contact or the switch of a start winding really is
    trips : it is the overload protection of the motor
    role : what it is there for, empty where its kind says that
    station : of a button, 1 on the door
    """

    designation: str
    kind: DeviceKind
    label: str
    positions: tuple[str, ...] = ()
    closed_in: Mapping[str, tuple[int, ...]] = field(default_factory=dict)
    time_s: float = 0.0
    pause_s: float = 0.0
    opens: bool = False
    form: Form = "breaker"
    trips: bool = False
    role: Role | Literal[""] = ""
    station: int = 1


@dataclass(frozen=True, slots=True)
class Contact:
    """A contact or pole: closed in some positions of its device."""

    device: str
    a: str
    b: str
    closed_in: frozenset[int]
    side: Side

    @property
    def name(self) -> str:
        """As a fitter writes it: ``K1:13-14``."""
        return f"{self.device}:{self.a}-{self.b}"

    @property
    def terminals(self) -> tuple[str, str]:
        """Its two terminals, the live one first."""
        return f"{self.device}:{self.a}", f"{self.device}:{self.b}"


@dataclass(frozen=True, slots=True)
class Load:
    """A coil, lamp, buzzer, heater or input between two terminals."""

    device: str
    a: str
    b: str

    @property
    def terminals(self) -> tuple[str, str]:
        """Its two terminals, the live one first."""
        return f"{self.device}:{self.a}", f"{self.device}:{self.b}"


@dataclass(frozen=True, slots=True)
class Wire:
    """One conductor between two terminals, and the number on its ferrules."""

    number: str
    a: str
    b: str
    side: Side


@dataclass(frozen=True, slots=True)
class Winding:
    """An impedance in the power circuit: a motor winding, a resistor, a part of a transformer."""

    name: str
    a: str
    b: str
    ohm: complex = 1.0
    kind: Literal["winding", "resistor", "transformer"] = "winding"
    group: str = ""

    @property
    def device(self) -> str:
        """Designation of its device."""
        return self.a.partition(":")[0]


def positions_closed(device: Device, a: str, b: str) -> frozenset[int]:
    """States in which a contact of a device is closed, by its terminal numbers.

    Examples
    --------
    >>> k = Device("K1", "contactor", "Line contactor")
    >>> sorted(map(int, positions_closed(k, "13", "14"))), sorted(map(int, positions_closed(k, "21", "22")))
    ([2], [0])

    References
    ----------
    IEC 60947-1 and EN 50005 for the terminal numbers.
    """
    return BEHAVIOURS[device.kind].contact(device, a, b)


def makes_at_rest(contact: Contact) -> bool:
    """A make contact: open at rest."""
    return 0 not in contact.closed_in


@dataclass(frozen=True)
class Circuit:
    """A circuit as it is wired.

    Attributes
    ----------
    devices : by designation
    contacts, loads, wires, windings : what is in it
    sources : terminal at which each supply begins: ``L``, ``0``, ``L1`` …
    lines : of the control circuit as they were written, for the drawing
    power_lines : of the power circuit for all phases at once, with the winding ends that each meets
    forbidden : pairs of contactors that must never be in together, and why
    mechanical : pairs that hold each other out by a lever; ``levers`` those that should have one
    feeders : contactors that each feed the motor
    rotor_steps : contactors that take a rotor resistor out, in order
    starts, stops : buttons that start and stop
    free_terminals : terminals added so that none has more than two conductors
    meanings : what each lamp says
    restart : what happens when the supply comes back, in words
    declared : rules that are broken on purpose, with the reason
    source : of the control circuit, ``supply`` of the starter, ``connection`` of its motor
    feed : wires from the tap, or from outside, to the control breaker, and from the lines to the phase monitor
    monitor_behind : the phase monitor is tapped behind the contactor
    rated_share : voltage on a winding over the line voltage when the motor runs
    watches_neutral : the phase monitor is a four-wire one
    written : lines of the control circuit as they were generated, each with what somebody made of it: the same, another, or nothing
    """

    devices: Mapping[str, Device]
    contacts: tuple[Contact, ...]
    loads: tuple[Load, ...]
    wires: tuple[Wire, ...]
    windings: tuple[Winding, ...]
    sources: Mapping[str, str]
    lines: tuple[Line, ...]
    power_lines: tuple[tuple[str, str], ...]
    source: ControlSource
    supply: SupplySystem
    connection: MotorConnection
    feed: tuple[Wire, ...] = ()
    forbidden: tuple[tuple[str, str], ...] = ()
    mechanical: tuple[tuple[str, str], ...] = ()
    levers: tuple[tuple[str, str], ...] = ()
    feeders: tuple[str, ...] = ()
    rotor_steps: tuple[str, ...] = ()
    starts: tuple[str, ...] = ()
    stops: tuple[str, ...] = ()
    meanings: Mapping[str, str] = field(default_factory=dict)
    restart: str = ""
    declared: Mapping[str, str] = field(default_factory=dict)
    monitor_behind: bool = False
    rated_share: float = 1.0
    watches_neutral: bool = False
    written: tuple[tuple[str, str], ...] = ()

    @property
    def changed(self) -> list[str]:
        """What somebody changed of the generated control circuit, in words."""
        return [
            f"added: {now}" if not line else f"left out: {line}" if not now else f"{line}, changed to {now}"
            for line, now in self.written
            if line != now
        ]

    @property
    def earthed(self) -> bool:
        """An earth fault of the control circuit acts; unknown is judged as the worse case."""
        return self.source.earthed is not False

    @property
    def overloads(self) -> list[str]:
        """Overload protection: relays, or the motor breaker in their place."""
        relays = [d.designation for d in self.devices.values() if d.kind == "overload"]
        return relays or [d.designation for d in self.devices.values() if d.form == "motor_breaker" and d.trips]

    @cached_property
    def start_switch(self) -> str:
        """Contact that takes the start winding of a single-phase motor out; empty where there is none."""
        for c in self.contacts:
            if c.side == "power" and self.devices[c.device].kind in ("button", "timer", "field"):
                return c.name
        return ""

    @property
    def single_phase(self) -> bool:
        """Its motor has one phase."""
        return any(w.name == "main" for w in self.windings)

    @property
    def monitor_trial(self) -> tuple[str, str]:
        """Operations that make the phase monitor drop out and pull in again, of a line that does not feed the control where there is one."""
        if self.single_phase:
            return "voltage 80", "voltage 100"
        free = [x for x in self.supply.taken_lines if x not in self.source.feeds]
        line = free[-1] if free else self.supply.taken_lines[-1]
        return f"lose {line}", f"restore {line}"

    def trial(self, name: str) -> tuple[str, str]:
        """Operations that make a guard act and take it back: an overload protection, a button, the monitor.

        Parameters
        ----------
        name : designation of one of its devices
        """
        device = self.devices[name]
        if device.kind == "monitor":
            return self.monitor_trial
        behaviour = BEHAVIOURS[device.kind]
        acts = next(v for v in behaviour.values(device, 1)[::-1] if v != behaviour.rest)
        return behaviour.operation(device, behaviour.rest, acts), behaviour.operation(device, acts, behaviour.rest)

    @cached_property
    def conductors(self) -> tuple[str, ...]:
        """Conductors that can be lost at the incomer: those taken, the neutral of the control, a separate supply as ``C``."""
        more = [x for x in self.source.lost_with if self.loads] + (["N"] if self.watches_neutral else [])
        return tuple(dict.fromkeys([*(x for x in self.supply.taken if x in self.sources), *more]))

    @cached_property
    def node_of(self) -> dict[str, int]:
        """Each terminal's node: terminals that wires join have the same."""
        joined: Joined[str] = Joined()
        root = joined.root
        for wire in (*self.wires, *self.feed):
            joined.join(wire.a, wire.b)
        ends = [c.terminals for c in self.contacts] + [x.terminals for x in self.loads]
        for pair in ends:
            for t in pair:
                root(t)
        for w in self.windings:
            root(w.a), root(w.b)
        for t in self.sources.values():
            root(t)
        numbers: dict[str, int] = {}
        return {t: numbers.setdefault(root(t), len(numbers)) for t in joined.parent}

    @cached_property
    def number_of(self) -> dict[str, str]:
        """Wire number at each terminal, empty where no wire is connected."""
        found: dict[str, str] = dict.fromkeys(self.node_of, "")
        for wire in (*self.feed, *self.wires):
            found[wire.a] = found[wire.b] = wire.number
        for source, terminal in self.sources.items():  # the incoming conductor carries the name of its line
            if not found.get(terminal) and source in self.supply.taken:
                found[terminal] = source
        return found

    def nodes(self) -> list[tuple[str, list[str]]]:
        """Wire numbers with the terminals that each joins, in working order."""
        joined: dict[str, list[str]] = defaultdict(list)
        for wire in self.wires:
            for t in (wire.a, wire.b):
                if t not in joined[wire.number]:
                    joined[wire.number].append(t)
        return sorted(joined.items(), key=lambda x: number_key(x[0]))

    def rewired(self, wires: Iterable[Wire]) -> "Circuit":
        """The same devices with other wires."""
        return replace(self, wires=tuple(wires))

    def of_kind(self, *kinds: DeviceKind) -> list[str]:
        """Designations of the devices of some kinds, in order."""
        return [d.designation for d in self.devices.values() if d.kind in kinds]

    @cached_property
    def _roles(self) -> dict[str, str]:
        return {d.role: d.designation for d in self.devices.values() if d.role}

    def named(self, role: Role) -> str:
        """Designation of the device that has a role, empty where there is none.

        Examples
        --------
        >>> from volmek.core.examples import example
        >>> example().circuit.named("main_breaker"), example().circuit.named("star")
        ('Q1', '')
        """
        return self._roles.get(role, "")

    @cached_property
    def monitor(self) -> str:
        """Designation of the phase monitor, empty where there is none."""
        return next(iter(self.of_kind("monitor")), "")

    @cached_property
    def motor(self) -> str:
        """Designation of the motor, empty while its power circuit is not laid out."""
        return next(iter(self.of_kind("motor")), "")

    @property
    def strip(self) -> str:
        """Designation of the strip where the conductors leave the panel, the usual one while nothing is on it."""
        return self.named("strip") or STRIP

    def in_motor(self, terminal: str) -> bool:
        """A terminal is in the motor's terminal box."""
        return terminal.partition(":")[0] == self.motor

    def on_strip(self, terminal: str) -> bool:
        """A terminal is on the strip where the conductors leave the panel."""
        return terminal.partition(":")[0] == self.strip

    @property
    def star_delta(self) -> bool:
        """A star and a delta contactor exclude each other."""
        return (self.named("delta"), self.named("star")) in self.forbidden

    @cached_property
    def heater_lamps(self) -> frozenset[str]:
        """Lamps on the heater's supply."""
        return frozenset(lamp for lamp, meaning in self.meanings.items() if meaning == "heater")

    @cached_property
    def power_contactors(self) -> tuple[str, ...]:
        """Contactors with a pole in the power circuit."""
        return tuple(
            k for k in self.of_kind("contactor") if any(c.device == k and c.side == "power" for c in self.contacts)
        )


def number_key(number: str) -> tuple[int, int, str]:
    """Sorts wire numbers as they are counted: power first by name, then control by number."""
    return (1, int(number), "") if number.isdigit() else (0, 0, number)


class Netlist:
    """Gathers lines of the notation into wires; a node's terminals are chained, so that none has more than two conductors."""

    def __init__(self) -> None:
        self.nodes: dict[str, list[str]] = {}
        self.order: list[str] = []
        self.elements: list[tuple[Element, Side]] = []
        self._unnamed = 0
        self._alias: dict[str, str] = {}

    def add(self, text: str, side: Side, *, returns: str = RETURN) -> Line:
        """A line; after a load it continues to the return."""
        line = parse_line(text)
        last = line[-1]
        if isinstance(last, Element) and last.load:
            line = (*line, Node(returns))
        self._walk(line, side, None)
        return line

    def _fresh(self) -> str:
        self._unnamed += 1
        return f"#{self._unnamed}"

    def _called(self, node: str) -> str:
        """Name of a node after it was joined with others."""
        while node in self._alias:
            node = self._alias[node]
        return node

    def join(self, node: str, terminal: str) -> None:
        """Put a terminal on a node."""
        node = self._called(node)
        if node not in self.nodes:
            self.nodes[node] = []
            self.order.append(node)
        if terminal not in self.nodes[node]:
            self.nodes[node].append(terminal)

    def _merge(self, a: str, b: str) -> str:
        """Two names for one node; the named one stays."""
        a, b = self._called(a), self._called(b)
        if a == b:
            return a
        keep, go = (b, a) if a.startswith("#") else (a, b)
        self.nodes.setdefault(keep, [])
        if keep not in self.order:
            self.order.insert(self.order.index(go) if go in self.order else len(self.order), keep)
        for t in self.nodes.pop(go, []):
            self.join(keep, t)
        if go in self.order:
            self.order.remove(go)
        self._alias[go] = keep
        return keep

    def _walk(self, line: Line, side: Side, start: str | None) -> str:
        at = start
        for item in line:
            if isinstance(item, Node):
                name = self._called(item.name)
                self.nodes.setdefault(name, [])
                if name not in self.order:
                    self.order.append(name)
                at = name if at is None else self._merge(at, name)
            elif isinstance(item, Terminal):
                at = at or self._fresh()
                self.join(at, str(item))
            elif isinstance(item, Element):
                at = at or self._fresh()
                first, second = item.terminals
                self.join(at, first)
                at = self._fresh()
                self.join(at, second)
                self.elements.append((item, side))
            else:
                at = self._parallel(item, side, at or self._fresh())
        return at or self._fresh()

    def _parallel(self, item: Parallel, side: Side, start: str) -> str:
        start = self._called(start)
        self.nodes.setdefault(start, [])
        end: str | None = None
        for branch in item.branches:
            reached = self._walk(branch, side, start)
            end = reached if end is None else self._merge(end, reached)
        assert end
        return end

    def wires(self, numbers: Mapping[str, str], side: Side) -> list[Wire]:
        """Chains of wires, numbered in the order in which the nodes come; some nodes have a number of their own."""
        found: list[Wire] = []
        following = 2
        for node in self.order:
            terminals = self.nodes[node]
            if len(terminals) < 2:
                continue
            number = numbers.get(node)
            if number is None:
                number = str(following) if side == "control" else f"D{following - 1}"
                following += 1
            found += [Wire(number, a, b, side) for a, b in pairwise(terminals)]
        return found
