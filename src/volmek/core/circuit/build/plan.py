"""The build and test plan: what is wired stage by stage, what a meter must read with everything dead, and what must be seen under voltage.

Nothing in it is written by hand for a circuit: readings come from the netlist of the part wired so far, and what must be seen
from running the simulation on that part.
"""

from dataclasses import dataclass, replace

from volmek.core.circuit.build.continuity import Check, Dead, dead_checks
from volmek.core.circuit.build.stages import Order, StagePlan, stages_of
from volmek.core.circuit.build.trial import Step, Tester
from volmek.core.circuit.build.wiring import WireItem, as_laid, wire_list
from volmek.core.circuit.kernel.dynamics import usual
from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.model.netlist import Circuit
from volmek.core.circuit.simulated import SimulatedStarter
from volmek.core.document.model import StarterDocument

#: A motor that is at speed almost at once: only which way it turns matters here.
QUICK = usual(0.1)
ISOLATE = "Isolate, lock off, and prove dead on a tester that you have just proved."
CAUTIONS = {
    "links": ("Take every link out of the terminal box before the leads go on.",),
    "ask": ("The plan ends here until the connection is known: no link is fitted that nobody has chosen.",),
    "supply": ("The incoming terminals of {main} stay live when {main} is off: isolate where the supply comes from.",),
    "power": ("Never push a contactor in by hand on a live panel: these readings are taken dead and locked off.",),
    "motor": (
        "Keep everybody clear of the machine: it may turn the wrong way.",
        "Only a competent, authorised person does this work.",
    ),
    "heater": ("The heater has a supply of its own: it is live when {main} is off.",),
}
CAPACITOR = (
    "Discharge the capacitors and prove them dead before touching anything: they stay charged after switching off."
)
SHORT = "A star and a delta contactor closed together short the supply."


@dataclass(frozen=True, slots=True)
class Stage:
    """Wires, then readings dead, then operations under voltage.

    Attributes
    ----------
    number : from 1
    kind, title, why : which it is
    wires : keys of the conductors that are laid in it
    checks : continuity, everything isolated
    steps : under voltage
    cautions : that stand before it
    """

    number: int
    kind: str
    title: str
    why: str
    wires: tuple[str, ...]
    checks: tuple[Check, ...]
    steps: tuple[Step, ...]
    cautions: tuple[str, ...]


@dataclass(frozen=True)
class Plan:
    """Build and test plan of a starter.

    Attributes
    ----------
    order : which circuit comes first
    wires : the whole wire list, in working order
    stages : with what must be read and seen
    """

    order: Order
    wires: tuple[WireItem, ...]
    stages: tuple[Stage, ...]


def build_plan(it: SimulatedStarter, document: StarterDocument, order: Order = "control_first") -> Plan:
    """The plan of a starter.

    Parameters
    ----------
    it : its circuit, ready to be operated
    order : the control circuit first and the motor last, or the power circuit first

    References
    ----------
    IEC 60204-1, clause 18 (verification); IEC 60364-6, 6.4 (continuity before voltage).
    """
    sized = it.sized.design if it.sized else None
    planned = stages_of(it.circuit, order)
    needed: dict[str, int] = {}
    for n, s in enumerate(planned, 1):
        for t in s.terminals:
            needed.setdefault(t, n)
    power = next((n for n, s in enumerate(planned, 1) if s.kind == "power"), len(planned))
    items = wire_list(it.circuit, needed, document, sized, strips=power)
    if it.circuit.connection.asks:  # what goes to the motor is not laid while nobody knows how its ends are joined
        items = [i for i in items if i.stage <= len(planned) and not any(map(it.circuit.in_motor, (i.a, i.b)))]
    stages = []
    # What the finished control circuit would do does not need the motor to run up beside it.
    control = [i for i in items if i.side == "control"]
    full = replace(it.simulator, circuit=as_laid(it.circuit, control), with_engine=None, dynamics=QUICK)
    for n, s in enumerate(planned, 1):
        sim = partial(it.simulator, items, n)
        tester = Tester(sim, full, planned[:n])
        wires = tuple(i.key for i in items if i.stage == n)
        steps = tuple(tester.steps(s))
        why = s.why
        if any("chatters" in x.state.values() for x in steps):
            steps = ()
            why = f"{s.why} Not energised yet: without its seal-in contact it would pull in and drop out repeatedly."
        checks = tuple(dead_checks(Dead(sim.circuit), s))
        stages.append(Stage(n, s.kind, s.title, why, wires, checks, steps, _cautions(it.circuit, s)))
    return Plan(order, tuple(items), tuple(stages))


def partial(full: Simulator, items: list[WireItem] | tuple[WireItem, ...], stage: int) -> Simulator:
    """The simulation of the part that is wired up to a stage, this one included."""
    circuit = as_laid(full.circuit, (i for i in items if i.stage <= stage))
    return replace(full, circuit=circuit, with_engine=None, dynamics=QUICK)


def _cautions(circuit: Circuit, s: StagePlan) -> tuple[str, ...]:
    main = circuit.named("main_breaker")
    more = [x.format(main=main) for x in CAUTIONS.get(s.kind, ())]
    if circuit.loads and circuit.source.alive_with_main_off:
        more.append(
            f"The control circuit is live with {main} off ({circuit.source.words}): isolate it at its own source too."
        )
    if s.kind in ("power", "motor") and circuit.of_kind("capacitor"):
        more.append(CAPACITOR)
    if s.kind in ("power", "motor") and circuit.star_delta:
        more.append(SHORT)
    return (ISOLATE, *more)
