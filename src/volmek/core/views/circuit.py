"""Contents of the circuit stage before it is operated: drawings, inputs, tables, restart."""

from dataclasses import dataclass

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.circuit.drawing.control import draw_control
from volmek.core.circuit.drawing.pen import CircuitDrawing, Style
from volmek.core.circuit.drawing.power import draw_power
from volmek.core.circuit.kernel.operator import lamp_table
from volmek.core.circuit.kernel.report import auxiliary_contacts, crowded_terminals
from volmek.core.circuit.model.colours import school_of
from volmek.core.circuit.model.netlist import Circuit, makes_at_rest
from volmek.core.circuit.proof.rules import needs_mechanical
from volmek.core.circuit.simulated import SimulatedStarter, simulated
from volmek.core.document.model import StarterDocument

#: What the operator may move, in the order in which it stands on the panel.
MOVED = ("breaker", "emergency_stop", "button", "selector", "overload", "field")
VERBS = {"button": ("press", "release"), "emergency_stop": ("press", "release"), "overload": ("trip", "reset"), "breaker": ("open", "close"), "field": ("close", "open")}  # fmt: skip
#: Colours of lamps by school: running, stopped, tripped, and what only informs.
LAMP_CODES = {
    "run_green": {"running": "green", "stopped": "red", "tripped": "amber"},
    "machine": {"running": "green", "stopped": "white", "tripped": "amber"},
    "live_red": {"running": "red", "stopped": "green", "tripped": "amber"},
}
BUTTON_COLOURS = {"stop": "red", "start": "green", "reset": "blue", "emergency_stop": "red"}


@dataclass(frozen=True, slots=True)
class Operated:
    """A control that can be operated.

    Attributes
    ----------
    designation, label, kind : what it is
    verbs : what is done to it and how it is undone
    positions : of a selector
    colour : of a button's cap
    """

    designation: str
    label: str
    kind: str
    verbs: tuple[str, ...]
    positions: tuple[str, ...]
    colour: str


@dataclass(frozen=True, slots=True)
class Lamp:
    """A lamp or buzzer: what it says, in which colour, and in which state it is lit."""

    designation: str
    label: str
    colour: str
    lit: dict[str, bool]


@dataclass(frozen=True, slots=True)
class Auxiliary:
    """Contacts that a contactor needs in the control circuit, what it has, and the block that is missing."""

    designation: str
    no: int
    nc: int
    has_no: int | None
    has_nc: int | None
    block: str


@dataclass(frozen=True, slots=True)
class WireOut:
    """A wire from terminal to terminal."""

    number: str
    a: str
    b: str
    side: str


@dataclass(frozen=True, slots=True)
class WrittenLine:
    """A line of the control circuit in the notation; an added one was not generated, one that is left out is empty now."""

    line: str
    now: str


@dataclass(frozen=True, slots=True)
class CircuitView:
    """A starter's circuit.

    Attributes
    ----------
    control, power : drawings; the control drawing is None for a starter without one
    rest : contacts that are closed at rest
    operated : what can be operated
    lamps, states : truth table
    auxiliary : contacts counted against the devices
    wires : from terminal to terminal
    crowded : terminals with more than two conductors
    mechanical : pairs that need a lever or button interlock
    restart, declared : in words
    control_phases, control_source : lines that feed the control circuit, and its source in words
    phase_test : in words
    monitored, feeds : a monitor is there; lines that can be lost
    written : lines of the control circuit in the notation, as generated and as somebody changed them
    changed : what was changed of the generated scheme, in words
    """

    control: CircuitDrawing | None
    power: CircuitDrawing
    rest: list[str]
    operated: list[Operated]
    lamps: list[Lamp]
    states: list[str]
    auxiliary: list[Auxiliary]
    wires: list[WireOut]
    crowded: list[str]
    mechanical: list[str]
    restart: str
    declared: list[str]
    control_phases: list[str]
    control_source: str
    phase_test: str
    feeds: list[str]
    written: list[WrittenLine]
    changed: list[str]


def style_of(document: StarterDocument, asked: str | None) -> Style:
    """Drawing style asked for, else that of the practice."""
    if asked == "columns":
        return "columns"
    if asked == "ladder":
        return "ladder"
    return "ladder" if document.practice == "nec" else "columns"


def circuit_view(document: StarterDocument, catalogue: Catalogue, style: str | None = None) -> CircuitView:
    """The circuit of a starter, drawn and described.

    Raises
    ------
    ProblemError : options that contradict each other.
    """
    it = simulated(document, catalogue)
    c, how = it.circuit, style_of(document, style)
    school = school_of(document)
    control = draw_control(c, how, school) if c.lines else None
    table = lamp_table(c) if c.lines else {}
    return CircuitView(
        control,
        draw_power(c, how, school),
        rest_closed(c),
        operated(c),
        _lamps(c, document, table),
        list(table),
        auxiliary(it),
        [WireOut(w.number, w.a, w.b, w.side) for w in c.wires],
        crowded_terminals(c),
        [f"{a} and {b}" for a, b in needs_mechanical(c)] if c.lines and c.forbidden else [],
        c.restart,
        list(c.declared.values()),
        [x for x in c.source.feeds if x != "N"],
        c.source.words,
        phase_test(c),
        list(c.conductors),
        [WrittenLine(line, now) for line, now in c.written],
        c.changed,
    )


def rest_closed(c: Circuit) -> list[str]:
    """Contacts that are drawn closed: break contacts, everything at rest and without a voltage."""
    return [x.name for x in c.contacts if not makes_at_rest(x)]


def operated(c: Circuit) -> list[Operated]:
    """Devices that can be operated, in the order of the panel."""
    found = []
    for kind in MOVED:
        for d in c.devices.values():
            if d.kind != kind:
                continue
            colour = ""
            if kind in ("button", "emergency_stop"):
                word = "stop" if d.designation in c.stops else "reset" if "eset" in d.label else "start"
                colour = BUTTON_COLOURS["emergency_stop" if kind == "emergency_stop" else word]
            verbs = ("open", "close") if d.opens else VERBS.get(kind, ())
            found.append(Operated(d.designation, d.label, kind, verbs, d.positions, colour))
    return found


def _lamps(c: Circuit, document: StarterDocument, table: dict[str, dict[str, bool]]) -> list[Lamp]:
    code = LAMP_CODES[document.control.lamp_code or "run_green"]
    found = []
    for name in c.of_kind("lamp", "buzzer", "heater"):
        meaning = c.meanings.get(name, "")
        word = meaning.partition(" ")[0]
        colour = code.get(word, {"healthy": "white", "phase": "amber", "armed": "white"}.get(word, "white"))
        only = word == "running" and len(c.feeders) == 1
        label = (
            "running"
            if only
            else {"phase": "phase fault", "healthy": "phases healthy"}.get(
                word, meaning or c.devices[name].label.lower()
            )
        )
        found.append(Lamp(name, label, colour, {state: lit.get(name, False) for state, lit in table.items()}))
    return found


def auxiliary(it: SimulatedStarter) -> list[Auxiliary]:
    """Contacts counted against the sized devices; the blocks that have to be added."""
    found = []
    devices = {d.designation: d for d in it.built.devices} if it.built else {}
    rows = it.catalogue.by_type if it.built else {}
    for name, need in auxiliary_contacts(it.circuit).items():
        device = devices.get(name)
        row = rows.get(device.type) if device else None
        has_no, has_nc = (getattr(row[1], f"auxiliary_{k}", None) if row else None for k in ("no", "nc"))
        block = ""
        if has_no is not None and has_nc is not None:
            no, nc = max(need["no"] - int(has_no), 0), max(need["nc"] - int(has_nc), 0)
            if no or nc:
                block = "block with " + " and ".join(
                    [*([f"{no} make"] if no else []), *([f"{nc} break"] if nc else [])]
                )
        found.append(Auxiliary(name, need["no"], need["nc"], has_no, has_nc, block))
    return found


def phase_test(c: Circuit) -> str:
    """Effect of the control source on the phase-failure test."""
    source = c.source
    if source.kind == "separate":
        return (
            f"The control circuit has a {source.words}: a line lost leaves it alive, so only the phase monitor drops the contactors. "
            "Every line taken away proves it."
        )
    lines = " and ".join(x for x in source.feeds if x != "N")
    free = [x for x in c.supply.taken_lines if x not in source.feeds]
    only = f" Only the loss of {' or '.join(free)} proves the monitor." if free else ""
    return (
        f"The control circuit is fed {source.words}. With {lines} lost at standstill nothing starts, with or without a monitor; lost while running the "
        "motor gives 0.65 to 0.95 of the voltage back and the contactor usually stays in. Opened in the control branch alone it drops every contactor "
        f"and proves nothing about the monitor: watch the monitor's own indication.{only}"
    )
