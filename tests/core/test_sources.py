"""Supply, control source and what follows from them: every place says the same, in the unusual cases too."""

from math import sqrt
from typing import Any

import pytest

from samples import codes, device, iec, merged, nec, run, single_phase, stops
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.circuit.build.plan import build_plan
from volmek.core.circuit.drawing.control import draw_control
from volmek.core.circuit.kernel.report import run_script
from volmek.core.circuit.proof.rules import Proof, prove
from volmek.core.circuit.simulated import SimulatedStarter, simulated
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import parse
from volmek.core.installation.control import against_earth_v, control_source, reading_words
from volmek.core.installation.supply import supply_system
from volmek.core.plate.network import transformer_prospective_current_a

CATALOGUE = reference_catalogue()
FUSED = {"device": "fuse_gg"}
OUTSIDE = {"source": "separate", "voltage_v": 24, "kind": "dc", "phase_monitor": "three_wire"}


def of(**parts: Any) -> SimulatedStarter:
    return simulated(parse(iec(protection=FUSED, **parts)), CATALOGUE)


def proofs(it: SimulatedStarter) -> dict[str, Proof]:
    return {p.rule: p for p in prove(it.circuit, it.simulator.engine)}


def coil(it: SimulatedStarter, script: str) -> list[bool]:
    return [e["coils"]["K1"] for e in run_script(it.simulator, script)]


def test_a_supply_of_its_own_has_its_own_rails_colour_and_loss() -> None:
    it = of(control=OUTSIDE)
    c = it.circuit
    assert [r.name for r in c.source.rails] == ["L+", "M"] and c.source.lost_with == ("C",)
    words = [m.shape.text for m in draw_control(c, "columns").marks if m.shape.kind == "text"]
    assert {"L+", "M", "⚠ Control circuit live with Q1 off"} <= set(words) and not {"L1", "N"} & set(words)
    document = parse(iec(control=OUTSIDE, protection=FUSED))
    control = [w for w in build_plan(it, document).wires if w.side == "control" and "F2:L" not in w.key]
    assert {w.colour for w in control} == {"orange"}
    # A line lost does not block the control circuit; its own supply lost does.
    start = "press S2; release S2; wait 1; "
    assert coil(it, start + "lose L1; wait 0.05")[-1] and not coil(it, start + "lose C")[-1]
    found = run(iec(control=OUTSIDE, protection=FUSED))
    assert codes(found)["control_live_with_main_off"] == "attention"
    assert device(found, "control_breaker").selected.poles == 2


def test_a_transformer_that_is_earthed_in_its_middle_has_two_live_ends() -> None:
    centre = {"source": "transformer", "voltage_v": 110, "earthed": True, "earthed_point": "centre"}
    it, document = of(control=centre), parse(iec(control=centre, protection=FUSED))
    assert [(r.name, r.live) for r in it.circuit.source.rails] == [("s1", True), ("s2", True)]
    plan = build_plan(it, document)
    assert plan.stages[0].steps[0].sees == ("F3:2, F3:4: about 55 V to earth",)
    assert [w.b for w in plan.wires if w.number == "PE" and w.b.startswith("T1")] == ["T1:s0"]
    # Half the voltage holds a coil that is in: the stop is by-passed by an earth fault behind it.
    assert proofs(it)["earth_fault_tolerant"].holds is False
    end = of(control={**centre, "earthed_point": "end"})
    assert proofs(end)["earth_fault_tolerant"].holds and [r.live for r in end.circuit.source.rails] == [True, False]
    found = run(iec(control=centre, protection=FUSED))
    assert device(found, "control_breaker").selected.poles == 2 and "centre earthed" in found.control.words
    for other in ({"earthed": False}, {"source": "power_unit", "kind": "dc"}):
        with pytest.raises(ProblemError, match=r"control\.earthed_point"):
            of(control={**centre, **other})


@pytest.mark.parametrize("tap", ["behind_main", "before_main"])
def test_the_main_breaker_feeds_the_control_circuit_or_stands_in_its_chain(tap: str) -> None:
    it = of(control={"tap": tap, "phase_monitor": "three_wire"}, supply={"neutral": True})
    assert coil(it, "press S2; release S2; wait 1; open Q1; wait 1; close Q1; wait 3") == [
        True,
        True,
        True,
        False,
        False,
        False,
        False,
    ]
    names = {c.name for c in it.circuit.contacts}
    assert ("Q1:13-14" in names) == (tap == "before_main")
    taps = {w.a for w in it.circuit.feed if "F3:1" in (w.a, w.b)}
    assert taps == ({"Q1:1"} if tap == "before_main" else {"F2:L1"})


def test_a_control_circuit_that_outlives_the_power_needs_its_monitor() -> None:
    bare = of(control={"source": "separate", "voltage_v": 24})
    proof = proofs(bare)["no_self_start"]
    assert proof.holds is False and not proof.declared and proof.shortest
    say = run_script(bare.simulator, "; ".join(proof.shortest))
    assert say[-1]["motor"]["connection"] != "off", "the motor starts by itself when power returns"
    assert proofs(of(control=OUTSIDE))["no_self_start"].holds
    meant = of(control={"source": "separate", "voltage_v": 24, "restart_harmless": "a fan in the open air"})
    declared = proofs(meant)["no_self_start"]
    assert declared.declared and "open air" in declared.why


@pytest.mark.parametrize(
    ("control", "supply", "kind", "feeds"),
    [
        ({"voltage_v": 230}, {"neutral": True}, "line_neutral", ("L1", "N")),
        ({"voltage_v": 230}, {"neutral": False}, "transformer", ("L1", "L2")),
        ({"voltage_v": 400}, {}, "two_lines", ("L1", "L2")),
        ({"voltage_v": 24}, {"neutral": True}, "transformer", ("L1", "L2")),
        ({"voltage_v": 24, "kind": "dc"}, {}, "power_unit", ("L1", "L2")),
        ({"voltage_v": 230, "control_phase": "L3"}, {"neutral": True}, "line_neutral", ("L3", "N")),
        ({}, {"neutral": True}, "unknown", ("L1", "N")),
    ],
)
def test_a_source_that_is_not_said_is_worked_out(
    control: dict[str, Any], supply: dict[str, Any], kind: str, feeds: tuple[str, ...]
) -> None:
    d = parse({"tag": "A", "supply": {"line_voltage_v": 400, **supply}, "control": control})
    source = control_source(d)
    assert (source.kind, source.feeds) == (kind, feeds) and source.reason


def test_a_voltage_that_the_source_cannot_give_stops_at_the_field() -> None:
    found = next(
        f
        for f in run(iec(control={"voltage_v": 24, "source": "common"}, supply={"neutral": True})).findings
        if f.code == "control_voltage_not_there"
    )
    assert found.severity == "stop" and found.field == "control.source"


def test_nothing_is_laid_while_the_control_supply_is_not_decided() -> None:
    document = parse(iec(control={"voltage_v": None}, protection=FUSED))
    plan = build_plan(simulated(document, CATALOGUE), document)
    assert not [w for w in plan.wires if "F3:1" in w.key]


def test_between_two_lines_both_rails_are_live_everywhere() -> None:
    it = of(control={"voltage_v": 400}, supply={"system": "tn"})
    c = it.circuit
    assert c.source.both_live and c.source.rails[1].number not in ("0", "N") and c.sources["0"] == "F3:4"
    assert "X1:N" not in c.node_of and {"F3:1-2", "F3:3-4"} <= {x.name for x in c.contacts}
    document = parse(iec(control={"voltage_v": 400}, supply={"system": "tn"}, protection=FUSED))
    plan = build_plan(simulated(document, CATALOGUE), document)
    supply = plan.stages[0].steps[0]
    assert (
        "F3:4" in " ".join(supply.sees)
        and "0 V" not in " ".join(supply.sees)
        and "231 V to earth" in " ".join(supply.sees)
    )
    assert supply.state["F3:4"] == "live"


@pytest.mark.parametrize("system", ["tn", None])
def test_an_earth_fault_between_two_lines_is_judged_by_the_network(system: str | None) -> None:
    """Choosing unearthed for what is taken from an earthed network changes nothing."""
    for earthed in (None, False):
        it = of(control={"voltage_v": 400, "earthed": earthed}, supply={"system": system})
        assert it.circuit.earthed and proofs(it)["earth_fault_tolerant"].holds is False
    unearthed = of(control={"voltage_v": 400}, supply={"system": "it"})
    assert not unearthed.circuit.earthed and "earth_fault_tolerant" not in proofs(unearthed)


SINGLE: list[tuple[dict[str, Any], str, tuple[str, ...], float]] = [
    ({"line_voltage_v": 230}, "single_phase", ("L1", "N"), 230),
    ({"line_voltage_v": 400}, "three_phase_4w", ("L1", "N"), 400 / sqrt(3)),
    ({"line_voltage_v": 230, "system": "it"}, "two_lines", ("L1", "L2"), 230),
    ({"line_voltage_v": 230, "conductors": "two_lines"}, "two_lines", ("L1", "L2"), 230),
    ({"line_voltage_v": 460, "conductors": "split_phase"}, "split_phase", ("L1", "N"), 230),
]


@pytest.mark.parametrize(("supply", "conductors", "taken", "volts"), SINGLE)
def test_a_single_phase_supply_has_its_conductors(
    supply: dict[str, Any], conductors: str, taken: tuple[str, ...], volts: float
) -> None:
    d = parse(merged({"tag": "A", "motor": {"phases": 1, "rated_voltage_v": 230}}, {"supply": supply}))
    s = supply_system(d)
    assert (s.conductors, s.taken) == (conductors, taken) and s.motor_voltage_v == pytest.approx(volts)


@pytest.mark.parametrize(
    ("volts", "conductors"), [(120, "single_phase"), (240, "split_phase"), (208, "two_lines"), (480, "two_lines")]
)
def test_north_american_single_phase_supplies(volts: float, conductors: str) -> None:
    d = parse(
        {
            "tag": "A",
            "practice": "nec",
            "motor": {"phases": 1, "rated_voltage_v": volts},
            "supply": {"line_voltage_v": volts},
        }
    )
    assert supply_system(d).conductors == conductors


def test_a_pump_on_line_and_neutral_is_that_in_every_place() -> None:
    document = parse(
        single_phase(
            supply={
                "line_voltage_v": 230,
                "neutral": None,
                "transformer_kva": 25,
                "transformer_uk_pct": 4,
                "prospective_current_ka": None,
            }
        )
    )
    it = simulated(document, CATALOGUE)
    c = it.circuit
    assert c.conductors == ("L1", "N") and [r.name for r in c.source.rails] == ["L1", "N"]
    assert "no_backfeed" not in proofs(it) or proofs(it)["no_backfeed"].holds
    plan = build_plan(it, document)
    assert {w.colour for w in plan.wires if w.a == "supply:N"} == {"blue"}
    design = run(document.to_json())
    assert "control_line_to_line" not in codes(design)
    # 25 kVA, 4 %, 230 V, one phase: 1.1 · 25000 / (230 · 0.04)
    assert design.supply.prospective_current_ka == pytest.approx(1.1 * 25 / (230 * 0.04), rel=1e-6)


def test_prospective_current_by_the_system() -> None:
    three = transformer_prospective_current_a(250, 4, 400)
    two = run(
        single_phase(
            motor={"rated_voltage_v": 400},
            supply={"transformer_kva": 250, "transformer_uk_pct": 4, "prospective_current_ka": None},
        )
    )
    assert two.supply.prospective_current_ka == pytest.approx(three * sqrt(3) / 2 / 1000)


def test_conductors_that_contradict_the_motor_stop() -> None:
    assert "three lines" in stops(run(iec(supply={"conductors": "single_phase"})))["supply.conductors"]
    assert "North American" in stops(run(iec(supply={"system": "corner"})))["supply.system"]


@pytest.mark.parametrize(
    ("system", "expected"),
    [("earthed_star", (277, 277)), ("corner", (480, 0)), ("high_leg", (240, 416)), ("ungrounded", (None, None))],
)
def test_rails_against_earth_by_the_earthing(system: str, expected: tuple[float | None, float | None]) -> None:
    d = parse(nec(control={"voltage_v": 480, "source": "common"}, supply={"system": system}))
    s = supply_system(d)
    found = [against_earth_v(control_source(d, s), s, k)[0] for k in (0, 1)]
    assert [None if v is None else round(v) for v in found] == list(expected)
    assert ("not defined" in reading_words((found[0],), "L2")) == (expected[0] is None)
