"""Stories of broken rules with times, so that playing them back really shows what the proof found."""

from itertools import pairwise

from volmek.core.circuit.kernel.report import run_script
from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.kernel.state import State
from volmek.core.circuit.kernel.timeline import Operation
from volmek.core.circuit.proof.lamps import lie_of
from volmek.core.circuit.proof.rules import Proof
from volmek.core.document.errors import ProblemError

#: First operation, and the pause between operations that is tried first, then ever shorter ones for the last [s].
FIRST_S, USUAL_S = 0.5, 1.2
SHORT_S = tuple(0.002 * k for k in range(1, 61))
LOOK_S, SETTLED_S = 3.0, 0.15
#: Beginnings of a story that are faults, not operations.
FAULTS = ("earth ", "weld ", "break ")


def timed(sim: Simulator, proof: Proof) -> list[Operation]:
    """Operations with times that show the broken rule; the usual pauses where none of those tried does.

    Parameters
    ----------
    sim : of the circuit, damaged or not
    proof : a broken rule with its shortest story
    """
    steps = [s for s in proof.shortest or [] if not s.startswith(FAULTS)]
    usual = _at(steps, USUAL_S)
    if not steps or _shows(sim, proof, usual):
        return usual
    for pause in SHORT_S:
        tried = _at(steps, USUAL_S, last=pause)
        if _shows(sim, proof, tried):
            return tried
    return usual


def counterexample(sim: Simulator, proof: Proof) -> list[str]:
    """The story of a broken rule as a script that shows it: with the pauses that a race needs, and a wait for what follows by itself.

    Parameters
    ----------
    sim : of the circuit, damaged or not
    proof : a broken rule with its shortest story

    Returns
    -------
    Faults first, then operations as ``run_script`` takes them; the story as it is where nothing that was tried shows it.
    """
    steps = list(proof.shortest or [])
    faults = [s for s in steps if s.startswith(FAULTS)]
    doing = [s for s in steps if s not in faults]
    if not doing or faults:
        return steps
    try:
        entries = run_script(sim, "; ".join(doing))
    except ProblemError:
        return steps
    plain = [Operation(FIRST_S + e["time_s"], e["do"]) for e in entries if not e["do"].startswith("wait ")]
    for look_s in (SETTLED_S, LOOK_S):
        if _shows(sim, proof, plain, look_s):
            return doing if look_s == SETTLED_S else [*doing, f"wait {LOOK_S:g}"]
    story = timed(sim, proof)
    if not _shows(sim, proof, story, LOOK_S):
        return steps
    script = [story[0].do]
    for before, after in pairwise(story):
        script += [f"pause {after.at_s - before.at_s:g}", after.do]
    return [*script, f"wait {LOOK_S:g}"]


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


def _shows(sim: Simulator, proof: Proof, operations: list[Operation], look_s: float = LOOK_S) -> bool:
    """The rule is broken somewhere on the way, or in the end."""
    stood = True  # before the last operation
    try:
        s = sim.begin()
        for operation in operations:
            reached = _watched(sim, s, operation.at_s, proof)
            if reached is None:
                return True
            stood = not _any_in(sim, reached)
            s = sim.operate(reached, operation.do)
        reached = _watched(sim, s, s.time_s + look_s, proof)
        if reached is None:
            return True
        s = reached
    except ProblemError:
        return False
    if proof.rule == "lamps_truthful":
        return bool(lie_of(sim.engine, s.positions, supplied=sim.supplied(s)))
    if proof.rule == "no_self_start":
        return stood and _any_in(sim, s)
    if proof.rule.endswith(("_drops_all", "drops_out")):
        return _any_in(sim, s)
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


def _any_in(sim: Simulator, s: State) -> bool:
    return any(k in sim.live(s) for k in sim.circuit.power_contactors) or sim.electrical(s).connection != "off"
