"""Events of a simulation in words: sentences are made here, at the edge."""

from dataclasses import dataclass

from volmek.core.circuit.kernel.state import BURNS_S, LEFT_IN_S, Event
from volmek.core.circuit.model.behaviour import EventKind

#: What is said behind the designation.
SAID: dict[EventKind, str] = {
    "pulls_in": "pulls in",
    "drops_out": "drops out",
    "trips": "trips on overload",
    "runs": "runs",
    "runs_out": "has run out",
    "resets": "resets",
    "star": "star",
    "pause": "pause",
    "delta": "delta",
    "ramps_up": "ramps up",
    "full_voltage": "is at the top of its ramp",
    "ramps_down": "ramps down",
    "off": "is off",
    "healthy": "sees healthy phases",
    "unhealthy": "drops out: the phases are not healthy",
    "winding_switch_opens": "opens: the start winding is out",
    "winding_switch_closes": "closes",
    "chatters": "chatters: its coil drops out through its own contact and pulls in again",
}


@dataclass(frozen=True, slots=True)
class Told:
    """An event as pages and the command line show it.

    Attributes
    ----------
    time_s : since the beginning
    device : what it happened to, empty for an operation
    words, kind : as a sentence, and which kind of event it is
    """

    time_s: float
    device: str
    words: str
    kind: EventKind


def joined(event: Event) -> str:
    """Lines that a short circuit joined, and the contactors in between.

    Parameters
    ----------
    event : a short circuit

    Examples
    --------
    >>> joined(Event(0.1, "Q1", "short_circuit", ("L1", "L2", "K2", "K3 (welded)")))
    'L1 and L2 are joined through K2 and K3 (welded)'
    """
    a, b, *through = event.about
    what = f"{a} and {b} are joined" if a != b else f"the winding of {a} is shorted"
    return f"{what} through {' and '.join(through) or 'the wiring'}"


def told(event: Event) -> Told:
    """One event in words.

    Parameters
    ----------
    event : of a simulation

    Examples
    --------
    >>> told(Event(1.02, "K2", "pulls_in")).words
    'K2 pulls in'
    """
    if event.kind == "operation":
        words = event.about[0]
    elif event.kind == "short_circuit":
        words = f"Short circuit: {joined(event)}; {event.device} trips"
    elif event.kind == "control_short":
        words = (
            f"Short circuit in the control circuit: {event.device} trips, before wire {', '.join(event.about)} burns"
        )
    elif event.kind == "overheats":
        words = f"{event.device}: the start winding is still in after {LEFT_IN_S:g} s: too much current, it gets hot"
    elif event.kind == "damaged":
        words = f"{event.device}: the start winding has been in for {BURNS_S:g} s: it is damaged"
    else:
        words = f"{event.device} {SAID[event.kind]}"
    return Told(event.time_s, event.device, words, event.kind)
