"""Currents from the plate: worked by hand, from the standards' own tables, and where they must be refused."""

from math import sqrt

import pytest

from samples import codes, device, iec, nec, run, stops
from volmek.core.document.errors import PlateError, ProblemError
from volmek.core.plate.plate import full_load_current_a, negative_sequence_ratio
from volmek.core.standards.tables import motor_current_iec_a, motor_current_nec_a


@pytest.mark.parametrize(
    ("power_kw", "voltage_v", "current_a"),
    [(0.06, 400, 0.2), (7.5, 400, 15.5), (37, 400, 66), (45, 690, 47), (1000, 400, 1673), (7.5, 380, 15.5 * 400 / 380)],
)
def test_iec_table_holds_its_rows_and_scales_by_voltage(power_kw: float, voltage_v: float, current_a: float) -> None:
    assert motor_current_iec_a(power_kw, voltage_v) == pytest.approx(current_a)


@pytest.mark.parametrize("power_kw", [0.059, 1001])
def test_iec_table_is_never_extended(power_kw: float) -> None:
    with pytest.raises(PlateError, match="outside the current table"):
        motor_current_iec_a(power_kw, 400)


@pytest.mark.parametrize(
    ("hp", "volts", "amps"),
    [
        (10, 460, 14),
        (10, 480, 14),
        (25, 440, 34),
        (20, 208, 59.4),
        (20, 200, 62.1),
        (3, 120, None),
        (12, 460, 21),
        (0.25, 460, None),
        (10, 400, None),
    ],
)
def test_nec_table_columns_stand_for_system_ranges(hp: float, volts: float, amps: float | None) -> None:
    if amps is None:
        with pytest.raises(PlateError):
            motor_current_nec_a(hp, volts)
    else:
        assert motor_current_nec_a(hp, volts) == amps


def test_single_phase_current_has_no_root_three() -> None:
    assert full_load_current_a(1100, 230, 0.9, 0.7, 1) == pytest.approx(
        sqrt(3) * full_load_current_a(1100, 230, 0.9, 0.7, 3)
    )


@pytest.mark.parametrize(
    ("args", "field"),
    [
        ((0, 400, 0.8, 0.9, 3), "shaft_power_w"),
        ((1, 400, 1.2, 0.9, 3), "power_factor"),
        ((1, 400, 0.8, 0.9, 2), "phases"),
    ],
)
def test_full_load_current_names_what_is_out_of_range(args: tuple[float, float, float, float, int], field: str) -> None:
    with pytest.raises(PlateError, match=field):
        full_load_current_a(*args)


def test_true_unbalance_agrees_with_phasors() -> None:
    # A triangle 400, 396, 404 V, its negative over positive sequence taken from the three phasors: 1.1548 %.
    assert 100 * negative_sequence_ratio((400, 396, 404)) == pytest.approx(1.15478, abs=1e-4)


def test_three_currents_and_the_one_in_use() -> None:
    c = run(iec()).currents
    assert (c.design_current_a, c.design_current_source) == (14.4, "nameplate")
    assert c.calculated_current_a == pytest.approx(7500 / (sqrt(3) * 400 * 0.83 * 0.904))
    assert c.table_current_a == 15.5
    assert c.locked_rotor_current_a == pytest.approx(7.2 * 14.4)


def test_without_plate_current_the_calculated_one_is_used_then_the_table() -> None:
    c = run(iec(motor={"rated_current_delta_a": None})).currents
    assert c.design_current_source == "calculated"
    c = run(iec(motor={"rated_current_delta_a": None, "power_factor": None})).currents
    assert (c.design_current_source, c.design_current_a) == ("table", 15.5)


def test_typical_values_are_marked_typical() -> None:
    figures = run(iec(motor={"power_factor": None, "locked_rotor_current_ratio": None})).figures
    assert figures["motor.power_factor"].typical
    assert figures["calculated_current_a"].typical, "what rests on a typical value is typical too"
    assert figures["locked_rotor_current_a"].typical
    assert not figures["design_current_a"].typical


@pytest.mark.parametrize(
    ("amps", "severity"), [(14.4, None), (16.6, "attention"), (12.0, "attention"), (22.0, "stop"), (7.0, "stop")]
)
def test_a_plate_current_far_from_the_calculated_one_is_a_finding(amps: float, severity: str | None) -> None:
    design = run(iec(motor={"rated_current_delta_a": amps}))
    found = [f for f in design.findings if f.code == "plate_current_differs"]
    assert [f.severity for f in found] == ([severity] if severity else [])
    assert all(f.field == "motor.rated_current_delta_a" for f in found)


@pytest.mark.parametrize(
    ("parts", "field"),
    [
        ({"motor": {"rated_power_kw": 37, "rated_current_delta_a": 3}}, "motor.rated_current_delta_a"),
        ({"motor": {"rated_voltage_star_v": 600}}, "motor.rated_voltage_star_v"),
        ({"motor": {"rated_power_hp": 20}}, "motor.rated_power_hp"),
        ({"motor": {"rated_current_a": 14}}, "motor.rated_current_a"),
        ({"motor": {"rated_voltage_v": 400}}, "motor.rated_voltage_v"),
        ({"motor": {"rated_speed_rpm": 3100}}, "motor.rated_speed_rpm"),
        ({"motor": {"phases": 1}}, "motor.rated_voltage_delta_v"),
        ({"supply": {"line_voltage_v": None}}, "supply.line_voltage_v"),
        ({"motor": {"rated_power_kw": None, "rated_current_delta_a": None}}, "motor.rated_power_kw"),
    ],
)
def test_impossible_input_is_refused_at_its_field(parts: dict[str, dict[str, object]], field: str) -> None:
    with pytest.raises(ProblemError) as caught:
        run(iec(**parts))
    assert field in [p.field for p in caught.value.problems]


def test_connection_follows_the_supply() -> None:
    assert run(iec()).connection == "delta"
    star = run(iec(motor={"rated_voltage_delta_v": 230, "rated_voltage_star_v": 400}))
    assert star.connection == "star"
    assert star.currents.design_current_a == pytest.approx(14.4 / sqrt(3)), "the star current belongs to star"
    assert star.links == "links.star"


@pytest.mark.parametrize(
    ("supply", "code"),
    [
        ({"line_voltage_v": 415}, None),
        ({"line_voltage_v": 430}, "supply_zone_b"),
        ({"line_voltage_v": 480, "frequency_hz": 60}, "supply_other_frequency"),
        ({"line_voltage_v": 400, "frequency_hz": 60}, "supply_other_frequency"),
    ],
)
def test_supply_deviation_zones(supply: dict[str, float], code: str | None) -> None:
    found = codes(run(iec(supply=supply)))
    assert code is None or found[code] == "attention"
    assert code is not None or not {"supply_zone_b", "supply_other_frequency"} & set(found)


def test_a_sixty_hertz_plate_on_fifty_hertz_at_the_same_voltage_is_over_fluxed() -> None:
    assert "fits no plate voltage" in stops(run(iec(motor={"frequency_hz": 60})))["supply.line_voltage_v"]


def test_a_supply_that_fits_no_plate_voltage_stops_and_the_currents_of_the_plate_stay() -> None:
    d = run(iec(supply={"line_voltage_v": 500}))
    assert "500 V 50 Hz fits no plate voltage (400 V delta / 690 V star, 50 Hz)" in stops(d)["supply.line_voltage_v"]
    assert d.currents.design_current_a == 14.4
    assert d.links is None, "no link is fitted for a supply that does not suit"


@pytest.mark.parametrize(
    ("parts", "field", "limit"),
    [
        ({"surroundings": {"motor_ambient_c": 65}}, "surroundings.motor_ambient_c", "60 °C"),
        ({"surroundings": {"ambient_c": 62, "motor_ambient_c": 61}}, "surroundings.motor_ambient_c", "60 °C"),
        ({"surroundings": {"altitude_m": 4500}}, "surroundings.altitude_m", "4000 m"),
        ({"supply": {"cable_ambient_c": 65}}, "supply.cable_ambient_c", "60 °C"),
    ],
)
def test_surroundings_beyond_the_tables_stop_and_the_rest_is_computed(
    parts: dict[str, dict[str, object]], field: str, limit: str
) -> None:
    d = run(iec(**parts))
    assert f"{limit} is used" in stops(d)[field]
    assert d.devices[0].required.current_a == 14.4


def test_a_method_for_another_number_of_phases_stops_and_the_usual_one_is_computed() -> None:
    d = run(iec(starter={"type": "single_phase_direct"}))
    assert "direct on line is computed instead" in stops(d)["starter.type"]
    assert d.method == "Direct on line"


def test_north_american_practice_takes_ten_per_cent_as_normal() -> None:
    assert "supply_zone_b" not in codes(run(nec(supply={"line_voltage_v": 500, "frequency_hz": 60})))


def test_surroundings_and_unbalance_lower_the_permitted_current() -> None:
    d = run(iec(surroundings={"ambient_c": 45, "altitude_m": 2000}, supply={"measured_voltages_v": [392, 400, 408]}))
    assert d.currents.permitted_current_a == pytest.approx(14.4 * 0.95 * 0.94 * 0.95)
    assert d.devices[0].settings.dial_a == pytest.approx(14.4 * 0.95 * 0.94), "the dial follows the most loaded line"
    assert d.devices[1].required.current_a == 14.4, "the contactor is sized by In"
    assert codes(run(iec(supply={"measured_voltages_v": [360, 400, 420]})))["unbalance_too_high"] == "stop"


def test_code_letter_gives_a_range_and_its_upper_end() -> None:
    d = run(nec())
    assert d.currents.locked_rotor_current_a == pytest.approx(6.29 * 25 * 1000 / (sqrt(3) * 460))
    assert codes(run(nec(motor={"code_letter": "V"})))["code_letter_open"] == "attention"


def test_a_slow_motor_is_sized_by_its_higher_plate_current() -> None:
    assert run(nec(motor={"rated_speed_rpm": 1180, "rated_current_a": 36})).figures["sizing_current_a"].value == 36
    assert run(nec(motor={"rated_current_a": 36})).figures["sizing_current_a"].value == 34


def test_every_figure_names_a_source_and_its_inputs_exist() -> None:
    for d in (run(iec()), run(nec())):
        for figure in d.figures.values():
            assert figure.source, figure.id
            assert set(figure.inputs) <= set(d.figures), figure.id


def test_the_working_puts_the_figures_in() -> None:
    figure = run(iec()).figures["calculated_current_a"]
    assert figure.formula == "P / (√3·U·cosφ·η%/100)"
    assert figure.substituted == "7500 / (√3·400·0.83·90.4/100)"


@pytest.mark.parametrize(("rpm", "poles"), [(715, 8), (575, 10), (475, 12)])
def test_a_slow_motor_is_not_judged_by_the_typical_values_of_four_poles(rpm: float, poles: int) -> None:
    """7.5 kW with eight poles draw about 18 A at cosφ 0.75: nothing on this plate is misread."""
    motor = {"rated_speed_rpm": rpm, "rated_current_delta_a": 18.0, "power_factor": None, "efficiency_pct": None}
    d = run(iec(motor=motor))
    said = [f for f in d.findings if f.code == "plate_current_differs"]
    assert (
        all(f.severity == "info" and f"with {poles} poles" in f.message and "misread" not in f.message for f in said)
        and said
    )
    four = run(iec(motor={**motor, "rated_speed_rpm": 1465, "rated_current_delta_a": 18.0}))
    assert any("misread" in f.message for f in four.findings)


def test_on_unbalanced_voltages_the_dial_follows_the_most_loaded_line() -> None:
    """400, 392, 408 V: 2 % by NEMA, 0.95 of the current; U2/U1 = 2.31 %, and 7.2 times that are 16.6 % in the worst line."""
    uneven = run(iec(supply={"measured_voltages_v": [400, 392, 408]}, protection={"device": "fuse_gg"}))
    assert uneven.currents.permitted_current_a == pytest.approx(0.95 * 14.4, rel=0.005)
    assert device(uneven, "overload_relay").settings.dial_a == pytest.approx(14.4), (
        "the worst line, up to what a balanced supply allows"
    )
    assert "the most loaded line" in next(f.message for f in uneven.findings if f.code == "motor_derated")
    worse = run(
        iec(
            supply={"measured_voltages_v": [400, 384, 416]},
            motor={"locked_rotor_current_ratio": 2},
            protection={"device": "fuse_gg"},
        )
    )
    permitted = worse.currents.permitted_current_a
    assert (
        permitted
        < device(worse, "overload_relay").settings.dial_a
        == pytest.approx(permitted + 0.0462 * 2 * 14.4, rel=0.01)
    )
    hot = run(iec(surroundings={"motor_ambient_c": 50}, protection={"device": "fuse_gg"}))
    assert device(hot, "overload_relay").settings.dial_a == pytest.approx(hot.currents.permitted_current_a)
