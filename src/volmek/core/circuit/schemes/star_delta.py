"""Star-delta: timed in both pull-in orders, with a star-delta relay, by hand, closed transition."""

from volmek.core.circuit.model.netlist import Winding
from volmek.core.circuit.model.notation import parallel, series
from volmek.core.circuit.schemes.builder import Builder
from volmek.core.circuit.schemes.direct import feed
from volmek.core.circuit.schemes.front import STAYS_OFF, front
from volmek.core.installation.timers import pause_s, star_delta_timer_kind

#: Winding end on each line in delta; both turn the right way.
LINKS = {"common": "WUV", "favourable": "VWU"}
#: Resistance of a transition resistor over the impedance of a winding at rest.
TRANSITION_OHM = 0.5


def star_first(b: Builder) -> bool:
    """The star contactor closes first, and without current."""
    return b.document.starter.star_sequence != "together"


def timed(b: Builder) -> None:
    """Circuits 6, 7 and 8."""
    b.feeders.append("K1")
    first = star_first(b)
    front(b, "K1:13-14", "" if first else "K2:61-62")
    relay = star_delta_timer_kind(b.document) == "star_delta"
    if relay:
        b.device(
            "KT1",
            "star_delta_timer",
            "Star-delta relay",
            time_s=b.times_s.get("KT1", 6.0),
            pause_s=b.times_s.get("pause", pause_s(b.document)),
        )
    else:
        b.device("KT1", "timer", "Star time", time_s=b.times_s.get("KT1", 6.0))
    star, delta = ("17-28", "17-18") if relay else ("15-16", "15-18")
    if first:
        b.coil("r", "KT1:A1")
        b.coil("r", f"KT1:{star}", "K2:21-22", "K3:A1")
        b.coil("r", parallel("K3:13-14", "K1:53-54"), "K1:A1")
        b.coil("r", f"KT1:{delta}", "K3:21-22", "K1:83-84", "K2:A1")
    else:
        b.coil("r", "K1:A1")
        b.coil("r", "KT1:A1")
        b.coil("r", f"KT1:{star}", "K2:21-22", "K3:A1")
        b.coil("r", f"KT1:{delta}", "K3:21-22", "K2:A1")
    power(b)


def by_hand(b: Builder) -> None:
    """Circuit 9: the button is held to about 80 % of the speed; the variant is the one that fitters often build."""
    b.restart = STAYS_OFF
    b.head()
    b.device("S2", "button", "Start, held to about 80 % of the speed")
    b.starts.append("S2")
    b.feeders.append("K1")
    if b.document.control.variant == "as_often_built":
        b.line("bus", "S2:3-4", "K2:21-22", "K3:A1")
        b.line("bus", parallel("K3:13-14", "K1:13-14"), "h")
        b.coil("h", "K1:A1")
        b.coil("h", "K3:61-62", "K2:A1")
    else:
        b.coil("bus", "S2:3-4", "K2:21-22", "K3:A1")
        guard = b.document.control.early_release_guard
        hold = series("K1:13-14", "KT1:15-18") if guard else "K1:13-14"
        b.line("bus", parallel(series("S2:33-34", "K3:13-14"), hold), "h")
        if guard:
            b.device("KT1", "timer", "Minimum time in star", time_s=b.times_s.get("KT1", 6.0))
            b.coil("h", "KT1:A1")
        b.coil("h", "K1:A1")
        b.coil("h", parallel("S2:21-22", "K2:13-14"), "K3:21-22", "K2:A1")
    power(b)
    if b.document.control.variant == "as_often_built":
        b.mechanical.clear()


def closed(b: Builder) -> None:
    """Circuit 10: resistors carry the motor over the change."""
    b.restart = STAYS_OFF
    b.device("KT1", "timer", "Star time", time_s=b.times_s.get("KT1", 6.0))
    b.device("KT2", "timer", "Longest transition", time_s=1.0)
    b.head(to="s")
    b.line("s", "KT2:15-16", "bus")
    b.line("bus", parallel(b.start_buttons(), "K1:13-14"), b.before_coil(), "r")
    b.coil("r", "KT1:A1")
    b.coil("r", parallel("KT1:15-16", "K3:53-54"), "K4:65-66", "K2:21-22", "K3:A1")
    b.coil("r", parallel("K3:13-14", "K1:53-54"), "K1:A1")
    b.line("r", "KT1:15-18", "K1:83-84", "d")
    b.coil("d", "K2:65-66", "K4:A1")
    b.coil("d", parallel("K4:13-14", "K2:13-14"), "K3:21-22", "K2:A1")
    b.coil("r", "K4:53-54", "KT2:A1")
    b.feeders.append("K1")
    power(b)
    ends = LINKS[b.document.starter.delta_links or "favourable"]
    b.three("1L{p} > K4:{o}-{e} > R{p}:1", drawn="")
    b.three("R{p}:2 > {x}2", ends, drawn="1L{p} > K4:{o}-{e} > R:{o}-{e} > {x}2")
    for p in (1, 2, 3):
        b.windings.append(Winding(f"R{p}", f"R{p}:1", f"R{p}:2", TRANSITION_OHM, "resistor"))


def power(b: Builder) -> None:
    """Line, delta and star contactor; the relay where the document wants it."""
    feed(b)
    b.roles |= {"K1": "line", "K2": "delta", "K3": "star"}
    place = b.document.starter.overload_position or "winding"
    ends = LINKS[b.document.starter.delta_links or "favourable"]
    source = "1L"
    if place == "line" and b.relay:
        b.three("1L{p} > F1:{o}-{e} > 2L{p}")
        source = "2L"
    b.three(f"{source}{{p}} > K1:{{o}}-{{e}} > " + (b.relay_poles() if place == "winding" else "") + "{t}1 > M1:{t}1")
    behind = b.relay_poles() if place == "delta_branch" else ""
    b.three(f"{source}{{p}} > K2:{{o}}-{{e}} > {behind}{{x}}2 > M1:{{x}}2", ends)
    b.three("{t}2 > K3:{o}-{e} > star")
    b.windings += [Winding(t, f"M1:{t}1", f"M1:{t}2") for t in "UVW"]
    b.forbidden.append(("K2", "K3"))
    b.mechanical.append(("K2", "K3"))
