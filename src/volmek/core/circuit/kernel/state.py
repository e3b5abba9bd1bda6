"""State, events and monitor settings of a simulated circuit."""

from dataclasses import dataclass
from typing import NamedTuple

from volmek.core.circuit.kernel.engine import Positions
from volmek.core.circuit.model.behaviour import EventKind

#: Time after which a start winding that is still in gets hot, and is damaged [s].
LEFT_IN_S, BURNS_S = 3.0, 10.0
#: Between the two positions of a push-button, and until the eye has seen something [s].
BUTTON_S, SEEN_S = 0.02, 0.2


class State(NamedTuple):  # not a dataclass: a simulation makes some hundred thousand of them
    """State of a simulation.

    Attributes
    ----------
    time_s : since the beginning
    positions : of every device, in the engine's order
    due : devices that are about to move, with position and time
    lost : lines that are away
    swapped : lines that are exchanged at the supply
    voltage_pct : of the supply
    pushed : contactors that are held in by hand
    speed : share of synchronous speed, negative in reverse
    heat : of the overload relay, 1 trips
    amps : motor current over rated current
    winding_s : how long a start winding has been in circuit [s]
    """

    time_s: float
    positions: Positions
    due: tuple[tuple[int, int, float], ...] = ()
    lost: frozenset[str] = frozenset()
    swapped: tuple[str, str] | None = None
    voltage_pct: float = 100.0
    pushed: frozenset[str] = frozenset()
    speed: float = 0.0
    heat: float = 0.0
    amps: float = 0.0
    winding_s: float = 0.0


@dataclass(frozen=True, slots=True)
class Event:
    """An event of a simulation; ``telling`` makes the sentence.

    Attributes
    ----------
    time_s : since the beginning
    device : what it happened to, empty for an operation
    kind : what happened
    about : of a short circuit the two lines joined and the contactors in between, of one in the control circuit its wires,
        of an operation what was done
    """

    time_s: float
    device: str
    kind: EventKind
    about: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class MonitorSet:
    """Settings of the phase monitor.

    Attributes
    ----------
    undervoltage_pct, overvoltage_pct, asymmetry_pct : thresholds [%]; no asymmetry where nobody could set one
    sequence, neutral : whether it watches them
    loss_delay_s, voltage_delay_s, on_delay_s : delays [s]
    lost_leaves_pct : asymmetry that a line lost while the motor turns leaves at the monitor; None where it is not known
    """

    undervoltage_pct: float = 85.0
    overvoltage_pct: float = 110.0
    asymmetry_pct: float | None = None
    sequence: bool = True
    neutral: bool = True
    loss_delay_s: float = SEEN_S
    voltage_delay_s: float = 2.0
    on_delay_s: float = 1.0
    lost_leaves_pct: float | None = None
