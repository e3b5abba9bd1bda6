"""The supply network against hand calculation."""

from math import hypot, sqrt

import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import codes, iec, run
from volmek.core.plate.network import protective_section_mm2, split, transformer_prospective_current_a
from volmek.core.results.figures import Figure

TRANSFORMER = {"prospective_current_ka": None, "transformer_kva": 400, "transformer_uk_pct": 4}


def prospective(**supply: float) -> float:
    return (
        run(iec(supply={**TRANSFORMER, **supply}, protection={"device": "fuse_gg"})).supply.prospective_current_ka or 0
    )


def test_a_transformer_alone() -> None:
    # 400 kVA, 4 %: In = 577.4 A, Ik = 1.1 · 577.4 / 0.04 = 15.88 kA.
    assert prospective() == pytest.approx(15.877, abs=1e-3)
    assert transformer_prospective_current_a(400, 4, 400, 1.05) == pytest.approx(15155, abs=1)


def test_a_cable_to_the_board_adds_resistance_and_reactance() -> None:
    # Z = 400²·0.04/400e3 = 16 mΩ, R/X 1/3: R 5.06, X 15.18; 40 m of 70 mm²: R 10.57, X 3.2 mΩ.
    z = hypot(5.0596e-3 + 0.0185 * 40 / 70, 15.1789e-3 + 0.08e-3 * 40)
    assert prospective(supply_cable_length_m=40, supply_cable_section_mm2=70) == pytest.approx(
        1.1 * 0.4 / (sqrt(3) * z), rel=1e-4
    )


def test_running_motors_feed_back_only_above_one_per_cent() -> None:
    assert prospective(running_motors_current_a=150) == pytest.approx(prospective())
    assert prospective(running_motors_current_a=400) == pytest.approx(prospective() + 6 * 0.4)


def test_a_given_current_holds_at_the_board_whatever_cable_leads_there() -> None:
    given_one = run(iec(supply={"supply_cable_length_m": 100, "supply_cable_section_mm2": 10}))
    assert given_one.supply.prospective_current_ka == 10


def test_half_a_transformer_gives_no_current() -> None:
    d = run(iec(supply={**TRANSFORMER, "transformer_uk_pct": None}, protection={"device": "fuse_gg"}))
    assert d.supply.prospective_current_ka is None
    assert codes(d)["prospective_current_unknown"] == "attention"


@pytest.mark.parametrize(("section", "protective"), [(1.5, 1.5), (16, 16), (25, 16), (35, 16), (50, 25), (120, 60)])
def test_protective_conductors(section: float, protective: float) -> None:
    assert protective_section_mm2(section) == protective


def test_the_least_fault_current_by_hand() -> None:
    # 10 kA at the board: Z = 23.09 mΩ, R 7.30, X 21.91; 50 m of 4 mm² hot: 277.5 mΩ a conductor, X 4 mΩ.
    d = run(iec(supply={"cable_length_m": 50, "cable_section_mm2": 4}))
    r, x, line, reach = 7.3030e-3, 21.909e-3, 1.2 * 0.0185 * 50 / 4, 4e-3
    to_earth = 0.9 * 400 / sqrt(3) / hypot(r + 2 * line, x + 2 * reach)
    between = 0.9 * 400 / (2 * hypot(r + line, x + reach))
    assert to_earth < between
    assert d.figures["least_fault_current_a"].number == pytest.approx(to_earth, rel=1e-4)


def least(**supply: object) -> Figure:
    return run(iec(supply={"cable_length_m": 50, "cable_section_mm2": 4, **supply})).figures["least_fault_current_a"]


def test_a_second_fault_of_an_it_network_by_hand() -> None:
    # Two faults at the ends of two such cables: there and back twice, between two lines or between line and neutral.
    r, x, line, reach = 7.3030e-3, 21.909e-3, 1.2 * 0.0185 * 50 / 4, 4e-3
    loop = hypot(r + 2 * line, x + 2 * reach)
    assert least(system="it", neutral=False).number == pytest.approx(0.9 * 400 / (2 * loop), rel=1e-4)
    assert least(system="it", neutral=True).number == pytest.approx(0.9 * 400 / sqrt(3) / (2 * loop), rel=1e-4)
    assert "neutral taken as laid" in least(system="it").rule
    assert "the system is not given" in least().rule


def test_a_measured_loop_counts_for_the_earth_fault_and_proves_a_tt_network() -> None:
    # Loop of 2.1 Ω at the board, and 2 · 277.5 mΩ of hot cable: 0.9 · 230.9 / 2.66.
    for system in ("tn", "tt"):
        assert least(system=system, earth_loop_ohm=2.1).number == pytest.approx(
            0.9 * 400 / sqrt(3) / hypot(2.1 + 2 * 0.2775, 2 * 4e-3), rel=1e-4
        )
    tt = {"cable_length_m": 50, "cable_section_mm2": 4, "system": "tt"}
    unknown, measured = (codes(run(iec(supply={**tt, **more}))) for more in ({}, {"earth_loop_ohm": 2.1}))
    assert "tt_needs_rcd" in unknown and "tt_needs_rcd" not in measured
    assert measured["disconnection_too_slow"] == "stop"  # 0.07 s allowed at 230 V against a slow thermal part
    assert codes(run(iec(supply={**tt, "system": "it", "earth_loop_ohm": 2.1})))["earth_loop_unused"] == "attention"


@pytest.mark.parametrize(("system", "severity"), [("tn", "stop"), ("it", "stop"), ("tt", None)])
def test_the_earthing_system_decides_which_rule_is_asked(system: str, severity: str | None) -> None:
    found = codes(run(iec(supply={"cable_length_m": 250, "cable_section_mm2": 1.5, "system": system})))
    assert found.get("disconnection_too_slow") == severity
    assert ("tt_needs_rcd" in found) == (system == "tt")


@given(st.floats(1e-4, 1), st.floats(0, 3))
def test_an_impedance_is_split_without_loss(impedance: float, ratio: float) -> None:
    r, x = split(impedance, ratio)
    assert hypot(r, x) == pytest.approx(impedance)
    assert r == pytest.approx(ratio * x)


@given(st.floats(1, 500), st.floats(1, 500), st.sampled_from([10, 25, 70, 120]))
def test_a_longer_cable_never_gives_more_current(length: float, more: float, section: float) -> None:
    near = prospective(supply_cable_length_m=length, supply_cable_section_mm2=section)
    far = prospective(supply_cable_length_m=length + more, supply_cable_section_mm2=section)
    assert far < near < prospective()
