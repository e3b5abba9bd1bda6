"""Stories of broken rules with times, so that playing them back really shows what the proof found."""

from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.kernel.state import State
from volmek.core.circuit.kernel.timeline import Operation
from volmek.core.circuit.proof.rules import Proof, lie_of
from volmek.core.document.errors import ProblemError

#: First operation, and the pause between operations that is tried first, then ever shorter ones for the last [s].
FIRST_S, USUAL_S = 0.5, 1.2
SHORT_S = tuple(0.002 * k for k in range(1, 61))
LOOK_S = 3.0


def timed(sim: Simulator, proof: Proof) -> list[Operation]:
    """Operations with times that show the broken rule; the usual pauses where none of those tried does.

    Parameters
    ----------
    sim : of the circuit, damaged or not
    proof : a broken rule with its shortest story
    """
    steps = [s for s in proof.shortest or [] if not s.startswith(("earth ", "weld ", "break "))]
    usual = _at(steps, USUAL_S)
    if not steps or _shows(sim, proof, usual):
        return usual
    for pause in SHORT_S:
        tried = _at(steps, USUAL_S, last=pause)
        if _shows(sim, proof, tried):
            return tried
    return usual


def _at(steps: list[str], pause: float, last: float | None = None) -> list[Operation]:
    found: list[Operation] = []
    at = FIRST_S
    doing = [k for k, s in enumerate(steps) if not s.startswith("wait ")]
    for k, step in enumerate(steps):
        if step.startswith("wait "):
            at += float(step[5:])
            continue
        if found:
            at += last if last is not None and k == doing[-1] else pause
        found.append(Operation(round(at, 4), step))
    return found


def _shows(sim: Simulator, proof: Proof, operations: list[Operation]) -> bool:
    """The rule is broken somewhere on the way, or in the end."""
    try:
        s = sim.begin()
        for operation in operations:
            reached = _watched(sim, s, operation.at_s, proof)
            if reached is None:
                return True
            s = sim.operate(reached, operation.do)
        reached = _watched(sim, s, s.time_s + LOOK_S, proof)
        if reached is None:
            return True
        s = reached
    except ProblemError:
        return False
    if proof.rule == "lamps_truthful":
        return bool(lie_of(sim.engine, s.positions, supplied=sim.supplied(s)))
    if proof.rule.endswith(("_drops_all", "self_start", "drops_out")):
        return any(k in sim.live(s) for k in sim.circuit.power_contactors)
    return proof.rule not in ("forbidden_pairs_exclusive", "no_power_short")


def _watched(sim: Simulator, s: State, until: float, proof: Proof) -> State | None:
    """The state later on; None when the rule is broken before."""
    while s.time_s < until - 1e-9:
        nearest = min((at for _, _, at in s.due), default=until)
        s = sim.advance(s, max(min(nearest, until) - s.time_s, 1e-6))
        live = sim.live(s)
        if proof.rule == "forbidden_pairs_exclusive" and any(a in live and b in live for a, b in sim.circuit.forbidden):
            return None
        if proof.rule == "no_power_short" and sim.main is not None and s.positions[sim.main] == 0:
            return None
    return s
