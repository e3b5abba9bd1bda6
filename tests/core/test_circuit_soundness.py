"""What the circuit engine leaves out is left out rightly: against plain searches, over random options, over every scheme."""

from typing import Any, get_args

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from circuits import EVERYTHING, VARIANTS, WITH_CONTROL, made
from plain_walk import PlainWalk
from volmek.core.circuit.drawing.control import draw_control
from volmek.core.circuit.drawing.layout import lay_out
from volmek.core.circuit.drawing.pen import Ink, Style
from volmek.core.circuit.drawing.power import draw_power
from volmek.core.circuit.faults.failures import failures, single_faults
from volmek.core.circuit.faults.injection import damage
from volmek.core.circuit.faults.mistakes import mistakes
from volmek.core.circuit.kernel.operator import lamp_table
from volmek.core.circuit.kernel.report import auxiliary_contacts, crowded_terminals
from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.model.fitted import Fitted
from volmek.core.circuit.model.netlist import Circuit
from volmek.core.circuit.needs import circuit_needs
from volmek.core.circuit.proof.model import SUPPLY, Model
from volmek.core.circuit.proof.rules import RULES, Decide, prove
from volmek.core.circuit.proof.search import Search
from volmek.core.circuit.schemes import SCHEMES, circuit_of
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import Control, StarterDocument, parse
from volmek.core.results.drawing import Shape

STYLES: tuple[Style, ...] = ("columns", "ladder")


SMALL = [
    made(), made(emergency_stop=True, phase_monitor="three_wire"), made(start_stations=2, stop_stations=2), made("reversing"),
    made("reversing", reversing_sequence="direct"), made("star_delta"), made("star_delta_manual"),
    made("star_delta_manual", variant="as_often_built"), made(jog="relay"), made("two_speed"),
]  # fmt: skip


@pytest.mark.parametrize("circuit", SMALL)
def test_the_proof_comes_into_the_states_of_a_plain_walk_and_no_others(circuit: Circuit) -> None:
    agree(circuit, [])


@given(st.data())
@settings(deadline=None, max_examples=25)
def test_proof_and_plain_walk_agree_with_faults_in(data: st.DataObject) -> None:
    circuit = data.draw(st.sampled_from(SMALL))
    poles = [f"weld {c.name}" for c in circuit.contacts if c.side == "power" and circuit.devices[c.device].kind == "contactor"]  # fmt: skip
    agree(circuit, [data.draw(st.sampled_from([*single_faults(circuit), *poles]))])


def agree(circuit: Circuit, faults: list[str]) -> None:
    """States, fewest operations to some of them, and the rules about what must drop out."""
    damaged = damage(circuit, faults)
    walk, decide = PlainWalk(damaged.engine()), Decide(damaged.engine())
    model, search = decide.m, decide.search
    if not walk.e.earth and not model.undefined:
        assert model.d.count(search.reached, model.levels) == len(walk.fewest)
        for positions, supplied in list(walk.fewest)[:: max(len(walk.fewest) // 9, 1)]:
            state = model.d.both(model.at(SUPPLY, int(supplied)), model.d.all_of(model.at(i, positions[i]) for i in model.variables if i != SUPPLY))  # fmt: skip
            moves, end = search.story(state)
            assert end == state and sum(not m.own for m in moves) == walk.fewest[positions, supplied]
    c = damaged.circuit
    rules = {"stop_drops_all": list(c.stops), "overload_drops_all": c.overloads, "emergency_stop_drops_all": c.of_kind("emergency_stop")}  # fmt: skip
    for rule, names in rules.items():
        if names and not (model.undefined and decide(rule).holds is False):
            assert (decide(rule).holds is False) == walk.held_on(names), (rule, faults)


@pytest.mark.parametrize("name", VARIANTS)
def test_every_story_can_be_told_in_operations(name: str) -> None:
    """The words of a story are operations that the simulator knows."""
    sim = Simulator(VARIANTS[name])
    search = Search(Model(sim.engine))
    for k in range(3):
        for move in search.inputs:
            entered = search.d.both(search.ring(k).states, search.post(search.m.valid, move))
            for words in search.words(search.story(entered)[0]) if entered else []:
                sim.operate(sim.begin(), words)


@pytest.mark.parametrize(
    "name",
    ["direct_on_line", "reversing", "star_delta", "star_delta_closed", "two_speed", "single_phase_direct", "together"],
)
def test_the_failure_table_is_whole_and_says_what_is_dangerous(name: str) -> None:
    circuit = VARIANTS[name]
    table = {f.fault: f for f in failures(circuit)}
    assert set(table) == set(single_faults(circuit)) and all(f.effect.endswith(".") for f in table.values())
    for guard in ("F1:95-96", "S0:1-2", "S1:1-2", "F2:11-14"):
        assert table[f"weld {guard}"].dangerous, guard
    for start in circuit.starts:
        assert table[f"weld {start}:3-4"].dangerous
    burnt = {f.fault for f in table.values() if f.dangerous and f.fault.startswith(("break", "earth"))}
    assert not burnt or name == "star_delta_closed"  # there a broken return leaves the resistors in
    assert all(f.hidden == ("second fault" in f.effect) for f in table.values())
    # One welded pole is a fault of its own; what shows itself nowhere has a test, and only that.
    assert all(
        f"weld {k}:1-2" in table
        for k in circuit.power_contactors
        if any(c.name == f"{k}:1-2" for c in circuit.contacts)
    )
    assert all(bool(f.test) == f.found.startswith("only") and len(f.test) <= 120 for f in table.values())
    assert table["weld S0:1-2"].test == "Contact S0:1-2 changes over: dead, with S0 pressed"


def options() -> st.SearchStrategy[dict[str, Any]]:
    """Any options of a circuit, sensible or not."""
    choices: dict[str, st.SearchStrategy[Any]] = {}
    for name in ("scheme", "overload_contact", "phase_monitor", "stopped_lamp_feed", "field_contact", "hold", "variant", "jog", "monitor_position",
                 "reversing_sequence", "reversed_winding", "running_lamp_feed", "control_phase", "source", "controller_signal_form", "start_capacitor_switch"):  # fmt: skip
        kind = Control.model_fields[name].annotation
        values = [v for part in (get_args(kind) or (kind,)) for v in (get_args(part) or (part,)) if isinstance(v, str)]
        choices[name] = st.sampled_from(values)
    for name in ("emergency_stop", "buzzer", "standby", "heater", "controller_signal", "end_of_travel", "star_delta_relay", "early_release_guard",
                 "earthed", "leaves_enclosure", "mechanical_interlock"):  # fmt: skip
        choices[name] = st.booleans()
    choices["start_stations"] = choices["stop_stations"] = st.integers(1, 3)
    choices["rest_time_s"] = st.sampled_from([1.0, 3.0])
    choices["lamps"] = st.lists(st.sampled_from(EVERYTHING["lamps"]), unique=True)
    return st.fixed_dictionaries({}, optional=choices)


def documents() -> st.SearchStrategy[StarterDocument]:
    def document(scheme: str, control: dict[str, Any], sequence: str, tapped: bool, relay: str) -> StarterDocument:
        motor = (
            {"phases": 1, "single_phase_kind": "capacitor_run"}
            if scheme.startswith("single")
            else {"speed_winding": "tapped" if tapped else "separate"}
        )
        return parse(
            {
                "tag": "A",
                "motor": motor,
                "starter": {"type": scheme, "star_sequence": sequence},
                "control": control,
                "protection": {"overload": relay},
            }
        )

    return st.builds(
        document,
        st.sampled_from(list(SCHEMES)),
        options(),
        st.sampled_from(["together", "star_first"]),
        st.booleans(),
        st.sampled_from(["relay", "none"]),
    )


@settings(max_examples=250)
@given(documents(), st.sampled_from([Fitted(), Fitted("motor_breaker", relay=False), Fitted("fuse_gg")]))
def test_any_options_give_a_whole_circuit_or_a_reason(document: StarterDocument, fitted: Fitted) -> None:
    """Built, described, drawn and proved without a crash; or refused at a field of the document."""
    try:
        circuit = circuit_of(document, fitted)
    except ProblemError as refused:
        named = {p.field.partition(".")[0] for p in refused.problems if p.message}
        circuit = None
    if circuit is None:
        assert named <= {"control", "protection", "starter"} and circuit_needs(document) == ({}, ())
        return
    assert crowded_terminals(circuit) == []
    assert all(len(terminals) > 1 for _, terminals in circuit.nodes())
    places = [
        (c.device, c.a[:-1])
        for c in circuit.contacts
        if c.device.startswith("K") and not c.device.startswith("KT") and len(c.a) > 1 and c.side == "control"
    ]
    assert len(places) == len(set(places)), "a place of a contactor is used twice"
    assert {len(row) for row in lamp_table(circuit).values()} <= {len(circuit.of_kind("lamp", "buzzer", "heater"))}
    assert set(auxiliary_contacts(circuit)) == set(circuit.of_kind("contactor", "relay"))
    if circuit.lines:
        grid = lay_out(circuit)
        assert len({(p.path, p.level) for p in grid.placed}) == len(grid.placed)
        for style in STYLES:
            assert draw_control(circuit, style).marks and draw_power(circuit, style).marks
    sim = Simulator(circuit)
    assert abs(sim.advance(sim.begin(), 1.0).speed) <= 1
    assert mistakes(circuit, damage(circuit, [])) == []


@st.composite
def pairs(draw: st.DrawFn) -> StarterDocument:
    """Any two options of a scheme, the rest as it comes."""
    drawn = draw(options())
    chosen = dict(list(drawn.items())[:2])
    return parse({"tag": "A", "starter": {"type": draw(st.sampled_from(WITH_CONTROL))}, "control": chosen})


@settings(max_examples=60)
@given(documents() | pairs())
def test_any_sound_options_are_proved(document: StarterDocument) -> None:
    """What is refused aside, a circuit without a variant or a weak option breaks no rule."""
    c = document.control
    weak = (
        c.source == "separate"
        or c.variant == "as_often_built"
        or c.hold == "power_pole"
        or c.overload_contact == "return_side"
        or c.standby
        or c.mechanical_interlock is False
    )
    if weak or document.protection.overload == "none":
        return
    try:
        circuit = circuit_of(document)
    except ProblemError:
        return
    found = prove(circuit)
    assert {p.rule for p in found} <= set(RULES)
    assert [(p.rule, p.why, p.shortest) for p in found if not p.passed] == []


def segments(marks: list[Ink]) -> list[tuple[float, float, float, float]]:
    """Pieces of conductor."""
    found = []
    for m in marks:
        if m.part.startswith("wire:") and m.shape.kind == "line":
            p = m.shape.points
            found += [
                (min(a, c), min(b, d), max(a, c), max(b, d))
                for a, b, c, d in zip(p[::2], p[1::2], p[2::2], p[3::2], strict=False)
            ]
    return found


def body(shapes: list[Shape]) -> tuple[float, float, float, float]:
    """Extent of a symbol without its leads."""
    xs: list[float] = []
    ys: list[float] = []
    for s in shapes:
        if s.kind == "line":
            xs += s.points[::2]
            ys += s.points[1::2]
        elif s.kind in ("circle", "arc"):
            xs += [s.points[0] - s.points[2], s.points[0] + s.points[2]]
            ys += [s.points[1] - s.points[2], s.points[1] + s.points[2]]
        elif s.kind == "rect":
            xs += [s.points[0], s.points[0] + s.points[2]]
            ys += [s.points[1], s.points[1] + s.points[3]]
    return min(xs), min(ys), max(xs), max(ys)


@pytest.mark.parametrize("name", VARIANTS)
@pytest.mark.parametrize("style", STYLES)
def test_no_conductor_runs_through_a_symbol(name: str, style: Style) -> None:
    circuit = VARIANTS[name]
    for drawing in (draw_control(circuit, style), draw_power(circuit, style)):
        symbols: dict[tuple[str, int, int], list[Shape]] = {}
        for m in drawing.marks:
            if (
                m.part.startswith(("contact:", "load:"))
                and m.part != "load:M1"
                and m.shape.kind != "text"
                and m.shape.weight != "hair"
            ):
                x, y = m.shape.points[:2]
                symbols.setdefault((m.part, int(x // 45), int(y // 45)), []).append(m.shape)
        for part, shapes in symbols.items():
            left, top, right, low = body(shapes)
            for ax, ay, bx, by in segments(drawing.marks):
                inside = ax < right - 1.5 and bx > left + 1.5 and ay < low - 1.5 and by > top + 1.5
                along = (ax == bx and left <= ax <= right and (by <= top + 8 or ay >= low - 8)) or (
                    ay == by and top <= ay <= low and (bx <= left + 8 or ax >= right - 8)
                )
                assert not inside or along, (part, (ax, ay, bx, by), (left, top, right, low))
