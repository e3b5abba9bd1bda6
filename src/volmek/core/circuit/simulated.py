"""The circuit of a starter as it was designed: its times, its relay, its motor."""

from dataclasses import dataclass

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.circuit.faults.injection import damage
from volmek.core.circuit.kernel.dynamics import Dynamics, of_drive, usual
from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.model.netlist import Circuit
from volmek.core.circuit.schemes import circuit_of
from volmek.core.devices.dial import protecting
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import StarterDocument
from volmek.core.fitting import fitted_of, monitor_of
from volmek.core.methods.build import Built
from volmek.core.methods.rotor_resistance import ring_stages
from volmek.core.physics.thermal import ThermalEdge
from volmek.core.sizing import Sized, size

ASSUMED_START_S = 2.0


@dataclass(frozen=True)
class SimulatedStarter:
    """A circuit ready to be operated, and the sized starter that it belongs to.

    Attributes
    ----------
    circuit : as designed
    simulator : of it, or of the damaged one
    sized : None while the plate does not suffice for a design
    catalogue : from which it was sized
    """

    circuit: Circuit
    simulator: Simulator
    sized: Sized | None
    catalogue: Catalogue

    @property
    def built(self) -> Built | None:
        """Devices, start and network of the sized starter."""
        return self.sized.built if self.sized else None


def simulated(document: StarterDocument, catalogue: Catalogue, faults: list[str] | None = None) -> SimulatedStarter:
    """The circuit of a document with the times and the motor of its design; usual ones where there is no design yet.

    Parameters
    ----------
    faults : put into the circuit that is operated

    Raises
    ------
    ProblemError : options that contradict each other, or a fault that the circuit cannot have.
    """
    try:
        sized = size(document, catalogue)
    except ProblemError:
        sized = None
    return simulated_of(document, catalogue, sized, faults)


def simulated_of(
    document: StarterDocument, catalogue: Catalogue, sized: Sized | None, faults: list[str] | None = None
) -> SimulatedStarter:
    """The circuit of a starter that is sized already, or cannot be yet.

    Parameters
    ----------
    sized : of this document and catalogue; None while the plate does not suffice

    Raises
    ------
    ProblemError : as ``live``.
    """
    built = sized.built if sized else None
    circuit = (sized.circuit if sized else None) or circuit_of(document, fitted_of(document, built))
    damaged = damage(circuit, faults or [])
    simulator = Simulator(
        damaged.circuit, dynamics_of(document, sized), damaged.engine(), monitor_set=monitor_of(document, built),
        current_limit=document.starter.current_limit_ratio or 3.5,
    )  # fmt: skip
    return SimulatedStarter(circuit, simulator, sized, catalogue)


def dynamics_of(document: StarterDocument, sized: Sized | None) -> Dynamics:
    """Behaviour of motor, load and relay in time."""
    edge, dial = _relay(sized)
    built = sized.built if sized else None
    m = document.motor
    rings = (
        tuple(s.rotor_ratio or 1.0 for s in ring_stages(document))
        if document.starter.type == "rotor_resistance"
        else ()
    )
    ratio = m.low_speed_rpm / m.rated_speed_rpm if m.low_speed_rpm and m.rated_speed_rpm else 0.5
    if built and built.start.drive is not None:
        return of_drive(built.start.drive, edge, dial, ratio, rings)
    seconds = built.start.figure.number if built else ASSUMED_START_S
    return usual(seconds, edge, dial, ratio, rings)


def _relay(sized: Sized | None) -> tuple[ThermalEdge | None, float]:
    """The mean edge of the overload relay, and its dial over rated current."""
    device = protecting(sized.built.devices) if sized else None
    if device is None or sized is None:
        return None, 1.0
    share = (device.dial_line_a or 0.0) / sized.plate.design.number
    return device.trip_edges.mean, share
