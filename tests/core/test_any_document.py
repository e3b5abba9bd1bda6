"""Whatever a user types within the limits of the fields: a design with finite figures, or problems in words."""

import json
from dataclasses import asdict
from datetime import UTC, datetime
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from samples import run
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import parse
from volmek.core.methods import METHODS
from volmek.core.methods.front import KINDS
from volmek.core.ranges.ranges import ranges
from volmek.core.views.phase_loss import phase_loss_view
from volmek.core.views.start import start_view
from volmek.core.views.time_current import time_current_view
from volmek.files.sheet import Place, sheet_html

TYPES = sorted(reference_catalogue().types())
IEC, NEC = ([name for name, kind in KINDS.items() if kind.practice == practice] for practice in ("iec", "nec"))


def amounts(low: float, high: float) -> st.SearchStrategy[float]:
    """Numbers of every size between two limits."""
    return st.floats(0, 1).map(lambda x: round(low * (high / low) ** x, 4))


def some(**fields: st.SearchStrategy[Any]) -> st.SearchStrategy[dict[str, Any]]:
    """Any of these fields, each there or not."""
    return st.fixed_dictionaries({}, optional=fields)


MOTOR = some(
    frequency_hz=st.sampled_from([50, 60]),
    power_factor=st.floats(0.3, 1),
    efficiency_pct=st.floats(40, 99),
    rated_speed_rpm=st.sampled_from([2900, 1450, 960, 1500, 3500, 1180]),
    efficiency_class=st.sampled_from(["IE1", "IE2", "IE3", "IE4"]),
    locked_rotor_current_ratio=st.floats(1.5, 15),
    breakdown_torque_ratio=st.floats(1.1, 6),
    service_factor=st.sampled_from([1, 1.15]),
    permitted_stall_time_s=amounts(0.5, 100),
    code_letter=st.sampled_from("ABGKV"),
    nec_design_letter=st.sampled_from("ABCD"),
)
SUPPLY = some(
    frequency_hz=st.sampled_from([50, 60]),
    prospective_current_ka=amounts(0.1, 150),
    transformer_kva=amounts(5, 3000),
    transformer_uk_pct=st.floats(2, 8),
    supply_cable_length_m=amounts(1, 3000),
    supply_cable_section_mm2=st.sampled_from([1.5, 10, 95]),
    cable_length_m=amounts(1, 3000),
    cable_section_mm2=st.sampled_from([1.5, 10, 95]),
    system=st.sampled_from(["tn", "tt", "it"]),
    earth_loop_ohm=amounts(0.05, 500),
    running_motors_current_a=amounts(1, 5000),
    measured_voltages_v=st.lists(st.floats(100, 700), min_size=3, max_size=3),
    power_factor_capacitor_kvar=amounts(0.1, 900),
    power_factor_capacitor_position=st.sampled_from(["before_relay", "after_relay"]),
    cable_ambient_c=st.floats(-20, 79),
    cable_grouping=st.integers(1, 20),
)
LOAD = some(
    start_time_s=amounts(0.1, 600),
    starts_per_hour=amounts(0.1, 3000),
    hours_per_year=amounts(1, 8784),
    duty=st.sampled_from(["ac3", "ac4"]),
    ac4_share_pct=st.floats(0, 100),
    inertia_kgm2=amounts(1e-3, 1e3),
)
PROTECTION = some(
    overload_school=st.sampled_from(["nameplate", "percentage"]),
    dial_marking=st.sampled_from(["motor_amperes", "trip_amperes"]),
    ultimate_trip_multiple=st.floats(1.05, 1.6),
    current_transformer_ratio=amounts(1.1, 2000),
    reset=st.sampled_from(["manual", "automatic"]),
    failed_start_recorded=st.booleans(),
)
CONTROL = some(
    voltage_v=st.sampled_from([24, 110, 230, 400]),
    coil_voltage_v=st.sampled_from([24, 120, 230]),
    kind=st.sampled_from(["ac", "dc"]),
    scheme=st.sampled_from(["three_wire", "two_wire", "hand_off_auto"]),
)
SURROUNDINGS = some(ambient_c=st.floats(-40, 80), motor_ambient_c=st.floats(-40, 80), altitude_m=st.floats(-500, 6000))
STARTER = some(
    type=st.sampled_from(list(METHODS)),
    overload_position=st.sampled_from(["line", "winding", "delta_branch"]),
    autotransformer_tap=st.sampled_from([0.5, 0.65, 0.8, 0.7]),
    stator_voltage_ratio=st.floats(0.3, 1),
    current_limit_ratio=st.floats(1, 8),
    star_time_s=amounts(0.5, 100),
    dwell_s=st.floats(0, 1),
)
OWN = some(
    device_type=st.sampled_from(TYPES),
    dial_a=amounts(0.05, 900),
    trip_class=st.sampled_from(["5", "10", "10E", "20", "30E", "40E"]),
    instantaneous_trip_a=amounts(1, 20000),
)


@st.composite
def documents(draw: st.DrawFn) -> dict[str, Any]:
    """A document whose plate fits its supply more often than not."""
    practice = draw(st.sampled_from(["iec", "nec"]))
    volts = draw(st.sampled_from([208, 230, 400, 460, 500, 575, 690]))
    kw = draw(amounts(0.05, 400))
    form = draw(st.sampled_from(["", "delta_", "star_"]))
    unit = draw(st.sampled_from(["kw", "hp", "ps"]))
    motor = {f"rated_power_{unit}": kw, f"rated_voltage_{form}v": volts, **draw(MOTOR)}
    if draw(st.booleans()):
        motor[f"rated_current_{form}a"] = round(kw * 800 / volts * draw(st.floats(1.5, 4)), 3)
    overrides = [
        {"role": role, "reason": "it was there", **own}
        for role in ("line_contactor", "overload_relay", "short_circuit_device")
        if (own := draw(st.one_of(st.just({}), OWN)))
    ]
    return {
        "tag": "x",
        "practice": practice,
        "motor": motor,
        "supply": {"line_voltage_v": volts * draw(st.sampled_from([1, 1, 1.04, 0.92])), **draw(SUPPLY)},
        "load": draw(LOAD),
        "starter": draw(STARTER),
        "protection": {"device": draw(st.sampled_from(NEC if practice == "nec" else IEC)), **draw(PROTECTION)},
        "control": draw(CONTROL),
        "surroundings": draw(SURROUNDINGS),
        "overrides": overrides,
    }


@settings(max_examples=500, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(documents())
def test_any_document_is_designed_or_refused_in_words(document: dict[str, Any]) -> None:
    try:
        design = run(document)
    except ProblemError as error:
        refused = error.problems
    else:
        refused = ()
        json.dumps(design.to_json(working=True), allow_nan=False)
        page = sheet_html(parse(document), design, Place("job", "board", 1, datetime.now(UTC)))
        assert "inf " not in page
        assert ">nan" not in page
    for problem in refused:
        assert "." in problem.field or problem.field in ("tag", "practice")
        assert not problem.message.endswith("None")


@pytest.mark.parametrize("practice", ["iec", "nec"])
def test_the_same_document_always_gives_the_same_design(practice: str) -> None:
    motor = {"rated_power_hp": 10, "rated_voltage_v": 460}
    document = {"tag": "x", "practice": practice, "motor": motor, "supply": {"line_voltage_v": 480, "frequency_hz": 60}}
    assert run(document).to_json(working=True) == run(document).to_json(working=True)


@settings(max_examples=120, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(documents())
def test_whatever_is_designed_can_be_drawn_and_sent(document: dict[str, Any]) -> None:
    """The sheets of start, curves and lost phase hold finite numbers only, so that a page can read them."""
    try:
        run(document)
    except ProblemError:
        return
    refused = []
    for sheet in (start_view, phase_loss_view, time_current_view):
        try:
            made = sheet(parse(document), reference_catalogue())
        except ProblemError as error:
            refused += error.problems
        else:
            json.dumps(asdict(made), allow_nan=False)
    assert all(p.field.startswith("motor.") for p in refused), "only torque ratios that no motor has are refused"


@settings(max_examples=30, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(documents())
def test_whatever_is_designed_says_how_sure_it_is(document: dict[str, Any]) -> None:
    try:
        found = ranges(parse(document), reference_catalogue())
    except ProblemError:
        return
    json.dumps(asdict(found), allow_nan=False)
    for f in found.figures:
        assert f.value is None or f.low is None or f.low <= f.value * (1 + 1e-9)
        assert f.value is None or f.high is None or f.high >= f.value * (1 - 1e-9)
    assert len({u.label for u in found.find_out}) == len(found.find_out)
    assert all(not u.changes for u in found.find_out if u.weight == 0)
