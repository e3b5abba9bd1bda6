"""Two directions: stop first or at once, end-of-travel contacts, a rest in between."""

from volmek.core.circuit.model.notation import parallel, series
from volmek.core.circuit.schemes.builder import Builder
from volmek.core.circuit.schemes.direct import feed, motor_windings, through_overload
from volmek.core.circuit.schemes.front import STAYS_OFF


def control(b: Builder, *, rest: bool) -> None:
    """The control circuit of two directions, with a rest in between where one is wanted."""
    c = b.document.control
    b.restart = STAYS_OFF
    b.head()
    b.device("S2", "button", "Forward")
    b.device("S3", "button", "Reverse", role="second_start")
    b.starts += ["S2", "S3"]
    ends = ("B3:1-2", "B4:1-2") if c.end_of_travel else ("", "")
    if c.end_of_travel:
        b.device("B3", "field", "End of travel, forward", opens=True, form="limit")
        b.device("B4", "field", "End of travel, reverse", opens=True, form="limit")
    if rest:
        b.device("KT2", "timer", "Pause between directions", time_s=b.times_s.get("KT2", 1.0))
        b.line("L", "K1:61-62", "K2:61-62", "KT2:A1")
        b.line("bus", "KT2:15-18", "t")
        b.line("t", "S3:1-2", "S2:3-4", "x")
        b.line("bus", "K1:13-14", "x")
        b.line("x", "K2:21-22", ends[0], "commandK1")
        b.line("t", "S2:1-2", "S3:3-4", "y")
        b.line("bus", "K2:13-14", "y")
        b.line("y", "K1:21-22", ends[1], "commandK2")
    elif c.reversing_sequence == "direct":
        b.line("bus", "S3:1-2", parallel("S2:3-4", "K1:13-14"), "K2:21-22", ends[0], "commandK1")
        b.line("bus", "S2:1-2", parallel("S3:3-4", "K2:13-14"), "K1:21-22", ends[1], "commandK2")
    else:
        b.line("bus", parallel(series("S3:1-2", "S2:3-4"), "K1:13-14"), "K2:21-22", ends[0], "commandK1")
        b.line("bus", parallel(series("S2:1-2", "S3:3-4"), "K2:13-14"), "K1:21-22", ends[1], "commandK2")
    b.coil("commandK1", "K1:A1")
    b.coil("commandK2", "K2:A1")
    b.feeders += ["K1", "K2"]
    b.forbidden.append(("K1", "K2"))
    b.mechanical.append(("K1", "K2"))


def reversing(b: Builder) -> None:
    """Circuit 5."""
    control(b, rest=bool(b.document.control.rest_time_s))
    feed(b)
    b.three("1L{p} > K1:{o}-{e} > 2L{p}")
    b.three("1L{p} > K2:{o}-{e} > 2L{r}")
    through_overload(b, "2L{p}", "{t}1")
    b.three("{t}1 > M1:{t}1")
    motor_windings(b)
