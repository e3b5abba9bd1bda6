"""Possible causes of a different observation: mistakes and defects tried one by one on the part connected so far.

Every candidate is put into the circuit and run; only those that give exactly what was seen, and what was rightly seen before,
are named.
"""

from dataclasses import replace

from volmek.core.circuit.build.candidates import KINDS, Cause, alike_terminals, distinct
from volmek.core.circuit.build.continuity import Check, Dead
from volmek.core.circuit.build.glance import DeadGlance, Glance
from volmek.core.circuit.build.plan import Plan, Stage, partial
from volmek.core.circuit.build.trial import Run, observed
from volmek.core.circuit.faults.injection import damage
from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.kernel.state import State
from volmek.core.document.errors import Problem, ProblemError

#: How a thing is found that is not there at all, as a coil that does nothing.
RESTING = {"in": "out", "out": "out", "chatters": "out", "on": "off", "off": "off", "lit": "dark", "dark": "dark"}
#: What can be seen of each thing.
SEEN = (
    ("in", "out", "chatters"), ("on", "off"), ("lit", "dark"), ("closed", "open"), ("live", "dead"),
)  # fmt: skip
#: How the motor can be connected, and how it turns.
CONNECTIONS = ("star", "delta", "reduced", "low", "high", "half", "single", "plate", "on", "parallel", "series")
MOTOR = (
    "stands",
    "hums",
    "coasts",
    *(f"{how}, {way}" for how in CONNECTIONS for way in ("forward", "reverse", "none")),
)
READS = ("closed", "coil", "open")


def choices(state: str) -> tuple[str, ...]:
    """Observations that can be made in place of the expected one.

    Examples
    --------
    >>> choices("in"), choices("lit")
    (('in', 'out', 'chatters'), ('lit', 'dark'))
    """
    return next((row for row in SEEN if state in row), tuple(dict.fromkeys((state, *MOTOR))))


def causes_of_step(
    plan: Plan,
    whole: Simulator,
    stage: Stage,
    index: int,
    seen: dict[str, str],
    *,
    measured: bool = True,
    everywhere: bool = False,
) -> list[Cause]:
    """Likely causes when a step shows something else.

    Parameters
    ----------
    whole : simulation of the finished starter
    index : of the step in the stage, from 0
    seen : what was found, only where it differs
    measured : voltages that this step asks for were measured too; else only what is seen counts
    everywhere : of a panel that nobody has tried stage by stage: wires of every stage may be exchanged or moved

    Returns
    -------
    Those that give exactly this and nothing else before: the wires of this stage first, then by how often such a thing happens.

    Raises
    ------
    ProblemError : a thing that this step does not show, or a state that it cannot have.
    """
    expected = stage.steps[index].state
    for name, state in seen.items():
        if name not in expected:
            raise ProblemError([Problem(f"seen.{name}", f"this step shows {', '.join(expected)}")])
        if state not in choices(expected[name]):
            raise ProblemError([Problem(f"seen.{name}", f"{state} is not one of {', '.join(choices(expected[name]))}")])
    wanted = {**(expected if measured else {k: v for k, v in expected.items() if ":" not in k}), **seen}
    sound = partial(whole, plan.wires, stage.number)
    before = Run(sound)
    rightly: list[tuple[State, dict[str, str]]] = []
    for step in stage.steps[:index]:
        before.step(step.do)
        rightly.append((before.state, step.state))
    after = Run(sound, after=before)
    after.step(stage.steps[index].do)
    glance = Glance(sound, [*rightly, (after.state, wanted)])
    power = {t for (_, poles, _), ts in alike_terminals(sound.circuit).items() if poles for t in ts}
    notices = (sound.circuit.motor, sound.circuit.named("main_breaker"))
    found = []
    for cause in distinct(sound.circuit, stage, plan, everywhere=everywhere):
        if not glance.allows(cause.faults):
            continue
        alone = all(t in power for f in cause.faults for t in f.split()[1:])
        if alone and not any(name in notices or name in power for name in seen):
            continue  # the control circuit does not notice
        sim = _damaged(sound, cause, power, same_control=alone)
        if sim is None:
            continue
        # From the state that everything was rightly seen in: most candidates are told apart by this one step, and what is changed
        # in the power circuit alone by a look at it, unless it shorts.
        if alone and index and not sim.electrical(after.state).shorts and not _same(observed(sim, after.state), wanted):
            continue
        moved = sim.circuit.monitor_behind != sound.circuit.monitor_behind  # then it rests in another place
        if not alone and not moved and index:
            run = Run(sim, after=before)
            if not _same(_stepped(run, stage.steps[index].do), wanted):
                continue
        if _replayed(sim, stage, index, wanted):
            found.append(cause)
    return _ranked(found)


def causes_of_check(plan: Plan, whole: Simulator, stage: Stage, index: int, reads: str) -> list[Cause]:
    """Likely causes when the meter reads something else, in the order of ``causes_of_step``.

    Raises
    ------
    ProblemError : not a reading.
    """
    if reads not in READS:
        raise ProblemError([Problem("reads", f"{reads} is not one of {', '.join(READS)}")])
    sound = partial(whole, plan.wires, stage.number)
    found = []

    def differs(dead: Dead, check: Check, wanted: str) -> bool:
        return dead.reads(check.a, check.b, check.operations) != wanted

    glance = DeadGlance(Dead(sound.circuit))
    for cause in distinct(sound.circuit, stage, plan):
        if not glance.allows(cause.faults, stage.checks[index], reads):
            continue
        try:
            d = damage(sound.circuit, list(cause.faults))
        except ProblemError:
            continue
        dead = Dead(d.circuit, d.stuck)
        if differs(dead, stage.checks[index], reads):
            continue
        if not any(differs(dead, c, c.reads) for c in stage.checks[:index]):
            found.append(cause)
    return _ranked(found)


def _ranked(found: list[Cause]) -> list[Cause]:
    """New wires first, then the frequent kinds; those about one and the same end together."""
    often = list(KINDS)
    together: dict[tuple[object, ...], list[Cause]] = {}
    for c in sorted(found, key=lambda c: (not c.fresh, often.index(c.kind))):
        together.setdefault((c.kind, c.about) if c.about else c.faults, []).append(c)
    return [replace(first, alike=tuple(c.what for c in others)) for first, *others in together.values()]


def _damaged(sound: Simulator, cause: Cause, power: set[str], *, same_control: bool) -> Simulator | None:
    """The circuit with a candidate; its control circuit is not looked at again where it is the same."""
    try:
        d = damage(sound.circuit, list(cause.faults))
    except ProblemError:
        return None
    sim = replace(sound, circuit=d.circuit, with_engine=sound.engine if same_control else d.engine())
    if not same_control and not any(t in power for f in cause.faults for t in f.split()[1:]) and not d.stuck:
        sim.power = sound.power  # the power circuit is the same, and so is what was solved of it
    return sim


def _stepped(run: Run, do: str) -> dict[str, str]:
    run.step(do)
    return run.done[-1].state


def _same(got: dict[str, str], wanted: dict[str, str]) -> bool:
    return all(got.get(k, RESTING.get(v, v)) == v for k, v in wanted.items())


def _replayed(sim: Simulator, stage: Stage, index: int, wanted: dict[str, str]) -> bool:
    """Every step before is as it should be, and this one as it was seen."""
    run = Run(sim)
    return all(
        _same(_stepped(run, step.do), wanted if n == index else step.state)
        for n, step in enumerate(stage.steps[: index + 1])
    )
