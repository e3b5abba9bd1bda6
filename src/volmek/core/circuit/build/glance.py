"""A quick look at a rewired control circuit: whether what was seen can be at all, before anything is simulated."""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from itertools import product

from volmek.core.circuit.build.continuity import Check, Dead
from volmek.core.circuit.faults.injection import rewired
from volmek.core.circuit.kernel.engine import Positions
from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.kernel.state import State
from volmek.core.circuit.model.behaviour import IN, OUT, BreakerState
from volmek.core.circuit.model.netlist import LIVE, RETURN, Wire
from volmek.core.document.errors import ProblemError

Near = dict[str, list[str]]
#: Verbs that move wires only.
MOVES_WIRES = ("swap", "add", "remove")


class Glance:
    """States at rest that were seen, against the wires as a mistake would leave them.

    What was seen gives the position of every device; the wires then say what must be live. A mistake that says otherwise is none;
    one that passes is still to be simulated.

    Parameters
    ----------
    sound : the part that is wired so far
    seen : states of its sound run that everything was as expected in, and last the one that was not, each with what was seen
    """

    def __init__(self, sound: Simulator, seen: Sequence[tuple[State, dict[str, str]]]) -> None:
        self.sound, e, c = sound, sound.engine, sound.circuit
        self.wires, self.feed = c.wires, c.feed
        self.power = {t for w in c.wires if w.side != "control" for t in (w.a, w.b)}
        self.contacts = [x.terminals for x in e.contacts]
        self.loads = [(x.device, *x.terminals) for x in (*e.loads, *e.shown) if x not in e.foreign]
        self.live = {c.sources[LIVE]} if LIVE in c.sources else set()
        if self.live and c.source.from_lines:
            self.live.add(c.sources[c.source.feeds[0]])
        self.back = {c.sources[RETURN]} if RETURN in c.sources else set()
        # Last what differs: most candidates fail there, so it is asked first.
        self.looks = [x for state, what in reversed(seen) if (x := self._look(state, what)) is not None]

    def _look(self, s: State, seen: dict[str, str]) -> tuple[list[int], dict[str, bool], bool] | None:
        """Masks of closed contacts that the state can have, what must be live and what not, and whether the rails are fed; None where it says nothing."""
        e, sim = self.sound.engine, self.sound
        if "chatters" in seen.values() or not self.live:
            return None
        choices: list[tuple[int, ...]] = []
        for i, name in enumerate(e.names):
            at, kind, what = s.positions[i], e.kinds[i], seen.get(name, "")
            if kind in ("contactor", "relay") and what in ("in", "out"):
                choices.append((at,) if (at == IN) == (what == "in") else (IN if what == "in" else OUT,))
            elif kind == "breaker" and what:
                choices.append(
                    ({"closed": int(BreakerState.CLOSED), "tripped": int(BreakerState.TRIPPED)}.get(what, 0),)
                )
            elif kind in ("timer", "star_delta_timer", "soft_starter") and what:
                states = e.behaviours[i].states or ()
                choices.append(
                    (at,) if (at != 0) == (what == "on") else (0,) if what == "off" else tuple(range(1, len(states)))
                )
            else:
                choices.append((at,))
        held = {e.names[i] for i, other in e.locked.items() if s.positions[other] != OUT}
        must = {
            name: what in ("in", "on", "lit")
            for name, what in seen.items()
            if what in ("in", "out", "on", "off", "lit", "dark") and name not in held
        }  # fmt: skip
        found: list[Positions] = list(product(*choices))
        fed = sim.supplied(s._replace(positions=found[0]))
        return [e.closed(p) for p in found], must, fed

    def allows(self, faults: Iterable[str]) -> bool:
        """A mistake may be the cause.

        Parameters
        ----------
        faults : as for ``damage``; of those that are about more than control wires nothing is said
        """
        if any(not self.power.isdisjoint(f.split()[1:]) for f in faults):
            return True
        near = _near(self.wires, self.feed, faults)
        if near is None:
            return True
        return all(not fed or any(self._shows(near, mask, must) for mask in masks) for masks, must, fed in self.looks)

    def _shows(self, near: Near, mask: int, must: dict[str, bool]) -> bool:
        closed = _neighbours(pair for bit, pair in enumerate(self.contacts) if mask >> bit & 1)
        live, back = _joined(self.live, near, closed), _joined(self.back, near, closed)
        if not live.isdisjoint(back):
            return False  # F3 would have opened
        return all(
            must.get(name, is_live) == is_live
            for name, a, b in self.loads
            for is_live in ((a in live and b in back) or (b in live and a in back),)
        )


class DeadGlance:
    """Readings with everything dead, of wires as a mistake would leave them.

    Parameters
    ----------
    dead : the part that is wired so far
    """

    def __init__(self, dead: Dead) -> None:
        self.dead, c = dead, dead.c
        self.through = _neighbours([x.terminals for x in c.loads] + [(w.a, w.b) for w in c.windings])

    def allows(self, faults: Iterable[str], check: Check, reads: str) -> bool:
        """A mistake may give a reading.

        Parameters
        ----------
        faults : as for ``damage``; of those that are about more than wires nothing is said
        check, reads : between which terminals, and what was read
        """
        near = _near(self.dead.c.wires, self.dead.c.feed, faults)
        if near is None:
            return True
        at = self.dead.positions(check.operations)
        closed = _neighbours(x.terminals for x in self.dead.c.contacts if self.dead.closed(x, at))
        if check.b in _joined({check.a}, near, closed):
            return reads == "closed"
        return reads == ("coil" if check.b in _joined({check.a}, near, closed, self.through) else "open")


def _near(wires: Sequence[Wire], feed: Sequence[Wire], faults: Iterable[str]) -> Near | None:
    """Terminals that wires join after a mistake; None where it is about more than wires."""
    for fault in faults:
        verb, *ends = fault.split()
        if verb not in MOVES_WIRES:
            return None
        try:
            wires = rewired(wires, verb, *ends)
        except ProblemError:
            return None
    return _neighbours((w.a, w.b) for w in (*wires, *feed))


def _neighbours(pairs: Iterable[tuple[str, str]]) -> Near:
    near: Near = defaultdict(list)
    for a, b in pairs:
        near[a].append(b)
        near[b].append(a)
    return near


def _joined(starts: set[str], *ways: Near) -> set[str]:
    """Terminals that are reached from some others."""
    reached, queue = set(starts), list(starts)
    while queue:
        t = queue.pop()
        for near in ways:
            for u in near.get(t, ()):
                if u not in reached:
                    reached.add(u)
                    queue.append(u)
    return reached
