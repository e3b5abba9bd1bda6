"""The circuit of a document: one scheme for each starting method, composed from parts by options."""

from volmek.core.circuit.model.fitted import Fitted
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


def circuit_of(document: StarterDocument, fitted: Fitted | None = None) -> Circuit:
    """The power and control circuit of a starter.

    Parameters
    ----------
    fitted : what its sized devices decide; usual ones where none are given

    Raises
    ------
    ProblemError : options that contradict each other.
    """
    if problems := contradictions(document):
        raise ProblemError(problems)
    b = Builder(document, fitted or Fitted())
    scheme = method_of(document)
    b.breakers()
    if scheme != "manual":
        b.supply()
    SCHEMES[scheme](b)
    if b.source.alive_with_main_off and document.control.restart_harmless:
        b.declared.setdefault("no_self_start", f"Restart harmless: {document.control.restart_harmless}")
    if scheme != "manual":
        b.close_return()
        b.lamps()
        b.heater()
    return b.circuit()
