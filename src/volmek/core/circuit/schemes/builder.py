"""Puts a circuit together from lines of the notation: supply, head, start and hold, lamps; and counts contact places."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

from volmek.core.circuit.model.behaviour import DeviceKind
from volmek.core.circuit.model.fitted import Fitted
from volmek.core.circuit.model.netlist import (
    LIVE,
    RETURN,
    Circuit,
    Contact,
    Device,
    Form,
    Load,
    Netlist,
    Role,
    Side,
    Winding,
    positions_closed,
)
from volmek.core.circuit.model.notation import Line, elements, parallel, parse_line, series
from volmek.core.circuit.schemes.edits import Edits
from volmek.core.circuit.schemes.feed import make_feed
from volmek.core.document.model import StarterDocument
from volmek.core.installation import designations as names
from volmek.core.installation.connection import MotorConnection, motor_connection
from volmek.core.installation.control import ControlSource, control_source
from volmek.core.installation.supply import SupplySystem, supply_system

#: Places of a contactor's own contacts, of a block on its front and of one at its side, in the order they are taken.
NO_PLACES = ("13-14", "53-54", "83-84", "63-64", "73-74", "113-114", "143-144")
NC_PLACES = ("21-22", "61-62", "71-72", "121-122", "131-132")
BUILT_IN = ("13-14", "21-22")
#: Contacts that a device has whether they are wired or not.
SPARE: dict[str, tuple[tuple[str, str], ...]] = {
    "overload": (("95", "96"), ("97", "98")),
    "monitor": (("11", "12"), ("11", "14")),
    "button": (("1", "2"), ("3", "4")),
    "contactor": (("13", "14"), ("21", "22")),
}
POLES = (("1", "2"), ("3", "4"), ("5", "6"))
#: Roles of the devices that every circuit calls alike; a scheme adds those of its own.
ROLES: Mapping[str, Role] = {
    names.MAIN_BREAKER: "main_breaker", names.CONTROL_BREAKER: "control_breaker", names.PRIMARY_BREAKER: "primary_breaker",
    names.HEATER_BREAKER: "heater_breaker", names.CONTROL_TRANSFORMER: "control_transformer", names.STRIP: "strip", names.TRIP_RELAY: "trip_relay",
    names.HEATER_SWITCH: "heater_switch", names.WINDING_SWITCH: "winding_switch", names.RUN_CAPACITOR: "run_capacitor",
}  # fmt: skip
KINDS: tuple[tuple[str, DeviceKind, str], ...] = (
    ("KT", "timer", "Time relay"), ("K", "contactor", "Contactor"), ("P", "lamp", "Lamp"), ("H", "buzzer", "Buzzer"), ("E", "heater", "Heater"),
    ("F3", "breaker", "Control breaker"), ("F6", "breaker", "Primary breaker"), ("F1", "overload", "Overload relay"), ("F4", "overload", "Second overload relay"), ("F2", "monitor", "Phase monitor"), ("F", "breaker", "Breaker"),
    ("Q", "breaker", "Main breaker"), ("S0", "emergency_stop", "Emergency stop"), ("S", "button", "Push-button"), ("B", "field", "Field contact"),
    ("G", "soft_starter", "Soft starter"), ("M", "motor", "Motor"), ("T1", "transformer", "Control transformer"), ("T", "transformer", "Autotransformer"), ("R", "resistor", "Resistor"),
    ("C", "capacitor", "Capacitor"), ("X", "strip", "Terminal strip"),
)  # fmt: skip


@dataclass
class Builder:
    """A circuit in the making.

    Attributes
    ----------
    document : what is asked for
    fitted : what the sized starter says of its devices
    """

    document: StarterDocument
    fitted: Fitted = field(default_factory=Fitted)
    control: Netlist = field(default_factory=Netlist)
    power: Netlist = field(default_factory=Netlist)
    lines: list[Line] = field(default_factory=list)
    power_lines: list[tuple[str, str]] = field(default_factory=list)
    devices: dict[str, Device] = field(default_factory=dict)
    windings: list[Winding] = field(default_factory=list)
    forbidden: list[tuple[str, str]] = field(default_factory=list)
    mechanical: list[tuple[str, str]] = field(default_factory=list)
    feeders: list[str] = field(default_factory=list)
    rotor_steps: list[str] = field(default_factory=list)
    starts: list[str] = field(default_factory=list)
    stops: list[str] = field(default_factory=list)
    meanings: dict[str, str] = field(default_factory=dict)
    declared: dict[str, str] = field(default_factory=dict)
    roles: dict[str, Role] = field(default_factory=lambda: dict(ROLES))
    restart: str = ""
    second_overload: bool = False
    one_running_lamp: bool = False
    places: set[tuple[str, str]] = field(default_factory=set)
    edits: Edits = field(default_factory=Edits)
    written: list[tuple[str, str]] = field(default_factory=list)
    monitor_behind: bool = False
    lamps_done: bool = False
    armed: str = "bus"
    after_overload: str = "o"
    rated_share: float = 1.0

    @property
    def times_s(self) -> Mapping[str, float]:
        """Settings of time relays, by designation [s]."""
        return self.fitted.times_s

    @property
    def relay(self) -> bool:
        """The power circuit has an overload relay of its own."""
        return self.fitted.relay

    def relay_poles(self, name: str = "F1") -> str:
        """The poles of an overload relay in a line of the power circuit, empty where none is fitted."""
        return f"{name}:{{o}}-{{e}} > " if self.relay else ""

    @cached_property
    def connection(self) -> MotorConnection:
        """Connection of the motor's ends."""
        return motor_connection(self.document)

    @cached_property
    def system(self) -> SupplySystem:
        """The supply."""
        return supply_system(self.document)

    @cached_property
    def source(self) -> ControlSource:
        """The control source."""
        return control_source(self.document, self.system)

    def device(
        self, designation: str, kind: DeviceKind, label: str, *, positions: tuple[str, ...] = (), closed_in: Mapping[str, tuple[int, ...]] | None = None,
        time_s: float = 0.0, pause_s: float = 0.0, opens: bool = False, form: Form = "breaker", trips: bool = False,
        role: Role | Literal[""] = "", station: int = 1,
    ) -> str:  # fmt: skip
        """Name a device that is not what its letter says, or has settings."""
        role = role or self.roles.get(designation, "")
        self.devices[designation] = Device(
            designation, kind, label, positions, closed_in or {}, time_s, pause_s, opens, form, trips, role, station
        )
        return designation

    def _known(self, designation: str) -> Device:
        if designation not in self.devices:
            kind, label = next((k, w) for letter, k, w in KINDS if designation.startswith(letter))
            self.device(designation, kind, label, time_s=self.times_s.get(designation, 0.0))
        return self.devices[designation]

    def line(self, *parts: str, returns: str = RETURN) -> None:
        """A line of the control circuit, or what somebody made of it; its contacts keep their places either way."""
        text = series(*parts)
        self.places |= {(e.device, e.a[:-1]) for e in elements(parse_line(text)) if not e.load}
        now = self.edits.now(text)
        self.written.append((text, now))
        if now:
            self.lines.append(self.control.add(now, "control", returns=returns))

    def add_line(self, text: str) -> None:
        """A line that the scheme does not have."""
        self.lines.append(self.control.add(text, "control"))

    def named_devices(self) -> Mapping[str, Device]:
        """Devices of the circuit, those of lines that were left out too."""
        for line, _ in self.written:
            for e in elements(parse_line(line)) if line else ():
                self._known(e.device)
        for e, _ in self.power.elements:
            self._known(e.device)
        return self.devices

    def three(self, text: str, ends: str = "UVW", *, drawn: str | None = None) -> None:
        """A line of the power circuit, once for each phase.

        Parameters
        ----------
        text : with ``{p}`` for the number of the phase, ``{r}`` with the outer two exchanged, ``{o}-{e}`` for the pole, ``{t}`` for
            the letter of the winding, ``{x}`` for that in ``ends``
        drawn : as it is drawn, where that differs; empty when it is drawn elsewhere
        """
        for p, (o, e) in enumerate(POLES, start=1):
            self.pole(text.format(p=p, o=o, e=e, t="UVW"[p - 1], r=4 - p, x=ends[p - 1]))
        if drawn != "":
            self.draw(drawn or text, ends)

    def pole(self, text: str) -> None:
        """A line of the power circuit for one phase."""
        self.power.add(text, "power")

    def draw(self, text: str, ends: str = "UVW") -> None:
        """A line of the power circuit as it is drawn, for all phases at once."""
        self.power_lines.append((text, ends))

    def no(self, contactor: str) -> str:
        """The next free make contact of a contactor."""
        return self._free(contactor, NO_PLACES)

    def nc(self, contactor: str) -> str:
        """The next free break contact of a contactor."""
        return self._free(contactor, NC_PLACES)

    def _free(self, contactor: str, places: Sequence[str]) -> str:
        used = self.used(contactor)
        place = next(p for p in places if p.partition("-")[0][:-1] not in used)
        self.places.add((contactor, place.partition("-")[0][:-1]))
        return f"{contactor}:{place}"

    def used(self, contactor: str) -> set[str]:
        """Tens digits of the contact places that are taken."""
        return {e.a[:-1] for e, _ in self.control.elements if e.device == contactor and not e.load} | {
            tens for k, tens in self.places if k == contactor
        }

    # What every circuit has in common

    @property
    def four_wire(self) -> bool:
        """The phase monitor watches the neutral too."""
        return self.document.control.phase_monitor == "four_wire"

    @property
    def monitored(self) -> bool:
        """There is a phase monitor whose contact is first in the chain."""
        return self.document.control.phase_monitor in ("three_wire", "four_wire")

    def head(self, *, stop: bool = True, to: str = "bus") -> None:
        """From the live side over monitor, overload, emergency stop and stop to the bus."""
        c = self.document.control
        overload = self.overload_contacts() if c.overload_contact in (None, "line_side") else ""
        emergency = "S0:1-2" if c.emergency_stop else ""
        stops = self.stop_buttons() if stop else ""
        parts = series(overload, "o" if overload else "", emergency, stops)
        if parts:
            self.line(self.after_monitor(), parts, to)
        else:
            self.line(self.after_monitor(), to)

    def after_monitor(self) -> str:
        """The node behind the contacts of main breaker and monitor at the head of the chain; the live side where there are none."""
        node = LIVE
        if self.source.alive_with_main_off:
            node = self._entry(node, "Q1:13-14", "q")
        if self.monitored and not self.monitor_behind:
            node = self._entry(node, "F2:11-14", "m")
        return node

    def _entry(self, node: str, contact: str, to: str) -> str:
        if to not in self.control.nodes:
            self.line(node, contact, to)
        return to

    def overload_contacts(self) -> str:
        """Break contacts of all overload relays in series; of a motor breaker in their place its contact that opens with it."""
        if self.fitted.breaker_protects:
            return (
                "" if self.source.alive_with_main_off else "Q1:13-14"
            )  # there it lies at the head of the chain already
        if not self.relay:
            return ""
        return series("F1:95-96", "F4:95-96" if self.second_overload else "")

    def stop_buttons(self) -> str:
        """Stop buttons of all stations in series."""
        count = self.document.control.stop_stations or 1
        names = ["S1" if i == 0 else f"S{i}1" for i in range(count)]
        for i, name in enumerate(names):
            self.device(name, "button", "Stop" if i == 0 else f"Stop, station {i + 1}", station=i + 1)
        self.stops += names
        return series(*(f"{n}:1-2" for n in names))

    def start_buttons(self, condition: str = "") -> str:
        """Start buttons of all stations, with a contact that must be closed for a start."""
        count = self.document.control.start_stations or 1
        names = ["S2" if i == 0 else f"S{i}2" for i in range(count)]
        for i, name in enumerate(names):
            self.device(name, "button", "Start" if i == 0 else f"Start, station {i + 1}", station=i + 1)
        self.starts += names
        return series(parallel(*(f"{n}:3-4" for n in names)), condition)

    def before_coil(self) -> str:
        """The overload contact, where it is between contacts and coil."""
        return self.overload_contacts() if self.document.control.overload_contact == "before_coil" else ""

    def coil(self, node: str, *parts: str) -> None:
        """A contactor's coil behind a node; with the overload contact on the return side all coils meet there."""
        on_return = self._on_return()
        name = parts[-1].partition(":")[0]
        self.line(node, *parts[:-1], f"command{name}", parts[-1], returns="back" if on_return else RETURN)

    def _on_return(self) -> bool:
        return self.document.control.overload_contact == "return_side" and self.overload_contacts() != ""

    def close_return(self) -> None:
        """The overload contact between the coils and the return."""
        if self._on_return():
            self.line(
                "back", series(*(f"{x.partition(':')[0]}:96-95" for x in self.overload_contacts().split(" > "))), RETURN
            )

    def lamps(self) -> None:
        """Lamps, buzzer and the signal to a controller."""
        c = self.document.control
        if self.lamps_done:
            return
        asked = c.lamps or []
        m = self.after_monitor()
        if "running" in asked and self.one_running_lamp:
            self.line(LIVE, parallel(*(self.no(k) for k in self.feeders)), "P1")
            self.meanings["P1"] = "running " + " ".join(self.feeders)
        elif "running" in asked:
            for p, k in zip(("P1", "P6"), self.feeders, strict=False):
                from_where = (f"command{k}",) if c.running_lamp_feed == "command" else (LIVE, self.no(k))
                self.line(*from_where, p)
                self.meanings[p] = f"running {k}"
        if "stopped" in asked:
            feed = LIVE if c.stopped_lamp_feed == "line" else self.armed
            self.line(feed, series(*(self.nc(k) for k in self.feeders)), "P2")
            self.meanings["P2"] = "stopped"
        self._trip_lamp("tripped" in asked, m)
        if "phase_healthy" in asked and self.monitored:
            self.line(m, "P4")
            self.meanings["P4"] = "healthy"
        if "phase_fault" in asked and self.monitored:
            self.line("fed" if self.monitor_behind else LIVE, "F2:11-12", "P5")
            self.meanings["P5"] = "phase fault"

    def _trip_lamp(self, lamp: bool, node: str) -> None:
        c = self.document.control
        if not (self.relay or self.fitted.breaker_protects) or not (lamp or c.buzzer or c.controller_signal):
            return
        if self.fitted.breaker_protects:
            # Its trip contact hangs before the contact that opens with it.
            self.line(LIVE, "Q1:97-98", "alarm")
        else:
            self.line(node, parallel("F1:97-98", "F4:97-98" if self.second_overload else ""), "alarm")
        fail_safe = c.controller_signal_form == "fail_safe"
        if c.controller_signal:
            self.device("K5", "relay", "Trip relay")
            # In while all is well, it also says so of a broken wire, a lost phase and a dead control circuit.
            self.line(self.after_overload if fail_safe else "alarm", "K5:A1")
            self.control.join("signal", "X2:1")
            self.line("signal", "K5:21-22" if fail_safe else "K5:21-24", "answer")
            self.control.join("answer", "X2:2")
        if c.controller_signal and not fail_safe:
            if lamp:
                self.line(LIVE, "K5:11-14", "P3")
        elif lamp:
            self.line("alarm", "P3")
        if c.buzzer:
            self.line("alarm", "H1")
            self.meanings["H1"] = "tripped"
        if lamp:
            self.meanings["P3"] = "tripped"

    def heater(self) -> None:
        """Anti-condensation heater, off while any contactor feeds the motor; fed past the main breaker."""
        if not self.document.control.heater:
            return
        self.device("S7", "selector", "Heater switch", positions=("off", "on"), closed_in={"13-14": (1,)})
        self.control.join("NF5", "X1:NF5")
        self.lines.append(
            self.control.add(series("LF5", "F5:1-2", "S7:13-14", *(self.nc(k) for k in self.feeders), "heat", "E1"), "control", returns="NF5")
        )  # fmt: skip
        self.lines.append(self.control.add("heat > P8", "control", returns="NF5"))
        self.meanings["P8"] = "heater"

    def breakers(self) -> None:
        """The main breaker as what it is, and the control breaker."""
        form: Form = (
            "fuse" if self.fitted.fuse else "motor_breaker" if self.fitted.front == "motor_breaker" else "breaker"
        )
        label = {"fuse": "Main fuses", "motor_breaker": "Motor breaker"}.get(form, "Main breaker")
        self.device("Q1", "breaker", label, form=form, trips=self.fitted.breaker_protects)

    def supply(self) -> None:
        """The two rails: the feeding terminal of each comes first."""
        fuses = self.document.practice == "nec"
        self.device(
            "F3", "breaker", "Control fuse" if fuses else "Control breaker", form="fuse" if fuses else "breaker"
        )
        if self.source.transformed:
            self.device(
                "F6", "breaker", "Primary fuses" if fuses else "Primary breaker", form="fuse" if fuses else "breaker"
            )
        self.control.join(LIVE, "F3:2")
        self.control.join(RETURN, self.return_terminal)

    @property
    def return_terminal(self) -> str:
        """Terminal at which the return begins."""
        source = self.source
        if source.breaker_poles == 2:
            return "F3:4"
        return "T1:s2" if source.transformed else f"X1:{source.rails[1].name}"

    def circuit(self) -> Circuit:
        """The finished circuit: contacts and loads found from the lines, wires numbered."""
        for element, _ in [*self.control.elements, *self.power.elements]:
            self._known(element.device)
        contacts: dict[str, Contact] = {}
        feed = make_feed(self) if LIVE in self.control.nodes else ([], [])
        for contact in feed[1]:
            self._known(contact.device)
            contacts[contact.name] = contact
        loads: dict[str, Load] = {}
        found: list[tuple[Netlist, Side]] = [(self.control, "control"), (self.power, "power")]
        for net, side in found:
            for element, _ in net.elements:
                if element.load:
                    loads[f"{element.device}:{element.a}"] = Load(element.device, element.a, element.b)
                else:
                    a, b = _upright(element.a, element.b)
                    contact = Contact(element.device, a, b, positions_closed(self._known(element.device), a, b), side)
                    contacts[contact.name] = contact
        for name, device in list(self.devices.items()):
            for a, b in SPARE.get(device.kind, ()):
                spare = Contact(name, a, b, positions_closed(device, a, b), "control")
                contacts.setdefault(spare.name, spare)
        c = self.document.control
        sources = {LIVE: "F3:2", RETURN: self.return_terminal} if LIVE in self.control.nodes else {}
        if c.heater:
            sources |= {"LF5": "F5:1", "NF5": "X1:NF5"}
        for p in ("L1", "L2", "L3", "N"):
            if self.power.nodes.get(p):
                sources[p] = self.power.nodes[p][0]
        for terminal in sources.values():
            self._known(terminal.partition(":")[0])
        for net in (self.control, self.power):
            for terminals in net.nodes.values():
                for t in terminals:
                    self._known(t.partition(":")[0])
        numbers = {LIVE: self.source.rails[0].number, RETURN: self.source.rails[1].number, "LF5": "H1", "NF5": "H0"}
        power_numbers = {p: p for p in ("L1", "L2", "L3", "N")} | {
            n: n for n in self.power.order if n[0] in "123456789"
        }
        for n, ts in self.power.nodes.items():
            ends = [t.partition(":")[2] for t in ts if t.startswith("M1:")]
            if ends and n not in power_numbers:
                power_numbers[n] = "-".join(ends) if n.startswith("#") else ends[0]
        mechanical = () if c.mechanical_interlock is False else tuple(self.mechanical)
        for wire in feed[0]:
            for t in (wire.a, wire.b):
                if not t.startswith("supply:"):
                    self._known(t.partition(":")[0])
        return Circuit(
            devices=self.devices, contacts=tuple(contacts.values()), loads=tuple(loads.values()),
            wires=(*self.control.wires(numbers, "control"), *self.power.wires(power_numbers, "power")), windings=tuple(self.windings),
            sources=sources, lines=tuple(self.lines), power_lines=tuple(self.power_lines), source=self.source, supply=self.system, connection=self.connection,
            feed=tuple(feed[0]), forbidden=tuple(self.forbidden), mechanical=mechanical, levers=tuple(self.mechanical),
            feeders=tuple(self.feeders), rotor_steps=tuple(self.rotor_steps), starts=tuple(dict.fromkeys(self.starts)),
            stops=tuple(dict.fromkeys(self.stops)), meanings=self.meanings, restart=self.edits.restart(self.restart), declared=self.declared,
            monitor_behind=self.monitor_behind and self.monitored, watches_neutral=c.phase_monitor == "four_wire", rated_share=self.rated_share,
            written=tuple(self.written),
        )  # fmt: skip


def _upright(a: str, b: str) -> tuple[str, str]:
    """Terminals of a contact with the lower number first, however it was written."""
    return (a, b) if (len(a), a) <= (len(b), b) else (b, a)


Scheme = Callable[[Builder], None]
