"""Single-phase motors: direct and in two directions, each with the start winding that its kind has."""

from cmath import exp, pi

from volmek.core.circuit.model.netlist import Form, Winding
from volmek.core.circuit.schemes.builder import Builder
from volmek.core.circuit.schemes.front import front
from volmek.core.circuit.schemes.reversing import control

#: Impedance of a capacitor over that of a winding; and of a start winding whose resistance turns its current forward.
RUN_CAPACITOR, START_CAPACITOR = -1.5j, -0.6j
RESISTIVE = exp(-1j * pi / 6)
#: Kinds with a run capacitor, with a start capacitor, and with a start winding behind a switch.
WITH_RUN = ("capacitor_run", "capacitor_start_run")
WITH_START = ("capacitor_start", "capacitor_start_run")
SWITCHED = ("split_phase", *WITH_START)


def _feed(b: Builder) -> None:
    """The main breaker; through a motor breaker the current passes all three poles."""
    second = _second(b)
    if b.fitted.front == "motor_breaker":
        _one(b, "L1 > Q1:1-2 > Q1:3-4 > 1L1")
        _one(b, f"{second} > Q1:5-6 > 1{second}")
        return
    _one(b, "L1 > Q1:1-2 > 1L1")
    _one(b, f"{second} > Q1:3-4 > 1{second}")


def _second(b: Builder) -> str:
    """The conductor that the current comes back on: the neutral, or a second line."""
    return b.system.taken[1]


def _one(b: Builder, text: str, drawn: str | None = None) -> None:
    """A line of the power circuit, and how it is drawn."""
    b.pole(text)
    if drawn != "":
        b.draw(drawn or text)


def direct(b: Builder) -> None:
    """Circuit 14: all three poles of the relay carry one current."""
    if b.document.control.variant == "as_often_built":
        _often_built(b)
        return
    b.feeders.append("K1")
    front(b, "K1:13-14")
    b.coil("r", "K1:A1")
    _feed(b)
    _one(b, "1L1 > K1:1-2 > F1:1-2 > K1:3-4 > F1:3-4 > R > M1:R" if b.relay else "1L1 > K1:1-2 > R > M1:R")
    back = f"1{_second(b)}"
    _one(b, f"{back} > K1:5-6 > F1:5-6 > B > M1:B" if b.relay else f"{back} > K1:3-4 > B > M1:B")
    _windings(b)


def _windings(b: Builder) -> None:
    kind = b.document.motor.single_phase_kind
    b.windings.append(Winding("main", "M1:R", "M1:B"))
    run, start = kind in WITH_RUN, kind in WITH_START
    if run:
        _one(b, "R > C1:1", "R > C1:1-2 > Y > M1:Y")
        _one(b, "C1:2 > Y > M1:Y", "")
        b.windings.append(Winding("C1", "C1:1", "C1:2", RUN_CAPACITOR, "resistor"))
    if kind in SWITCHED:
        switch = _start_switch(b)
        to_motor = "Y" if run else "Y > M1:Y"
        if start:
            _one(b, "R > C2:1", f"R > C2:1-2 > {switch} > {to_motor}")
            _one(b, f"C2:2 > {switch} > Y > M1:Y", "")
            b.windings.append(Winding("C2", "C2:1", "C2:2", START_CAPACITOR, "resistor"))
        else:
            _one(b, f"R > {switch} > Y > M1:Y")
    if run or kind in SWITCHED:
        b.windings.append(Winding("start", "M1:Y", "M1:B", RESISTIVE if kind == "split_phase" else 1.0))


def _start_switch(b: Builder) -> str:
    """The contact that takes the start winding out again: on the button, by speed, current or voltage, or after a time."""
    usual = "centrifugal" if b.document.motor.single_phase_kind == "split_phase" else "button"
    how = b.document.control.start_capacitor_switch or usual
    if how == "timer":
        b.device("KT1", "timer", "Time of the start winding", time_s=b.times_s.get("KT1", 2.0))
        b.coil("r", "KT1:A1")
        return "KT1:15-16"
    if how == "button":
        return "S2:33-34"
    if how == "relay":
        b.device("B5", "field", "Current relay of the start winding", opens=True, form="current_relay")
    elif how == "potential_relay":
        b.device("B5", "field", "Potential relay of the start winding", opens=True, form="potential_relay")
    else:
        b.device("B5", "field", "Centrifugal switch", opens=True, form="centrifugal")
    return "B5:1-2"


def _often_built(b: Builder) -> None:
    """Without overload, start before stop, the hold taken from the load side of a pole."""
    b.device("S1", "button", "Stop")
    b.device("S2", "button", "Start")
    b.stops.append("S1")
    b.starts.append("S2")
    b.feeders.append("K1")
    _feed(b)
    b.control.join("hold", "K1:2")
    b.line("L", "S2:3-4", "hold")
    b.line("hold", "S1:1-2", "K1:A1")
    if "running" in (b.document.control.lamps or []):
        b.line("hold", "P1")
        b.meanings["P1"] = "running K1"
    b.lamps_done = True
    _one(b, "1L1 > K1:1-2 > R > M1:R")
    _one(b, f"1{_second(b)} > K1:3-4 > B > M1:B")
    _windings(b)
    b.restart = "Stays off after a supply failure; a welded pole restarts it by itself."


def reversing(b: Builder) -> None:
    """Circuit 15: stop first with a rest; the main winding is turned, or the start winding."""
    control(b, rest=True)
    _feed(b)
    second = _second(b)
    _one(b, "1L1 > F1:1-2 > F1:3-4 > 2L1" if b.relay else "1L1 > 2L1")
    _one(b, f"1{second} > F1:5-6 > 2{second}" if b.relay else f"1{second} > 2{second}")
    start = b.document.control.reversed_winding == "start"
    fixed, turned = ("U1", ("Z1", "Z2")) if start else ("Z1", ("U1", "U2"))
    common = "U2" if start else "Z2"
    _one(b, f"2{second} > M1:{common}")
    for k, (a, z) in (("K1", turned), ("K2", turned[::-1])):
        _one(b, f"2L1 > {k}:1-2 > {fixed}n")
        _one(b, f"2L1 > {k}:3-4 > {a}n")
        _one(b, f"2{second} > {k}:5-6 > {z}n")
    for t in (fixed, *turned):
        if t == "Z1":
            _start_winding(b)
        else:
            _one(b, f"{t}n > M1:{t}")
    kind = b.document.motor.single_phase_kind
    resistive = RESISTIVE if kind == "split_phase" else 1.0
    b.windings += [Winding("main", "M1:U1", "M1:U2"), Winding("start", "M1:Z1", "M1:Z2", resistive)]


def _start_winding(b: Builder) -> None:
    """From the contactors to the start winding: through the run capacitor, through a switch and start capacitor, or both side by side."""
    kind = b.document.motor.single_phase_kind
    run = kind not in SWITCHED or kind in WITH_RUN
    if run:
        _one(b, "Z1n > C1:1", "Z1n > C1:1-2 > Z1c > M1:Z1")
        _one(b, "C1:2 > M1:Z1", "")
        b.windings.append(Winding("C1", "C1:1", "C1:2", RUN_CAPACITOR, "resistor"))
    if kind in SWITCHED:
        switch = _reversing_switch(b)
        end = "Z1c" if run else "Z1c > M1:Z1"
        if kind in WITH_START:
            _one(b, "Z1n > C2:1", f"Z1n > C2:1-2 > {switch} > {end}")
            _one(b, f"C2:2 > {switch} > M1:Z1", "")
            b.windings.append(Winding("C2", "C2:1", "C2:2", START_CAPACITOR, "resistor"))
        else:
            _one(b, f"Z1n > {switch} > M1:Z1", f"Z1n > {switch} > Z1c > M1:Z1")


def _reversing_switch(b: Builder) -> str:
    """Two directions have two start buttons and a rest relay: the switch acts on speed, current or voltage."""
    how = b.document.control.start_capacitor_switch
    forms: dict[str, tuple[Form, str]] = {
        "relay": ("current_relay", "Current relay of the start winding"),
        "potential_relay": ("potential_relay", "Potential relay of the start winding"),
    }
    form, label = forms.get(how or "", ("centrifugal", "Centrifugal switch"))
    b.device("B5", "field", label, opens=True, form=form)
    return "B5:1-2"
