"""What was proved against what happens: random operations in time never contradict a rule that is held."""

import os
import random
from functools import cache

import pytest

from circuits import LARGEST, VARIANTS, drawn_sets
from volmek.core.circuit.kernel.dynamics import usual
from volmek.core.circuit.kernel.operator import quick
from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.kernel.state import Event, State
from volmek.core.circuit.model.behaviour import REST
from volmek.core.circuit.model.netlist import Circuit
from volmek.core.circuit.proof.rules import prove

#: Runs altogether; VOLMEK_LONG=1 makes them the long run.
RUNS, PARTS = 10_000 if os.environ.get("VOLMEK_LONG") else 300, 10
PAUSES_S = (0.0, 0.004, 0.011, 0.02, 0.03, 0.2, 1.5, 5.0)


@cache
def circuits() -> dict[str, Circuit]:
    drawn = {f"drawn {k}": c for k, (_, c) in enumerate(drawn_sets(30, 77))}
    return {**VARIANTS, **{f"largest {k}": c for k, c in LARGEST.items()}, **drawn}


@cache
def held(name: str) -> frozenset[str]:
    return frozenset(p.rule for p in prove(circuits()[name]) if p.holds)


def operations(c: Circuit) -> list[str]:
    found = ["voltage 100", "lose L1", "restore L1", "lose L3", "restore L3"]
    for d in c.devices.values():
        if d.kind in ("button", "emergency_stop"):
            found += [f"press {d.designation}", f"release {d.designation}"]
        elif d.kind == "selector":
            found += [f"turn {d.designation} {x}" for x in d.positions]
        elif d.kind == "overload":
            found += [f"trip {d.designation}", f"reset {d.designation}"]
        elif d.kind == "field":
            found += [f"open {d.designation}", f"close {d.designation}"]
    return found


def contradicted(sim: Simulator, s: State, events: list[Event]) -> str:
    """A rule that the present state, or what happened, contradicts."""
    c, at = sim.circuit, sim.engine.where(s.positions)
    if any(e.kind == "short_circuit" for e in events):
        return "no_power_short"
    if any(a in sim.live(s) and b in sim.live(s) for a, b in c.forbidden):
        return "forbidden_pairs_exclusive"
    if any(at <= s.time_s + 0.1 for _, _, at in s.due):
        return ""  # something is still on its way
    on = sim.electrical(s).connection != "off" or any(k in sim.live(s) for k in c.power_contactors)
    acting = {
        "stop_drops_all": [x for x in c.stops if x in at and c.devices[x].kind == "button" and at[x] != REST],
        "emergency_stop_drops_all": [x for x in c.of_kind("emergency_stop") if at[x] != REST],
        "overload_drops_all": [x for x in c.of_kind("overload") if at[x] == 1],
        "phase_monitor_drops_all": [c.monitor] if c.monitor and at[c.monitor] == 0 else [],
    }
    return next((rule for rule, names in acting.items() if names and on), "")


@pytest.mark.parametrize("part", range(PARTS))
def test_random_operations_contradict_no_rule_that_is_held(part: int) -> None:
    draw = random.Random(part)
    for _ in range(RUNS // PARTS):
        name = draw.choice(sorted(circuits()))
        sim = Simulator(quick(circuits()[name]), usual(0.5))
        todo, s, did = operations(sim.circuit), sim.begin(), list[str]()
        for _ in range(draw.randint(3, 12)):
            events: list[Event] = []
            did.append(draw.choice(todo))
            s = sim.operate(s, did[-1], events)
            for pause in (draw.choice(PAUSES_S), 0.0):
                did.append(f"pause {pause}")
                s = sim.advance(s, pause, events)
                assert contradicted(sim, s, events) not in held(name), (name, did)
