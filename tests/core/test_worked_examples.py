"""Whole starters worked by hand: what a fitter would write on the door, figure by figure."""

from typing import Any

import pytest

from samples import device, iec, nec, run

PLATES: dict[str, dict[str, Any]] = {
    # kW, A in delta on 400 V, cosφ, η, Ia/In of usual IE3 motors.
    "1.1": {
        "rated_power_kw": 1.1,
        "rated_current_delta_a": 2.45,
        "power_factor": 0.77,
        "efficiency_pct": 84.1,
        "locked_rotor_current_ratio": 6.2,
        "rated_speed_rpm": 1435,
    },
    "5.5": {
        "rated_power_kw": 5.5,
        "rated_current_delta_a": 10.8,
        "power_factor": 0.82,
        "efficiency_pct": 89.6,
        "locked_rotor_current_ratio": 7.0,
        "rated_speed_rpm": 1460,
    },
    "22": {
        "rated_power_kw": 22,
        "rated_current_delta_a": 40.6,
        "power_factor": 0.84,
        "efficiency_pct": 93.0,
        "locked_rotor_current_ratio": 7.0,
        "rated_speed_rpm": 1475,
    },
    "75": {
        "rated_power_kw": 75,
        "rated_current_delta_a": 132,
        "power_factor": 0.86,
        "efficiency_pct": 95.0,
        "locked_rotor_current_ratio": 7.0,
        "rated_speed_rpm": 1485,
    },
    "200": {
        "rated_power_kw": 200,
        "rated_current_delta_a": 345,
        "power_factor": 0.87,
        "efficiency_pct": 95.8,
        "locked_rotor_current_ratio": 7.0,
        "rated_speed_rpm": 1488,
    },
}


@pytest.mark.parametrize(
    ("plate", "kind", "front", "contactor", "relay", "trip_class"),
    [
        # 1.5·6.2·2.45 = 22.8 A: 10.4·3.2 = 33.3 clears it; gG 6 lets 15.2 A through for 1.78 s.
        ("1.1", "motor_breaker", "RM-3.2", "RC-6", None, "10"),
        ("1.1", "miniature_breaker_c", "RB-C6", "RC-6", "RT-3.3", "10"),
        ("1.1", "fuse_gg", "RU-gG6", "RC-6", "RT-3.3", "10"),
        # 113.4 A of peak: C20 reaches only 100 A, C25 125 A; aM 12 at 6.3 times for 2.6 s.
        ("5.5", "motor_breaker", "RM-15", "RC-13", None, "10"),
        ("5.5", "miniature_breaker_c", "RB-C25", "RC-13", "RT-12.6", "10"),
        ("5.5", "fuse_am", "RU-aM12", "RC-13", "RT-12.6", "10"),
        # 426 A: 10.4·46 = 478 A; moulded case 50: 13·50·0.8 = 520 A.
        ("22", "motor_breaker", "RM-46", "RC-42", None, "10"),
        ("22", "moulded_case_breaker", "RF-50S", "RC-42", "RT-43", "10"),
        ("22", "fuse_gg", "RU-gG80", "RC-42", "RT-43", "10"),
        # Above the greatest motor breaker: 1386 A, 160·13·0.8 = 1664 A; the bimetal relays end at 102 A.
        ("75", "moulded_case_breaker", "RF-160S", "RC-150", "RE-210", "10E"),
        ("75", "fuse_am", "RU-aM160", "RC-150", "RE-210", "10E"),
        ("200", "moulded_case_breaker", "RF-400S", "RC-420", "RE-400", "10E"),
    ],
)  # fmt: skip
def test_iec_starters(plate: str, kind: str, front: str, contactor: str, relay: str | None, trip_class: str) -> None:
    d = run(iec(motor=PLATES[plate], load={"start_time_s": 1}, protection={"device": kind}))
    assert device(d, "short_circuit_device").selected.type == front
    assert device(d, "line_contactor").selected.type == contactor
    with_dial = device(d, "overload_relay" if relay else "short_circuit_device")
    assert relay is None or with_dial.selected.type == relay
    assert with_dial.settings.dial_a == PLATES[plate]["rated_current_delta_a"]
    assert with_dial.settings.trip_class == trip_class
    assert not [f for f in d.findings if f.severity == "stop"], d.findings


@pytest.mark.parametrize(
    ("hp", "volts", "plate_a", "table_a", "size", "breaker", "fuse", "wire"),
    [
        # Table 430.250; 250 % and 175 % to the next standard rating; 125 % in the 60 °C column; NEMA size by hp.
        (0.5, 460, 1.0, 1.1, "00", 15, 3, "14 AWG"),
        (3, 460, 4.4, 4.8, "0", 15, 10, "14 AWG"),
        (10, 460, 12.9, 14, "1", 35, 25, "12 AWG"),
        (25, 460, 30.5, 34, "2", 90, 60, "6 AWG"),
        (50, 460, 60, 65, "3", 175, 125, "3 AWG"),
        (100, 460, 115, 124, "4", 350, 225, "2/0 AWG"),
        (10, 230, 26, 28, "2", 70, 50, "8 AWG"),
        (7.5, 208, 23, 24.2, "1", 70, 45, "8 AWG"),
        (20, 575, 20, 22, "2", 60, 40, "10 AWG"),
    ],
)  # fmt: skip
def test_north_american_starters(
    hp: float, volts: float, plate_a: float, table_a: float, size: str, breaker: float, fuse: float, wire: str
) -> None:
    motor = {"rated_power_hp": hp, "rated_voltage_v": volts, "rated_current_a": plate_a, "code_letter": "G"}
    supply = {"line_voltage_v": volts, "prospective_current_ka": 10}
    d = run(nec(motor=motor, supply=supply))
    assert d.currents.table_current_a == table_a
    assert d.currents.design_current_a == plate_a, "the plate sets the overload"
    assert device(d, "short_circuit_device").selected.rated_current_a == breaker
    assert device(d, "line_contactor").selected.size == size
    assert device(d, "motor_conductor").selected.size == wire
    assert device(d, "overload_relay").settings.dial_a == plate_a, "service factor 1.15: FLA on the dial"
    fused = run(nec(motor=motor, supply=supply, protection={"device": "time_delay_fuse"}))
    assert device(fused, "short_circuit_device").selected.rated_current_a == fuse


def test_the_same_motor_under_both_practices() -> None:
    """10 hp is 7.457 kW: IEC follows the plate everywhere, NEC only for the overload."""
    motor = {
        "rated_power_kw": None,
        "rated_power_hp": 10,
        "rated_voltage_delta_v": 460,
        "rated_voltage_star_v": None,
        "rated_current_delta_a": 12.5,
        "frequency_hz": 60,
        "rated_speed_rpm": 1765,
        "power_factor": 0.83,
        "efficiency_pct": 91.7,
    }
    supply = {"line_voltage_v": 460, "frequency_hz": 60}
    european = run(iec(motor=motor, supply=supply, protection={"device": "fuse_gg"}))
    american = run(
        {
            **iec(motor=motor, supply=supply),
            "practice": "nec",
            "protection": {"device": "time_delay_fuse"},
            "control": {"voltage_v": 120},
        }
    )
    assert device(european, "line_contactor").required.current_a == 12.5
    assert device(american, "line_contactor").required.current_a == 14
    assert device(european, "overload_relay").settings.dial_a == 12.5
    assert device(american, "overload_relay").settings.dial_a == pytest.approx(12.5 * 1.15 / 1.20), (
        "no service factor: 115 %"
    )
    assert american.figures["sizing_current_a"].value == 14


def test_metric_horsepower_is_its_own_unit() -> None:
    d = run(iec(motor={"rated_power_kw": None, "rated_power_ps": 10}))
    assert d.figures["shaft_power_w"].value == 7355
    both = run(iec(motor={"rated_power_kw": 7.355, "rated_power_ps": 10}))
    assert both.figures["shaft_power_w"].value == pytest.approx(7355)
