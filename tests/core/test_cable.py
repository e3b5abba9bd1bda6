"""The motor cable by hand: capacity, dial for each lead, voltage drop."""

from math import sqrt
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import codes, device, iec, merged, nec, run, single_phase, stops
from volmek.core.devices.cable import cable_factor, voltage_drop_v
from volmek.core.installation.motor_cable import MotorCable
from volmek.core.methods import METHODS
from volmek.core.methods.cable_choice import AGAINST
from volmek.data.loader import standard

SECTIONS = [r["section_mm2"] for r in standard("cable_current_capacity_copper_iec")]


def cable(**supply: Any) -> Any:
    return device(run(iec(supply=supply, protection={"device": "fuse_gg"})), "motor_conductor")


def test_the_smallest_section_that_carries_motor_and_dial() -> None:
    # PVC in conduit (B2): 1.5 mm² carries 15 A, 14.4 A are needed; at 40 °C 0.87·15 = 13.05 A, so 2.5 mm² (17.4 A).
    assert cable().selected.section_mm2 == 1.5
    assert cable(cable_ambient_c=40).selected.section_mm2 == 2.5
    assert cable(cable_ambient_c=40, cable_method="e").selected.section_mm2 == 1.5  # 18.5·0.87 = 16.1 A
    assert cable(cable_grouping=3).selected.section_mm2 == 4  # 27·0.7 = 18.9; 20·0.7 = 14.0 is too little
    assert cable(cable_insulation="xlpe", cable_grouping=3).selected.section_mm2 == 2.5  # 26·0.7 = 18.2


def test_six_star_delta_leads_carry_less_but_warm_each_other() -> None:
    d = run(
        iec(
            starter={"type": "star_delta"},
            motor={"rated_power_kw": 30, "rated_current_delta_a": 55},
            protection={"device": "fuse_gg"},
        )
    )
    wire = device(d, "motor_conductor")
    assert wire.required.current_a == pytest.approx(0.576 * 55, rel=2e-3)
    assert wire.selected.section_mm2 == 10  # 46·0.8 = 36.8 A; 6 mm²: 34·0.8 = 27.2 A
    assert wire.selected.rated_current_a == pytest.approx(36.8)


def test_a_typed_section_is_judged_not_changed() -> None:
    small = run(iec(motor={"rated_current_delta_a": 16}, supply={"cable_section_mm2": 1.5}))
    assert device(small, "motor_conductor").selected.section_mm2 == 1.5
    assert codes(small)["cable_too_small"] == "stop"
    odd = run(iec(supply={"cable_section_mm2": 3}))
    assert "3 mm² is not a size" in stops(odd)["supply.cable_section_mm2"]
    assert device(odd, "motor_conductor").selected.section_mm2 == 2.5


def test_voltage_drop_by_hand() -> None:
    # √3·14.4·(0.0225·50/2.5·0.83 + 0.08e-3·50·0.558) = 9.37 V, 2.3 % of 400 V; at the start cosφ 0.35.
    d = run(iec(supply={"cable_length_m": 50, "cable_section_mm2": 2.5}))
    assert d.figures["voltage_drop_running_pct"].number == pytest.approx(2.34, abs=0.01)
    start = sqrt(3) * 103.68 * (0.45 * 0.35 + 0.004 * sqrt(1 - 0.35**2)) / 4
    assert d.figures["voltage_drop_starting_pct"].number == pytest.approx(start)
    # Six leads: out and back at 0.577 of the current is 2/√3·In against √3·In.
    six = run(iec(starter={"type": "star_delta"}, supply={"cable_length_m": 50, "cable_section_mm2": 2.5}))
    assert six.figures["voltage_drop_running_pct"].number == pytest.approx(2 / 3 * 2.34, abs=0.01)
    # In star a third of the current goes out through three leads and comes back through the other three.
    assert six.figures["voltage_drop_starting_pct"].number == pytest.approx(2 / 3 * start)
    # A transformer before the cable: the motor draws k times its current, at k times its voltage.
    tapped = run(
        iec(
            starter={"type": "autotransformer", "autotransformer_tap": 0.65},
            supply={"cable_length_m": 50, "cable_section_mm2": 2.5},
        )
    )
    assert tapped.figures["voltage_drop_starting_pct"].number == pytest.approx(start)
    assert voltage_drop_v(14.4, MotorCable(2.5, 2), 50, 0.83, three_phase=True) == pytest.approx(9.37 / 2, abs=0.01)


def test_one_phase_uses_the_columns_of_two_loaded_conductors() -> None:
    result = run(single_phase(supply={"cable_section_mm2": 1.5}))
    wire = device(result, "motor_conductor")
    assert wire.selected.rated_current_a == 16.5
    assert next(i for i in result.line_up if i.key == wire.designation).symbol == "cable.2"
    assert device(run(nec()), "motor_conductor").selected.size == "6 AWG", "North American practice has its own table"


@pytest.mark.parametrize("method", [m for m in METHODS if m != "manual" and not m.startswith("single")])
@pytest.mark.parametrize(
    "supply",
    [{}, {"cable_length_m": 20}, {"cable_length_m": 160}, {"cable_length_m": 400, "prospective_current_ka": 3}],
)
def test_the_proposed_cable_is_the_smallest_that_passes_every_check(method: str, supply: dict[str, Any]) -> None:
    motor = {
        "rotor_voltage_v": 310,
        "rotor_current_a": 16,
        "low_speed_current_a": 9.0,
        "low_speed_rpm": 970,
        "rated_speed_rpm": 1465,
    }
    data = iec(starter={"type": method}, motor=motor, supply=supply, protection={"device": "moulded_case_breaker"})
    proposed = run(data)
    section = device(proposed, "motor_conductor").selected.section_mm2
    assert not AGAINST & codes(proposed).keys() and section
    smaller = [a for a in SECTIONS if a < section]
    if smaller:
        typed = merged(data, {"supply": {"cable_section_mm2": smaller[-1]}})
        assert AGAINST & codes(run(typed)).keys(), (section, smaller[-1])


def test_cables_in_parallel_share_current_and_drop() -> None:
    large = {
        "rated_power_kw": 315,
        "rated_current_delta_a": 545,
        "rated_speed_rpm": 1488,
        "power_factor": 0.88,
        "efficiency_pct": 96,
    }
    wire = device(
        run(iec(motor=large, supply={"prospective_current_ka": 30}, protection={"device": "moulded_case_breaker"})),
        "motor_conductor",
    )
    assert (wire.selected.type, wire.selected.parallel) == ("2 × 240 mm² Cu", 2)
    one, two = (run(iec(supply={"cable_length_m": 80, "cable_section_mm2": 2.5, "cable_parallel": n})) for n in (1, 2))
    drops = [x.figures["voltage_drop_running_pct"].number for x in (one, two)]
    assert drops[0] == pytest.approx(2 * drops[1])
    assert two.figures["least_fault_current_a"].number > one.figures["least_fault_current_a"].number


@given(st.floats(-10, 60), st.integers(1, 20), st.sampled_from(["pvc", "xlpe"]))
def test_warmer_and_fuller_never_carries_more(ambient: float, circuits: int, insulation: str) -> None:
    here = cable_factor(insulation, ambient, circuits, 3)
    assert cable_factor(insulation, min(ambient + 5, 60), circuits, 3) <= here
    assert cable_factor(insulation, ambient, min(circuits + 1, 20), 3) <= here
    assert cable_factor(insulation, ambient, circuits, 6) < here
