"""Every starting method: its parts and currents by hand, its verdicts, and what makes it impossible."""

from math import sqrt
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import codes, device, iec, nec, run, single_phase, stops
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.devices.settings import Settings
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import method_of, parse
from volmek.core.methods import METHODS
from volmek.core.methods.choose import Offer, offers
from volmek.core.sizing import size
from volmek.core.views.start import start_view


def of(method: str, **parts: Any) -> dict[str, Any]:
    """The 7.5 kW motor with this method, more of it where given."""
    own = parts.pop("starter", {})
    return iec(starter={"type": method, **own}, **parts)


def offered(document: dict[str, Any]) -> dict[str, Offer]:
    """The verdicts by method."""
    return {o.key: o for o in offers(parse(document), reference_catalogue())}


# In 14.4 A, Ia 103.7 A. Current that each contactor must carry, and the dial.
PARTS = [
    ("direct_on_line", {"line_contactor": 14.4}, None, 1.0),
    ("manual", {}, None, 1.0),
    ("reversing", {"line_contactor": 14.4, "reverse_contactor": 14.4}, None, 1.0),
    ("star_delta", {"line_contactor": 14.4 / sqrt(3), "delta_contactor": 14.4 / sqrt(3), "star_contactor": 4.8}, 14.4 / sqrt(3), 1 / 3),
    ("star_delta_manual", {"line_contactor": 14.4 / sqrt(3), "delta_contactor": 14.4 / sqrt(3), "star_contactor": 4.8}, 14.4 / sqrt(3), 1 / 3),
    ("star_delta_closed", {"line_contactor": 14.4 / sqrt(3), "star_contactor": 4.8, "transition_contactor": 0.26 * 14.4}, 14.4 / sqrt(3), 1 / 3),
    ("autotransformer", {"run_contactor": 14.4, "transformer_contactor": 0.4225 * 14.4, "star_contactor": 0.2275 * 14.4}, None, 0.4225),
    ("stator_resistance", {"line_contactor": 14.4, "bypass_contactor": 14.4}, None, 0.7),
    ("soft_starter", {"line_contactor": 14.4, "bypass_contactor": 14.4}, None, 3.5 / 7.2),
    ("part_winding", {"winding_contactor_1": 7.2, "winding_contactor_2": 7.2}, 7.2, 0.65),
]  # fmt: skip


@pytest.mark.parametrize(("method", "contactors", "dial", "share"), PARTS, ids=[p[0] for p in PARTS])
def test_parts_and_currents(method: str, contactors: dict[str, float], dial: float | None, share: float) -> None:
    d = run(of(method))
    assert d.currents.starting_line_current_a == pytest.approx(share * 7.2 * 14.4)
    found = {x.role: x.required.current_a for x in d.devices if x.kind == "contactor"}
    for role, amps in contactors.items():
        assert found[role] == pytest.approx(amps), role
    assert len(found) == len(METHODS[method_of(parse(of(method)))].layout(parse(of(method))).contactors)
    relays = [x for x in d.devices if x.kind == "overload_relay"]
    if dial is None:
        assert relays == [], "the motor breaker is the overload protection"
        assert device(d, "short_circuit_device").settings.dial_a == 14.4
    else:
        assert [x.settings.dial_a for x in relays] == pytest.approx([dial] * len(relays))
    assert not [f for f in d.findings if f.severity == "stop"]
    assert {m for m, *_ in PARTS} | {
        "two_speed",
        "rotor_resistance",
        "single_phase_direct",
        "single_phase_reversing",
    } == set(METHODS)


@pytest.mark.parametrize(("tap", "line", "star"), [(0.5, 0.25, 0.25), (0.65, 0.4225, 0.2275), (0.8, 0.64, 0.16)])
def test_autotransformer_taps(tap: float, line: float, star: float) -> None:
    d = run(of("autotransformer", starter={"autotransformer_tap": tap}))
    assert device(d, "transformer_contactor").required.current_a == pytest.approx(line * 14.4)
    assert device(d, "star_contactor").required.current_a == pytest.approx(star * 14.4)
    assert d.currents.starting_line_current_a == pytest.approx(line * 103.68)


def test_the_place_of_the_relay_in_star_delta() -> None:
    relay = {"device": "magnetic_breaker"}
    winding = run(of("star_delta", protection=relay))
    line = run(of("star_delta", protection=relay, starter={"overload_position": "line"}))
    branch = run(of("star_delta", protection=relay, starter={"overload_position": "delta_branch"}))
    assert [device(d, "overload_relay").settings.dial_a for d in (winding, line, branch)] == pytest.approx(
        [8.314, 14.4, 8.314], abs=1e-3
    )
    # In star the relay in the winding sees 0.577 of the 7.2 times, the one in the line a third of them.
    assert winding.figures["overload_relay.start_multiple"].number == pytest.approx(7.2 / sqrt(3))
    assert line.figures["overload_relay.start_multiple"].number == pytest.approx(2.4)
    assert winding.figures["overload_relay.ultimate_trip_a"].number == pytest.approx(1.2 * 14.4), "in motor amperes"
    assert codes(line)["overload_in_line_star"] == codes(branch)["overload_in_delta_branch"] == "attention"


def test_a_long_star_start_makes_the_star_contactor_as_large_as_the_delta_one() -> None:
    # 640·4.8² / (34.56²) = 12.3 s in star; beyond it takes 0.577, and so it does above six starts an hour.
    parts = {"protection": {"device": "fuse_am"}}
    assert device(
        run(of("star_delta", load={"start_time_s": 12}, **parts)), "star_contactor"
    ).required.current_a == pytest.approx(4.8)
    assert device(
        run(of("star_delta", load={"start_time_s": 13}, **parts)), "star_contactor"
    ).required.current_a == pytest.approx(8.314, abs=1e-3)
    often = run(of("star_delta", load={"start_time_s": 2, "starts_per_hour": 7}, **parts))
    assert device(often, "star_contactor").required.current_a == pytest.approx(8.314, abs=1e-3)


def test_star_time_and_pause() -> None:
    timer = device(run(of("star_delta", load={"start_time_s": None})), "star_delta_timer")
    assert timer.settings.star_time_s == pytest.approx(4 + 2 * sqrt(7.5))
    assert device(run(of("star_delta", starter={"star_time_s": 6.5})), "star_delta_timer").settings == Settings(
        star_time_s=6.5, dwell_s=0.05
    )
    assert not [x for x in run(of("star_delta_manual")).devices if x.role == "star_delta_timer"]


def test_a_star_delta_start_is_gentle_to_fuses_and_classes() -> None:
    direct = run(iec(load={"start_time_s": 6}, protection={"device": "fuse_gg"}))
    star = run(of("star_delta", load={"start_time_s": 6}, protection={"device": "fuse_gg"}))
    assert (
        device(star, "short_circuit_device").selected.rated_current_a
        == 32
        < device(direct, "short_circuit_device").selected.rated_current_a
    )
    assert (
        device(star, "overload_relay").settings.trip_class,
        device(direct, "overload_relay").settings.trip_class,
    ) == ("10", "20E")
    assert star.figures["inrush_peak_a"].value == direct.figures["inrush_peak_a"].value, (
        "the magnetic trip is not reduced to a third"
    )


@pytest.mark.parametrize(
    ("method", "parts", "field"),
    [
        ("star_delta", {"motor": {"leads": 3}}, "motor.leads"),
        (
            "star_delta",
            {"motor": {"rated_voltage_delta_v": 230, "rated_voltage_star_v": 400}},
            "motor.rated_voltage_delta_v",
        ),
        (
            "star_delta_closed",
            {"motor": {"rated_voltage_delta_v": None, "rated_voltage_star_v": 400}},
            "motor.rated_voltage_delta_v",
        ),
        ("autotransformer", {"starter": {"autotransformer_tap": 0.7}}, "starter.autotransformer_tap"),
        ("part_winding", {"motor": {"leads": 3}}, "motor.leads"),
        ("manual", {"protection": {"device": "fuse_gg"}}, "protection.device"),
        (
            "manual",
            {"motor": {"rated_power_kw": 110, "rated_current_delta_a": 195}, "protection": {"device": None}},
            "protection.device",
        ),
    ],
)
def test_an_impossible_method_is_said_with_the_reason(method: str, parts: dict[str, Any], field: str) -> None:
    """A choice that this motor forbids stops; everything else is computed."""
    d = run(of(method, **parts))
    assert field in stops(d)
    assert d.devices[0].required.current_a == pytest.approx(d.currents.design_current_a)


@pytest.mark.parametrize(
    ("method", "parts", "field"),
    [
        ("soft_starter", {"starter": {"current_limit_ratio": 0.5}}, "starter.current_limit_ratio"),
        ("stator_resistance", {"starter": {"stator_voltage_ratio": 1.2}}, "starter.stator_voltage_ratio"),
    ],
)
def test_a_value_out_of_its_range_is_refused(method: str, parts: dict[str, Any], field: str) -> None:
    with pytest.raises(ProblemError) as caught:
        run(of(method, **parts))
    assert [p.field for p in caught.value.problems] == [field]


def test_verdicts_follow_supply_limit_leads_and_load() -> None:
    free = offered(iec())
    assert list(free) == list(METHODS), "in the order of cost and simplicity"
    assert (free["direct_on_line"].fit, free["star_delta"].fit, free["star_delta_manual"].fit) == (
        "fits",
        "fits",
        "care",
    )
    limited = offered(iec(supply={"maximum_start_current_a": 60}))
    assert limited["direct_on_line"].reason == "The start draws 104 A from the line; the limit is 60 A."
    assert (limited["direct_on_line"].fit, limited["star_delta"].fit) == ("no", "fits")
    assert offered(iec(motor={"leads": 3}))["star_delta"].fit == "no"
    heavy = offered(iec(motor={"locked_rotor_torque_ratio": 2.3}, load={"torque_pct": 80, "shape": "constant"}))
    assert "does not break away a load of 80 %" in heavy["star_delta"].reason  # 2.3 / 3 = 77 %
    assert heavy["direct_on_line"].fit == "fits"
    hardly = offered(iec(motor={"locked_rotor_torque_ratio": 2.3}, load={"breakaway_pct": 70}))
    assert (hardly["star_delta"].fit, "hardly above" in hardly["star_delta"].reason) == ("care", True)


def test_the_supply_dip_is_a_limit_too() -> None:
    dips = offered(iec(supply={"prospective_current_ka": 1}))
    assert dips["direct_on_line"].dip_pct == pytest.approx(3 * (dips["star_delta"].dip_pct or 0), rel=0.1)
    strict = offered(iec(supply={"prospective_current_ka": 1, "maximum_dip_pct": 5}))
    assert (strict["direct_on_line"].fit, strict["star_delta"].fit) == ("no", "fits")
    assert "dips by" in strict["direct_on_line"].reason


@pytest.mark.parametrize(
    "method", ["direct_on_line", "star_delta", "soft_starter", "autotransformer", "stator_resistance"]
)
def test_the_dip_is_one_figure_wherever_it_stands(method: str) -> None:
    motor = {
        "rotor_inertia_kgm2": 0.05,
        "rated_speed_rpm": 1465,
        "breakdown_torque_ratio": 3.0,
        "locked_rotor_torque_ratio": 2.4,
    }
    load = {"start_time_s": None, "torque_pct": 40, "shape": "square", "inertia_kgm2": 0.4}
    data = iec(
        starter={"type": method}, motor=motor, load=load, supply={"prospective_current_ka": 1.5, "cable_length_m": 60}
    )
    sized = size(parse(data), reference_catalogue())
    figure = sized.design.figures["supply_dip_pct"].number
    assert figure == offered(data)[method].dip_pct
    view = start_view(parse(data), reference_catalogue())
    assert view.dip and view.dip.board_pct == figure
    # The run-up begins there, its motor fitted to the plate: the angle of its current differs a little.
    result = sized.built.start.result
    assert result and 100 * (1 - result.curve.board_voltage[0]) == pytest.approx(figure, abs=1.0)


def test_the_dip_of_one_phase_has_both_conductors_in_its_loop() -> None:
    between_lines = run(
        single_phase(
            supply={"line_voltage_v": 230, "conductors": "two_lines", "neutral": None, "prospective_current_ka": 1}
        )
    )
    z, line = 230 / (sqrt(3) * 1000), between_lines.currents.locked_rotor_current_a
    assert between_lines.figures["supply_dip_pct"].number == pytest.approx(100 * line * 2 * z / 230, rel=0.15)


def test_north_american_methods() -> None:
    """25 hp, 34 A: wye-delta leads 72 % (0.576·1.25), part winding 62.5 %; relays by the plate's 31.5 A."""
    star = run(nec(starter={"type": "star_delta"}))
    assert device(star, "motor_conductor").required.current_a == pytest.approx(0.72 * 34)
    assert device(star, "overload_relay").settings.dial_a == pytest.approx(31.5 / sqrt(3))
    assert device(star, "line_contactor").required.current_a == pytest.approx(34 / sqrt(3))
    half = run(nec(starter={"type": "part_winding"}))
    assert device(half, "motor_conductor").required.current_a == pytest.approx(0.625 * 34)
    assert [x.designation for x in half.devices if x.kind == "overload_relay"] == ["F1", "F4"]
    assert offered(nec())["manual"].fit == "no"


TWO = {"low_speed_current_a": 9.1, "low_speed_rpm": 965, "low_speed_power_kw": 4}


@pytest.mark.parametrize(("winding", "contactors"), [("separate", 2), ("tapped", 3)])
def test_two_speeds_have_a_contactor_and_a_relay_each(winding: str, contactors: int) -> None:
    d = run(of("two_speed", motor={**TWO, "speed_winding": winding}))
    found = {x.role: x for x in d.devices}
    assert found["low_speed_contactor"].required.current_a == 9.1
    assert found["high_speed_contactor"].required.current_a == 14.4
    assert ("high_speed_star_contactor" in found) == (contactors == 3)
    assert contactors == 2 or found["high_speed_star_contactor"].required.current_a == pytest.approx(7.2)
    assert (found["low_speed_overload_relay"].designation, found["low_speed_overload_relay"].settings.dial_a) == (
        "F1",
        9.1,
    )
    assert (found["overload_relay"].designation, found["overload_relay"].settings.dial_a) == ("F4", 14.4)
    # Both relays see the same multiple at their own start.
    assert d.figures["low_speed_overload_relay.start_multiple"].number == pytest.approx(7.2)
    assert found["short_circuit_device"].required.current_a == 14.4, "the larger of the two"


def test_a_low_speed_dial_is_judged_by_its_own_current() -> None:
    own = [{"role": "low_speed_overload_relay", "dial_a": 11, "reason": "as the high speed"}]
    assert codes(run(of("two_speed", motor=TWO, overrides=own)))["double_margin"] == "stop"


def test_a_slip_ring_motor_with_three_steps() -> None:
    motor = {"rotor_voltage_v": 260, "rotor_current_a": 18, "rated_speed_rpm": 1455}
    d = run(of("rotor_resistance", motor=motor))
    steps = [x for x in d.devices if x.role.startswith("rotor_contactor")]
    assert [x.required.current_a for x in steps] == pytest.approx([0.58 * 18, 0.58 * 18, 18])
    assert {x.required.category for x in d.devices if x.kind == "contactor"} == {"AC-2"}
    # U2/(√3·2·I2) = 4.17 Ω in all, s = 3 %: 0.25 Ω of the rotor's own; ratio ∛16.7 = 2.55 from step to step.
    ohms = [d.figures[f"rotor_resistor_{i}_ohm"].number for i in (1, 2, 3)]
    assert ohms == pytest.approx([3.920, 1.382, 0.389], abs=2e-3)
    assert d.currents.starting_line_current_a == pytest.approx(2 * 14.4)


@pytest.mark.parametrize(
    ("method", "motor", "fields"),
    [
        ("two_speed", {}, ["motor.low_speed_current_a"]),
        ("rotor_resistance", {}, ["motor.rotor_voltage_v", "motor.rotor_current_a"]),
        ("rotor_resistance", {"rotor_voltage_v": 260}, ["motor.rotor_current_a"]),
    ],
)
def test_special_motors_need_their_own_plate_values(method: str, motor: dict[str, Any], fields: list[str]) -> None:
    with pytest.raises(ProblemError) as caught:
        run(of(method, motor=motor))
    assert [p.field for p in caught.value.problems] == fields


def test_a_low_speed_above_the_high_one_stops() -> None:
    assert (
        "is not below the high speed"
        in stops(run(of("two_speed", motor={**TWO, "low_speed_rpm": 1470})))["motor.low_speed_rpm"]
    )


@pytest.mark.parametrize(
    ("method", "share"),
    [
        ("autotransformer", 0.65),
        ("part_winding", 1.3),
        ("stator_resistance", 0.7),
        ("star_delta", 1 / sqrt(3)),
        ("direct_on_line", 1.0),
    ],
)
def test_what_the_relay_sees_during_the_start(method: str, share: float) -> None:
    d = run(of(method, protection={"device": "magnetic_breaker"}))
    assert d.figures["overload_relay.start_multiple"].number == pytest.approx(7.2 * share)


@given(st.sampled_from(sorted(METHODS)), st.floats(0.5, 90), st.floats(4, 9), st.floats(1.5, 6))
def test_no_method_draws_more_than_direct_on_line(method: str, power: float, ratio: float, limit: float) -> None:
    motor = {
        "rated_power_kw": power,
        "rated_current_delta_a": None,
        "power_factor": None,
        "rated_speed_rpm": None,
        "locked_rotor_current_ratio": ratio,
    }
    document = of(method, motor=motor, starter={"current_limit_ratio": limit}, protection={"device": None})
    try:
        d = run(document)
    except ProblemError:
        return
    c = d.currents
    assert c.starting_line_current_a <= c.locked_rotor_current_a * 1.000001
    for offer in offers(parse(document), reference_catalogue()):
        assert offer.fit == "no" or not offer.key.startswith("single_phase")
        slip_rings = offer.key == "rotor_resistance"  # the one that gives more torque than its share of current
        assert slip_rings or offer.torque_share <= offer.line_current_share * 1.000001
        assert offer.reason.endswith((".", "?"))


@given(st.floats(1, 90), st.sampled_from([0.5, 0.65, 0.8]))
def test_the_relations_of_winding_and_line_hold(power: float, tap: float) -> None:
    motor = {"rated_power_kw": power, "rated_current_delta_a": None, "power_factor": None, "rated_speed_rpm": None}
    star = {
        x.role: x.required.current_a
        for x in run(of("star_delta", motor=motor, protection={"device": "fuse_am"})).devices
    }
    assert star["line_contactor"] ** 2 * 3 == pytest.approx(star["short_circuit_device"] ** 2)
    assert star["star_contactor"] * 3 == pytest.approx(star["short_circuit_device"])
    auto = run(
        of("autotransformer", motor=motor, starter={"autotransformer_tap": tap}, protection={"device": "fuse_am"})
    )
    parts = {x.role: x.required.current_a for x in auto.devices}
    # What the transformer draws and what flows through its star point make the motor's current at the tap.
    assert parts["transformer_contactor"] + parts["star_contactor"] == pytest.approx(tap * parts["run_contactor"])


@pytest.mark.parametrize("kind", ["inverse_time_breaker", "time_delay_fuse", "non_time_delay_fuse"])
def test_a_slip_ring_motor_has_its_own_column_of_the_branch_table(kind: str) -> None:
    """25 hp, 34 A by the table: 150 % are 51 A, the next standard rating is 60 A."""
    rings = {"rotor_voltage_v": 310, "rotor_current_a": 45}
    d = run(nec(starter={"type": "rotor_resistance"}, motor=rings, protection={"device": kind}))
    assert d.figures["short_circuit_device.limit_pct"].number == 150
    assert device(d, "short_circuit_device").selected.rated_current_a == 60
    iec_rings = run(iec(starter={"type": "rotor_resistance"}, motor=rings))
    assert device(iec_rings, "line_contactor").required.category == "AC-2"


def test_of_two_overload_protections_one_acts() -> None:
    """The breaker's dial 1.2 times the motor current, where its span goes so far."""
    both = run(
        iec(
            starter={"type": "star_delta"},
            motor={"rated_current_delta_a": 10.5, "rated_power_kw": 5.5},
            protection={"device": "motor_breaker"},
        )
    )
    breaker, relay = device(both, "short_circuit_device"), device(both, "overload_relay")
    assert breaker.settings.dial_a == pytest.approx(1.2 * 10.5) and relay.settings.dial_a == pytest.approx(
        10.5 / sqrt(3), rel=1e-3
    )
    assert next(f.message for f in both.findings if f.code == "overload_doubled").endswith("so that it trips later.")
    top = run(iec(starter={"type": "star_delta"}, protection={"device": "motor_breaker"}))
    assert device(top, "short_circuit_device").settings.dial_a == 15, "the top of the dial"
    assert "may still trip first" in next(f.message for f in top.findings if f.code == "overload_doubled")
    own = [{"role": "short_circuit_device", "dial_a": 14.4, "reason": "as it was found"}]
    kept = run(iec(starter={"type": "star_delta"}, protection={"device": "motor_breaker"}, overrides=own))
    assert device(kept, "short_circuit_device").settings.dial_a == 14.4
