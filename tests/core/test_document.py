"""The limits of every field, each said in words at the field."""

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import nec
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import FIELD_NAMES, parse
from volmek.core.results.figures import Working, as_read, substitute

LIMITS: list[tuple[str, Any, str]] = [
    ("version", 2, "it reads version 1"),
    ("tag", "", "at least 1 characters"),
    ("tag", "x" * 41, "longer than 40"),
    ("tag", 7, "not text"),
    ("practice", "din", "not one of 'iec' or 'nec'"),
    ("motor", 3, "not an object"),
    ("motor.phases", 2, "not one of 1 or 3"),
    ("motor.rated_power_kw", 2001, "the most is 2000"),
    ("motor.rated_power_hp", 0, "greater than 0"),
    ("motor.rated_power_ps", "4", "not a number"),
    ("motor.frequency_hz", 15, "the least is 16"),
    ("motor.frequency_hz", 401, "the most is 400"),
    ("motor.rated_voltage_v", 1001, "the most is 1000"),
    ("motor.rated_voltage_delta_v", -400, "greater than 0"),
    ("motor.rated_voltage_star_v", 1201, "the most is 1200"),
    ("motor.rated_current_a", 5001, "the most is 5000"),
    ("motor.power_factor", 86, "the most is 1"),
    ("motor.efficiency_pct", 101, "the most is 100"),
    ("motor.efficiency_class", "IE6", "not one of"),
    ("motor.rated_speed_rpm", 0, "greater than 0"),
    ("motor.locked_rotor_current_ratio", 1.4, "the least is 1.5"),
    ("motor.locked_rotor_current_ratio", 15.1, "the most is 15"),
    ("motor.breakdown_torque_ratio", 1, "greater than 1"),
    ("motor.leads", 5, "not one of"),
    ("motor.service_factor", 0.9, "the least is 1"),
    ("motor.permitted_stall_time_s", 0, "greater than 0"),
    ("motor.code_letter", "I", "not one of"),
    ("motor.nec_design_letter", "E", "not one of"),
    ("motor.thermal_protector", "yes", "neither true nor false"),
    ("supply.line_voltage_v", [400], "not a number"),
    ("supply.prospective_current_ka", 201, "the most is 200"),
    ("supply.transformer_uk_pct", 0, "greater than 0"),
    ("supply.system", "tnc", "not one of"),
    ("supply.cable_grouping", 1.5, "not a whole number"),
    ("supply.cable_grouping", 0, "the least is 1"),
    ("supply.measured_voltages_v", [400, 400], "it must have 3"),
    ("supply.measured_voltages_v.1", [400, "x", 400], "not a number"),
    ("supply.maximum_dip_pct", 100, "less than 100"),
    ("load.torque_pct", 201, "the most is 200"),
    ("load.shape", "cubic", "not one of"),
    ("load.start_time_s", 601, "the most is 600"),
    ("load.starts_per_hour", 0, "greater than 0"),
    ("load.hours_per_year", 8785, "the most is 8784"),
    ("load.duty", "ac5", "not one of"),
    ("load.ac4_share_pct", 101, "the most is 100"),
    ("starter.type", "delta_star", "not one of"),
    ("starter.autotransformer_tap", 1.1, "the most is 1"),
    ("starter.dwell_s", -0.1, "the least is 0"),
    ("protection.device", "relay", "not one of"),
    ("protection.overload_school", "both", "not one of"),
    ("protection.ultimate_trip_multiple", 1.0, "the least is 1.05"),
    ("protection.current_transformer_ratio", 1, "greater than 1"),
    ("protection.failed_start_recorded", 1, "neither true nor false"),
    ("control.voltage_v", 691, "the most is 690"),
    ("control.kind", "AC", "not one of 'ac' or 'dc'"),
    ("control.start_stations", 13, "the most is 12"),
    ("control.lamps.0", ["blinking"], "not one of"),
    ("surroundings.ambient_c", 81, "the most is 80"),
    ("surroundings.altitude_m", -501, "the least is -500"),
    ("assumptions.inrush_peak_factor", 0.9, "the least is 1"),
    ("overrides", {}, "list"),
    ("overrides.0.reason", [{"role": "line_contactor", "device_type": "RC-6", "reason": "x"}], "at least 3"),
    ("overrides.0.dial_a", [{"role": "overload_relay", "dial_a": 0, "reason": "none"}], "greater than 0"),
    ("motor.rated_pover_kw", 4, "is rated_power_kw meant?"),
    ("moter", {}, "is motor meant?"),
]


@pytest.mark.parametrize(("path", "value", "words"), LIMITS, ids=[f"{p}={v!r:.20}" for p, v, _ in LIMITS])
def test_a_limit_is_said_at_its_field(path: str, value: Any, words: str) -> None:
    document: dict[str, Any] = {"tag": "A"}
    inside = document
    *parts, name = [p for p in path.split(".") if not p.isdigit() and path.split(".")[0] != "overrides"] or [
        "overrides"
    ]
    for part in parts:
        inside = inside.setdefault(part, {})
    inside[name] = value
    with pytest.raises(ProblemError) as caught:
        parse(document)
    messages = {p.field: p.message for p in caught.value.problems}
    assert words in messages[path], messages


def test_all_problems_of_a_document_are_said_at_once() -> None:
    with pytest.raises(ProblemError) as caught:
        parse({"motor": {"rated_power_kw": 0, "power_factor": 2}, "supply": {"line_voltage_v": "x"}})
    assert [p.field for p in caught.value.problems] == [
        "tag",
        "motor.rated_power_kw",
        "motor.power_factor",
        "supply.line_voltage_v",
    ]
    assert str(caught.value).count("\n") == 3, "one line per problem"


@pytest.mark.parametrize("word", ["nan", "inf", "-inf"])
def test_numbers_that_are_none_are_refused(word: str) -> None:
    with pytest.raises(ProblemError):
        parse({"tag": "A", "motor": {"rated_power_kw": float(word)}})


def test_the_names_that_other_programs_rely_on_are_there() -> None:
    fixed = [
        "rated_power_kw",
        "rated_voltage_delta_v",
        "rated_voltage_star_v",
        "rated_current_delta_a",
        "rated_current_star_a",
        "rated_speed_rpm",
        "locked_rotor_current_ratio",
        "locked_rotor_torque_ratio",
        "breakdown_torque_ratio",
        "rotor_inertia_kgm2",
        "leads",
        "service_factor",
        "permitted_stall_time_s",
        "rated_power_hp",
        "rated_voltage_v",
        "rated_current_a",
        "code_letter",
        "temperature_rise_k",
        "rotor_voltage_v",
        "rotor_current_a",
        "single_phase_kind",
        "run_capacitor_uf",
        "start_capacitor_uf",
        "rated_power_ps",
        "pull_up_torque_ratio",
        "nec_design_letter",
        "thermal_protector",
        "bleed_resistor_ohm",
        "low_speed_power_kw",
        "low_speed_current_a",
        "low_speed_rpm",
        "speed_winding",
        "torque_pct",
        "shape",
        "breakaway_pct",
        "inertia_kgm2",
        "speed_rpm",
        "hours_per_year",
        "ac4_share_pct",
        "starts_per_hour",
        "duty",
        "transformer_kva",
        "transformer_uk_pct",
        "system",
        "earth_loop_ohm",
        "supply_cable_length_m",
        "supply_cable_section_mm2",
        "cable_length_m",
        "cable_section_mm2",
        "cable_insulation",
        "cable_method",
        "cable_grouping",
        "cable_ambient_c",
        "running_motors_current_a",
        "measured_voltages_v",
        "power_factor_capacitor_kvar",
        "power_factor_capacitor_position",
        "maximum_dip_pct",
        "maximum_start_current_a",
        "ultimate_trip_multiple",
        "current_transformer_ratio",
        "reset",
        "failed_start_recorded",
        "coil_voltage_v",
        "leaves_enclosure",
        "ambient_c",
        "altitude_m",
        "motor_ambient_c",
        "autotransformer_tap",
        "stator_voltage_ratio",
        "current_limit_ratio",
        "star_time_s",
        "dwell_s",
        "star_sequence",
        "delta_links",
        "overload_position",
        "device",
        "overload_school",
        "dial_marking",
        "scheme",
        "overload_contact",
        "start_stations",
        "stop_stations",
        "emergency_stop",
        "phase_monitor",
        "lamps",
        "stopped_lamp_feed",
        "buzzer",
        "lamp_code",
        "wire_colours",
        "control_phase",
        "field_contact",
        "standby",
        "heater",
        "controller_signal",
        "hold",
        "mechanical_interlock",
        "variant",
    ]
    assert set(fixed) <= set(FIELD_NAMES)


@given(st.floats(1e-3, 1e7))
def test_a_figure_is_read_to_three_places_and_never_further_off(value: float) -> None:
    read = float(as_read(value).replace("\u202f", ""))
    assert abs(read - value) <= 0.0051 * value
    assert "e" not in as_read(value)


def test_typical_spreads_and_symbols_are_put_in_whole() -> None:
    w = Working()
    typical = w.add("a", "one", "I", 2.0, "A", typical=True)
    typed = w.typed("b", "two", "In", 3.0, "A")
    assert w.add("c", "sum", "S", 5.0, formula="I + In", inputs=(typical, typed)).typical
    assert w.written()["c"].substituted == "2 + 3"
    assert w.typed("d", "unknown", "x", None) is None
    assert substitute("√3·U", ()) == ""
    with pytest.raises(TypeError):
        _ = w.add("e", "word", "", "star").number


def test_a_section_can_be_typed_as_a_gauge() -> None:
    """12 AWG is 3.309 mm², 500 kcmil 253.4 mm²; what is no gauge is refused as it is."""
    sections = {"12 AWG": 3.309, "14awg": 2.081, "1/0 AWG": 53.49, "500 kcmil": 253.4, 4: 4}
    for typed, mm2 in sections.items():
        assert parse(nec(supply={"cable_section_mm2": typed})).supply.cable_section_mm2 == pytest.approx(mm2, rel=1e-3)
    d = parse(nec(control={"line_section_mm2": "14 AWG"}, supply={"supply_cable_section_mm2": "2/0 AWG"}))
    assert (d.control.line_section_mm2, d.supply.supply_cable_section_mm2) == (2.081, 67.43)
    for odd in ("12", "12 mm", "5/0 AWG", "AWG"):
        with pytest.raises(ProblemError, match="cable_section_mm2"):
            parse(nec(supply={"cable_section_mm2": odd}))
