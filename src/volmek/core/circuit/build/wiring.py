"""The wire list: every conductor of a starter from terminal to terminal, through the strip to the field, in working order."""

from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Literal

from volmek.core.circuit.model.colours import Colours, school_of
from volmek.core.circuit.model.netlist import Circuit, Side, Wire, number_key
from volmek.core.design import Design
from volmek.core.document.model import StarterDocument
from volmek.data.loader import standard

Group = Literal["power", "control", "door", "field"]
GROUPS: tuple[Group, ...] = ("power", "control", "door", "field")
DOOR = ("button", "emergency_stop", "selector", "lamp", "buzzer")
FIELD = ("field", "motor", "heater")
#: Colours of end sleeves by section.
SLEEVES = {0.5: "white", 0.75: "grey", 1.0: "red", 1.5: "black", 2.5: "blue", 4.0: "grey", 6.0: "yellow", 10.0: "red", 16.0: "blue", 25.0: "yellow", 35.0: "red", 50.0: "blue"}  # fmt: skip
#: Control conductors where nothing else is said.
CONTROL_MM2, CONTROL_AWG = 1.0, "14 AWG"
NEVER = 99


@dataclass(frozen=True, slots=True)
class WireItem:
    """One conductor to be laid.

    Attributes
    ----------
    key : its two ends; stays the same while the numbers of other wires change
    number : on its ferrules
    a, b : terminals
    side : power or control
    group : where it is laid: power, control, door (to or on the door), field (leaves the panel)
    colour, section : of the conductor
    sleeves : end sleeves at its two ends, twin where two conductors share a terminal
    kind : a wire, a bridge between neighbouring strip terminals, or the incoming supply
    stage : number of the stage in which it is laid, from 1
    within : the two ends in the circuit that is simulated; empty for what the simulation does not know
    """

    key: str
    number: str
    a: str
    b: str
    side: Side
    group: Group
    colour: str
    section: str
    sleeves: tuple[str, ...] = ("", "")
    kind: Literal["wire", "bridge", "incoming"] = "wire"
    stage: int = 1
    within: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Sections:
    """Sections of the conductors, as they are written on the list."""

    line: str
    motor: str
    control: str


def sections(document: StarterDocument, design: Design | None) -> Sections:
    """Sections of the line to the contactors, of the motor leads and of the control circuit.

    Examples
    --------
    >>> from volmek.core.document.model import parse
    >>> sections(parse({"tag": "A"}), None)
    Sections(line='', motor='', control='1 mm²')

    References
    ----------
    IEC 60204-1, 12.4 and table 5 (control); IEC 60364-5-52, method C (line); NEC 310.16, 430.72.
    """
    control = CONTROL_AWG if document.practice == "nec" else f"{CONTROL_MM2:g} mm²"
    cable = next((d for d in design.devices if d.kind == "motor_conductor"), None) if design else None
    if design is None or cable is None:
        return Sections("", "", control)
    motor = cable.type.removesuffix(" Cu").removesuffix(" copper")
    return Sections(
        _line_section(design.currents.permitted_current_a, motor, document)
        if cable.selected.conductors == 6
        else motor,
        motor,
        control,
    )


def _line_section(needed: float, motor: str, document: StarterDocument) -> str:
    """Six leads each carry a part of the line current; the wires before the contactors carry all of it."""
    if document.practice == "nec":
        rows = [(r["size"], float(r["ampacity_75c_a"])) for r in standard("conductor_ampacity_copper_nec310_16")]
        return next((str(size) for size, able in rows if able >= 1.25 * needed), motor)
    table = standard("cable_current_capacity_copper_iec")
    return next((f"{r['section_mm2']:g} mm²" for r in table if float(r["pvc_c_3_loaded_a"]) >= needed), motor)


def spot(circuit: Circuit, terminal: str) -> tuple[Literal["panel", "door", "field"], str]:
    """Place of a terminal: panel, door or field; and its neighbours there.

    Examples
    --------
    >>> from volmek.core.circuit.schemes import circuit_of
    >>> from volmek.core.document.model import parse
    >>> c = circuit_of(parse({"tag": "A", "control": {"start_stations": 2}}))
    >>> spot(c, "S2:3"), spot(c, "S12:3"), spot(c, "M1:U1")[0]
    (('door', 'door'), ('field', 'station 2'), 'field')
    """
    name = terminal.partition(":")[0]
    device = circuit.devices[name]
    kind = device.kind
    if device.station > 1:
        return "field", f"station {device.station}"
    if kind in DOOR:
        return "door", "door"
    if kind in FIELD:
        return "field", circuit.motor if device.role == "winding_switch" else name
    return "panel", "panel"


def _joined(
    circuit: Circuit, number: str, terminals: list[str], stage: Mapping[str, int], fed: bool
) -> list[tuple[str, str, bool]]:
    """Conductors that join the terminals of one node, and its bridges: chains in the panel and on the door, a spoke to each place in the field.

    No terminal has more than two conductors; a bridge between strip terminals has a place of its own.

    Parameters
    ----------
    stage : in which a terminal is needed; what is needed first stands first, so that the part wired so far hangs together
    fed : the first terminal of the panel already has a conductor
    """

    def chained(spots: Iterable[str]) -> list[str]:
        return sorted(spots, key=lambda t: stage.get(t, NEVER))

    def pairs(chain: list[str]) -> list[tuple[str, str, bool]]:
        return [(a, b, circuit.in_motor(a) and circuit.in_motor(b)) for a, b in pairwise(chain)]

    at = {t: spot(circuit, t) for t in terminals}
    panel, door = (chained(t for t in terminals if at[t][0] == where) for where in ("panel", "door"))
    places = list(dict.fromkeys(at[t][1] for t in terminals if at[t][0] == "field"))
    if len(places) == 1 and not panel and not door:
        return pairs(chained(terminals))  # links within one box in the field need no strip
    strips = [f"{circuit.strip}:{number}" + ("" if i == 0 else "abcdefghij"[i - 1]) for i in range(len(places) + 1)]
    used = len(places)
    found = pairs(panel) + pairs(door)
    for strip, place in zip(strips, places, strict=False):
        spoke = chained(t for t in terminals if at[t] == ("field", place))
        found += [(strip, spoke[0], False), *pairs(spoke)]
    free = ([panel[-1]] if fed else [panel[0], panel[-1]]) if panel else []
    if door and free and (len(free) == 2 or not places):
        found.append((free.pop(0), door[0], False))
    elif door and panel:
        found.append((strips[used], door[0], False))
        used += 1
    elif door and places:
        found.append((strips[0], door[0], False))
    if used and free:
        found.append((free.pop(), strips[0], False))
    return found + [(a, b, True) for a, b in pairwise(strips[:used])]


def _staged(edges: list[tuple[str, str, bool]], stage: Mapping[str, int]) -> list[int]:
    """Stage of each edge of a tree: the first in which it lies between two terminals that are needed."""
    near: dict[str, list[tuple[str, int]]] = defaultdict(list)
    for i, (a, b, _) in enumerate(edges):
        near[a].append((b, i))
        near[b].append((a, i))

    def least(at: str, came: int) -> int:
        return min([stage.get(at, NEVER), *(least(to, i) for to, i in near[at] if i != came)])

    return [max(least(a, i), least(b, i)) for i, (a, b, _) in enumerate(edges)]


class _List:
    """Gathers the items of a wire list."""

    def __init__(self, circuit: Circuit, document: StarterDocument, design: Design | None) -> None:
        self.c, self.document = circuit, document
        self.colours = Colours(circuit, school_of(document))
        self.sections = sections(document, design)
        self.items: list[WireItem] = []
        self.earths = 0

    def add(self, number: str, a: str, b: str, side: Side, *, stage: int = 1, kind: Literal["wire", "bridge", "incoming"] = "wire",
            colour: str = "", group: Group | None = None, within: tuple[str, ...] = (), section: str | None = None) -> None:  # fmt: skip
        """One conductor."""
        self.items.append(
            WireItem(
                "~".join(sorted((a, b))), number, a, b, "power" if side == "power" else "control", group or self._group(a, b, side), colour or self.colours.wire(Wire(number, a, b, side)),
                self._section(number, a, b, side, kind) if section is None else section, kind=kind, stage=stage, within=within,
            )
        )  # fmt: skip

    def _group(self, a: str, b: str, side: Side) -> Group:
        where = [spot(self.c, t)[0] if t.partition(":")[0] in self.c.devices else "panel" for t in (a, b)]
        return "field" if "field" in where else "door" if "door" in where else "power" if side == "power" else "control"

    def _section(self, number: str, a: str, b: str, side: Side, kind: str) -> str:
        if kind == "bridge":
            return "link" if self.c.in_motor(a) and self.c.in_motor(b) else "bridge"
        if side != "power":
            return self.sections.control
        before = (number[0] == "1" and number[1:2] in ("L", "N")) or kind == "incoming"
        return self.sections.line if before else self.sections.motor

    def supply(self) -> None:
        """Feed of starter and control circuit, and the protective conductors."""
        c = self.c
        for line in ("L1", "L2", "L3", "N"):
            if line in c.sources:
                self.add(line, f"supply:{line}", c.sources[line], "power", kind="incoming", group="power")
        self.earth("supply:PE", "incoming")
        self.earth(f"{c.motor}:PE", "wire")
        if not c.loads:
            return
        self.earth("door:PE", "wire")
        for w in c.feed:
            if c.source.kind == "unknown" and c.monitor not in (w.a.partition(":")[0], w.b.partition(":")[0]):
                continue  # nobody has decided what feeds the control circuit
            incoming = w.a.startswith("supply:")
            self.add(w.number, w.a, w.b, "feed", kind="incoming" if incoming else "wire", group="control")
        if c.source.transformed and c.source.earthed:
            middle = f"{c.named('control_transformer')}:s0"
            self.earth(middle if c.source.centre else c.sources["0"], "wire", link=True)
        if "LF5" in c.sources:
            for source in ("LF5", "NF5"):
                self.add(
                    source,
                    f"supply:{source}",
                    c.sources[source],
                    "feed",
                    kind="incoming",
                    group="control",
                    colour=self.colours.foreign_colour(source),
                )

    def earth(self, terminal: str, kind: Literal["wire", "incoming"], *, link: bool = False) -> None:
        """A protective conductor on a terminal of its own at the bar."""
        self.earths += 1
        group: Group = (
            "field"
            if self.c.in_motor(terminal)
            else "door"
            if terminal.startswith("door")
            else "control"
            if link
            else "power"
        )
        section = self.sections.control if link or group == "door" else self.sections.motor
        self.add(
            "PE",
            f"PE:{self.earths}",
            terminal,
            "power",
            kind=kind,
            colour=self.colours.protective,
            group=group,
            section=section,
        )

    def fed(self) -> set[str]:
        """Terminals that already have a conductor of the supply."""
        return {t for item in self.items for t in (item.a, item.b)}

    def nodes(self, stage: Mapping[str, int], strips: int) -> None:
        """The conductors of each node."""
        fed = self.fed()
        side_of: dict[str, Side] = {w.number: w.side for w in self.c.wires}
        # A strip that the supply stands on keeps its name to itself.
        for number, terminals in self.c.nodes():
            ordered = sorted(terminals, key=lambda t: (stage.get(t, NEVER), terminals.index(t)))
            panel = [t for t in ordered if spot(self.c, t)[0] == "panel"]
            front = [t for t in panel if t in fed]
            name = f"{number}." if f"{self.c.strip}:{number}" in fed or number == "N" else number
            edges = _joined(
                self.c,
                name,
                [*front, *(t for t in terminals if t not in front)],
                {**stage, **dict.fromkeys(front, 0)},
                bool(front),
            )
            # Power conductors reach the strip before the motor is connected to it.
            early = {
                t: strips for a, b, _ in edges for t in (a, b) if self.c.on_strip(t) and side_of[number] == "power"
            }
            for (a, b, bridge), when in zip(edges, _staged(edges, {**early, **stage}), strict=True):
                self.add(number, a, b, side_of[number], stage=when, kind="bridge" if bridge else "wire", within=(a, b))


def wire_list(
    circuit: Circuit, stage: Mapping[str, int], document: StarterDocument, design: Design | None, strips: int = 1
) -> list[WireItem]:
    """Every conductor of a starter in working order: by stage, then power, control, door and field.

    Parameters
    ----------
    stage : number of the stage in which each terminal is needed first
    design : for the sections; without one those of the power circuit stay open
    strips : stage in which the power conductors reach the strip

    References
    ----------
    IEC 60204-1, 13.1.1 (connections), 13.2 (colours), 13.4.3 (through the strip to the field); EN 46228-4 (colours of sleeves).
    """
    made = _List(circuit, document, design)
    made.supply()
    made.nodes(stage, strips)
    count: dict[str, list[str]] = defaultdict(list)
    for i in made.items:
        if i.kind != "bridge":
            count[i.a].append(i.section)
            count[i.b].append(i.section)
    items = [replace(i, sleeves=(_sleeve(circuit, i, i.a, count), _sleeve(circuit, i, i.b, count))) for i in made.items]
    return sorted(items, key=lambda i: (i.stage, GROUPS.index(i.group), i.kind == "incoming", number_key(i.number)))


def _sleeve(circuit: Circuit, item: WireItem, terminal: str, count: Mapping[str, list[str]]) -> str:
    """The end sleeve at one end of a conductor; a lug where the section has none."""
    if item.kind == "bridge" or not item.section or terminal.startswith("supply:"):
        return ""
    if item.section.endswith("AWG") or item.section.endswith("kcmil"):
        return ""
    mm2 = float(item.section.split()[-2])
    if circuit.in_motor(terminal) or terminal.startswith(("PE:", "door:")) or mm2 not in SLEEVES:
        return "cable lug"
    return f"{SLEEVES[mm2]}{', twin' if count[terminal] == [item.section] * 2 and mm2 <= 16 and not circuit.on_strip(terminal) else ''}"


def as_laid(circuit: Circuit, items: Iterable[WireItem]) -> Circuit:
    """The circuit with only some of its conductors."""
    return circuit.rewired(Wire(i.number, i.within[0], i.within[1], i.side) for i in items if i.within)


def crowded(items: Iterable[WireItem]) -> list[str]:
    """Terminals with more than two conductors; bridges between strip terminals have a place of their own."""
    count: Counter[str] = Counter(t for i in items if i.kind != "bridge" for t in (i.a, i.b))
    return [t for t, n in count.items() if n > 2]
