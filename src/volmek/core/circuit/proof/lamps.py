"""What lamps say, against what is so; for one state of a simulation, or for sets of them in the proof."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

from volmek.core.circuit.kernel.engine import Engine, Positions
from volmek.core.circuit.model.behaviour import IN
from volmek.core.circuit.proof.diagrams import NONE, Diagrams


@dataclass(frozen=True, slots=True)
class Known:
    """What lamps are held against, as sets of states of one manager.

    Attributes
    ----------
    lit : of each lamp the states in which it is on
    at : states in which a device is in a position
    supplied : the control circuit has its voltage
    """

    d: Diagrams
    lit: Mapping[str, int]
    at: Callable[[str, int], int]
    supplied: int


def lies(e: Engine, k: Known) -> Iterator[tuple[str, int]]:
    """False indications: words, and the states in which each is so."""
    d, c = k.d, e.circuit
    tripped = d.any_of(d.other(k.at(x, e.behaviours[e.index[x]].rest)) for x in c.overloads)
    healthy = k.at(c.monitor, 1) if c.monitor else d.other(NONE)
    running = d.any_of(k.at(x, IN) for x in c.feeders)
    for lamp, meaning in c.meanings.items():
        word, _, which = meaning.partition(" ")
        on = k.lit.get(lamp, NONE)
        off = d.both(d.other(on), k.supplied)
        if word == "running":
            mine = [x for x in c.feeders if x in which.split()]
            feeds = d.any_of(k.at(x, IN) for x in mine)
            yield f"{lamp} shows running, and no contactor feeds the motor.", d.without(on, feeds)
            for x in mine:
                yield f"{lamp} is not lit while {x} feeds the motor.", d.both(off, k.at(x, IN))
        elif word == "stopped":
            for x in c.feeders:
                yield f"{lamp} shows stopped while {x} feeds the motor.", d.all_of((on, running, k.at(x, IN)))
        elif word == "tripped":
            yield f"{lamp} shows tripped, and no overload has.", d.without(on, tripped)
            if e.kinds[e.index[lamp]] == "lamp" and not c.named("trip_relay"):
                yield f"{lamp} is not lit while an overload has tripped.", d.all_of((off, tripped, healthy))
        elif word == "healthy":
            yield f"{lamp} shows healthy, and the monitor has dropped out.", d.without(on, healthy)
        elif word == "phase":
            yield f"{lamp} shows phase fault, and the monitor is in.", d.both(on, healthy)


def lie_of(e: Engine, positions: Positions, *, supplied: bool = True) -> str:
    """False indication of a lamp in one state; empty where all are true."""
    lit = dict.fromkeys(e.shown_live(e.closed(positions)), 1) if supplied else {}
    where = e.where(positions)
    known = Known(Diagrams(), lit, lambda name, position: int(where[name] == position), int(supplied))
    return next((words for words, so in lies(e, known) if so), "")
