"""Where the circuit and the sized starter meet: contacts and blocks, transformer, times, stories, settings."""

from typing import Any

import pytest

from circuits import VARIANTS, made
from samples import device, iec, run
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.circuit.faults.injection import damage
from volmek.core.circuit.kernel.report import run_script
from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.kernel.timeline import Operation, play
from volmek.core.circuit.needs import circuit_needs, pull_in_steps
from volmek.core.circuit.proof.rules import Proof, prove
from volmek.core.circuit.proof.story import counterexample, timed
from volmek.core.circuit.simulated import simulated
from volmek.core.document.model import parse
from volmek.core.views.circuit import circuit_view

CATALOGUE = reference_catalogue()
FAN: dict[str, Any] = iec(
    motor={"rated_power_kw": 37, "rated_current_delta_a": 66, "rated_current_star_a": 38.1, "power_factor": 0.86, "efficiency_pct": 93.9,
           "rated_speed_rpm": 1480, "locked_rotor_torque_ratio": 2.3, "breakdown_torque_ratio": 2.7},
    load={"start_time_s": None, "torque_pct": 82, "shape": "square", "inertia_kgm2": 6.2},
    starter={"type": "star_delta"}, protection={"device": "moulded_case_breaker"},
    control={"voltage_v": 230, "source": "transformer", "lamps": ["running", "stopped", "tripped"]},
)  # fmt: skip


def test_contactors_get_the_contacts_that_their_circuit_needs() -> None:
    d = run(FAN)
    line_contactor = device(d, "line_contactor").selected
    assert (line_contactor.auxiliary_needed_no, line_contactor.auxiliary_needed_nc) == (4, 1)
    assert line_contactor.auxiliary_block == "3 make"  # one of each is built in
    assert device(d, "delta_contactor").selected.auxiliary_block is None
    sheet = circuit_view(parse(FAN), CATALOGUE)
    row = next(a for a in sheet.auxiliary if a.designation == "K1")
    assert (row.no, row.nc, row.has_no, row.has_nc, row.block) == (4, 1, 1, 1, "block with 3 make")


def test_the_transformer_follows_the_simulated_steps() -> None:
    """Star first: K3 holds while K1 pulls in; together both pull in at once and ask for more."""
    first, together = run(FAN), run({**FAN, "starter": {"type": "star_delta", "star_sequence": "together"}})
    worst = [d.figures["control.worst_step_va"] for d in (first, together)]
    assert worst[1].number > worst[0].number
    assert "K1 and K3 pull in" in worst[1].label and "simulated circuit" in worst[0].rule


@pytest.mark.parametrize(
    ("scheme", "steps"),
    [
        ("direct_on_line", ("K1",)),
        ("reversing", ("K1", "", "K2")),
        ("star_delta", ("K3", "K1 K3", "K1", "K1 K2")),
        ("star_delta_closed", ("K3", "K1 K3", "K1 K3 K4", "K1 K4", "K1 K2 K4", "K1 K2")),
        ("autotransformer", ("K3", "K2 K3", "K2", "K1 K2", "K1")),
        ("rotor_resistance", ("K1", "K1 K2", "K1 K2 K3", "K1 K2 K3 K4")),
        ("part_winding", ("K1", "K1 K2")),
        ("two_speed", ("K1", "", "K2")),
        ("manual", ()),
    ],
)
def test_pull_in_orders_come_from_operating_the_circuit(scheme: str, steps: tuple[str, ...]) -> None:
    assert circuit_needs(parse({"tag": "A", "starter": {"type": scheme}}))[1] == steps


def test_what_a_circuit_needs_is_kept_for_like_documents_and_not_for_others() -> None:
    one, same = parse({"tag": "A"}), parse({"tag": "B", "motor": {"rated_power_kw": 4}})
    other = parse({"tag": "A", "control": {"lamps": ["running"]}})
    assert circuit_needs(one) is circuit_needs(same)
    assert circuit_needs(other)[0]["K1"]["no"] == circuit_needs(one)[0]["K1"]["no"] + 1


def test_the_live_circuit_has_the_times_the_relay_and_the_motor_of_the_design() -> None:
    d = run(FAN)
    it = simulated(parse(FAN), CATALOGUE)
    assert d.start.star_time_s and it.circuit.devices["KT1"].time_s == d.start.star_time_s
    timeline = play(it.simulator, [Operation(0.5, "press S2"), Operation(1.0, "release S2")])
    star = next(s for s in timeline.spans if s.name == "K3")
    assert star.ends_s and star.ends_s - star.begins_s == pytest.approx(d.start.star_time_s, abs=0.05)
    at = min(range(len(timeline.track.time_s)), key=lambda i: abs(timeline.track.time_s[i] - star.ends_s))
    assert timeline.track.speed_pct[at] == pytest.approx(d.start.changeover_speed_pct, abs=1.5)
    assert 0 < max(timeline.track.heat_pct) < 100  # the relay that was chosen lets this start pass


def test_a_relay_that_is_too_quick_trips_in_the_circuit_too() -> None:
    reason = [{"role": "overload_relay", "trip_class": "5E", "reason": "what lies in the store"}]
    slow = {**FAN, "load": {**FAN["load"], "inertia_kgm2": 40}, "overrides": reason}
    assert any(f.code == "trip_class_too_fast" for f in run(slow).findings)
    timeline = play(
        simulated(parse(slow), CATALOGUE).simulator, [Operation(0.5, "press S2"), Operation(1.0, "release S2")]
    )
    assert any("F1 trips on overload" in e.words for e in timeline.events) and timeline.frames[-1].connection == "off"


def test_settings_of_the_monitor_count_in_the_circuit() -> None:
    slow = {
        **FAN,
        "control": {**FAN["control"], "phase_monitor": "three_wire"},
        "monitor": {"loss_delay_s": 3, "on_delay_s": 6},
    }
    operations = [
        Operation(0.5, "press S2"),
        Operation(1, "release S2"),
        Operation(5, "lose L3"),
        Operation(12, "restore L3"),
    ]
    words = {e.words: e.time_s for e in play(simulated(parse(slow), CATALOGUE).simulator, operations).events}
    assert words["F2 drops out: the phases are not healthy"] == pytest.approx(8, abs=0.05)
    assert words["F2 sees healthy phases"] == pytest.approx(18, abs=0.05)


def test_without_a_plate_the_circuit_is_there_with_usual_times() -> None:
    it = simulated(parse({"tag": "A", "starter": {"type": "star_delta"}}), CATALOGUE)
    assert it.built is None and it.circuit.devices["KT1"].time_s == 6.0
    sheet = circuit_view(parse({"tag": "A", "starter": {"type": "manual"}}), CATALOGUE)
    assert sheet.control is None and sheet.lamps == [] and "restarts by itself" in sheet.restart


def test_a_motor_breaker_that_protects_stands_where_the_relay_would() -> None:
    """No relay is wired anywhere: the breaker's own contacts open the chain and tell of the trip."""
    it = simulated(
        parse(iec(control={"lamps": ["tripped"], "tap": "before_main", "phase_monitor": "three_wire"})), CATALOGUE
    )
    assert "F1" not in it.circuit.devices and it.circuit.overloads == ["Q1"]
    names = {c.name for c in it.circuit.contacts}
    assert {"Q1:13-14", "Q1:97-98"} <= names
    say = run_script(it.simulator, "press S2; release S2; wait 1; trip Q1; wait 1; reset Q1; wait 1")
    assert [e["coils"]["K1"] for e in say] == [True, True, True, False, False, False, False]
    assert say[3]["lamps"]["P3"] and say[3]["motor"]["connection"] == "off"
    # F1 is the name of the overload protection in scripts.
    assert run_script(it.simulator, "press S2; release S2; wait 1; trip F1")[-1]["coils"]["K1"] is False


LAMP_CODES = {
    "run_green": ("green", "red", "amber"),
    "machine": ("green", "white", "amber"),
    "live_red": ("red", "green", "amber"),
}


@pytest.mark.parametrize("code", LAMP_CODES)
def test_lamp_colours_by_code(code: str) -> None:
    d = {**FAN, "control": {**FAN["control"], "lamp_code": code}}
    assert tuple(lamp.colour for lamp in circuit_view(parse(d), CATALOGUE).lamps) == LAMP_CODES[code]


@pytest.mark.parametrize("faults", [("add S1:1 S1:2",), ("add F1:95 F1:96",), ("weld S2:3-4",), ("exchange K1:21-22",)])
def test_stories_of_broken_rules_show_what_they_say(faults: tuple[str, ...]) -> None:
    d = damage(VARIANTS["direct_on_line"], list(faults))
    for proof in [p for p in prove(d.circuit, d.engine()) if not p.holds]:
        story = timed(Simulator(d.circuit, with_engine=d.engine()), proof)
        assert [o.at_s for o in story] == sorted(o.at_s for o in story)
        told = [s for s in proof.shortest or [] if not s.startswith(("wait", "earth"))]
        assert [o.do for o in story] == told


def test_a_story_of_nothing_is_empty() -> None:
    assert timed(Simulator(made()), Proof("every_coil_reachable", "", False, [])) == []


@pytest.mark.parametrize("name", VARIANTS)
def test_contactors_pull_in_alike_whether_the_motor_turns_or_stands(name: str) -> None:
    circuit = VARIANTS[name]
    if not circuit.single_phase:
        assert pull_in_steps(circuit) == pull_in_steps(circuit, turns=True) != ()


@pytest.mark.parametrize(
    ("variant", "fault", "rule"),
    [
        ("direct_on_line", "add S1:1 S1:2", "stop_drops_all"),
        ("direct_on_line", "add F1:95 F1:96", "overload_drops_all"),
        ("two-wire", "weld S4:3-4", "no_self_start"),
        ("reversing", "add K1:21 K1:22", "forbidden_pairs_exclusive"),
    ],
)
def test_a_counterexample_replays_as_it_is_printed(variant: str, fault: str, rule: str) -> None:
    d = damage(VARIANTS[variant], [fault])
    simulator = Simulator(d.circuit, with_engine=d.engine())
    proof = next(p for p in prove(d.circuit, d.engine()) if p.rule == rule)
    script = counterexample(simulator, proof)
    told = run_script(simulator, "; ".join(script))
    coils = [{k for k in d.circuit.power_contactors if e["coils"][k]} for e in told]
    if rule == "no_self_start":
        assert set() in coils[:-1] and coils[-1], "out, and in again though nobody pressed anything"
        assert not any(step.startswith("press") for step in script)
    elif rule == "forbidden_pairs_exclusive":
        assert {"K1", "K2"} in coils
    else:
        assert coils[-1], "still in"


def test_a_pause_is_exact_and_settles_nothing() -> None:
    sim = Simulator(made())
    settles, race = run_script(sim, "press S2; release S2"), run_script(sim, "press S2; pause 0.025; release S2")
    assert settles[-1]["coils"] == {"K1": True}
    assert [e["time_s"] for e in race] == [0.0, 0.025, 0.025]
    assert race[-1]["coils"] == {"K1": False}, "let go before the seal-in contact closed"
