"""The circuit of a document: one scheme for each starting method, composed from parts by options."""

from collections.abc import Mapping
from functools import lru_cache

from pydantic.main import IncEx
from pydantic_core import from_json

from volmek.core.circuit.model.fitted import Fitted, overload_fitted
from volmek.core.circuit.model.netlist import Circuit
from volmek.core.circuit.schemes import direct, reduced, reversing, single_phase, star_delta, two_speed
from volmek.core.circuit.schemes.builder import Builder, Scheme
from volmek.core.circuit.schemes.edits import Edits
from volmek.core.circuit.schemes.options import contradictions
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import ProtectionDevice, StarterDocument, StarterType, method_of

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


#: Circuits that are kept for whoever asks next: most keystrokes change a current or a time of the load, not the circuit.
CIRCUITS_KEPT = 256
#: Decisions that a circuit is laid out from; a scheme sees nothing else of a document.
DECISIVE: Mapping[str, IncEx | bool] = {
    "practice": True,
    "motor": {"phases", "frequency_hz", "rated_voltage_v", "rated_voltage_delta_v", "rated_voltage_star_v", "rated_voltage_low_v",
              "rated_voltage_high_v", "lead_connection", "leads", "single_phase_kind", "speed_winding"},
    "supply": {"line_voltage_v", "frequency_hz", "neutral", "system", "conductors"},
    "starter": {"overload_position", "autotransformer_tap", "star_sequence", "delta_links", "dwell_s"},
    "protection": {"reset", "overload"},
    "control": True,
    "circuit_edits": True,
}  # fmt: skip


def decisive(document: StarterDocument) -> tuple[StarterType, str]:
    """The method, and the decisions that its circuit is laid out from, as JSON.

    Examples
    --------
    >>> from volmek.core.document.model import parse
    >>> decisive(parse({"tag": "A", "load": {"torque_pct": 40}})) == decisive(parse({"tag": "B"}))
    True
    """
    return method_of(document), document.model_dump_json(include=DECISIVE)


def circuit_of(document: StarterDocument, fitted: Fitted | None = None) -> Circuit:
    """The power and control circuit of a starter.

    Parameters
    ----------
    fitted : what its sized devices decide; usual ones where none are given

    Raises
    ------
    ProblemError : options that contradict each other.
    """
    f = fitted or Fitted(relay=overload_fitted(document))
    return _laid_out(*decisive(document), f.front, f.relay, tuple(sorted(f.times_s.items())))


@lru_cache(maxsize=CIRCUITS_KEPT)
def _laid_out(
    scheme: StarterType,
    decisions: str,
    front: ProtectionDevice | None,
    relay: bool,
    times_s: tuple[tuple[str, float], ...],
) -> Circuit:
    data = from_json(decisions)
    data["starter"]["type"] = scheme
    return lay_out(StarterDocument.model_validate({"tag": "circuit", **data}), Fitted(front, relay, dict(times_s)))


def lay_out(document: StarterDocument, fitted: Fitted) -> Circuit:
    """As ``circuit_of``, from the whole document and never from one that was kept."""
    if problems := contradictions(document):
        raise ProblemError(problems)
    b, scheme = Builder(document, fitted), method_of(document)
    b.edits = Edits(document)
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
    b.edits.added(b)
    return b.circuit()
