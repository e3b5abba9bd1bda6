"""Mistakes of wiring, recognised by the behaviour of a changed circuit and the place of its contacts, and explained by the symptom."""

from collections.abc import Iterator
from dataclasses import dataclass

from volmek.core.circuit.faults.injection import Damaged
from volmek.core.circuit.kernel.engine import Engine
from volmek.core.circuit.kernel.power import PowerNet, PowerState
from volmek.core.circuit.model.behaviour import IN
from volmek.core.circuit.model.netlist import RETURN, Circuit, makes_at_rest


@dataclass(frozen=True, slots=True)
class Mistake:
    """A mistake that a wiring has and its design has not.

    Attributes
    ----------
    what : the mistake
    seen : what a fitter observes
    """

    what: str
    seen: str


def mistakes(design: Circuit, damaged: Damaged) -> list[Mistake]:
    """Wiring mistakes of a changed circuit.

    Parameters
    ----------
    design : as it should be
    damaged : as it is
    """
    sound, found = _Looked(design, Engine(design)), _Looked(damaged.circuit, damaged.engine())
    told = [m for look in LOOKS for m in look(found)]
    usual = {m.what for look in LOOKS for m in look(sound)}
    return [m for m in dict.fromkeys(told) if m.what not in usual]


class _Looked:
    """A circuit with what the recognisers ask of it."""

    def __init__(self, circuit: Circuit, engine: Engine) -> None:
        self.c, self.e = circuit, engine
        self.net = PowerNet(circuit)
        self.rest = engine.at_rest()
        self.coils = [x for x in engine.loads if x.device in circuit.power_contactors]

    def bits(self, device: str, *, make: bool | None = None) -> int:
        """Contacts of a device in the control circuit."""
        mask = 0
        for bit, c in enumerate(self.e.contacts):
            if c.device == device and c.side == "control" and (make is None or makes_at_rest(c) == make):
                mask |= 1 << bit
        return mask

    def uses(self, coil: str, mask: int) -> bool:
        """Every way to a coil passes one of these contacts."""
        ways = [p for x, ps in self.e.paths.items() if x.device == coil for p in ps]
        return bool(ways) and all(p & mask for p in ways)

    def reached(self, coil: str) -> bool:
        """Some way leads to a coil."""
        return any(ps for x, ps in self.e.paths.items() if x.device == coil)

    def running(self, *contactors: str) -> PowerState:
        """The power circuit with some contactors in."""
        positions = list(self.rest)
        for k in contactors:
            positions[self.e.index[k]] = IN
        return self.net.state(self.e.closed_poles(tuple(positions)), tuple((p, p) for p in self.net.sources))


def _guards(look: _Looked) -> Iterator[Mistake]:
    """Overload, stop and emergency stop: missing in a coil's circuit, exchanged, or on the return side."""
    c, e = look.c, look.e
    for name in (*c.overloads, *c.stops, *c.of_kind("emergency_stop")):
        if name not in e.index or e.kinds[e.index[name]] == "selector":
            continue
        breaks, make = look.bits(name, make=False), look.bits(name, make=True)
        what = {"overload": "trip", "breaker": "trip"}.get(e.kinds[e.index[name]], "press")
        yield from _in_every(look, name, make if name not in c.starts else 0, breaks, what)
        back = e.node[c.sources[RETURN]] if RETURN in c.sources else None
        for coil in look.coils:
            behind = list(e.between({e.node[coil.terminals[1]]}, {back} if back is not None else set()))
            if any(p & breaks for p in behind) and breaks:
                yield Mistake(
                    f"The contact of {name} is on the earthed side of {coil.device}.",
                    f"Earth the wire between {coil.device} and {name}: {name} no longer drops it out.",
                )


def _in_every(look: _Looked, name: str, wrong: int, right: int, what: str) -> Iterator[Mistake]:
    """A device whose contact must lie in the circuit of every coil."""
    coils = [x.device for x in look.coils]
    if wrong and coils and all(look.uses(k, wrong) for k in coils):
        yield Mistake(
            f"NO and NC contact are swapped at {name}.", f"Nothing pulls in until you {what} {name}; then it can."
        )
        return
    missing = [k for k in coils if right and look.reached(k) and not look.uses(k, right)]
    if missing:
        them = " and ".join(missing)
        yield Mistake(
            f"The contact of {name} is not in the circuit of {them}.",
            f"{what.capitalize()} {name}: {them} stay{'s' if len(missing) == 1 else ''} in.",
        )


def _hold(look: _Looked) -> Iterator[Mistake]:
    """After start is let go the coil must find a way past the start button."""
    c, e = look.c, look.e
    starts = sum(look.bits(s, make=True) for s in c.starts)
    moving = [*c.of_kind("contactor", "relay"), *c.of_kind("timer", "star_delta_timer", "soft_starter")]
    for first in [x for x in look.coils if x.device in c.feeders]:
        ways = e.paths[first]
        past = [p for p in ways if not p & starts]
        own = sum(look.bits(k, make=True) for k in moving)
        if c.starts and ways and not any(p & own for p in past):
            yield Mistake(
                f"{first.device} has no seal-in path round the start button: the seal-in wire is on the wrong side of it, or open.",
                f"Press start: {first.device} pulls in. Let go: it drops out.",
            )


def _open(look: _Looked) -> Iterator[Mistake]:
    dead = [x.device for x in look.e.loads if not look.e.paths[x]]
    if dead:
        them = " and ".join(dict.fromkeys(dead))
        yield Mistake(
            f"The circuit of {them} is open: there is no path from live to return.",
            f"{them} never pull{'s' if len(dead) == 1 else ''} in.",
        )


def _interlocks(look: _Looked) -> Iterator[Mistake]:
    for pair in look.c.forbidden:
        for a, b in (pair, pair[::-1]):
            breaks = look.bits(b, make=False)
            if look.reached(a) and not look.uses(a, breaks):
                yield Mistake(
                    f"The interlock of {b} is missing in the circuit of {a}.",
                    f"Nothing in normal operation, until {b} sticks: then both close and short the supply.",
                )


def _monitor(look: _Looked) -> Iterator[Mistake]:
    name = look.c.monitor
    if name in look.e.index and not look.c.monitor_behind:
        yield from _in_every(look, name, look.bits(name, make=False), look.bits(name, make=True), "lose a phase at")


def _sides(look: _Looked) -> Iterator[Mistake]:
    """Live and return exchanged: every contact would lie behind the coil."""
    c, e = look.c, look.e
    if RETURN not in c.sources:
        return
    back = {e.node[c.sources[RETURN]]}
    for coil in look.coils:
        a, z = (e.node[t] for t in coil.terminals)
        if z in e.live and a not in back and e.between({a}, back):
            yield Mistake(
                "Live and return of the control circuit are swapped.",
                f"Everything works, but A2 of {coil.device} is live with everything off, and an earth fault starts it.",
            )
            return


def _star_delta(look: _Looked) -> Iterator[Mistake]:
    c = look.c
    if not c.star_delta or c.named("line") not in look.e.index:
        return
    k1, k2, k3 = c.named("line"), c.named("delta"), c.named("star")
    star, delta = look.running(k1, k3), look.running(k1, k2)
    three = [abs(delta.voltages[w]) for w in "UVW"]
    dead = sum(v < 0.05 for v in three)
    if star.connection != "star" or star.direction == "none":
        yield Mistake(
            f"The star bridge at {k3} is missing or open.",
            "In star the motor hums and does not turn, or turns weakly on two windings.",
        )
    elif star.direction == "reverse":
        yield Mistake(
            f"Two phases are swapped at {k1} only.",
            "In star the motor turns backwards; at the changeover to delta it brakes hard with a very high current.",
        )
    if dead == 3:
        yield Mistake(
            "The delta links go straight through: both ends of every winding are on one line.",
            "In delta the motor has no voltage and coasts to a stop.",
        )
    elif dead == 1:
        yield Mistake(
            "The delta links are mixed: one winding is dead, the other two oppose each other.",
            "In delta there is no rotating field: the motor stalls with a high current.",
        )
    elif delta.direction != star.direction and "none" not in (delta.direction, star.direction):
        yield Mistake(
            "Star and delta turn in opposite directions.",
            "At the change-over the motor brakes and turns back with a very high current.",
        )
    elif delta.connection != "delta":
        yield Mistake(
            f"A pole of {k2} or a delta link is open.",
            "In delta the motor keeps running on two windings, hums and overheats.",
        )


def _single_phase(look: _Looked) -> Iterator[Mistake]:
    c = look.c
    if not c.single_phase or not c.feeders:
        return
    out = look.running()
    run = c.named("run_capacitor")
    if run and any(t.partition(":")[0] == run for t in out.alive):
        yield Mistake(
            "The run capacitor is connected ahead of the contactor.", "Its terminals are live with the motor at rest."
        )
    poles = [p for p in c.contacts if c.devices[p.device].kind == "overload" and p.side == "power"]
    if poles and len(c.feeders) == 1:
        on = look.running(*c.feeders).connection
        for pole in poles:
            closed = look.e.closed_poles(
                tuple(IN if n in c.feeders else p for n, p in zip(look.e.names, look.rest, strict=True))
            )
            without = look.net.state(
                frozenset(closed) - {pole.name}, tuple((p, p) for p in look.net.sources)
            ).connection
            if on != "off" and without != "off":
                yield Mistake(
                    f"The pole {pole.name} of the relay carries no current: the loop is not closed.",
                    "A relay sensitive to phase loss trips at once, any other one late.",
                )


def _direction(look: _Looked) -> Iterator[Mistake]:
    """With its first feeder in the motor must turn forward."""
    if not look.c.single_phase and look.c.feeders and not look.c.star_delta:
        turns = look.running(look.c.feeders[0])
        if turns.direction == "reverse":
            yield Mistake("Two phases are swapped on the way to the motor.", "It turns the wrong way.")
        elif turns.direction == "none" and turns.connection != "off":
            yield Mistake("One phase does not reach the motor.", "It hums and does not start.")


LOOKS = (_open, _guards, _hold, _interlocks, _monitor, _sides, _star_delta, _single_phase, _direction)
