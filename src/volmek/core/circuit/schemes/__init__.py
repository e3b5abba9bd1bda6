"""The circuit of a document: one scheme for each starting method, composed from parts by options."""

from volmek.core.circuit.model.netlist import Circuit
from volmek.core.circuit.schemes import direct, reduced, reversing, single_phase, star_delta, two_speed
from volmek.core.circuit.schemes.builder import Builder, Scheme
from volmek.core.circuit.schemes.options import contradictions
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import StarterDocument, method_of

SCHEMES: dict[str, Scheme] = {
    "manual": direct.manual,
    "direct_on_line": direct.direct,
    "reversing": reversing.reversing,
    "star_delta": star_delta.timed,
    "star_delta_manual": star_delta.by_hand,
    "star_delta_closed": star_delta.closed,
    "autotransformer": reduced.autotransformer,
    "stator_resistance": reduced.stator_resistance,
    "rotor_resistance": reduced.rotor_resistance,
    "soft_starter": reduced.soft_starter,
    "part_winding": reduced.part_winding,
    "two_speed": two_speed.two_speed,
    "single_phase_direct": single_phase.direct,
    "single_phase_reversing": single_phase.reversing,
}


def circuit_of(document: StarterDocument, times_s: dict[str, float] | None = None, *, relay: bool = True) -> Circuit:
    """The power and control circuit of a starter.

    Parameters
    ----------
    times_s : settings of its time relays by designation [s]; usual ones where none are given
    relay : an overload relay of its own; without one the motor breaker trips, and F1 are its signalling contacts

    Raises
    ------
    ProblemError : options that contradict each other.
    """
    if problems := contradictions(document):
        raise ProblemError(problems)
    b = Builder(document, dict(times_s or {}), relay=relay)
    scheme = method_of(document)
    if scheme != "manual":
        b.supply()
    SCHEMES[scheme](b)
    if scheme != "manual":
        b.close_return()
        b.lamps()
        b.heater()
    return b.circuit()
