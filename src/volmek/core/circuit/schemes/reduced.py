"""Reduced starts: autotransformer, resistors in stator or rotor, soft starter, part winding."""

from volmek.core.circuit.model.netlist import Winding
from volmek.core.circuit.model.notation import parallel
from volmek.core.circuit.schemes.builder import Builder
from volmek.core.circuit.schemes.direct import STAR_SHARE, feed, motor_windings, through_overload
from volmek.core.circuit.schemes.front import STAYS_OFF, front

STATOR_OHM = 0.6
ROTOR_STEPS = 3


def _timer(b: Builder, name: str, label: str) -> None:
    b.device(name, "timer", label, time_s=b.times_s.get(name, 5.0))


def autotransformer(b: Builder) -> None:
    """Circuit 11, closed transition."""
    _timer(b, "KT1", "Time on the transformer")
    c = b.document.control
    front(b, "K6:13-14")
    if c.scheme == "three_wire" and not c.standby:  # a maintained call needs no hold
        b.device("K6", "relay", "Run relay")
        b.coil("r", "K6:A1")
    b.coil("r", "KT1:A1")
    b.coil("r", "KT1:15-16", "K1:21-22", "K3:A1")
    b.coil("r", "K1:65-66", parallel("K3:13-14", "K2:13-14"), "K2:A1")
    b.coil("r", "KT1:15-18", "K3:21-22", parallel("K2:53-54", "K1:13-14"), "K1:A1")
    b.feeders += ["K1", "K2"]
    b.one_running_lamp = True
    b.forbidden.append(("K1", "K3"))
    b.mechanical.append(("K1", "K3"))
    feed(b)
    b.three("1L{p} > K1:{o}-{e} > 3L{p}")
    b.three("1L{p} > K2:{o}-{e} > T2:{p}U", drawn="1L{p} > K2:{o}-{e} > T2:{p}U-{p}V > 3L{p}")
    b.three("T2:{p}V > 3L{p}", drawn="3L{p} > T2:{p}V-{p}N > K3:{o}-{e} > star")
    b.three("T2:{p}N > K3:{o}-{e} > star", drawn="")
    through_overload(b, "3L{p}", "{t}1")
    b.three("{t}1 > M1:{t}1")
    k = b.document.starter.autotransformer_tap or 0.65
    for p in (1, 2, 3):
        b.windings += [
            Winding(f"T2.{p}a", f"T2:{p}U", f"T2:{p}V", 1 - k, "transformer"),
            Winding(f"T2.{p}b", f"T2:{p}V", f"T2:{p}N", k, "transformer"),
        ]
    motor_windings(b)


def stator_resistance(b: Builder) -> None:
    """Circuit 12, first part."""
    _timer(b, "KT1", "Time on the resistors")
    b.feeders.append("K1")
    front(b, "K1:13-14", "K2:21-22")
    b.coil("r", "K1:A1")
    b.coil("r", "K1:53-54", "KT1:A1")
    b.coil("r", "KT1:15-18", "K2:A1")
    feed(b)
    b.three("1L{p} > K1:{o}-{e} > 2L{p}")
    b.three("2L{p} > R{p}:1", drawn="2L{p} > R:{o}-{e} > 3L{p}")
    b.three("R{p}:2 > 3L{p}", drawn="")
    b.three("2L{p} > K2:{o}-{e} > 3L{p}")
    through_overload(b, "3L{p}", "{t}1")
    b.three("{t}1 > M1:{t}1")
    b.windings += [Winding(f"R{p}", f"R{p}:1", f"R{p}:2", STATOR_OHM, "resistor") for p in (1, 2, 3)]
    motor_windings(b)


def rotor_resistance(b: Builder) -> None:
    """Circuit 12, second part: three steps."""
    for i in (1, 2, 3):
        _timer(b, f"KT{i}", f"Time of step {i}")
    b.feeders.append("K1")
    front(b, "K1:13-14", "K2:21-22 > K3:21-22 > K4:21-22")
    b.coil("r", "K1:A1")
    b.coil("r", "K1:53-54", "KT1:A1")
    b.coil("r", "KT1:15-18", "K2:A1")
    b.coil("r", "K2:13-14", "KT2:A1")
    b.coil("r", "KT2:15-18", "K3:A1")
    b.coil("r", "K3:13-14", "KT3:A1")
    b.coil("r", "KT3:15-18", "K4:A1")
    feed(b)
    b.three("1L{p} > K1:{o}-{e} > 2L{p}")
    through_overload(b, "2L{p}", "{t}1")
    b.three("{t}1 > M1:{t}1")
    for p, ring in enumerate("KLM", start=1):
        b.pole(f"rotor0{p} > M1:{ring}")
    for i in range(1, ROTOR_STEPS + 1):
        for p in (1, 2, 3):
            tap = f"rotor{ROTOR_STEPS - i}{p}"
            b.pole(f"{tap} > K{i + 1}:{2 * p - 1}-{2 * p} > {i + 1}Y")
            r = f"R{i}{p}"
            b.pole(f"rotor{i - 1}{p} > {r}:1")
            b.pole(f"{r}:2 > rotor{i}{p}" if i < ROTOR_STEPS else f"{r}:2 > rstar")
            b.windings.append(Winding(r, f"{r}:1", f"{r}:2", 1.0, "resistor"))
    b.rotor_steps += ["K2", "K3", "K4"]
    b.draw("ring{p} > R1:{o}-{e} > ringa{p}")
    b.draw("ringa{p} > R2:{o}-{e} > ringb{p}")
    b.draw("ringb{p} > R3:{o}-{e} > star")
    b.draw("ringb{p} > K2:{o}-{e} > star2")
    b.draw("ringa{p} > K3:{o}-{e} > star3")
    b.draw("ring{p} > K4:{o}-{e} > star4")
    motor_windings(b)


def soft_starter(b: Builder) -> None:
    """Circuit 13, first part: the soft starter asks for the line contactor and closes the bypass at the top of its ramp."""
    c = b.document.control
    b.restart = STAYS_OFF
    b.device(
        "G1", "soft_starter", "Soft starter", time_s=b.times_s.get("G1", 8.0), pause_s=b.times_s.get("G1.stop", 4.0)
    )
    b.device("K6", "relay", "Run relay")
    b.line(
        b.after_monitor(),
        b.overload_contacts(),
        "o" if b.overload_contacts() else "",
        "S0:1-2" if c.emergency_stop else "",
        "G1:95-96",
        "e",
    )
    b.device("S1", "button", "Stop, ramps down")
    b.stops.append("S1")
    b.line("e", "S1:1-2", "bus")
    b.line("bus", parallel(b.start_buttons("K2:21-22"), "K6:13-14"), "K6:A1")
    b.line("L", "K6:23-24", "G1:IN")
    b.line("e", parallel("K6:33-34", "G1:13-14 > K1:13-14"), "K1:A1")
    b.line("e", "G1:23-24", "K2:A1")
    b.declared["stop_drops_all"] = "Stop ramps the motor down first; the contactors drop at the end of the ramp."
    b.feeders.append("K1")
    feed(b)
    b.three("1L{p} > K1:{o}-{e} > 2L{p}")
    b.three("2L{p} > G1:{o}-{e} > 3L{p}")
    b.three("2L{p} > K2:{o}-{e} > 3L{p}")
    through_overload(b, "3L{p}", "{t}1")
    b.three("{t}1 > M1:{t}1")
    motor_windings(b)


def part_winding(b: Builder) -> None:
    """Circuit 13, second part: half of the winding, then the other half."""
    b.second_overload = True
    _timer(b, "KT1", "Time on half the winding")
    b.feeders.append("K1")
    front(b, "K1:13-14")
    b.coil("r", "K1:A1")
    b.coil("r", "KT1:A1")
    b.coil("r", "KT1:15-18", "K1:53-54", "K2:A1")
    feed(b)
    b.three("1L{p} > K1:{o}-{e} > " + b.relay_poles("F1") + "{t}1 > M1:{t}1")
    b.three("1L{p} > K2:{o}-{e} > " + b.relay_poles("F4") + "{t}7 > M1:{t}7")
    b.windings += [Winding(t, f"M1:{t}1", "M1:inside") for t in "UVW"]
    b.windings += [Winding(f"{t}'", f"M1:{t}7", "M1:inside2", group="half") for t in "UVW"]
    b.rated_share = STAR_SHARE
