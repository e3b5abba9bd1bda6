"""The wire list, the build plan against the simulation it was made from and against another, and causes found for planted mistakes."""

import json
import random
from collections import Counter
from functools import cache
from functools import partial as partial_
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from circuits import EVERYTHING, VARIANTS, WITH_CONTROL, made
from samples import design, iec, nec, single_phase
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.circuit.build.candidates import KINDS, Cause, covered
from volmek.core.circuit.build.causes import causes_of_check, causes_of_step, choices
from volmek.core.circuit.build.continuity import Dead
from volmek.core.circuit.build.glance import DeadGlance, Glance
from volmek.core.circuit.build.plan import Plan, build_plan, partial
from volmek.core.circuit.build.symptoms import symptoms
from volmek.core.circuit.build.trial import Run
from volmek.core.circuit.build.wiring import as_laid, crowded, wire_list
from volmek.core.circuit.faults.injection import damage
from volmek.core.circuit.kernel.dynamics import usual
from volmek.core.circuit.kernel.engine import Engine
from volmek.core.circuit.kernel.report import run_script
from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.model.netlist import Circuit
from volmek.core.circuit.simulated import SimulatedStarter, simulated
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import StarterDocument, parse
from volmek.core.record.items import commissioning
from volmek.core.record.journal import fold
from volmek.core.record.open_points import open_points
from volmek.data.loader import demo

DRIVE: dict[str, Any] = {
    "motor": {"rotor_inertia_kgm2": 0.05},
    "load": {"torque_pct": 60, "shape": "square", "inertia_kgm2": 1.0},
}


@cache
def document(scheme: str, **control: Any) -> StarterDocument:
    if scheme.startswith("single"):
        return parse(single_phase(starter={"type": scheme}, control=dict(control)))
    return parse(
        iec(
            starter={"type": scheme},
            control=dict(control),
            supply={"neutral": True},
            protection={"device": "moulded_case_breaker"},
            **DRIVE,
        )
    )


def demo_starter(tag: str) -> StarterDocument:
    """A starter of the demo boards by its tag."""
    boards = json.loads(demo("thornebeck.json"))["boards"]
    return parse(next(s for b in boards for s in b["starters"] if s["tag"] == tag))


@cache
def planned(scheme: str, order: Any = "control_first", monitor: bool = False) -> tuple[SimulatedStarter, Plan]:
    control = (
        {"phase_monitor": "three_wire"}
        if monitor
        else {"lamps": ["running", "stopped", "tripped"], "emergency_stop": True}
    )
    d = (
        demo_starter(scheme)
        if scheme.startswith("KG")
        else parse({**document(scheme).to_json(), "control": {"voltage_v": 230, **control}})
    )
    it = simulated(d, reference_catalogue())
    return it, build_plan(it, d, order)


def joined(circuit: Circuit) -> set[frozenset[str]]:
    """Terminals that are joined, strip terminals left out."""
    found: dict[int, set[str]] = {}
    for t, n in circuit.node_of.items():
        if not t.startswith("X1:") or t in ("X1:N", "X1:NF5"):
            found.setdefault(n, set()).add(t)
    return {frozenset(x) for x in found.values() if len(x) > 1}


@pytest.mark.parametrize("name", VARIANTS)
def test_the_wire_list_is_the_circuit_and_no_terminal_has_three_conductors(name: str) -> None:
    circuit = VARIANTS[name]
    items = wire_list(circuit, {}, parse({"tag": "A"}), None)
    assert joined(as_laid(circuit, items)) == joined(circuit)
    assert crowded(items) == [] and crowded([*items, *items]) != []
    assert len({i.key for i in items}) == len(items)
    for i in items:  # what leaves the panel goes through the strip or the bar of the protective conductors
        ends = {i.a.partition(":")[0], i.b.partition(":")[0]}
        if i.group == "field" and i.kind == "wire":
            assert (
                ends & {"X1", "PE"} or len({x[0] for x in ends}) == 1 or ends == {"M1", "B5"}
            )  # the switch is in the motor


@pytest.mark.parametrize("scheme", [*WITH_CONTROL, "KG-101"])
@pytest.mark.parametrize("order", ["control_first", "power_first"])
def test_built_wire_by_wire_each_stage_shows_what_the_plan_says(scheme: str, order: str) -> None:
    """The wires are laid one after the other, and the command's own way of simulating is asked what is seen."""
    it, plan = planned(scheme, order)
    laid = []
    for stage in plan.stages:
        for key in stage.wires:
            laid.append(next(i for i in plan.wires if i.key == key))
            assert crowded(laid) == []
        circuit = as_laid(it.circuit, laid)
        dead = Dead(circuit)
        assert [dead.reads(c.a, c.b, c.operations) for c in stage.checks] == [c.reads for c in stage.checks]
        done = [s for s in stage.steps if s.do]
        if not done:
            continue
        sim = Simulator(circuit, it.simulator.dynamics, monitor_set=it.simulator.monitor_set)
        entries: list[Any] = run_script(sim, "; ".join(s.do for s in done))
        for step, entry in zip(done, entries, strict=True):
            for name, lit in entry["lamps"].items():
                if name in step.state:
                    assert (step.state[name] == "lit") == lit, (stage.title, step.words, name)
            for name, on in entry["coils"].items():
                if name in step.state:
                    assert (step.state[name] in ("in", "on")) == on, (stage.title, step.words, name)
    assert sorted(i.key for i in laid) == sorted(i.key for i in plan.wires)
    assert joined(as_laid(it.circuit, laid)) == joined(it.circuit)


def test_the_star_delta_is_told_as_a_fitter_would_see_it() -> None:
    _, plan = planned("star_delta")
    stages = {s.title: s for s in plan.stages}
    assert list(stages) == [
        "Supply",
        "Time relay KT1",
        "Coil of K3",
        "Coil of K1",
        "Seal-in of K1",
        "Coil of K2",
        "Lamps",
        "Power circuit up to the strip",
        "Links of the motor out",
        "Motor",
    ]
    told = {(s.title, x.do): (x.sees, x.because) for s in plan.stages for x in reversed(s.steps)}
    # With the time relay in and no contactor on it only its own light changes; without the hold everything drops out.
    assert told["Time relay KT1", "press S2"] == (("KT1 is energised",), "")
    assert told["Coil of K1", "release S2"] == (
        ("K1 drops out", "K3 drops out", "KT1 is de-energised"), "because K1:13-14 and K1:53-54 are not wired yet",
    )  # fmt: skip
    assert told["Seal-in of K1", "release S2"] == (("nothing moves",), "")
    delta = next(x for x in stages["Motor"].steps if x.do.startswith("wait"))
    assert delta.sees == ("K2 pulls in", "K3 drops out", "the motor is in delta and turns forward")
    readings = {(c.a, c.b, c.operations): c.reads for c in stages["Coil of K1"].checks}
    assert readings["F3:2", "K1:A1", ("press S2", "push K3")] == "closed"
    assert readings["F3:2", "K1:A1", ("press S2", "push K3", "press S1")] == "open"
    assert readings["K1:A1", "K1:A2", ()] == "coil"
    power = {(c.a, c.b, c.operations): c.reads for c in stages["Power circuit up to the strip"].checks}
    assert power["K3:21", "K3:22", ("push K3",)] == "open" and power["Q1:2", "X1:V2", ("push K2",)] == "closed"
    assert all("solate" in s.cautions[0] for s in plan.stages)
    assert any("star and a delta" in c for c in stages["Motor"].cautions)


def test_sections_colours_and_sleeves() -> None:
    d = document("star_delta")
    it = simulated(d, reference_catalogue())
    items = {i.key: i for i in build_plan(it, d).wires}
    by_ends = {(i.a, i.b): i for i in items.values()}
    assert by_ends["Q1:2", "K1:1"].section and by_ends["X1:U1", "M1:U1"].section
    assert (by_ends["Q1:2", "K1:1"].colour, by_ends["Q1:4", "K1:3"].colour, by_ends["Q1:6", "K1:5"].colour) == (
        "brown",
        "black",
        "grey",
    )
    assert by_ends["K1:A2", "K2:A2"].sleeves == (
        "red, twin",
        "red",
    )  # two conductors of 1 mm² in one terminal, then one
    assert next(i for i in items.values() if i.b == "M1:PE").colour == "green-yellow"
    assert {i.group for i in items.values()} == {"power", "control", "door", "field"}
    n = parse(nec(starter={"type": "direct_on_line"}))
    assert {i.section for i in build_plan(simulated(n, reference_catalogue()), n).wires if i.side == "control"} == {
        "14 AWG"
    }


def test_supply_of_the_control_circuit_by_its_source() -> None:
    def ends(**control: Any) -> set[tuple[str, str]]:
        d = document("direct_on_line", **control)
        return {(i.a, i.b) for i in build_plan(simulated(d, reference_catalogue()), d).wires}

    earthed, floating = (
        ends(source="transformer", voltage_v=230, earthed=True),
        ends(source="transformer", voltage_v=230, earthed=False),
    )
    assert {("Q1:2", "F6:1"), ("T1:s1", "F3:1"), ("PE:4", "T1:s2")} <= earthed
    assert {("T1:s2", "F3:3"), ("F3:4", "K1:A2")} <= floating and not any(
        a.startswith("PE") and b == "T1:s2" for a, b in floating
    )
    monitored = ends(phase_monitor="three_wire", voltage_v=230)
    assert {("Q1:2", "F2:L1"), ("F2:L1", "F3:1"), ("supply:N", "X1:N")} <= monitored


MISTAKES: list[tuple[str, str, tuple[str, ...], str]] = [
    ("hold wire on the far side of start", "direct_on_line", ("remove K1:A1 K1:14", "add K1:14 S2:3"), "Wire 5 from K1:14 is connected to"),
    ("overload contact left out", "direct_on_line", ("remove F3:2 F1:95", "remove F1:96 S0:1", "add F3:2 S0:1"), "not in the coil circuit"),
    ("overload contact on the return side", "direct_on_line", ("remove F3:2 F1:95", "remove F1:96 S0:1", "add F3:2 S0:1", "remove X1:N K1:A2", "add K1:A2 F1:95", "add F1:96 X1:N"), "return side"),
    ("overload contacts exchanged", "direct_on_line", ("exchange F1:95-96",), "swapped at F1:95-96"),
    ("monitor contacts exchanged", "monitor", ("swap F2:14 F2:12",), "F2:14 and F2:12 are swapped"),
    ("stop exchanged", "direct_on_line", ("exchange S1:1-2",), "swapped at S1:1-2"),
    ("start exchanged", "direct_on_line", ("exchange S2:3-4",), "swapped at S2:3-4"),
    ("interlock missing", "star_delta", ("weld K2:21-22",), "interlock K2:21-22 is bridged"),
    ("one contact in two places", "star_delta", ("remove K1:64 P1:X1", "add P1:X1 K1:54"), "is connected to K1:54"),
    ("coil for another voltage", "star_delta", ("dead K3",), "coil of K3"),
    ("star bridge missing", "star_delta", ("remove K3:2 K3:4", "remove K3:4 K3:6"), "star bridge"),
    ("delta links mixed", "star_delta", ("swap K2:2 K2:4",), "K2:2 and K2:4 are swapped"),
    ("delta links rotated", "star_delta", ("swap K2:2 K2:4", "swap K2:6 K2:2"), "each one terminal along"),
    ("phases exchanged at the line contactor", "star_delta", ("swap K1:1 K1:3",), "K1:1 and K1:3 are swapped"),
    ("relay of a single phase not looped", "single_phase_direct", ("remove F1:2 K1:3", "remove K1:4 F1:3", "remove F1:4 C1:1", "add F1:2 C1:1"), "not looped"),
    ("run capacitor before the contactor", "single_phase_direct", ("remove F1:4 C1:1", "add C1:1 Q1:2"), "run capacitor"),
    ("live and return exchanged", "direct_on_line", ("swap F3:2 X1:N",), "Live and return"),
    ("monitor fed behind the contactor", "monitor", ("behind F2",), "from the load side of the contactor"),
]  # fmt: skip


def words_of(causes: list[Cause]) -> list[str]:
    return [words for c in causes for words in (c.what, *c.alike)]


def found_causes(it: SimulatedStarter, plan: Plan, faults: tuple[str, ...]) -> list[str]:
    """Follow the plan on a wiring with a mistake until something else is read or seen, and ask for the causes."""
    for stage in plan.stages:
        sound = partial(it.simulator, plan.wires, stage.number)
        try:
            d = damage(sound.circuit, list(faults))
        except ProblemError:
            continue  # the wires that it is about are not laid yet
        dead = Dead(d.circuit, d.stuck)
        for n, check in enumerate(stage.checks):
            reads = dead.reads(check.a, check.b, check.operations)
            if reads != check.reads:
                return words_of(causes_of_check(plan, it.simulator, stage, n, reads))
        run = Run(Simulator(d.circuit, usual(0.1), d.engine(), monitor_set=sound.monitor_set))
        for n, step in enumerate(stage.steps):
            run.step(step.do)
            seen = {
                k: run.done[-1].state.get(k, "out")
                for k, v in step.state.items()
                if run.done[-1].state.get(k, "out") != v
            }
            if seen:
                return words_of(causes_of_step(plan, it.simulator, stage, n, seen))
    return []


@pytest.mark.parametrize(("which", "faults", "words"), [pytest.param(w, f, s, id=n) for n, w, f, s in MISTAKES])
def test_a_planted_mistake_is_among_the_causes(which: str, faults: tuple[str, ...], words: str) -> None:
    it, plan = planned("direct_on_line", monitor=True) if which == "monitor" else planned(which)
    found = found_causes(it, plan, faults)
    assert any(words in what for what in found), found
    assert found_causes(it, plan, ()) == []


@pytest.mark.parametrize("scheme", ["direct_on_line", "star_delta", "reversing"])
def test_two_conductors_exchanged_anywhere_are_found(scheme: str) -> None:
    """Of crossings drawn at random over the control circuit, every one that shows at all is named."""
    it, plan = planned(scheme)
    draw, tried = random.Random(4), 0
    laid = as_laid(it.circuit, plan.wires)
    ends = [
        (w, t, u)
        for w in laid.wires
        if w.side == "control"
        for t, u in ((w.a, w.b), (w.b, w.a))
        if "supply" not in t + u
    ]
    while tried < 12:
        (v, t, t_other), (w, u, u_other) = draw.sample(ends, 2)
        if v is w or laid.node_of[t] == laid.node_of[u] or t_other == u or u_other == t:
            continue
        crossed = (f"remove {v.a} {v.b}", f"remove {w.a} {w.b}", f"add {t_other} {u}", f"add {u_other} {t}")
        found = found_causes(it, plan, crossed)
        tried += 1
        assert any(t in words and u in words for words in found) or (found == [] and not shows(it, plan, crossed)), (
            crossed
        )


def shows(it: SimulatedStarter, plan: Plan, faults: tuple[str, ...]) -> bool:
    """Something in the plan is read or seen otherwise; crossings that another wire makes good show nowhere."""
    last = plan.stages[-1]
    d = damage(partial(it.simulator, plan.wires, last.number).circuit, list(faults))
    dead = Dead(d.circuit, d.stuck)
    sim = Simulator(d.circuit, usual(0.1), d.engine(), monitor_set=it.simulator.monitor_set)
    for stage in plan.stages:
        if any(dead.reads(c.a, c.b, c.operations) != c.reads for c in stage.checks if stage is last):
            return True
    run = Run(sim)
    for step in last.steps:
        run.step(step.do)
        if any(run.done[-1].state.get(k, "out") != v for k, v in step.state.items()):
            return True
    return False


@pytest.mark.parametrize(
    ("scheme", "names"), [("direct_on_line", ("P1", "P2")), ("star_delta", ("K2", "K3")), ("reversing", ("P1", "P2"))]
)
def test_lamps_and_coils_exchanged_and_the_wrong_contact_are_found(scheme: str, names: tuple[str, str]) -> None:
    it, plan = planned(scheme)
    a, b = (next(x.terminals[0] for x in it.circuit.loads if x.device == n) for n in names)
    found = found_causes(it, plan, (f"swap {a} {b}",))
    both = (
        f"{names[0]} and {names[1]} are exchanged" if scheme != "star_delta" else f"is connected to {a} instead of {b}"
    )
    assert any(both in words for words in found), found
    if scheme == "star_delta":
        contact = found_causes(it, plan, ("swap K2:21 K1:21", "swap K2:22 K1:22"))
        assert any("the contact of the wrong device" in words for words in contact)


def test_a_finished_panel_is_searched_everywhere_and_by_what_happens_often() -> None:
    it, plan = planned("direct_on_line")
    stage = plan.stages[-1]
    seen = next(s for s in symptoms(plan) if s.words == "P1 and P2 are the wrong way round")
    asked = partial_(causes_of_step, plan, it.simulator, stage, seen.step, seen.seen, measured=False)
    assert "P1 and P2 are exchanged" in " ".join(words_of(asked(everywhere=True)))
    assert "P1 and P2 are exchanged" not in " ".join(words_of(asked()))
    ranked = [list(KINDS).index(c.kind) for c in asked(everywhere=True)]
    assert ranked == sorted(ranked)
    assert len(covered(everywhere=False)) == len(KINDS) + 1 and covered(everywhere=True) == list(KINDS.values())


def test_the_quick_look_refuses_nothing_that_the_simulation_finds(monkeypatch: pytest.MonkeyPatch) -> None:
    it, plan = planned("direct_on_line")
    asked = []
    for stage in plan.stages:
        for n, step in enumerate(stage.steps[:6]):
            for k, v in list(step.state.items())[:4]:
                for other in choices(v)[:3]:
                    if other != v:
                        asked.append(partial_(causes_of_step, plan, it.simulator, stage, n, {k: other}))
        for n, check in enumerate(stage.checks[:4]):
            asked.append(
                partial_(causes_of_check, plan, it.simulator, stage, n, "open" if check.reads != "open" else "coil")
            )
    draw = random.Random(5).sample(asked, 14)
    quick = [ask() for ask in draw]
    monkeypatch.setattr(Glance, "allows", lambda *_: True)
    monkeypatch.setattr(DeadGlance, "allows", lambda *_: True)
    assert quick == [ask() for ask in draw] and sum(map(len, quick)) > 4


@given(st.data())
def test_what_is_live_is_the_same_by_flooding_and_by_every_way(data: st.DataObject) -> None:
    """The simulation floods from both sides; stages and proofs list every way. Both must say the same."""
    engine = engine_of(data.draw(st.sampled_from(sorted(VARIANTS))))
    mask = data.draw(st.integers(0, (1 << len(engine.contacts)) - 1) | st.sampled_from(engine.short_paths or [0]))
    short = any(mask & m == m for m in engine.short_paths)
    ways = {
        x.device for x in (*engine.loads, *engine.shown) if not short and any(mask & m == m for m in engine.paths[x])
    }
    assert engine.control_short(mask) == short
    assert engine.live_loads(mask) | engine.shown_live(mask) == ways


@cache
def engine_of(name: str) -> Engine:
    return Engine(VARIANTS[name])


def test_an_observation_that_cannot_be_is_refused() -> None:
    it, plan = planned("direct_on_line")
    stage = plan.stages[1]
    for seen, words in (({"K9": "in"}, "this step shows"), ({"K1": "lit"}, "lit is not one of in, out, chatters")):
        with pytest.raises(ProblemError, match=words):
            causes_of_step(plan, it.simulator, stage, 1, seen)
    with pytest.raises(ProblemError, match="purple is not one of closed, coil, open"):
        causes_of_check(plan, it.simulator, stage, 0, "purple")


def test_remote_stations_have_strip_terminals_of_their_own() -> None:
    items = wire_list(
        made("star_delta", start_stations=3, stop_stations=3, **EVERYTHING), {}, parse({"tag": "A"}), None
    )
    ends = Counter(t for i in items if i.kind == "wire" for t in (i.a, i.b) if t.startswith("X1:"))
    assert max(ends.values()) <= 2
    assert any(i.kind == "bridge" and i.a.startswith("X1:") for i in items)


@pytest.mark.parametrize("tag", ["KG-101", "KG-103", "KG-104", "KG-107", "KG-140", "KG-151", "PL-201"])
def test_the_demo_starters_are_planned_whole(tag: str) -> None:
    d = demo_starter(tag)
    plan = build_plan(simulated(d, reference_catalogue()), d)
    assert crowded(plan.wires) == [] and all(w.stage <= len(plan.stages) for w in plan.wires)
    assert all(s.wires for s in plan.stages if s.kind not in ("rest", "links")), "every stage lays something"
    for s in plan.stages:
        assert s.cautions and s.why and len({(c.a, c.b, c.held) for c in s.checks}) == len(s.checks)
        for step in s.steps:
            assert step.words and step.sees and set(step.state.values()) != {"chatters"}
    last = [x for s in plan.stages[-1:] for step in s.steps for x in step.sees]
    assert any("turns" in x for x in last), "the motor is seen to turn"
    assert not any("safe" in t.split() for s in plan.stages for t in (s.why, *s.cautions))


def test_keys_and_checks_stay_when_a_lamp_is_added() -> None:
    """What is ticked stays ticked: names go by terminals, not by wire numbers."""

    def keys(**control: Any) -> tuple[set[str], set[tuple[str, str, str]]]:
        d = parse(iec(starter={"type": "direct_on_line"}, control={"voltage_v": 230, **control}))
        plan = build_plan(simulated(d, reference_catalogue()), d)
        return {w.key for w in plan.wires}, {(c.a, c.b, c.held) for s in plan.stages[:3] for c in s.checks}

    (before, checks), (after, later) = keys(), keys(lamps=["running"])
    assert before <= after and checks <= later and len(after - before) == 3


def test_a_stage_that_would_chatter_is_not_tried_without_its_hold() -> None:
    _, plan = planned("star_delta_closed")
    stage = next(s for s in plan.stages if s.title == "Coil of K2")
    assert stage.steps == () and "without its seal-in contact" in stage.why and stage.checks


def test_a_contactor_that_drops_out_before_it_is_in_chatters_and_ends_the_wait() -> None:
    d = damage(made("rotor_resistance"), ["weld KT1:15-18"])  # K2 opens the start condition of K1 while both go in
    run = Run(Simulator(d.circuit, usual(2.0), d.engine()))
    rested_s = run.state.time_s
    run.step("press S2")
    assert run.done[-1].state["K1"] == "chatters" and run.state.time_s - rested_s < 1


def test_capacitors_and_the_heater_bring_their_cautions() -> None:
    _, pump = planned("single_phase_direct")
    assert any("Discharge the capacitors" in c for c in pump.stages[-1].cautions)
    d = document("direct_on_line", heater=True, voltage_v=230)
    heater = next(s for s in build_plan(simulated(d, reference_catalogue()), d).stages if s.kind == "heater")
    assert any("live when Q1 is off" in c for c in heater.cautions)
    assert any("E1 goes off" in x for s in heater.steps for x in s.sees), "it goes off while the motor runs"


def test_what_hangs_on_another_supply_is_orange_and_both_sides_are_in_the_list() -> None:
    items = wire_list(made("direct_on_line", heater=True), {}, parse({"tag": "A"}), None)
    foreign = [i for i in items if i.colour == "orange"]
    assert {"LF5"} <= {i.number for i in foreign} and all(i.side == "control" for i in foreign)
    assert any("E1:X1" in (i.a, i.b) for i in foreign) and not any("K1:A1" in (i.a, i.b) for i in foreign)


def test_readings_dead_by_hand() -> None:
    dead = Dead(made("star_delta", lamps=["running"]))
    assert dead.reads("K2:21", "K2:22") == "closed" and dead.reads("K2:21", "K2:22", ("push K2",)) != "closed"
    assert dead.reads("M1:U1", "M1:U2") == "coil" and dead.reads("Q1:2", "Q1:4") == "open"
    assert dead.reads("Q1:2", "F1:1", ("push K1",)) == "closed" and dead.reads("nowhere", "K1:A1") == "open"


OPTIONS = st.fixed_dictionaries(
    {"voltage_v": st.just(230)},
    optional={
        "lamps": st.lists(st.sampled_from(["running", "stopped", "tripped"]), unique=True), "emergency_stop": st.booleans(),
        "start_stations": st.integers(1, 3), "stop_stations": st.integers(1, 3), "heater": st.booleans(), "buzzer": st.booleans(),
        "phase_monitor": st.sampled_from(["none", "three_wire", "four_wire"]), "source": st.sampled_from(["common", "transformer", "separate"]),
        "earthed": st.booleans(), "controller_signal": st.booleans(),
    },
)  # fmt: skip


@settings(max_examples=40)
@given(
    st.sampled_from([s for s in WITH_CONTROL if not s.startswith("single")]),
    OPTIONS,
    st.sampled_from(["control_first", "power_first"]),
)
def test_any_options_give_a_plan_that_can_be_built(scheme: str, options: dict[str, Any], order: Any) -> None:
    """Every conductor is laid once, in a stage that has it; the part wired so far hangs together; the end is the circuit."""
    try:
        d = parse(iec(starter={"type": scheme}, control=options, **DRIVE))
        it = simulated(d, reference_catalogue())
    except ProblemError:
        return  # options that contradict each other
    plan = build_plan(it, d, order)
    assert crowded(plan.wires) == []
    laid = [k for s in plan.stages for k in s.wires]
    assert sorted(laid) == sorted(w.key for w in plan.wires) and len(set(laid)) == len(laid)
    assert joined(as_laid(it.circuit, plan.wires)) == joined(it.circuit)
    for s in plan.stages:
        sound = partial(it.simulator, plan.wires, s.number)
        coils = {x.device for x in sound.engine.loads if sound.engine.paths[x]}
        seen = {k for step in s.steps for k, v in step.state.items() if v == "in"}
        assert seen <= coils, "nothing pulls in that has no way"
        tried = [c for c in s.checks if c.reads not in ("open", "closed", "coil")]
        assert tried == []
    # In the end a press of start brings the first contactor in, whatever the options are.
    end = [step for s in plan.stages if s.kind == "motor" for step in s.steps]
    first = it.circuit.feeders[0]
    assert any(step.state.get(first) == "in" for step in end)


@pytest.mark.parametrize("scheme", ["direct_on_line", "star_delta", "soft_starter"])
def test_every_other_observation_is_offered_and_its_causes_give_just_that(scheme: str) -> None:
    """Each named cause, put into the wiring by another hand, shows what was seen and nothing else."""
    it, plan = planned(scheme)
    stage = next(s for s in plan.stages if s.kind == "hold" and s.steps)
    index = next(n for n, s in enumerate(stage.steps) if any("pulls in" in x for x in s.sees))
    expected = stage.steps[index].state
    name = next(k for k, v in expected.items() if v == "in")
    assert choices(expected[name]) == ("in", "out", "chatters")
    found = causes_of_step(plan, it.simulator, stage, index, {name: "out"})
    assert found and all(c.what and c.mend and c.faults for c in found)
    assert [c.fresh for c in found] == sorted((c.fresh for c in found), reverse=True), "this stage's own wires first"
    sound = partial(it.simulator, plan.wires, stage.number)
    for cause in found[:12]:
        d = damage(sound.circuit, list(cause.faults))
        run = Run(Simulator(d.circuit, usual(0.1), d.engine(), monitor_set=sound.monitor_set))
        for step in stage.steps[: index + 1]:
            run.step(step.do)
        shown = run.done[-1].state
        assert shown.get(name, "out") == "out", cause.what
        assert {k: v for k, v in expected.items() if k != name and shown.get(k, v) != v} == {}, cause.what


def test_links_come_out_before_six_leads_go_on_and_nothing_is_laid_unasked() -> None:
    plan = planned("star_delta")[1]
    links = next(s for s in plan.stages if s.kind == "links")
    assert plan.stages[links.number].kind == "motor" and links.checks and {c.reads for c in links.checks} == {"open"}
    assert {("M1:U1", "M1:W2"), ("M1:U2", "M1:V2")} <= {(c.a, c.b) for c in links.checks}
    nine = parse(nec(motor={"leads": 9}, control={"voltage_v": 120, "source": "transformer", "earthed": True}))
    asked = build_plan(simulated(nine, reference_catalogue()), nine)
    assert asked.stages[-1].kind == "ask" and "diagram" in asked.stages[-1].why
    assert not [w for w in asked.wires if "M1:U1" in w.key and w.kind == "wire"]
    three = parse(nec(motor={"leads": 3}, control={"voltage_v": 120, "source": "transformer", "earthed": True}))
    laid = build_plan(simulated(three, reference_catalogue()), three)
    assert laid.stages[-1].kind == "motor" and not [w for w in laid.wires if w.section == "link"]
    assert "star" not in " ".join(laid.stages[-1].steps[1].sees)


def test_the_plan_waits_for_the_monitor_and_expects_what_the_finished_circuit_does() -> None:
    slow = {"phase_monitor": "three_wire", "voltage_v": 230}
    d = parse(
        iec(
            control=slow,
            supply={"neutral": True},
            protection={"device": "moulded_case_breaker"},
            monitor={"loss_delay_s": 3},
            **DRIVE,
        )
    )
    plan = build_plan(simulated(d, reference_catalogue()), d)
    step = next(s for s in plan.stages[-1].steps if s.do == "lose L3")
    assert "K1 drops out" in step.sees


def test_papers_count_what_is_left() -> None:
    d = document("direct_on_line", voltage_v=230)
    it = simulated(d, reference_catalogue())
    plan = build_plan(it, d)
    items = {i.id: i for i in commissioning(d, design(d, reference_catalogue()), it)}
    words = [p.text for p in open_points(fold([]), items, plan, whole=True)]
    assert len(words) == 5 and words[0] == f"{len(plan.wires)} of {len(plan.wires)} wires are not connected yet"
    assert open_points(fold([]), items, plan) == []
