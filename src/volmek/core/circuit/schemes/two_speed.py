"""Two speeds: two windings, or one that is tapped; from the high to the low through stop."""

from volmek.core.circuit.model.netlist import Winding
from volmek.core.circuit.model.notation import parallel, series
from volmek.core.circuit.schemes.builder import Builder
from volmek.core.circuit.schemes.direct import STAR_SHARE, feed
from volmek.core.circuit.schemes.front import STAYS_OFF


def two_speed(b: Builder) -> None:
    """Circuit 20."""
    b.rated_share = STAR_SHARE
    tapped = b.document.motor.speed_winding == "tapped"
    b.restart = STAYS_OFF
    b.second_overload = True
    b.head()
    b.device("S2", "button", "Low speed")
    b.device("S3", "button", "High speed", role="second_start")
    b.starts += ["S2", "S3"]
    b.line("bus", "S3:1-2", parallel("S2:3-4", "K1:13-14"), "K2:21-22", "K3:21-22" if tapped else "", "commandK1")
    b.line("bus", parallel(series("S2:1-2", "S3:3-4"), "K2:13-14"), "K1:21-22", "s" if tapped else "commandK2")
    b.coil("commandK1", "K1:A1")
    if tapped:
        b.coil("s", "K3:A1")
        b.line("s", "K3:13-14", "commandK2")
    b.coil("commandK2", "K2:A1")
    b.feeders += ["K1", "K2"]
    feed(b)
    b.three("1L{p} > K1:{o}-{e} > " + b.relay_poles("F1") + "1{t} > M1:1{t}")
    b.three("1L{p} > K2:{o}-{e} > " + b.relay_poles("F4") + "2{t} > M1:2{t}")
    b.forbidden.append(("K1", "K2"))
    b.mechanical.append(("K1", "K2"))
    if tapped:
        b.three("1{t} > K3:{o}-{e} > star")
        b.forbidden.append(("K1", "K3"))
        b.mechanical.append(("K1", "K3"))
        for t, following in zip("UVW", "VWU", strict=True):
            b.windings += [
                Winding(t, f"M1:1{t}", f"M1:2{t}", group="tapped"),
                Winding(f"{t}'", f"M1:2{t}", f"M1:1{following}", group="other"),
            ]
        return
    for i, mark in (("1", ""), ("2", "'")):
        b.windings += [
            Winding(f"{t}{mark}", f"M1:{i}{t}", f"M1:inside{i}", group="high" if mark else "low") for t in "UVW"
        ]
