"""A designation is only a name: a circuit with other ones is proved, built, broken and drawn just the same."""

import re
from collections.abc import Callable
from dataclasses import replace
from typing import Any

import pytest

from circuits import EVERYTHING, VARIANTS, made, renamed
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.circuit.build.causes import causes_of_step
from volmek.core.circuit.build.plan import build_plan
from volmek.core.circuit.drawing.control import draw_control
from volmek.core.circuit.drawing.power import draw_power
from volmek.core.circuit.faults.failures import failures
from volmek.core.circuit.faults.injection import damage
from volmek.core.circuit.faults.mistakes import mistakes
from volmek.core.circuit.kernel.dynamics import usual
from volmek.core.circuit.kernel.report import as_json
from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.kernel.timeline import Operation, play
from volmek.core.circuit.model.netlist import Circuit
from volmek.core.circuit.proof.rules import prove
from volmek.core.circuit.simulated import SimulatedStarter
from volmek.core.document.model import parse
from volmek.core.record.items import commissioning

STANDBY = made(standby=True, lamps=["running", "tripped"])
CIRCUITS: dict[str, Circuit] = {
    **{
        name: VARIANTS[name]
        for name in (
            "star_delta", "stator_resistance", "soft_starter", "single_phase_direct", "reversing with rest", "jog by selector", "jog by relay", "hand-off-auto",
            "monitor behind", "controller signal", "unearthed", "from a transformer",
        )
    },
    "stand-by": STANDBY,
    "before the main breaker": made(tap="before_main", source="common", voltage_v=230, **EVERYTHING),
}  # fmt: skip
SHORT = ("star_delta", "single_phase_direct", "jog by relay", "stand-by")
DOCUMENT = parse({"tag": "A"})


def starter(c: Circuit) -> SimulatedStarter:
    return SimulatedStarter(c, Simulator(c, usual(1.5)), None, reference_catalogue())


def planned(c: Circuit) -> Any:
    return build_plan(starter(c), DOCUMENT)


def causes(c: Circuit) -> Any:
    it, plan = starter(c), planned(c)
    stage = next(s for s in plan.stages if any("pulls in" in x for step in s.steps for x in step.sees))
    index = next(n for n, s in enumerate(stage.steps) if any("pulls in" in x for x in s.sees))
    seen = {k: "out" for k, v in stage.steps[index].state.items() if v == "in"}
    return causes_of_step(plan, it.simulator, stage, index, seen)


def running(c: Circuit) -> Any:
    start = [Operation(0.5, f"press {c.starts[-1]}"), Operation(1.0, f"release {c.starts[-1]}")] if c.starts else []
    trip = [Operation(9.0, c.trial(name)[0]) for name in c.overloads[:1]]
    timeline = play(Simulator(c, usual(1.5)), [*start, *trip])
    return replace(timeline, snapshot=replace(timeline.snapshot, circuit="its own"))


PROJECTIONS: dict[str, Callable[[Circuit], Any]] = {
    "control drawing": lambda c: [draw_control(c, s) for s in ("columns", "ladder")],
    "power drawing": lambda c: draw_power(c, "columns"),
    "proofs": prove,
    "plain data": as_json,
    "plan": planned,
    "simulation": running,
    "record": lambda c: commissioning(DOCUMENT, None, starter(c)),
    "mistakes": lambda c: mistakes(c, damage(c, [])),
}


def told(x: Any) -> str:
    return re.sub(r"(?<=\d)\+", "", repr(x))


@pytest.mark.parametrize("name", CIRCUITS)
def test_a_circuit_with_other_designations_is_the_same(name: str) -> None:
    circuit = CIRCUITS[name]
    other = renamed(circuit, circuit.devices)
    # Terminals of lamps are X1 and X2, wires of the heater and of the transformer H1 and T1.
    names = [x for x in circuit.devices if x not in ("X1", "X2", "H1", "T1") and x[0] != "R"]
    own = re.compile(rf"(?<![\w:])(?:{'|'.join(names)})(?![\w+])")
    for what, made_from in PROJECTIONS.items():
        result = made_from(other)
        assert told(result) == told(made_from(circuit)), what
        assert not own.findall(repr(result)), what


@pytest.mark.parametrize("name", SHORT)
def test_its_failures_and_causes_are_the_same(name: str) -> None:
    circuit = CIRCUITS[name]
    other = renamed(circuit, circuit.devices)
    for made_from in (failures, causes):
        assert told(made_from(other)) == told(made_from(circuit))
