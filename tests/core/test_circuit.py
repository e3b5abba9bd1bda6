"""Circuits: netlist, ordinary sequences of every scheme, proofs that hold and proofs that can fail, mistakes, drawings."""

from collections.abc import Iterator
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from circuits import LAMPS, VARIANTS, coils, lit, made, script
from volmek.core.circuit.build.difference import difference
from volmek.core.circuit.drawing.control import draw_control
from volmek.core.circuit.drawing.layout import lay_out
from volmek.core.circuit.drawing.pen import CircuitDrawing
from volmek.core.circuit.drawing.power import draw_power
from volmek.core.circuit.faults.failures import failures
from volmek.core.circuit.faults.injection import damage
from volmek.core.circuit.faults.mistakes import mistakes
from volmek.core.circuit.kernel.dynamics import usual
from volmek.core.circuit.kernel.engine import Engine
from volmek.core.circuit.kernel.operations import operations
from volmek.core.circuit.kernel.operator import lamp_table
from volmek.core.circuit.kernel.power import PowerNet
from volmek.core.circuit.kernel.report import auxiliary_contacts, crowded_terminals
from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.kernel.state import Event
from volmek.core.circuit.kernel.timeline import Operation, play
from volmek.core.circuit.model.fitted import Fitted
from volmek.core.circuit.model.netlist import Circuit
from volmek.core.circuit.model.notation import parallel, parse_line, series
from volmek.core.circuit.proof.lamps import lie_of
from volmek.core.circuit.proof.rules import needs_mechanical, prove
from volmek.core.circuit.proof.story import timed
from volmek.core.circuit.schemes import circuit_of
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import parse
from volmek.core.views.circuit import rest_closed


def broken(circuit: Circuit, *faults: str) -> dict[str, list[str]]:
    d = damage(circuit, list(faults))
    return {p.rule: p.shortest or [] for p in prove(d.circuit, d.engine()) if not p.passed}


def test_the_notation_says_what_it_means() -> None:
    assert series("L", "", parallel("S2:3-4", "", "K1:13-14"), "r") == "L > (S2:3-4 | K1:13-14) > r"
    with pytest.raises(ValueError, match="bracket"):
        parse_line("L > (S2:3-4 | K1:13-14")
    with pytest.raises(ValueError, match="read"):
        parse_line("L > S2;3-4")
    c = made()
    joined = {frozenset(terminals) for _, terminals in c.nodes()}
    assert frozenset({"S1:2", "S2:3", "K1:13"}) in joined and frozenset({"K1:14", "S2:4", "K1:A1"}) in joined


@pytest.mark.parametrize("name", VARIANTS)
def test_every_rule_holds_on_every_scheme(name: str) -> None:
    """Over all inputs and all orders; no terminal has more than two conductors."""
    assert broken(VARIANTS[name]) == {}
    assert crowded_terminals(VARIANTS[name]) == []


def test_three_wire_holds_and_lets_go() -> None:
    say = script(
        made(**LAMPS),
        "press S2; release S2; wait 5; press S1; release S1; press S2; wait 1; release S2; trip F1; wait 1; reset F1; wait 1",
    )
    assert [coils(e) for e in say] == [
        {"K1"},
        {"K1"},
        {"K1"},
        set(),
        set(),
        {"K1"},
        {"K1"},
        {"K1"},
        set(),
        set(),
        set(),
        set(),
    ]
    assert lit(say[0]) == {"P1"} and lit(say[4]) == {"P2"} and lit(say[9]) == {"P3"} and lit(say[3]) == set()
    assert say[2]["motor"] == {"connection": "delta", "speed_pct": pytest.approx(97.6, abs=1), "direction": "forward"}
    assert say[2]["time_s"] == pytest.approx(5, abs=0.1)


@pytest.mark.parametrize(
    ("name", "order"), [("star_delta", ["K3", "K1"]), ("together", ["K1", "K3"]), ("star-delta relay", ["K3", "K1"])]
)
def test_star_delta_pulls_in_changes_over_and_measures_its_pause(name: str, order: list[str]) -> None:
    c = VARIANTS[name]
    say = script(c, "press S2; wait 0.5; release S2; wait 20; press S1")
    assert [e["device"] for e in say[0]["events"] if "pulls in" in e["words"]] == order
    assert say[0]["motor"]["connection"] == "star" and say[3]["motor"]["connection"] == "delta"
    assert coils(say[3]) == {"KT1", "K1", "K2"} and coils(say[4]) <= {"KT2"}
    gap = play(Simulator(c), [Operation(0.5, "press S2"), Operation(1, "release S2")]).gaps
    assert [(g.out, g.into) for g in gap] == [("K3", "K2")]
    assert gap[0].seconds == pytest.approx(0.05, abs=0.02)
    events = play(Simulator(c), [Operation(0.5, "press S2"), Operation(1, "release S2")]).events
    assert any(e.words.startswith("K2 pulls in, ") and e.words.endswith(" ms after K3 dropped out") for e in events)
    assert gap[0].words.startswith("K3 drops out, ") and gap[0].words.endswith("K2 pulls in")


def test_by_hand_the_button_says_how_long_it_stays_in_star() -> None:
    say = script(made("star_delta_manual"), "press S2; wait 4; release S2; wait 1; press S2; release S2")
    assert say[1]["motor"]["connection"] == "star" and say[3]["motor"]["connection"] == "delta"
    assert coils(say[4]) == {"K1", "K2"}  # pressing start again while it runs does nothing
    early = script(VARIANTS["by hand, guarded"], "press S2; wait 1; release S2; wait 1")
    assert coils(early[3]) == set()


def test_other_sequences_come_in_their_order() -> None:
    def pulled(name: str, text: str) -> list[str]:
        return [
            e["device"]
            for entry in script(VARIANTS[name], text)
            for e in entry["events"]
            if e["words"].endswith(("pulls in", "drops out"))
        ]

    assert pulled("star_delta_closed", "press S2; release S2; wait 15") == ["K3", "K1", "K4", "K3", "K2", "K4"]
    assert pulled("autotransformer", "press S2; release S2; wait 15") == ["K6", "K3", "K2", "K3", "K1", "K2"]
    assert pulled("rotor_resistance", "press S2; release S2; wait 30") == ["K1", "K2", "K3", "K4"]
    assert pulled("part_winding", "press S2; release S2; wait 15") == ["K1", "K2"]
    assert pulled("soft_starter", "press S2; release S2; wait 15; press S1; wait 10") == [
        "K6",
        "K1",
        "K2",
        "K6",
        "K2",
        "K1",
    ]
    low_high = script(
        VARIANTS["two_speed"],
        "press S2; release S2; wait 3; press S3; release S3; wait 3; press S1; release S1; press S3; release S3; wait 5",
    )
    assert low_high[2]["motor"]["connection"] == "low" and low_high[10]["motor"]["connection"] == "high"
    turns = script(
        VARIANTS["reversing with rest"],
        "wait 3; press S2; release S2; wait 3; press S3; release S3; wait 3; press S1; release S1; wait 4; press S3; release S3; wait 9",
    )
    assert [turns[3]["motor"]["direction"], turns[-1]["motor"]["direction"]] == ["forward", "reverse"]
    assert coils(turns[6]) == {"K1"}  # through stop and rest only


def test_ends_of_travel_stop_one_direction_and_let_the_other_start() -> None:
    c = VARIANTS["reversing at once"]
    say = script(
        c,
        "press S2; release S2; wait 2; open B3; wait 1; press S2; wait 1; release S2; press S3; release S3; wait 2; close B3; wait 1",
    )
    running = [sorted(k for k in coils(e) if k in ("K1", "K2")) for e in say]
    assert (
        running[2] == ["K1"]
        and running[4] == []
        and running[6] == []
        and running[10] == ["K2"]
        and running[12] == ["K2"]
    )


def test_maintained_contacts_stand_by_and_float() -> None:
    auto = VARIANTS["hand-off-auto"]
    say = script(
        auto, "press S4; release S4; turn S5 auto; close B1; wait 1; open B1; wait 1; turn S5 hand; wait 1; turn S5 off"
    )
    assert [("K1" in coils(e)) for e in say] == [False, False, False, True, True, False, False, True, True, False]
    standby = circuit_of(
        parse({"tag": "A", "control": {"standby": True}}), Fitted(times_s={"KT2": 2, "KT3": 3, "KT4": 5})
    )
    say = script(
        standby, "turn S5 ready; turn S6 stand-by; wait 3; wait 4; close B2; wait 1; open B2; wait 1; press S4; wait 1"
    )
    assert [("K1" in coils(e)) for e in say] == [False, False, False, False, True, True, True, True, False, False]
    assert "P6" in lit(say[3]) and "K7" not in coils(say[5])
    assert "restarts by itself" in standby.restart


def test_rotor_resistors_let_a_slip_ring_motor_up_in_steps() -> None:
    from volmek.core.catalogue.catalogue import reference_catalogue
    from volmek.core.circuit.simulated import simulated

    d = parse(
        {
            "tag": "A", "motor": {"rated_power_kw": 55, "frequency_hz": 50, "rated_voltage_delta_v": 400, "rated_current_delta_a": 101,
            "power_factor": 0.85, "efficiency_pct": 92.5, "rated_speed_rpm": 1470, "rotor_voltage_v": 310, "rotor_current_a": 110},
            "supply": {"line_voltage_v": 400, "frequency_hz": 50, "prospective_current_ka": 10}, "protection": {"device": "moulded_case_breaker"},
            "load": {"torque_pct": 60, "shape": "constant", "inertia_kgm2": 15}, "starter": {"type": "rotor_resistance", "first_stage_time_s": 9},
        }
    )  # fmt: skip
    sim = simulated(d, reference_catalogue()).simulator
    timeline = play(sim, [Operation(0.5, "press S2"), Operation(1, "release S2")])
    assert (
        1.6 < max(timeline.track.current[:12]) < 2.1
    )  # held near twice the rated current, not at the inrush of a cage motor
    at = {e.words: e.time_s for e in timeline.events}
    assert at["KT1 has run out"] == pytest.approx(9.54, abs=0.1)  # the time that was typed
    first = next(
        s for t, s in zip(timeline.track.time_s, timeline.track.speed_pct, strict=True) if t >= at["K2 pulls in"]
    )
    assert 50 < first < 80 and max(timeline.track.speed_pct) > 97


def test_a_four_wire_monitor_sees_the_neutral_and_a_three_wire_one_does_not() -> None:
    for wires, holds in (("three_wire", True), ("four_wire", False)):
        say = script(
            made(phase_monitor=wires, source="transformer", voltage_v=230),
            "press S2; release S2; wait 2; lose N; wait 1",
        )
        assert ("K1" in coils(say[4])) is holds


def test_a_lost_phase_with_and_without_a_monitor() -> None:
    with_monitor = script(
        made(phase_monitor="three_wire", **LAMPS), "press S2; release S2; wait 5; lose L3; wait 1; restore L3; wait 3"
    )
    assert coils(with_monitor[4]) == set() and coils(with_monitor[6]) == set()
    without = script(made(**LAMPS), "press S2; release S2; wait 5; lose L1; wait 1")
    assert coils(without[4]) == {"K1"}  # the motor feeds the lost phase back
    still = script(made(**LAMPS), "lose L1; press S2; wait 1; release S2")
    assert coils(still[2]) == set()
    other = script(made(control_phase="L2"), "lose L1; press S2; wait 1")
    assert coils(other[2]) == {"K1"} and other[2]["motor"]["direction"] == "none"
    behind = VARIANTS["monitor behind"]
    short = script(behind, "press S2; wait 0.05; release S2; wait 1")
    long = script(behind, "press S2; wait 1; release S2; wait 1; swap L1 L2; wait 1")
    assert "K1" not in coils(short[3]) and "K1" in coils(long[3]) and "K1" not in coils(long[5])


def test_low_voltage_holds_and_lets_drop() -> None:
    say = script(
        made(),
        "voltage 80; press S2; wait 1; release S2; voltage 100; press S2; release S2; voltage 70; wait 1; voltage 50; wait 1",
    )
    assert coils(say[2]) == set() and coils(say[8]) == {"K1"} and coils(say[10]) == set()


def test_the_relay_trips_a_motor_that_cannot_start() -> None:
    from volmek.core.physics.thermal import trip_class_edges

    stalled = usual(1e6, trip_class_edges("10").mean)
    log: list[Event] = []
    sim = Simulator(made(), stalled)
    s = sim.operate(sim.begin(), "press S2", log)
    s = sim.advance(s, 30, log)
    trip = next(e for e in log if e.kind == "trips")
    assert trip.time_s == pytest.approx(trip_class_edges("10").mean.trip_time_s(7.0), rel=0.05)
    assert not sim.live(s)


def broken_on_purpose() -> Iterator[tuple[str, Circuit, tuple[str, ...], str]]:
    """For every rule a circuit that breaks it."""
    direct, star = made(**LAMPS), VARIANTS["star_delta"]
    yield (
        "short",
        made("star_delta", mechanical_interlock=False),
        ("add K2:21 K2:22", "add K3:21 K3:22", "add KT1:17 KT1:18"),
        "no_power_short",
    )
    yield (
        "pair",
        made("star_delta", mechanical_interlock=False),
        ("add K2:21 K2:22", "add K3:21 K3:22", "add KT1:17 KT1:18"),
        "forbidden_pairs_exclusive",
    )
    yield "stop", direct, ("add S1:1 S1:2",), "stop_drops_all"
    yield "emergency stop", star, ("add S0:1 S0:2",), "emergency_stop_drops_all"
    yield "overload", direct, ("add F1:95 F1:96",), "overload_drops_all"
    yield "monitor", star, ("add F2:11 F2:14",), "phase_monitor_drops_all"
    yield "self start", direct, ("weld S2:3-4",), "no_self_start"
    yield "coil", star, ("remove K1:84 K2:A1",), "every_coil_reachable"
    yield "lamp", direct, ("exchange K1:21-22",), "lamps_truthful"
    yield "often built by hand", made("star_delta_manual", variant="as_often_built"), (), "forbidden_pairs_exclusive"
    yield "jog in the hold", made(jog="selector", variant="as_often_built"), (), "jog_drops_out"
    yield "hold from a pole", made(hold="power_pole", **LAMPS), (), "no_backfeed"
    yield (
        "pump as often built",
        made("single_phase_direct", variant="as_often_built", lamps=["running"]),
        (),
        "no_backfeed",
    )
    yield (
        "lying lamp of that pump",
        made("single_phase_direct", variant="as_often_built", lamps=["running"]),
        (),
        "lamps_truthful",
    )
    yield "return side", made(overload_contact="return_side", leaves_enclosure=False), (), "earth_fault_tolerant"


@pytest.mark.parametrize(
    ("circuit", "faults", "rule"), [pytest.param(c, f, r, id=n) for n, c, f, r in broken_on_purpose()]
)
def test_every_proof_can_fail_and_its_story_shows_it(circuit: Circuit, faults: tuple[str, ...], rule: str) -> None:
    d = damage(circuit, list(faults))
    proof = next(p for p in prove(d.circuit, d.engine()) if p.rule == rule)
    assert not proof.holds and proof.shortest is not None and proof.why
    sim = Simulator(d.circuit, usual(1.0), d.engine())
    for operation in timed(sim, proof):  # every operation of it can be done here
        sim.operate(sim.begin(), operation.do)


def test_a_story_is_the_shortest_and_replays() -> None:
    c = made("star_delta_manual", variant="as_often_built")
    proof = next(p for p in prove(c) if not p.holds)
    story = timed(Simulator(c), proof)
    assert [o.do for o in story] == ["press S2", "release S2", "press S2"]
    frames = play(Simulator(c), story).frames
    assert any({"K2", "K3"} <= set(f.on) for f in frames)
    assert needs_mechanical(c) == [("K2", "K3")]


MISTAKES = [
    ("far side of the hold", "direct", ("remove S2:3 K1:13", "add S2:4 K1:13"), "no seal-in path round the start button"),
    ("hold open", "direct", ("remove S2:3 K1:13",), "no seal-in path round the start button"),
    ("overload left out", "direct", ("add F1:95 F1:96",), "The contact of F1 is not in the circuit of K1"),
    ("overload exchanged", "direct", ("exchange F1:95-96",), "swapped at F1"),
    ("stop exchanged", "direct", ("exchange S1:1-2",), "swapped at S1"),
    ("monitor exchanged", "star", ("swap F2:14 F2:12",), "swapped at F2"),
    ("interlock", "star", ("add K2:21 K2:22",), "The interlock of K2 is missing in the circuit of K3"),
    ("star bridge", "star", ("remove K3:2 K3:4",), "star bridge"),
    ("delta mixed", "star", ("swap K2:2 K2:4",), "The delta links are mixed"),
    ("delta straight through", "star", ("swap K2:2 K2:4", "swap K2:2 K2:6"), "straight through"),
    ("phases at K1", "star", ("swap K1:1 K1:3",), "swapped at K1 only"),
    ("loop of the relay", "pump", ("add F1:3 F1:4",), "carries no current"),
    ("live and return", "direct", ("swap F3:2 X1:N",), "Live and return"),
    ("wrong direction", "direct", ("swap F1:2 F1:4",), "swapped on the way to the motor"),
    ("coil open", "direct", ("remove K1:14 S2:4", "remove S2:4 K1:A1"), "is open"),
]  # fmt: skip
FOR_MISTAKES = {"direct": made(**LAMPS), "star": VARIANTS["star_delta"], "pump": made("single_phase_direct")}


@pytest.mark.parametrize(("which", "faults", "words"), [pytest.param(w, f, s, id=n) for n, w, f, s in MISTAKES])
def test_mistakes_are_recognised_and_explained(which: str, faults: tuple[str, ...], words: str) -> None:
    design = FOR_MISTAKES[which]
    assert mistakes(design, damage(design, [])) == []
    found = mistakes(design, damage(design, list(faults)))
    assert any(words in m.what for m in found), [m.what for m in found]
    assert all(m.seen for m in found)


def test_exactly_two_delta_pairings_are_right() -> None:
    """Straight through nothing, mixed one winding dead; computed from the netlist, against the phasors by hand."""
    for links in ("common", "favourable"):
        net = PowerNet(made("star_delta", {"delta_links": links}))
        sim = Simulator(net.circuit)
        poles = frozenset(
            c.name for c in net.circuit.contacts if c.device in ("Q1", "K1", "K2", "F1") and c.side == "power"
        )
        state = net.state(poles, tuple((p, p) for p in net.sources))
        assert state.connection == "delta" and state.direction == "forward" and state.positive == pytest.approx(1)
        assert sorted(abs(v) for v in state.voltages.values()) == pytest.approx([1, 1, 1])
        assert sim.power.single is False


def test_an_autotransformer_gives_its_tap() -> None:
    for tap in (0.5, 0.65, 0.8):
        c = made("autotransformer", {"autotransformer_tap": tap})
        net = PowerNet(c)
        poles = frozenset(x.name for x in c.contacts if x.device in ("Q1", "K2", "K3", "F1") and x.side == "power")
        assert net.state(poles, tuple((p, p) for p in net.sources)).positive == pytest.approx(tap, rel=0.03)


def test_one_pole_less_turns_in_delta_and_not_in_star() -> None:
    c = damage(made("star_delta"), ["break U1"]).circuit
    net = PowerNet(c)
    poles = {
        k: frozenset(x.name for x in c.contacts if x.device in ("Q1", "K1", "F1", k) and x.side == "power")
        for k in ("K2", "K3")
    }
    present = tuple((p, p) for p in net.sources)
    assert (
        net.state(poles["K3"], present).direction == "none" and net.state(poles["K2"], present).direction == "forward"
    )


def test_the_single_failure_table_finds_what_hurts() -> None:
    table = {f.fault: f for f in failures(made("star_delta", emergency_stop=True, **LAMPS))}
    assert table["weld K1"].dangerous and "starts by itself" in table["weld K1"].effect.lower()
    assert table["weld F1:95-96"].dangerous and table["weld S0:1-2"].dangerous
    assert table["weld K2:21-22"].hidden and table["weld K3:21-22"].hidden
    assert not table["break 1"].dangerous and "does not start" in table["break 1"].effect.lower()
    assert "F3 trips" in table["earth 4"].effect
    lamps = {f.fault: f.effect for f in failures(VARIANTS["star_delta"])}
    assert any("P2 is not lit at rest" in e for e in lamps.values()) and any(
        "E1 is cold with the heater on" in e for e in lamps.values()
    )
    assert lamps["weld S7:13-14"] == "E1 is on at rest."
    interlocks = {f.fault for f in failures(VARIANTS["star_delta"]) if f.hidden}
    assert {"weld K2:21-22", "weld K3:21-22"} <= interlocks and not any(
        f.startswith(("break", "earth")) for f in interlocks
    )
    short = {f.fault: f for f in failures(made("star_delta_manual", variant="as_often_built"))}
    assert "short circuit" in short["weld K3:61-62"].effect.lower()


def test_faults_are_injected_or_refused_in_words() -> None:
    c = made(**LAMPS)
    welded = script(c, "press S2; release S2; wait 2; press S1; wait 1", "weld K1")
    assert welded[4]["motor"]["connection"] == "delta"
    one_pole = script(c, "press S2; release S2; wait 2; press S1; wait 1", "weld K1:5-6")
    assert one_pole[4]["motor"]["connection"] == "off" and "P2" not in lit(one_pole[4])
    earthed = script(c, "press S2; wait 1", "earth 3")
    assert any("F3 trips, before wire" in e["words"] for e in earthed[0]["events"] + earthed[1]["events"])
    split = script(c, "press S2; release S2", "break 4")
    assert coils(split[0]) == {"K1"} and coils(split[1]) == set()
    for bad in (
        "weld K9",
        "break 99",
        "earth 99",
        "swap F1:95",
        "remove K1:13 K1:14",
        "bend K1",
        "break 1/-1",
        "break 4/0",
        "break 4/",
        "set KT1 1_0",
    ):
        with pytest.raises(ProblemError) as caught:
            damage(c, [bad])
        assert caught.value.problems[0].field == "fault"


@pytest.mark.parametrize(
    "bad",
    [
        "press K1",
        "turn S2 on",
        "press",
        "wait -1",
        "wait 1_0",
        "wait 1e1",
        "trip F1 now",
        "wait long",
        "voltage 400",
        "lose L4",
        "swap L1 L1",
        "dance",
        "trip S1",
    ],
)
def test_operations_that_cannot_be_done_are_refused(bad: str) -> None:
    with pytest.raises(ProblemError) as caught:
        script(made(), bad)
    assert caught.value.problems[0].field == "do" and bad.split()[0] in caught.value.problems[0].message


def test_a_coil_through_its_own_break_contact_chatters_and_is_named() -> None:
    d = damage(made(), ["add S1:2 K1:21", "add K1:22 K1:A1"])
    timeline = play(Simulator(d.circuit, usual(1.0), d.engine()), [])
    assert "chatters" in timeline.events[-1].words and timeline.frames[-1].time_s < 5


def test_a_power_short_trips_the_main_breaker_and_says_where() -> None:
    say = script(made("star_delta", mechanical_interlock=False), "press S2; release S2; wait 20; push K3; wait 1")
    words = [e["words"] for entry in say for e in entry["events"]]
    assert any(w.startswith("Short circuit: L") and "K2 and K3" in w and "Q1 trips" in w for w in words)


@pytest.mark.parametrize(
    ("control", "more", "field"),
    [
        ({"overload_contact": "return_side"}, {"starter": {"type": "soft_starter"}}, "control.overload_contact"),
        ({"overload_contact": "before_coil"}, {"starter": {"type": "reversing"}}, "control.overload_contact"),
        ({"scheme": "two_wire", "standby": True}, {}, "control.standby"),
        ({"scheme": "two_wire"}, {"protection": {"reset": "automatic"}}, "protection.reset"),
        ({"scheme": "two_wire"}, {"starter": {"type": "reversing"}}, "control.scheme"),
        ({"jog": "relay"}, {"starter": {"type": "star_delta"}}, "control.jog"),
        ({"lamps": ["phase_fault"]}, {}, "control.lamps"),
        ({"monitor_position": "motor_side", "scheme": "two_wire"}, {}, "control.monitor_position"),
        ({"hold": "power_pole", "source": "transformer"}, {}, "control.hold"),
    ],
)
def test_options_that_contradict_each_other_are_refused(
    control: dict[str, Any], more: dict[str, Any], field: str
) -> None:
    with pytest.raises(ProblemError) as caught:
        circuit_of(parse({"tag": "A", "control": control, **more}))
    assert field in [p.field for p in caught.value.problems]


def test_lamp_table_contacts_and_difference() -> None:
    c = made("star_delta", **LAMPS)
    table = lamp_table(c)
    assert table["idle"] == {"P1": False, "P2": True, "P3": False} and table["tripped"] == {
        "P1": False,
        "P2": False,
        "P3": True,
    }
    assert auxiliary_contacts(c) == {"K1": {"no": 4, "nc": 1}, "K2": {"no": 0, "nc": 1}, "K3": {"no": 1, "nc": 1}}
    change = difference(made(), c)
    assert {"K2 Contactor", "K3 Contactor", "KT1 Star-delta relay", "P1 Lamp"} <= set(change.parts_added)
    assert change.added and change.kept > 0 and difference(c, c).added == []
    monitor = difference(made(), made(phase_monitor="three_wire"))
    assert (
        monitor.parts_added == ["F2 Phase monitor"]
        and len(monitor.moved) + len(monitor.added) + len(monitor.removed) <= 6
    )


@settings(max_examples=60)
@given(st.sampled_from([n for n in VARIANTS if "command" not in n]), st.data())
def test_no_operation_ever_joins_lines_or_makes_a_lamp_lie(name: str, data: st.DataObject) -> None:
    """Random operations, also within moments, on every undamaged scheme."""
    sim = Simulator(VARIANTS[name], usual(0.5))
    c, log = sim.circuit, list[Event]()
    possible = [f"{v} {b}" for b in c.of_kind("button", "emergency_stop") for v in ("press", "release")]
    possible += [f"turn {x} {p}" for x in c.of_kind("selector") for p in c.devices[x].positions]
    possible += [f"{v} {x}" for x in c.of_kind("overload") for v in ("trip", "reset")] + [
        "lose L1",
        "restore L1",
        "open F3",
        "close F3",
    ]
    possible += [f"{v} {x}" for x in c.of_kind("field") for v in ("open", "close")]
    possible = [p for p in possible if "L1" not in p or "L1" in c.sources]
    s = sim.begin()
    for operation in data.draw(st.lists(st.sampled_from(possible), min_size=3, max_size=12)):
        s = sim.operate(s, operation, log)
        s = sim.advance(s, data.draw(st.sampled_from([0.0, 0.01, 0.03, 0.2, 1.5, 7.0])), log)
        settled = sim.advance(s, 0.15, [])
        lie = lie_of(sim.engine, settled.positions, supplied=sim.supplied(settled))
        assert not lie or any(at < s.time_s + 0.3 for _, _, at in settled.due), lie
    assert not any(e.kind in ("short_circuit", "control_short", "chatters") for e in log)
    assert abs(s.speed) <= 1


def boxes(drawing: CircuitDrawing) -> list[tuple[str, float, float, float, float]]:
    """The extent of every word, by the width of an average letter."""
    found = []
    for m in drawing.marks:
        if m.shape.kind == "text":
            x, y = m.shape.points
            wide = 0.5 * m.shape.size * len(m.shape.text)
            left = {"start": x, "middle": x - wide / 2, "end": x - wide}[m.shape.anchor]
            found.append((m.shape.text, left, y - 0.7 * m.shape.size, left + wide, y))
    return found


@pytest.mark.parametrize("name", VARIANTS)
@pytest.mark.parametrize("style", ["columns", "ladder"])
def test_drawings_hold_everything_without_overlap(name: str, style: Any) -> None:
    c = VARIANTS[name]
    grid = lay_out(c)
    assert len({(p.path, p.level) for p in grid.placed}) == len(grid.placed)  # no symbol on another
    drawing = draw_control(c, style)
    drawn = {m.part for m in drawing.marks}
    assert {f"load:{x.device}" for x in c.loads} <= drawn
    wired = {f"contact:{x.name}" for x in c.contacts if x.side == "control" and c.number_of[x.terminals[0]]}
    assert wired <= drawn
    words = boxes(drawing)
    for i, (a, ax, ay, bx, by) in enumerate(words):
        for b, cx, cy, dx, dy in words[i + 1 :]:
            assert bx <= cx + 0.5 or dx <= ax + 0.5 or by <= cy + 0.5 or dy <= ay + 0.5, (a, b, ax, ay, cx, cy)
    power = draw_power(c, style)
    for d in (drawing, power):
        for m in d.marks:
            for x, y in zip(m.shape.points[::2][:1], m.shape.points[1::2][:1], strict=True):
                assert -1 <= x <= d.width + 1 and -1 <= y <= d.height + 1
    poles = {f"contact:{x.name}" for x in c.contacts if x.side == "power" and x.device.startswith("K")}
    assert poles <= {m.part for m in power.marks}
    assert set(rest_closed(c)) <= {x.name for x in c.contacts}


def test_engines_agree_with_a_plain_search() -> None:
    """Live coils by least ways are those of a flood through closed contacts, in random positions."""
    import random

    random.seed(7)
    for c in VARIANTS.values():
        e = Engine(c)
        for _ in range(30):
            positions = tuple(random.randrange(3) for _ in e.names)
            mask = e.closed(positions)

            def flood(starts: set[int], mask: int = mask, e: Engine = e) -> set[int]:
                seen, queue = set(starts), list(starts)
                while queue:
                    at = queue.pop()
                    for following, bit in e.edges[at]:
                        if mask >> bit & 1 and following not in seen:
                            seen.add(following)
                            queue.append(following)
                return seen

            front, back = flood(e.live), flood(e.back)
            if front & back:
                assert e.control_short(mask) and not e.live_loads(mask)
                continue
            expected = {x.device for x in e.loads if len({e.node[x.terminals[0]] in front, e.node[x.terminals[0]] in back}) == 2
                        and {e.node[t] in front for t in x.terminals} == {True, False} and {e.node[t] in back for t in x.terminals} == {True, False}}  # fmt: skip
            assert e.live_loads(mask) == expected
    assert list(operations("press S2;; wait 1\nrelease S2")) == ["press S2", "wait 1", "release S2"]
