"""Every circuit with its ordinary sequence, step by step: what is in, what is lit, how the motor is connected."""

from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from circuits import VARIANTS, coils, lit, made, script
from volmek.core.circuit.kernel.dynamics import usual
from volmek.core.circuit.kernel.engine import Engine
from volmek.core.circuit.kernel.power import PowerNet, PowerState
from volmek.core.circuit.kernel.report import settled
from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.kernel.state import State
from volmek.core.circuit.kernel.timeline import Operation, frame, live_terminals, play
from volmek.core.circuit.model.fitted import Fitted
from volmek.core.circuit.model.netlist import Circuit
from volmek.core.circuit.proof.rules import prove
from volmek.core.circuit.schemes import circuit_of
from volmek.core.document.model import parse

Step = tuple[str, set[str], str]
LIT: dict[str, Any] = {"lamps": ["running", "stopped", "tripped"]}

#: For each circuit: operations, the contactors and relays that are in after each, and the motor's connection.
SEQUENCES: dict[str, tuple[Circuit, list[Step]]] = {
    "1 three-wire": (
        made(start_stations=2, stop_stations=2),
        [
            ("press S2", {"K1"}, "delta"),
            ("release S2", {"K1"}, "delta"),
            ("press S11", set(), "off"),
            ("release S11", set(), "off"),
            ("press S12", {"K1"}, "delta"),
            ("release S12", {"K1"}, "delta"),
            ("press S1", set(), "off"),
            ("press S2", set(), "off"),
            (
                "release S1",
                {"K1"},
                "delta",
            ),  # start is held, so that it goes on: the failure table says so of a jammed button
        ],
    ),
    "2 two-wire": (
        circuit_of(parse({"tag": "A", "control": {"scheme": "two_wire", "field_contact": "float_fill"}})),
        [
            ("close B1", {"K1"}, "plate"),
            ("trip F1", set(), "off"),
            ("reset F1", {"K1"}, "plate"),
            ("open F3", set(), "off"),
            ("close F3", {"K1"}, "plate"),
            ("open B1", set(), "off"),
        ],
    ),
    "2 two-wire with emergency stop": (
        circuit_of(
            parse({"tag": "A", "control": {"scheme": "two_wire", "field_contact": "pressure", "emergency_stop": True}})
        ),
        [
            ("close B1", set(), "off"),
            ("press S4", {"K1", "K6"}, "plate"),
            ("release S4", {"K1", "K6"}, "plate"),
            ("press S0", set(), "off"),
            ("release S0", set(), "off"),
            ("press S4", {"K1", "K6"}, "plate"),
            ("release S4", {"K1", "K6"}, "plate"),
            ("trip F1", set(), "off"),
            ("reset F1", set(), "off"),
        ],
    ),
    "2 hand-off-auto": (
        circuit_of(parse({"tag": "A", "control": {"scheme": "hand_off_auto"}})),
        [
            ("turn S5 hand", {"K1"}, "plate"),
            ("turn S5 off", set(), "off"),
            ("turn S5 auto", set(), "off"),
            ("close B1", {"K1"}, "plate"),
            ("turn S5 off", set(), "off"),
        ],
    ),
    "3 jog by selector": (
        made(jog="selector"),
        [
            ("press S2", {"K1"}, "delta"),
            ("release S2", set(), "off"),
            ("turn S4 run", set(), "off"),
            ("press S2", {"K1"}, "delta"),
            ("release S2", {"K1"}, "delta"),
            ("turn S4 jog", set(), "off"),
        ],
    ),
    "3 jog by relay": (
        made(jog="relay"),
        [
            ("press S4", {"K1"}, "delta"),
            ("release S4", set(), "off"),
            ("press S2", {"K1", "K6"}, "delta"),
            ("release S2", {"K1", "K6"}, "delta"),
            ("press S1", set(), "off"),
        ],
    ),
    "5 reversing through stop": (
        made("reversing", end_of_travel=True),
        [
            ("press S2", {"K1"}, "delta"),
            ("release S2", {"K1"}, "delta"),
            ("press S3", {"K1"}, "delta"),
            ("release S3", {"K1"}, "delta"),
            ("open B3", set(), "off"),
            ("press S2", set(), "off"),
            ("release S2", set(), "off"),
            ("press S3", {"K2"}, "delta"),
            ("release S3", {"K2"}, "delta"),
            ("close B3", {"K2"}, "delta"),
            ("open B4", set(), "off"),
        ],
    ),
    "5 reversing at once": (
        made("reversing", reversing_sequence="direct"),
        [
            ("press S2", {"K1"}, "delta"),
            ("release S2", {"K1"}, "delta"),
            ("press S3", {"K2"}, "delta"),
            ("release S3", {"K2"}, "delta"),
            ("press S2", {"K1"}, "delta"),
        ],
    ),
    "5 reversing with rest": (
        made("reversing", rest_time_s=2),
        [
            ("press S2", {"KT2"}, "off"),
            ("release S2", {"KT2"}, "off"),
            ("wait 3", {"KT2"}, "off"),
            ("press S2", {"K1"}, "delta"),
            ("release S2", {"K1"}, "delta"),
            ("press S1", {"KT2"}, "off"),
            ("release S1", {"KT2"}, "off"),
            ("press S3", {"KT2"}, "off"),
            ("wait 2.5", {"KT2", "K2"} - {"KT2"}, "delta"),
        ],
    ),
    "6 line and star together": (
        made("star_delta", {"star_sequence": "together"}),
        [
            ("press S2", {"K1", "K3", "KT1"}, "star"),
            ("release S2", {"K1", "K3", "KT1"}, "star"),
            ("wait 7", {"K1", "K2", "KT1"}, "delta"),
            ("press S2", {"K1", "K2", "KT1"}, "delta"),
            ("release S2", {"K1", "K2", "KT1"}, "delta"),
            ("press S1", set(), "off"),
        ],
    ),
    "7 star first": (
        made("star_delta"),
        [
            ("press S2", {"K1", "K3", "KT1"}, "star"),
            ("release S2", {"K1", "K3", "KT1"}, "star"),
            ("wait 7", {"K1", "K2", "KT1"}, "delta"),
            ("trip F1", set(), "off"),
            ("reset F1", set(), "off"),
        ],
    ),
    "8 star-delta relay": (
        made("star_delta", star_delta_relay=True),
        [
            ("press S2", {"K1", "K3", "KT1"}, "star"),
            ("release S2", {"K1", "K3", "KT1"}, "star"),
            ("wait 7", {"K1", "K2", "KT1"}, "delta"),
        ],
    ),
    "9 by hand": (
        made("star_delta_manual"),
        [
            ("press S2", {"K1", "K3"}, "star"),
            ("wait 3", {"K1", "K3"}, "star"),
            ("release S2", {"K1", "K2"}, "delta"),
            ("press S1", set(), "off"),
        ],
    ),
    "9 by hand, guarded": (
        made("star_delta_manual", early_release_guard=True),
        [
            ("press S2", {"K1", "K3", "KT1"}, "star"),
            ("release S2", set(), "off"),
            ("press S2", {"K1", "K3", "KT1"}, "star"),
            ("wait 7", {"K1", "K3", "KT1"}, "star"),
            ("release S2", {"K1", "K2", "KT1"}, "delta"),
        ],
    ),
    "10 closed transition": (
        made("star_delta_closed"),
        [
            ("press S2", {"K1", "K3", "KT1"}, "star"),
            ("release S2", {"K1", "K3", "KT1"}, "star"),
            ("wait 7", {"K1", "K2", "KT1"}, "delta"),
        ],
    ),
    "11 autotransformer": (
        made("autotransformer"),
        [
            ("press S2", {"K2", "K3", "K6", "KT1"}, "reduced"),
            ("release S2", {"K2", "K3", "K6", "KT1"}, "reduced"),
            ("wait 6", {"K1", "K6", "KT1"}, "delta"),
            ("press S1", set(), "off"),
        ],
    ),
    "12 stator resistance": (
        made("stator_resistance"),
        [
            ("press S2", {"K1", "KT1"}, "reduced"),
            ("release S2", {"K1", "KT1"}, "reduced"),
            ("wait 6", {"K1", "K2", "KT1"}, "delta"),
        ],
    ),
    "12 rotor resistance": (
        made("rotor_resistance"),
        [
            ("press S2", {"K1", "KT1"}, "delta"),
            ("release S2", {"K1", "KT1"}, "delta"),
            ("wait 5.5", {"K1", "K2", "KT1", "KT2"}, "delta"),
            ("wait 5", {"K1", "K2", "K3", "KT1", "KT2", "KT3"}, "delta"),
            ("wait 5", {"K1", "K2", "K3", "K4", "KT1", "KT2", "KT3"}, "delta"),
            ("press S1", set(), "off"),
        ],
    ),
    "13 soft starter": (
        made("soft_starter"),
        [
            ("press S2", {"G1", "K1", "K6"}, "delta"),
            ("release S2", {"G1", "K1", "K6"}, "delta"),
            ("wait 9", {"G1", "K1", "K2", "K6"}, "delta"),
            ("press S1", {"K1"}, "delta"),
            ("wait 6", set(), "off"),
        ],
    ),
    "13 part winding": (
        made("part_winding"),
        [
            ("press S2", {"K1", "KT1"}, "half"),
            ("release S2", {"K1", "KT1"}, "half"),
            ("wait 6", {"K1", "K2", "KT1"}, "star"),
            ("trip F4", set(), "off"),
        ],
    ),
    "14 single phase": (
        made("single_phase_direct"),
        [("press S2", {"K1"}, "single"), ("release S2", {"K1"}, "single"), ("trip F1", set(), "off")],
    ),
    "15 single phase, reversing": (
        made("single_phase_reversing"),
        [
            ("wait 2", {"KT2"}, "off"),
            ("press S2", {"K1"}, "single"),
            ("release S2", {"K1"}, "single"),
            ("press S1", {"KT2"}, "off"),
            ("release S1", {"KT2"}, "off"),
            ("wait 2", {"KT2"}, "off"),
            ("press S3", {"K2"}, "single"),
        ],
    ),
    "16 duty pump": (
        circuit_of(parse({"tag": "A", "control": {"standby": True}}), Fitted(times_s={"KT2": 2, "KT3": 3, "KT4": 2})),
        [
            ("turn S5 ready", {"K7", "KT2"}, "off"),
            ("turn S6 run", {"K7", "KT2"}, "off"),
            ("wait 2.5", {"K1", "K7", "KT2"}, "plate"),
            ("trip F1", set(), "off"),
            ("reset F1", {"K7", "KT2"}, "off"),
            ("wait 2.5", {"K1", "K7", "KT2"}, "plate"),
            ("turn S5 off", {"K7"}, "off"),
        ],
    ),
    "16 star-delta stand-by": (
        circuit_of(
            parse(
                {
                    "tag": "A",
                    "motor": {"rated_voltage_delta_v": 400},
                    "supply": {"line_voltage_v": 400},
                    "starter": {"type": "star_delta"},
                    "control": {"standby": True},
                }
            ),
            Fitted(times_s={"KT1": 3, "KT2": 2, "KT3": 3, "KT4": 2}),
        ),
        [
            ("turn S5 ready", {"K7", "KT2"}, "off"),
            ("turn S6 stand-by", {"K7", "KT2"}, "off"),
            ("wait 6", {"K7", "KT2", "KT3"}, "off"),
            ("close B2", {"K1", "K3", "K6", "KT1", "KT2", "KT3"}, "star"),
            ("wait 4", {"K1", "K2", "K6", "KT1", "KT2", "KT3"}, "delta"),
            ("press S4", {"K7", "KT2", "KT3"}, "off"),
        ],
    ),
    "17 heater": (
        made(heater=True),
        [
            ("turn S7 on", set(), "off"),
            ("press S2", {"K1"}, "delta"),
            ("release S2", {"K1"}, "delta"),
            ("press S1", set(), "off"),
        ],
    ),
    "18 transformer": (
        made(source="transformer", voltage_v=230),
        [("press S2", {"K1"}, "delta"), ("release S2", {"K1"}, "delta"), ("open F3", set(), "off")],
    ),
    "19 monitor behind the contactor": (
        made(phase_monitor="three_wire", monitor_position="motor_side"),
        [
            ("press S2", {"K1"}, "delta"),
            ("wait 1", {"K1"}, "delta"),
            ("release S2", {"K1"}, "delta"),
            ("lose L3", {"K1"}, "delta"),
            ("wait 1", set(), "off"),
            ("restore L3", set(), "off"),
        ],
    ),
    "20 two speeds": (
        made("two_speed"),
        [
            ("press S2", {"K1"}, "low"),
            ("release S2", {"K1"}, "low"),
            ("press S1", set(), "off"),
            ("release S1", set(), "off"),
            ("press S3", {"K2"}, "high"),
            ("release S3", {"K2"}, "high"),
            ("press S2", {"K2"}, "high"),
        ],
    ),
    "20 tapped": (
        made("two_speed", motor={"speed_winding": "tapped"}),
        [
            ("press S2", {"K1"}, "low"),
            ("release S2", {"K1"}, "low"),
            ("press S1", set(), "off"),
            ("release S1", set(), "off"),
            ("press S3", {"K2", "K3"}, "high"),
            ("release S3", {"K2", "K3"}, "high"),
            ("trip F4", set(), "off"),
        ],
    ),
}


@pytest.mark.parametrize("name", SEQUENCES)
def test_the_ordinary_sequence(name: str) -> None:
    circuit, steps = SEQUENCES[name]
    entries = script(circuit, "; ".join(operation for operation, _, _ in steps))
    for (operation, into, connection), entry in zip(steps, entries, strict=True):
        assert coils(entry) == into, (operation, coils(entry))
        assert entry["motor"]["connection"] == connection, operation
    assert not [e for entry in entries for e in entry["events"] if "Short" in e["words"] or "chatters" in e["words"]]


@pytest.mark.parametrize("name", SEQUENCES)
def test_its_rules_hold(name: str) -> None:
    assert [(p.rule, p.why) for p in prove(SEQUENCES[name][0]) if not p.passed] == []


def test_the_heater_is_off_while_any_contactor_feeds_the_motor_and_live_with_the_main_breaker_open() -> None:
    say = script(
        made("reversing", heater=True), "turn S7 on; press S3; release S3; press S1; release S1; open Q1; open F5"
    )
    assert [{"E1", "P8"} <= lit(e) for e in say] == [True, False, False, True, True, True, False]


LAMP_STORIES = [
    (
        {},
        "press S2; release S2; press S1; release S1; trip F1; reset F1",
        [{"P1"}, {"P1"}, set(), {"P2"}, {"P3"}, {"P2"}],
    ),
    (
        {"stopped_lamp_feed": "line"},
        "press S2; release S2; press S1; release S1; trip F1; reset F1",
        [{"P1"}, {"P1"}, {"P2"}, {"P2"}, {"P2", "P3"}, {"P2"}],
    ),
    ({"buzzer": True}, "trip F1; reset F1", [{"P3", "H1"}, {"P2"}]),
    ({"controller_signal": True}, "trip F1; wait 0.1; reset F1", [{"P3"}, {"P3"}, {"P2"}]),
    ({"running_lamp_feed": "command"}, "press S2; release S2; press S1", [{"P1"}, {"P1"}, set()]),
]


@pytest.mark.parametrize(("options", "text", "expected"), LAMP_STORIES)
def test_lamps_are_lit_when_they_should_be(options: dict[str, Any], text: str, expected: list[set[str]]) -> None:
    assert [lit(e) for e in script(made(**LIT, **options), text)] == expected


@pytest.mark.parametrize("how", ["button", "centrifugal", "relay", "timer"])
def test_the_start_capacitor_goes_out_by_button_at_speed_or_after_its_time(how: str) -> None:
    c = made("single_phase_direct", start_capacitor_switch=how)
    sim = Simulator(c, usual(1.0))
    timeline = play(
        sim, [Operation(0.5, "press S2"), Operation(0.9, "release S2"), Operation(15, "press S1")], until_s=25
    )
    contact = {"button": "S2:33-34", "timer": "KT1:15-16"}.get(how, "B5:1-2")
    frames = [f for f in timeline.frames if f.connection == "single"]
    first = next(k for k, f in enumerate(frames[:3]) if contact in f.closed)
    assert contact not in frames[-1].closed
    out = next(f.time_s for f in frames[first:] if contact not in f.closed)
    speed = next(v for t, v in zip(timeline.track.time_s, timeline.track.speed_pct, strict=True) if t >= out)
    assert {"button": out < 1, "timer": out == pytest.approx(2.54, abs=0.1)}.get(how, 70 < speed < 90)
    assert [p.rule for p in prove(c) if not p.holds] == []


def test_a_fail_safe_signal_is_in_while_all_is_well() -> None:
    """It drops on a trip, a phase fault and a dead control circuit; the other one pulls in on a trip alone."""
    safe = made(phase_monitor="three_wire", controller_signal=True, controller_signal_form="fail_safe", **LIT)
    say = script(safe, "trip F1; reset F1; lose L3; wait 1; restore L3; wait 2; open F3")
    assert [("K5" in coils(e)) for e in say] == [False, True, True, False, False, True, False]
    on_trip = made(controller_signal=True, **LIT)
    assert [("K5" in coils(e)) for e in script(on_trip, "trip F1; reset F1; open F3")] == [True, False, False]
    joined = {frozenset(t) for _, t in safe.nodes()}
    assert frozenset({"X2:1", "K5:21"}) in joined and frozenset({"X2:2", "K5:22"}) in joined
    assert [p.rule for p in prove(safe) if not p.holds] == []


def test_lamps_of_the_monitor_and_of_two_directions() -> None:
    c = made("reversing", phase_monitor="three_wire", lamps=["running", "phase_healthy", "phase_fault"])
    say = script(
        c,
        "press S2; release S2; wait 1; press S1; release S1; press S3; release S3; wait 1; lose L3; wait 1; restore L3; wait 2",
    )
    assert [lit(e) for e in (say[0], say[5], say[9], say[11])] == [{"P1", "P4"}, {"P4", "P6"}, {"P5"}, {"P4"}]


def state_of(circuit: Circuit, *into: str, poles: tuple[str, ...] = ()) -> PowerState:
    """The power circuit with some contactors in."""
    net = PowerNet(circuit)
    closed = {c.name for c in circuit.contacts if c.side == "power" and c.device in ("Q1", "F1", "F4", *into)} | set(
        poles
    )
    return net.state(frozenset(closed), tuple((p, p) for p in net.sources))


POWER = [
    ("direct_on_line", {}, ("K1",), "delta", 1.0, "forward"),
    ("reversing", {}, ("K1",), "delta", 1.0, "forward"),
    ("reversing", {}, ("K2",), "delta", 1.0, "reverse"),
    ("star_delta", {}, ("K1", "K3"), "star", 0.577, "forward"),
    ("star_delta", {}, ("K1", "K2"), "delta", 1.0, "forward"),
    ("star_delta", {}, ("K1",), "off", 0.0, "none"),
    ("star_delta", {}, ("K2",), "off", 0.0, "none"),
    ("star_delta_closed", {}, ("K1", "K4", "K3"), "star", 0.577, "forward"),
    ("star_delta_closed", {}, ("K1", "K4"), "reduced", 0.79, "forward"),
    ("star_delta_closed", {}, ("K1", "K2", "K4"), "delta", 1.0, "forward"),
    ("autotransformer", {}, ("K2",), "reduced", 0.8, "forward"),
    ("autotransformer", {}, ("K1",), "delta", 1.0, "forward"),
    ("autotransformer", {}, ("K1", "K2"), "delta", 1.0, "forward"),
    ("stator_resistance", {}, ("K1", "K2"), "delta", 1.0, "forward"),
    ("part_winding", {}, ("K1",), "half", 1.0, "forward"),
    ("part_winding", {}, ("K1", "K2"), "star", 1.0, "forward"),
    ("two_speed", {}, ("K1",), "low", 1.0, "forward"),
    ("two_speed", {}, ("K2",), "high", 1.0, "forward"),
    ("two_speed", {"speed_winding": "tapped"}, ("K1",), "low", 1.0, "forward"),
    ("two_speed", {"speed_winding": "tapped"}, ("K2", "K3"), "high", 1.0, "forward"),
]


@pytest.mark.parametrize(("scheme", "motor", "into", "connection", "positive", "direction"), POWER)
def test_every_contactor_state_by_its_phasors(
    scheme: str, motor: dict[str, Any], into: tuple[str, ...], connection: str, positive: float, direction: str
) -> None:
    state = state_of(made(scheme, motor=motor), *into)
    assert (state.connection, state.direction, state.shorts) == (connection, direction, ())
    turning, against = (state.negative, state.positive) if direction == "reverse" else (state.positive, state.negative)
    assert turning == pytest.approx(positive, abs=0.12 if connection == "reduced" else 0.01)
    assert against == pytest.approx(0, abs=0.01)


SHORTS = [
    ("reversing", {}, ("K1", "K2")), ("star_delta", {}, ("K1", "K2", "K3")), ("star_delta", {}, ("K2", "K3")),
    ("single_phase_reversing", {}, ("K1", "K2")), ("two_speed", {"speed_winding": "tapped"}, ("K1", "K3")),
]  # fmt: skip


@pytest.mark.parametrize(("scheme", "motor", "into"), SHORTS)
def test_forbidden_pairs_short_the_supply(scheme: str, motor: dict[str, Any], into: tuple[str, ...]) -> None:
    state = state_of(made(scheme, motor=motor), *into)
    joined = {frozenset(pair) for pair in state.shorts}
    assert joined or scheme == "two_speed"
    assert all(pair <= {"L1", "L2", "L3", "N"} for pair in joined)


def test_a_transformer_winding_is_shorted_by_run_and_star_together() -> None:
    for together in (("K1", "K3"), ("K1", "K2", "K3")):
        assert ("T2", "T2") in state_of(made("autotransformer"), *together).shorts
    assert (
        state_of(made("autotransformer"), "K1", "K2").shorts == ()
    )  # its star point open it is bridged as it should be
    assert state_of(made("autotransformer"), "K2", "K3").shorts == ()


def test_a_lost_line_leaves_half_and_turns_nothing() -> None:
    c = made()
    net = PowerNet(c)
    poles = frozenset(x.name for x in c.contacts if x.side == "power")
    two = net.state(poles, (("L1", "L1"), ("L2", "L2")))
    assert (
        two.direction == "none"
        and two.positive == pytest.approx(two.negative)
        and two.positive == pytest.approx(0.5, abs=0.01)
    )
    turned = net.state(poles, (("L1", "L2"), ("L2", "L1"), ("L3", "L3")))
    assert turned.direction == "reverse" and turned.negative == pytest.approx(1)


@settings(max_examples=40)
@given(
    st.sampled_from(["K1", "K2", "K3"]).flatmap(lambda k: st.tuples(st.just(k), st.sampled_from(["1-2", "3-4", "5-6"])))
)
def test_one_welded_pole_never_feeds_a_stopped_motor_on_three_lines(pole: tuple[str, str]) -> None:
    state = state_of(made("star_delta"), poles=(f"{pole[0]}:{pole[1]}",))
    assert state.connection == "off" and state.shorts == ()


def test_what_is_under_voltage_is_joined_to_the_live_side() -> None:
    sim = Simulator(made(**LIT), usual(1.0))
    rest = live_terminals(sim, sim.begin())
    assert {"F3:2", "F1:95", "S1:2", "S2:3", "K1:13"} <= set(rest) and not {"S2:4", "K1:A1", "K1:A2", "M1:U1"} & set(
        rest
    )
    s = sim.advance(sim.operate(sim.begin(), "press S2"), 0.5)
    assert {"S2:4", "K1:A1", "M1:U1", "M1:V2"} <= set(live_terminals(sim, s)) and "K1:A2" not in live_terminals(sim, s)
    off = sim.advance(sim.operate(s, "open F3"), 0.5)
    assert "S1:2" not in live_terminals(sim, off) and "Q1:2" in live_terminals(sim, off)


@settings(max_examples=30)
@given(
    st.sampled_from(sorted(VARIANTS)),
    st.lists(
        st.sampled_from(["press S2", "release S2", "press S1", "release S1", "lose L3", "restore L3"]), max_size=5
    ),
)
def test_a_timeline_shows_what_the_simulation_does(name: str, steps: list[str]) -> None:
    """Frames are the states of the simulator at their times; tracks and spans fit them."""
    sim = Simulator(VARIANTS[name], usual(0.6))
    known = [x for x in steps if x.split()[1] in sim.engine.index or x.split()[1] in sim.power.sources]
    timeline = play(sim, [Operation(0.5 + 0.7 * i, what) for i, what in enumerate(known)], until_s=6)
    s: State = sim.begin()
    for i, what in enumerate(known):
        s = sim.operate(sim.advance(s, 0.5 + 0.7 * i - s.time_s), what)
    end = timeline.frames[-1].time_s
    if end > s.time_s:
        s = sim.advance(s, end - s.time_s)
        assert frame(sim, s).on == timeline.frames[-1].on
    times = timeline.track.time_s
    assert times == sorted(times) and all(-1 <= v <= 101 for v in timeline.track.speed_pct)
    for span in timeline.spans:
        assert span.ends_s is None or span.ends_s > span.begins_s
    assert [f.time_s for f in timeline.frames] == sorted(f.time_s for f in timeline.frames)


def test_settling_lets_contactors_rest_and_timers_run() -> None:
    sim = Simulator(made("star_delta"), usual(1.0))
    s = settled(sim, sim.operate(sim.begin(), "press S2"), [])
    assert s.time_s < 0.2 and len(s.due) == 1  # the time relay is still on its way
    assert Engine(made()).at_rest() == Engine(made()).at_rest()
