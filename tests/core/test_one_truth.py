"""One truth: every projection of a random starter names the same facts with the same values.

A projection joins by one extractor, which gives facts as (subject, fact) -> value; all that name the same fact are compared.
"""

import re
from collections import defaultdict
from collections.abc import Callable, Hashable
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import cache, cached_property
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from soak import EXAMPLES, NO_SHRINKING, WHOLE
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.circuit.build.plan import Plan, build_plan, partial
from volmek.core.circuit.build.wiring import WireItem, wire_list
from volmek.core.circuit.drawing.control import draw_control
from volmek.core.circuit.drawing.pen import CircuitDrawing
from volmek.core.circuit.drawing.power import draw_power
from volmek.core.circuit.faults.failures import failures
from volmek.core.circuit.kernel.operator import Operator, lamp_table, quick
from volmek.core.circuit.kernel.report import as_json
from volmek.core.circuit.kernel.voltages import rail_terminals, readings
from volmek.core.circuit.model.colours import school_of
from volmek.core.circuit.schemes import lay_out
from volmek.core.circuit.simulated import SimulatedStarter, simulated_of
from volmek.core.devices.settings import settings_of
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import StarterDocument, parse
from volmek.core.fitting import fitted_of
from volmek.core.methods import METHODS
from volmek.core.record.items import commissioning
from volmek.core.sizing import Sized, size
from volmek.core.views.circuit import circuit_view
from volmek.files.report import labels_html
from volmek.files.sheet import Place

Facts = dict[tuple[str, str], Hashable]
CATALOGUE = reference_catalogue()
#: Letters of designations that are devices of the design.
LETTERS = re.compile(r"(KT|K|F|S|P|B|T|C|H|E|G)\d")


@dataclass(frozen=True)
class Case:
    """One starter, with what the projections are made from."""

    document: StarterDocument
    sized: Sized

    @cached_property
    def it(self) -> SimulatedStarter:
        return simulated_of(self.document, CATALOGUE, self.sized)

    @cached_property
    def wires(self) -> list[WireItem]:
        return wire_list(self.it.circuit, {}, self.document, self.sized.design)

    @cached_property
    def breaks(self) -> dict[str, str]:
        """A few broken wires of the failure table, with what each does."""
        return {f.fault: f.effect for f in [x for x in failures(self.it.circuit) if x.fault.startswith("break")][:6]}

    @cached_property
    def plan(self) -> Plan:
        return build_plan(self.it, self.document)


def designations(names: Any) -> frozenset[str]:
    return frozenset(n for n in names if LETTERS.match(n) and not n.startswith("W"))


# Projections


def design_facts(c: Case) -> Facts:
    d = c.sized.design.to_json()
    found: Facts = {
        ("starter", "devices"): designations(x["designation"] for x in d["devices"]),
        ("control", "feeds"): tuple(d["control"]["feeds"]),
        ("control", "rails"): tuple(d["control"]["rails"]),
        ("control", "live with Q1 off"): d["control"]["live_with_main_off"],
        ("supply", "taken"): tuple(d["supply"]["taken"]),
        ("motor", "connection"): d["connection"],
    }
    for x in d["devices"]:
        if x["designation"] == "F3" and x["required"].get("poles"):
            found[("F3", "poles")] = int(x["required"]["poles"])
        for name in ("time_s", "star_time_s"):
            if name in x["settings"]:
                found[(x["designation"], "time")] = round(x["settings"][name], 6)
        if x["kind"] == "phase_monitor":
            for name in (
                "undervoltage_pct",
                "overvoltage_pct",
                "loss_delay_s",
                "voltage_delay_s",
                "on_delay_s",
                "sequence",
            ):
                if x["settings"].get(name) is not None:
                    found[("F2", name)] = x["settings"][name]
        for setting in settings_of(next(y for y in c.sized.design.devices if y.designation == x["designation"])):
            found[(x["designation"], f"set {setting.label}")] = setting.text
    return found


def netlist_facts(c: Case) -> Facts:
    data: Any = as_json(c.it.circuit)
    circuit = c.it.circuit
    found: Facts = {
        ("starter", "devices"): designations(
            x["designation"] for x in data["devices"] if x["kind"] not in ("motor", "strip", "resistor")
        ),
        ("control", "lines that feed"): tuple(data["control_phases"]),
        ("F3", "poles"): sum(x.device == "F3" and x.side == "feed" for x in circuit.contacts),
        ("motor", "links laid"): any({w.a[:3], w.b[:3]} == {"M1:"} for w in circuit.wires),
    }
    for x in data["devices"]:
        if x.get("time_s") and x["kind"] in ("timer", "star_delta_timer"):
            found[(x["designation"], "time")] = round(x["time_s"], 6)
    for node in data["nodes"]:
        for t in node["terminals"]:
            found[(t, "wire")] = node["wire"]
    for fed in ("L", "0"):
        found[("rail", f"terminal {fed}")] = circuit.sources[fed]
    return found


def drawing_facts(c: Case) -> Facts:
    circuit, found = c.it.circuit, {}
    control, power = (draw(circuit, "columns", school_of(c.document)) for draw in (draw_control, draw_power))
    drawn = {m.shape.text for m in control.marks if m.shape.kind == "text"}
    rails = circuit.source.rails
    found[("control", "rails")] = tuple(r.name for r in rails if r.name in drawn)
    found[("F3", "poles")] = len({m.part for m in control.marks if m.part.startswith("contact:F3:")})
    found[("control", "live with Q1 off")] = any("live with Q1 off" in w for w in drawn)
    for part, drawing in (("control", control), ("power", power)):
        _wires_drawn(drawing, found, circuit.number_of, part)
    found[("motor", "levers")] = any(m.part == "interlock" for m in power.marks)
    return found


def _wires_drawn(drawing: CircuitDrawing, found: dict[Any, Any], numbers: dict[str, str], part: str) -> None:
    for m in drawing.marks:
        if m.at and m.part.startswith("wire:") and numbers.get(m.at):
            found[(m.at, "wire")] = m.part.removeprefix("wire:")
            if m.conductor:
                found[(m.at, f"colour, {part}")] = m.conductor


def wire_facts(c: Case) -> Facts:
    found: Facts = {("motor", "links laid"): any(w.section == "link" for w in c.wires)}
    for w in c.wires:
        for t in (w.a, w.b):
            if not t.startswith(("X1:", "PE", "supply:", "door:")) and w.number != "PE" and w.kind != "incoming":
                found[(t, "wire")] = w.number
                found[(t, f"colour, {w.side}")] = w.colour
    return found


def simulation_facts(c: Case) -> Facts:
    sim = c.it.simulator
    rest = sim.begin()
    off = sim.operate(rest, "open Q1")
    found: Facts = {
        ("control", "live with Q1 off"): sim.supplied(off),
        ("motor", "levers"): bool(sim.circuit.mechanical),
    }
    if sim.monitor is not None:
        m = sim.monitor_set
        for name in (
            "undervoltage_pct",
            "overvoltage_pct",
            "loss_delay_s",
            "voltage_delay_s",
            "on_delay_s",
            "sequence",
        ):
            found[("F2", name)] = getattr(m, name)
    lost = [x for x in sim.circuit.conductors if not sim.supplied(sim.operate(rest, f"lose {x}"))]
    found[("control", "dies with")] = frozenset(lost)
    return found


def reading_facts(c: Case) -> Facts:
    sim = c.it.simulator
    terminals = rail_terminals(sim.circuit)
    found: Facts = {}
    for t, rail, reading in zip(
        terminals, sim.circuit.source.rails, readings(sim, sim.begin(), terminals).values(), strict=False
    ):
        found[(t, "may be live")] = reading.live
        found[("rail", f"terminal {'L' if rail is sim.circuit.source.rails[0] else '0'}")] = t
    return found


def source_facts(c: Case) -> Facts:
    s = c.it.circuit.source
    found: Facts = {
        ("control", "dies with"): frozenset(s.lost_with),
        ("F3", "poles"): s.breaker_poles,
        ("control", "feeds"): s.feeds,
    }
    for t, rail in zip(rail_terminals(c.it.circuit), s.rails, strict=False):
        known = rail.live if rail.role != "neutral" else c.it.circuit.supply.earthed is False
        found[(t, "may be live")] = known or rail is s.rails[0]
        found[(t, "wire")] = rail.number
    return found


def page_facts(c: Case) -> Facts:
    sheet = circuit_view(c.document, CATALOGUE)
    found: Facts = {("control", "lines that feed"): tuple(sheet.control_phases)}
    for w in sheet.wires:
        found[(w.a, "wire")] = found[(w.b, "wire")] = w.number
    for lamp in sheet.lamps:
        for state, lit in lamp.lit.items():
            found[(lamp.designation, f"lit {state}")] = lit
    return found


def lamp_facts(c: Case) -> Facts:
    return {(lamp, f"lit {state}"): lit for state, row in lamp_table(c.it.circuit).items() for lamp, lit in row.items()}


def record_facts(c: Case) -> Facts:
    items = {i.id: i for i in commissioning(c.document, c.sized.design, c.it)}
    found: Facts = {}
    for d in c.sized.design.devices:
        for s in settings_of(d):
            item = items.get(f"setting.{d.designation}.{s.key}.left")
            if item:
                found[(d.designation, f"set {s.label}")] = item.expected.removesuffix(f" {item.unit}").strip()
    for id, item in items.items():
        if id.startswith("lamps."):
            lit = (
                frozenset(re.findall(r"[PHE]\d", item.expected.partition(" lit")[0]))
                if " lit" in item.expected
                else frozenset()
            )
            for lamp in re.findall(r"[PHE]\d", item.expected):
                found[(lamp, f"lit {id.partition('.')[2]}")] = lamp in lit
    return found


def label_facts(c: Case) -> Facts:
    place = Place("job", "board", 1, datetime(2026, 1, 2, tzinfo=UTC))
    html = labels_html(c.document, c.sized.design, place, restart=c.it.circuit.restart, open_points=0)
    found: Facts = {("starter", "devices"): designations(re.findall(r'<div class="label"><b>([A-Z]+\d+)</b>', html))}
    found[("control", "live with Q1 off")] = "live with Q1 off" in html
    return found


def plan_facts(c: Case) -> Facts:
    found: Facts = {("motor", "links laid"): any(w.section == "link" for w in c.plan.wires)}
    last = c.plan.stages[-1]
    for n, step in enumerate(last.steps):
        found[("last stage", f"step {n}")] = (
            step.do,
            frozenset((k, v) for k, v in step.state.items() if k[0] in "KPHQF" and ":" not in k),
        )
    return found


def finished_facts(c: Case) -> Facts:
    """The steps of the last stage, on the finished circuit."""
    from volmek.core.circuit.build.trial import Run

    last = c.plan.stages[-1]
    if not last.steps or last.kind == "ask":
        return {}
    run = Run(partial(c.it.simulator, c.plan.wires, 99))
    found: Facts = {}
    for n, step in enumerate(last.steps):
        run.step(step.do)
        found[("last stage", f"step {n}")] = (
            step.do,
            frozenset((k, v) for k, v in run.done[-1].state.items() if k[0] in "KPHQF" and ":" not in k),
        )
    return found


def failure_facts(c: Case) -> Facts:
    return {
        ("fault", fault): "does not start" in re.split("; |[.]", effect.lower()) for fault, effect in c.breaks.items()
    }


def injection_facts(c: Case) -> Facts:
    """The same faults put in and operated."""
    from volmek.core.circuit.faults.injection import damage

    sound = Operator(quick(c.it.circuit))
    starts = sound.running(sound.started(sound.sim.begin()))
    found: Facts = {}
    for fault in c.breaks:
        d = damage(quick(c.it.circuit), [fault])
        o = Operator(d.circuit, engine=d.engine())
        ready = o.ready(o.sim.begin())
        pressed = o.press(ready, o.start)
        ended = o.wait(o.do(pressed, f"release {o.start}", 0.1) if o.start else pressed, 2.2)
        found[("fault", fault)] = starts and not o.running(ended) and not o.running(pressed)
    return found


QUICK: dict[str, Callable[[Case], Facts]] = {
    "design": design_facts, "netlist": netlist_facts, "drawing": drawing_facts, "wires": wire_facts, "simulation": simulation_facts,
    "readings": reading_facts, "source": source_facts,
}  # fmt: skip
SLOW: dict[str, Callable[[Case], Facts]] = {
    "page": page_facts, "lamps": lamp_facts, "record": record_facts, "plan": plan_facts, "finished": finished_facts, "failures": failure_facts,
    "injection": injection_facts, "labels": label_facts,
}  # fmt: skip


def disagreements(facts: dict[str, Facts]) -> list[str]:
    """Facts that two projections name with different values."""
    said: dict[tuple[str, str], dict[Hashable, list[str]]] = defaultdict(lambda: defaultdict(list))
    for projection, found in facts.items():
        for key, value in found.items():
            said[key][value].append(projection)
    return [f"{key}: {dict(values)}" for key, values in said.items() if len(values) > 1]


# Random starters


def some(**fields: st.SearchStrategy[Any]) -> st.SearchStrategy[dict[str, Any]]:
    return st.fixed_dictionaries({}, optional=fields)


@st.composite
def starters(draw: st.DrawFn) -> dict[str, Any]:
    """A starter of any method, supply, control source and options, whose plate suffices."""
    method = draw(st.sampled_from([m for m in METHODS if m != "manual"]))
    single = method.startswith("single")
    system = draw(st.sampled_from([None, "tn", "tt", "it"]))
    supply: dict[str, Any] = {"frequency_hz": 50, "prospective_current_ka": 6, **({"system": system} if system else {})}
    lengths, sections = st.sampled_from([10, 60, 250]), st.sampled_from([2.5, 6])
    supply |= draw(some(cable_length_m=lengths, cable_section_mm2=sections, cable_parallel=st.just(2)))
    if single:
        supply |= draw(
            st.sampled_from(
                [
                    {"line_voltage_v": 230},
                    {"line_voltage_v": 400, "neutral": True},
                    {"line_voltage_v": 230, "conductors": "two_lines"},
                ]
            )
        )
        kinds = ["split_phase", "capacitor_start", "capacitor_run", "capacitor_start_run"]
        motor: dict[str, Any] = {
            "phases": 1,
            "rated_power_kw": 1.1,
            "rated_voltage_v": 230,
            "rated_current_a": 7.2,
            "frequency_hz": 50,
        }
        motor |= draw(some(single_phase_kind=st.sampled_from(kinds)))
    else:
        supply |= {"line_voltage_v": 400, **draw(some(neutral=st.booleans()))}
        motor = {
            "rated_power_kw": 7.5,
            "frequency_hz": 50,
            "rated_speed_rpm": 1465,
            "power_factor": 0.83,
            "efficiency_pct": 90.4,
        }
        motor |= {"rated_voltage_delta_v": 400, "rated_current_delta_a": 14.4}
        if method == "direct_on_line" and draw(st.booleans()):
            motor = {
                **{k: v for k, v in motor.items() if "delta" not in k},
                "rated_voltage_v": 400,
                "rated_current_a": 14.4,
                "leads": 3,
            }
        if method == "rotor_resistance":
            motor |= {"rotor_voltage_v": 310, "rotor_current_a": 16}
        if method == "two_speed":
            motor |= {
                "low_speed_current_a": 9.0,
                "low_speed_rpm": 970,
                "low_speed_power_kw": 4.0,
                "speed_winding": draw(st.sampled_from(["separate", "tapped"])),
            }
    sources: list[dict[str, Any]] = [
        {"voltage_v": 230}, {"voltage_v": 230, "source": "transformer", "earthed": True}, {"voltage_v": 230, "source": "transformer", "earthed": False},
        {"voltage_v": 110, "source": "transformer", "earthed": True, "earthed_point": "centre"},
        {"voltage_v": 24}, {"voltage_v": 24, "kind": "dc"}, {"voltage_v": 24, "kind": "dc", "source": "separate", "earthed": True},
        {"voltage_v": 230, "source": "separate"}, {"voltage_v": 400}, {"voltage_v": 230, "tap": "before_main"}, {"voltage_v": 230, "control_phase": "L2"},
    ]  # fmt: skip
    control = draw(st.sampled_from(sources)) | draw(
        some(
            phase_monitor=st.sampled_from(["none", "three_wire", "four_wire"]), emergency_stop=st.booleans(), buzzer=st.booleans(), heater=st.booleans(),
            lamps=st.sampled_from([["running"], ["running", "stopped", "tripped"]]), star_delta_relay=st.booleans(), controller_signal=st.booleans(),
            overload_contact=st.sampled_from(["line_side", "return_side"]), scheme=st.sampled_from(["three_wire", "three_wire", "two_wire"]),
            mechanical_interlock=st.booleans(), start_stations=st.sampled_from([1, 2]), wire_colours=st.sampled_from(["iec", "red_yellow_blue"]),
            standby=st.just(True), start_capacitor_switch=st.sampled_from(["button", "centrifugal", "relay", "potential_relay", "timer"]),
        )
    )  # fmt: skip
    devices = ["motor_breaker", "fuse_gg", "moulded_case_breaker", "magnetic_breaker"]
    monitor = some(
        undervoltage_pct=st.sampled_from([75, 85]),
        overvoltage_pct=st.sampled_from([105, 115]),
        loss_delay_s=st.sampled_from([0.1, 3]),
    )
    return {
        "tag": "x", "motor": motor, "supply": supply, "control": control, "load": {"start_time_s": 2}, "monitor": draw(monitor),
        "starter": {"type": method, **draw(some(star_sequence=st.sampled_from(["together", "star_first"])))},
        "protection": draw(some(device=st.sampled_from(devices), overload=st.sampled_from(["relay", "none"]))),
    }  # fmt: skip


def case(data: dict[str, Any]) -> Case | None:
    """A starter that can be sized and built; None where it is refused in words."""
    try:
        document = parse(data)
        sized = size(document, CATALOGUE)
    except ProblemError:
        return None
    return Case(document, sized) if sized.circuit is not None else None


def changed_by_typing_the_cable(c: Case) -> list[str]:
    """Differences between a design with a proposed motor cable and the same with this cable typed."""
    cable = c.sized.context.cable
    if cable is None or cable.typed:
        return []
    typed = {"cable_section_mm2": cable.section_mm2, "cable_parallel": cable.parallel}
    supply = c.document.supply.model_copy(update=typed)
    other, one = size(c.document.model_copy(update={"supply": supply}), CATALOGUE).design, c.sized.design
    facts = [
        {
            **{(d.designation, k): getattr(d, k) for d in x.devices for k in ("required", "selected", "settings")},
            "findings": sorted((f.severity, f.code, f.message) for f in x.findings if f.code != "cables_in_parallel"),
            "start": x.start,
            "checks": [(k.name, k.state, k.message) for k in x.coordination.checks],
        }
        for x in (one, other)
    ]
    return [
        f"{k}: {facts[0].get(k)} becomes {facts[1].get(k)}"
        for k in {**facts[0], **facts[1]}
        if facts[0].get(k) != facts[1].get(k)
    ]


@settings(
    max_examples=EXAMPLES,
    phases=NO_SHRINKING,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.filter_too_much],
)
@given(starters())
def test_sizing_netlist_wires_drawing_and_settings_agree(data: dict[str, Any]) -> None:
    c = case(data)
    if c is not None:
        assert disagreements({name: extract(c) for name, extract in QUICK.items()}) == []
        assert changed_by_typing_the_cable(c) == []
        assert (
            lay_out(c.document, fitted_of(c.document, c.sized.built)) == c.sized.circuit
        )  # kept by its decisions alone


@settings(
    max_examples=WHOLE, phases=NO_SHRINKING, suppress_health_check=[HealthCheck.too_slow, HealthCheck.filter_too_much]
)
@given(starters())
def test_plan_failures_record_and_papers_agree_too(data: dict[str, Any]) -> None:
    c = case(data)
    if c is not None:
        assert disagreements({name: extract(c) for name, extract in {**QUICK, **SLOW}.items()}) == []


KNOWN = {
    "tag": "x", "motor": {"rated_power_kw": 7.5, "frequency_hz": 50, "rated_voltage_delta_v": 400, "rated_current_delta_a": 14.4},
    "supply": {"line_voltage_v": 400, "neutral": True, "system": "tn", "prospective_current_ka": 6}, "load": {"start_time_s": 2},
    "control": {"voltage_v": 230, "phase_monitor": "three_wire", "lamps": ["running", "stopped", "tripped"]},
    "starter": {"type": "star_delta"}, "protection": {"device": "fuse_gg"},
}  # fmt: skip


@cache
def known_facts() -> dict[str, Facts]:
    c = case(KNOWN)
    assert c is not None
    return {name: extract(c) for name, extract in {**QUICK, **SLOW}.items()}


@pytest.mark.parametrize("projection", [*QUICK, *SLOW])
def test_a_value_swapped_in_one_projection_is_found(projection: str) -> None:
    facts = dict(known_facts())
    assert disagreements(facts) == []
    others = {key for name, found in facts.items() if name != projection for key in found}
    shared = next((key for key in facts[projection] if key in others), None)
    assert shared is not None, f"nothing that {projection} says is said elsewhere"
    facts[projection] = {**facts[projection], shared: "swapped"}
    assert len(disagreements(facts)) == 1
