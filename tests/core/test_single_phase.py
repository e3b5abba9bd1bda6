"""Single-phase motors: the formula without √3, the loop through the relay, capacitors by hand."""

from math import pi, sqrt
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import codes, device, iec, nec, run, single_phase, stops
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import parse
from volmek.core.methods.choose import offers
from volmek.core.methods.single_phase import capacitor_voltage_v, discharge_time_s, typical_run_capacitor_uf
from volmek.core.standards.tables import motor_current_nec_a


def test_the_current_has_no_root_three() -> None:
    d = run(single_phase(motor={"rated_current_a": None, "power_factor": 0.95, "efficiency_pct": 72}))
    assert d.currents.design_current_a == pytest.approx(1100 / (230 * 0.95 * 0.72))
    assert "without the √3" in d.figures["calculated_current_a"].note
    assert d.figures["calculated_current_a"].formula == "P / (U·cosφ·η%/100)"


def test_without_plate_current_it_is_typical_and_says_so() -> None:
    d = run(single_phase(motor={"rated_current_a": None}))
    assert d.currents.design_current_source == "calculated"
    assert d.figures["design_current_a"].typical
    assert d.currents.table_current_a is None, "IEC has no table for one phase"


def test_it_stands_between_line_and_neutral_of_a_three_phase_board() -> None:
    d = run(single_phase())
    assert d.supply.line_voltage_v == pytest.approx(400 / sqrt(3))
    assert run(single_phase(supply={"line_voltage_v": 230})).supply.line_voltage_v == 230
    assert "needs the neutral" in stops(run(single_phase(supply={"neutral": False})))["supply.neutral"]


def test_the_method_that_is_left_out_is_not_taken_for_the_one_that_is_typed() -> None:
    assert run(single_phase(starter={"type": None})).method == "Single-phase, direct"
    wrong = run(single_phase(starter={"type": "direct_on_line"}))
    assert "single-phase, direct is computed instead of direct on line" in stops(wrong)["starter.type"]


def test_devices_and_the_loop() -> None:
    d = run(single_phase())
    assert device(d, "line_contactor").required.current_a == 7.2
    assert device(d, "overload_relay").settings.dial_a == 7.2
    assert codes(d)["single_phase_loop"] == "info"
    assert d.links == "links.loop"
    assert [i.symbol for i in d.line_up][:: len(d.line_up) - 1] == ["supply.1", "motor.1"]
    assert "three poles in series" in d.figures["overload_relay.relay_current_a"].rule
    breaker = run(single_phase(protection={"device": "motor_breaker"}))
    assert next(f.device for f in breaker.findings if f.code == "single_phase_loop") == "Q1"


def test_capacitors_from_the_plate_or_usual() -> None:
    d = run(single_phase())
    assert d.figures["motor.run_capacitor_uf"].number == pytest.approx(55 * (230 / (400 / sqrt(3))) ** 2)
    assert d.figures["motor.run_capacitor_uf"].typical
    assert d.figures["motor.start_capacitor_uf"].number == pytest.approx(
        2.5 * d.figures["motor.run_capacitor_uf"].number
    )
    plate = run(single_phase(motor={"run_capacitor_uf": 30, "start_capacitor_uf": 80}))
    assert not plate.figures["motor.run_capacitor_uf"].typical
    # I = 2π·50·80 µF·230.9 V = 5.8 A through the contact of the button.
    assert plate.figures["start_button_a"].number == pytest.approx(2 * pi * 50 * 80e-6 * 400 / sqrt(3))
    assert "start_button_overloaded" not in codes(plate)


def test_the_discharge_time_is_given_only_with_a_resistor() -> None:
    without = run(single_phase(motor={"run_capacitor_uf": 30}))
    assert codes(without)["no_bleed_resistor"] == "attention"
    assert "discharge_time_s" not in without.figures
    bled = run(single_phase(motor={"run_capacitor_uf": 30, "bleed_resistor_ohm": 100_000}))
    assert bled.figures["discharge_time_s"].number == pytest.approx(
        discharge_time_s(1e5, 30, capacitor_voltage_v(400 / sqrt(3)))
    )
    assert "no_bleed_resistor" not in codes(bled)


@pytest.mark.parametrize(
    ("kind", "start", "run_one"),
    [
        ("split_phase", False, False),
        ("capacitor_start", True, False),
        ("capacitor_run", False, True),
        ("capacitor_start_run", True, True),
        ("shaded_pole", False, False),
    ],
)
def test_each_kind_has_its_capacitors(kind: str, start: bool, run_one: bool) -> None:
    figures = run(single_phase(motor={"single_phase_kind": kind})).figures
    assert ("motor.start_capacitor_uf" in figures, "motor.run_capacitor_uf" in figures) == (start, run_one)


def test_reversing_has_two_contactors_and_needs_windings_that_can() -> None:
    d = run(single_phase(starter={"type": "single_phase_reversing"}))
    assert [x.role for x in d.devices if x.kind == "contactor"] == ["line_contactor", "reverse_contactor"]
    shaded = run(single_phase(starter={"type": "single_phase_reversing"}, motor={"single_phase_kind": "shaded_pole"}))
    assert "motor.single_phase_kind" in stops(shaded)


@pytest.mark.parametrize(
    ("parts", "field"),
    [
        ({"motor": {"rated_voltage_delta_v": 230}}, "motor.rated_voltage_delta_v"),
        ({"motor": {"rated_current_star_a": 7}}, "motor.rated_current_star_a"),
        ({"motor": {"rated_voltage_v": None}}, "motor.rated_voltage_v"),
    ],
)
def test_what_one_phase_cannot_have_is_refused(parts: dict[str, Any], field: str) -> None:
    with pytest.raises(ProblemError) as caught:
        run(single_phase(**parts))
    assert field in [p.field for p in caught.value.problems]


def test_only_its_own_methods_are_offered() -> None:
    fits = {o.key for o in offers(parse(single_phase()), reference_catalogue()) if o.fit != "no"}
    assert fits == {"single_phase_direct", "single_phase_reversing"}
    three = {o.key for o in offers(parse(iec()), reference_catalogue()) if o.fit == "no"}
    assert {"single_phase_direct", "single_phase_reversing"} <= three


def test_without_a_choice_one_phase_is_started_direct() -> None:
    document = single_phase()
    del document["starter"]
    assert run(document).method == "Single-phase, direct"


def test_north_american_single_phase() -> None:
    """1 hp on 120 V: Table 430.248 gives 16 A; 250 % is 40 A; 20 A of ampacity; size 0 has 1 hp at 115 V."""
    motor = {
        "phases": 1,
        "rated_power_hp": 1,
        "rated_voltage_v": 115,
        "rated_current_a": 13.4,
        "single_phase_kind": "capacitor_start",
        "code_letter": "K",
    }
    d = run(nec(motor=motor, supply={"line_voltage_v": 120}, starter={"type": "single_phase_direct"}))
    assert d.currents.table_current_a == 16
    assert device(d, "short_circuit_device").selected.rated_current_a == 40
    assert device(d, "motor_conductor").required.current_a == 20
    assert device(d, "line_contactor").selected.size == "0"
    assert d.currents.locked_rotor_current_a == pytest.approx(8.99 * 1000 / 115)
    assert device(d, "overload_relay").settings.dial_a == 13.4
    with pytest.raises(ProblemError):
        motor_current_nec_a(1, 460, phases=1)


@given(st.floats(0.1, 2.2), st.floats(100, 400), st.sampled_from([50, 60]))
def test_a_higher_voltage_or_frequency_wants_a_smaller_capacitor(power: float, volts: float, hertz: float) -> None:
    usual = typical_run_capacitor_uf(power, volts, hertz)
    assert (
        typical_run_capacitor_uf(power, volts * 1.1, hertz)
        < usual
        < typical_run_capacitor_uf(power * 1.1, volts, hertz)
    )
    assert capacitor_voltage_v(volts) > volts
