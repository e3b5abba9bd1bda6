"""Needs of the circuit: auxiliary contacts of each contactor, and the steps of its pull-in."""

from functools import lru_cache

from volmek.core.circuit.kernel.dynamics import usual
from volmek.core.circuit.kernel.operator import quick
from volmek.core.circuit.kernel.report import auxiliary_contacts
from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.kernel.state import State
from volmek.core.circuit.model.behaviour import IN
from volmek.core.circuit.model.netlist import Circuit
from volmek.core.circuit.schemes import circuit_of, decisive
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import StarterDocument, StarterType
from volmek.core.results.beside import Beside

#: What a whole start takes with short time relays [s].
START_S = 3.0


def circuit_needs(document: StarterDocument) -> tuple[dict[str, dict[str, int]], tuple[str, ...]]:
    """Auxiliary contacts by contactor, and the contactors that are in after each step of the simulated start.

    Returns
    -------
    Both empty while options contradict each other.

    Examples
    --------
    >>> from volmek.core.document.model import parse
    >>> contacts, steps = circuit_needs(parse({"tag": "A", "starter": {"type": "star_delta"}}))
    >>> contacts["K3"], steps
    ({'no': 1, 'nc': 1}, ('K3', 'K1 K3', 'K1', 'K1 K2'))
    """
    return _needs(decisive(document), Beside(document))


@lru_cache(maxsize=512)
def _needs(
    decisions: tuple[StarterType, str], asked: Beside[StarterDocument]
) -> tuple[dict[str, dict[str, int]], tuple[str, ...]]:
    del decisions
    try:
        circuit = circuit_of(asked.value)
    except ProblemError:
        return {}, ()
    return auxiliary_contacts(circuit), pull_in_steps(circuit)


def pull_in_steps(circuit: Circuit, *, turns: bool | None = None) -> tuple[str, ...]:
    """Contactors of the power circuit that are in after each step of a start, found by operating the circuit.

    Parameters
    ----------
    circuit : of the starter
    turns : the motor turns meanwhile; by default only a single-phase one does, since only the switch of a start winding goes by speed
    """
    sim = Simulator(quick(circuit), usual(0.5), turns=circuit.single_phase if turns is None else turns)
    s = sim.begin()
    for name in circuit.of_kind("selector"):
        s = sim.operate(s, f"turn {name} {circuit.devices[name].positions[1]}")
    for name in circuit.of_kind("field"):
        if not circuit.devices[name].opens:
            s = sim.operate(s, f"close {name}")
    rest = sim.advance(s, START_S)
    found: list[str] = []
    for button in circuit.starts or [""]:
        if found:
            found.append("")
        s = sim.operate(rest, f"press {button}") if button else rest
        s = _stepped(sim, s, 0.4, found)
        if button:
            s = sim.operate(s, f"release {button}")
        _stepped(sim, s, START_S, found)
    return tuple(found)


def _stepped(sim: Simulator, s: State, seconds: float, found: list[str]) -> State:
    end = s.time_s + seconds
    while s.time_s < end - 1e-9:
        nearest = min((at for _, _, at in s.due), default=end)
        s = sim.advance(s, max(min(nearest, end) - s.time_s, 1e-6))
        now = " ".join(sorted(k for k in sim.circuit.power_contactors if s.positions[sim.engine.index[k]] == IN))
        if now and (not found or found[-1] != now):
            found.append(now)
    return s
