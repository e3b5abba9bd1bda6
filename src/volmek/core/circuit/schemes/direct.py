"""Direct on line, and a starter switched by hand."""

from math import sqrt

from volmek.core.circuit.model.netlist import Winding
from volmek.core.circuit.schemes.builder import Builder
from volmek.core.circuit.schemes.front import front

#: Voltage on a winding in star, over the line voltage.
STAR_SHARE = 1 / sqrt(3)


def motor_windings(b: Builder) -> None:
    """Three windings, with the links of the terminal box where somebody has chosen them; else the box with its leads."""
    connection = b.connection
    if connection.linked and connection.groups is None:
        b.windings += [Winding(t, f"M1:{t}1", f"M1:{t}2") for t in "UVW"]
        b.rated_share = 1.0 if connection.kind == "delta" else STAR_SHARE
        if connection.kind == "star":
            b.pole("M1:U2 > M1:V2 > M1:W2")
        else:
            for a, z in (("U1", "W2"), ("V1", "U2"), ("W1", "V2")):
                b.pole(f"{a} > M1:{a} > M1:{z}")
        return
    b.windings += [Winding(t, f"M1:{t}1", "M1:inside", group="box") for t in "UVW"]
    b.rated_share = STAR_SHARE
    if connection.groups:
        _lead_links(b, *connection.groups)


def _lead_links(b: Builder, lines: tuple[str, ...], joined: tuple[str, ...]) -> None:
    """Links between nine or twelve leads: T1, T2 and T3 are the ends that the cable comes to."""
    names = {"1": "U1", "2": "V1", "3": "W1"}
    for group in (*lines, *joined):
        leads = [names.get(x, f"T{x}") for x in group.split()]
        if len(leads) > 1:
            b.pole(" > ".join([*([leads[0]] if leads[0] in names.values() else []), *(f"M1:{x}" for x in leads)]))


def feed(b: Builder) -> None:
    """The main breaker."""
    b.three("L{p} > Q1:{o}-{e} > 1L{p}")


def through_overload(b: Builder, a: str, z: str) -> None:
    """From one node to another through the overload relay, where there is one of its own."""
    b.three(f"{a} > {b.relay_poles()}{z}")


def direct(b: Builder) -> None:
    """Three-wire, two-wire or hand-off-auto, jog; circuits 1 to 3 and 19."""
    c = b.document.control
    b.feeders.append("K1")
    b.monitor_behind = c.monitor_position == "motor_side"
    if c.hold == "power_pole":
        _held_by_pole(b)
    else:
        front(b, "K1:13-14")
        b.coil("r", "K1:A1")
    feed(b)
    b.three("1L{p} > K1:{o}-{e} > 2L{p}")
    through_overload(b, "2L{p}", "{t}1")
    b.three("{t}1 > M1:{t}1")
    motor_windings(b)


def _held_by_pole(b: Builder) -> None:
    """As often built: start first, the load side of a pole seals the coil in; only contacts after it can drop it out."""
    b.restart = "Stays off after a supply failure; a welded pole keeps the coil in."
    c = b.document.control
    m = b.after_monitor()
    b.control.join("x", "K1:2")
    b.line(m, b.start_buttons(), "x")
    stop = b.stop_buttons()
    b.line("x", stop, "S0:1-2" if c.emergency_stop else "", "bus")
    b.coil("bus", b.overload_contacts(), "K1:A1")


def manual(b: Builder) -> None:
    """A motor breaker switched by hand: no control circuit."""
    feed(b)
    b.three("1L{p} > {t}1 > M1:{t}1")
    motor_windings(b)
    b.restart = "A motor breaker stays as it was left: the motor restarts by itself when the supply comes back."
    b.declared["no_self_start"] = b.restart
