"""Complaints in a fitter's words, each with the observation it means in the trial of the finished starter."""

from dataclasses import dataclass
from itertools import combinations

from volmek.core.circuit.build.plan import Plan, Stage


@dataclass(frozen=True, slots=True)
class Symptom:
    """A complaint about the starter.

    Attributes
    ----------
    words : as it is told
    stage, step : of the plan, in which it would be seen
    seen : what is found there, where it differs
    """

    words: str
    stage: str
    step: int
    seen: dict[str, str]


def symptoms(plan: Plan) -> list[Symptom]:
    """Usual complaints about a starter, each once, in the order of its trial.

    Parameters
    ----------
    plan : of the build; its last stage under voltage shows the whole starter

    Examples
    --------
    >>> from volmek.core.circuit.build.plan import build_plan
    >>> from volmek.core.circuit.simulated import simulated_of
    >>> from volmek.core.examples import example
    >>> s = example()
    >>> [x.words for x in symptoms(build_plan(simulated_of(s.document, s.catalogue, s), s.document))][:3]
    ['Starts by itself when the breakers are closed', 'Nothing happens when S2 is pressed', 'Drops out when S2 is released']
    """
    tried = [s for s in plan.stages if s.steps]
    if not tried:
        return []
    stage = tried[-1]
    found: dict[str, Symptom] = {}
    for n, step in enumerate(stage.steps):
        for words, state in _told(stage, n):
            seen = {k: v for k, v in state.items() if k in step.state and step.state[k] != v}
            if seen:
                found.setdefault(words, Symptom(words, stage.title, n, seen))
    for words, n, seen in _lamps_told(stage):
        found.setdefault(words, Symptom(words, stage.title, n, seen))
    return list(found.values())


def _told(stage: Stage, n: int) -> list[tuple[str, dict[str, str]]]:
    """Complaints that belong to a step, each with the state that it means."""
    step = stage.steps[n]
    verb, _, name = step.do.partition(" ")
    rest, before = stage.steps[0].state, stage.steps[n - 1].state if n else {}
    moved = before and any(before.get(k, v) != v for k, v in step.state.items())
    if n == 0:
        started = next((s.state for s in stage.steps if s.do.startswith("press") and _runs(s.state, rest)), {})
        return [("Starts by itself when the breakers are closed", started)] if started else []
    if verb == "press":
        if _runs(step.state, before):
            return [(f"Nothing happens when {name} is pressed", before)]
        return [(f"Does not stop when {name} is pressed", before)] if moved else []
    if verb == "release" and not moved and _runs(step.state, rest):
        return [(f"Drops out when {name} is released", {**rest, **_coasting(step.state)})]
    if verb == "release" and not moved and not _runs(step.state, rest):
        running = next((s.state for s in stage.steps if _runs(s.state, rest)), {})
        return [(f"Starts again when {name} is released", running)] if running else []
    if verb == "wait" and moved:
        return [(f"Nothing changes after {name} s", before)]
    if verb == "trip" and moved:
        return [(f"Keeps running when {name} trips", {**before, name: step.state.get(name, "")})]
    if verb == "reset" and not _runs(step.state, rest):
        running = next((s.state for s in stage.steps if _runs(s.state, rest)), {})
        return [(f"Starts by itself when {name} is reset", running)] if running else []
    return []


def _lamps_told(stage: Stage) -> list[tuple[str, int, dict[str, str]]]:
    """Complaints about lamps at rest and while it runs: words, step, what is seen."""
    rest = stage.steps[0].state
    n = next((n for n, s in enumerate(stage.steps) if _runs(s.state, rest)), 0)
    runs = stage.steps[n].state
    lamps = [k for k, v in rest.items() if v in ("lit", "dark") and k in runs]
    found = [
        (f"{a} and {b} are the wrong way round", 0, {a: rest[b], b: rest[a]})
        for a, b in combinations(lamps, 2)
        if rest[a] != rest[b] and runs[a] == rest[b] and runs[b] == rest[a]
    ]
    for when, step, state in (("at rest", 0, rest), ("while it runs", n, runs)):
        for k in lamps if n or not step else ():
            lit = state[k] == "lit"
            found.append((f"{k} {'stays dark' if lit else 'is lit'} {when}", step, {k: "dark" if lit else "lit"}))
    return found


def _runs(state: dict[str, str], rest: dict[str, str]) -> bool:
    """A contactor is in that was out."""
    return any(v == "in" and rest.get(k) == "out" for k, v in state.items())


def _coasting(state: dict[str, str]) -> dict[str, str]:
    """A motor that was running runs down."""
    return {k: "coasts" for k, v in state.items() if "," in v}
