"""Worked examples of the parts that came with every starting method: leads, soft starter, electronic relay, reclosing."""

from math import sqrt
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from samples import codes, device, iec, nec, run, single_phase, stops
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.coordination.checks import first_touch_a, last_crossing_a
from volmek.core.devices.coil import coil_voltage_share
from volmek.core.devices.electronic import underload_threshold_ratio
from volmek.core.devices.soft_starter import starting_heat
from volmek.core.document.errors import ProblemError
from volmek.core.methods import METHODS
from volmek.core.plate.plate import load_current_ratio
from volmek.core.start.start import proposed_time_s
from volmek.core.symbols import LEADS, symbols

NINE: dict[str, Any] = {
    "rated_power_hp": 15,
    "rated_voltage_v": None,
    "rated_current_a": None,
    "rated_voltage_low_v": 230,
    "rated_voltage_high_v": 460,
    "rated_current_low_a": 38,
    "rated_current_high_a": 19,
    "leads": 9,
    "lead_connection": "star",
}


@pytest.mark.parametrize(
    ("volts", "connection", "amps", "links"),
    [(480, "series", 19, "links.9.star.series"), (240, "parallel", 38, "links.9.star.parallel")],
)
def test_nine_leads_take_the_current_and_links_of_their_voltage(
    volts: float, connection: str, amps: float, links: str
) -> None:
    """NEMA MG 1: 230/460 V, 38/19 A; series above, parallel below."""
    d = run(nec(motor=NINE, supply={"line_voltage_v": volts}))
    assert (d.connection, d.currents.nameplate_current_a, d.links) == (connection, amps, links)


def test_one_of_the_two_currents_gives_the_other() -> None:
    only_high = {**NINE, "rated_current_low_a": None}
    assert run(nec(motor=only_high, supply={"line_voltage_v": 240})).currents.nameplate_current_a == 38
    only_low = {**NINE, "rated_current_high_a": None}
    assert run(nec(motor=only_low)).currents.nameplate_current_a == 19


@pytest.mark.parametrize(
    ("changes", "field", "words"),
    [
        ({"rated_voltage_high_v": 400}, "motor.rated_voltage_high_v", "not twice 230"),
        ({"rated_voltage_v": 460}, "motor.rated_voltage_low_v", "either a low and a high"),
        ({"rated_current_a": 19}, "motor.rated_current_a", "low or the high"),
        ({"leads": 6}, "motor.leads", "nine or twelve"),
        ({"rated_voltage_low_v": None}, "motor.rated_voltage_low_v", "which voltage"),
    ],
)
def test_contradicting_two_voltage_plates_are_refused(changes: dict[str, Any], field: str, words: str) -> None:
    with pytest.raises(ProblemError) as caught:
        run(nec(motor={**NINE, **changes}))
    assert (field, True) in [(p.field, words in p.message) for p in caught.value.problems]


def test_methods_know_what_nine_and_twelve_leads_can_do() -> None:
    star_delta = nec(motor={**NINE, "leads": 12}, starter={"type": "star_delta"})
    assert "wound for wye" in stops(run(star_delta))["motor.lead_connection"]
    twelve = run(nec(motor={**NINE, "leads": 12, "lead_connection": "delta"}, starter={"type": "star_delta"}))
    assert twelve.links is None, "its ends go to the starter: no delta is linked in the box"
    part = nec(motor=NINE, starter={"type": "part_winding"})
    assert "low voltage" in stops(run(part))["supply.line_voltage_v"]
    assert (
        run(nec(motor=NINE, supply={"line_voltage_v": 240}, starter={"type": "part_winding"})).connection == "parallel"
    )


@pytest.mark.parametrize("key", LEADS)
def test_every_lead_is_joined_once(key: str) -> None:
    lines, joined = LEADS[key]
    leads = [lead for group in (*lines, *joined) for lead in group.split()]
    assert sorted(map(int, leads)) == list(range(1, int(key.split(".")[0]) + 1))
    assert len({len(group.split()) for group in lines}) == 1, "each line carries as many"
    assert f"links.{key}" in symbols()


def test_a_dual_voltage_single_phase_motor_between_line_and_neutral() -> None:
    motor = {"rated_voltage_v": None, "rated_current_a": None, "rated_voltage_low_v": 115, "rated_voltage_high_v": 230, "rated_current_high_a": 7.2}  # fmt: skip
    d = run(single_phase(motor=motor))
    assert (d.connection, d.currents.nameplate_current_a) == ("series", 7.2)


def test_soft_starter_of_15_kw_by_hand() -> None:
    """28.5 A, limit 3.5: 99.75 A; RS-34 stands 4 × 34 A for 15 s = 277 440 A²s, the ramp 99.75² × 10 s = 99 500."""
    d = run(iec(motor={"rated_power_kw": 15, "rated_current_delta_a": 28.5}, starter={"type": "soft_starter"}, load={"start_time_s": 10}))  # fmt: skip
    g1 = device(d, "soft_starter")
    assert g1.settings.current_limit_a == pytest.approx(99.75)
    assert (g1.designation, g1.selected.type, g1.selected.semiconductor_fuse) == ("G1", "RS-34", "RUS-80")
    assert starting_heat(99.75 / 34, 10) < starting_heat(4, 15)
    longer = run(iec(motor={"rated_power_kw": 15, "rated_current_delta_a": 28.5}, starter={"type": "soft_starter"}, load={"start_time_s": 30}, protection={"device": "fuse_am"}))  # fmt: skip
    assert device(longer, "soft_starter").selected.type == "RS-43", "30 s of it ask for the next"


def test_soft_starters_of_the_range_save_their_thyristors() -> None:
    for g in reference_catalogue().soft_starters:
        assert g.semiconductor_fuse_i2t_a2s < g.thyristor_i2t_a2s
        assert g.semiconductor_fuse_a >= 1.5 * g.rated_current_a


def test_electronic_relay_functions_by_hand() -> None:
    """14.4 A: stall 36 A, earth fault 4.32 A; underload midway between no load and 60 % torque."""
    own = [{"role": "overload_relay", "device_type": "RE-24", "reason": "functions"}]
    d = run(
        iec(
            protection={"device": "fuse_gg"},
            overrides=own,
            load={"torque_pct": 60},
            motor={"breakdown_torque_ratio": 2.8},
        )
    )
    f1 = device(d, "overload_relay").settings
    assert f1.stall_a == pytest.approx(2.5 * 14.4)
    assert f1.earth_fault_a == pytest.approx(0.3 * 14.4)
    sin_phi = sqrt(1 - 0.83**2)
    i0 = max(0.2, sin_phi - 0.83 * (2.8 - sqrt(2.8**2 - 1)))
    duty = sqrt(i0**2 + 0.36 * (1 - i0**2))
    assert f1.underload_a == pytest.approx((i0 + duty) / 2 * 14.4, rel=1e-3)
    in_star_delta = run(
        iec(
            protection={"device": "fuse_gg"},
            starter={"type": "star_delta"},
            overrides=[{**own[0], "device_type": "RE-24"}],
        )
    )
    assert device(in_star_delta, "overload_relay").settings.stall_a == pytest.approx(2.5 * 14.4 / sqrt(3))


@given(st.floats(0, 1.5), st.floats(0.2, 0.7))
def test_part_load_current_lies_between_no_load_and_full_load(share: float, idle: float) -> None:
    ratio = load_current_ratio(share, idle)
    assert ratio >= idle - 1e-12
    assert (ratio <= 1 + 1e-12) == (share <= 1 + 1e-12)
    assert idle <= underload_threshold_ratio(idle, ratio) <= max(ratio, idle)


@given(st.floats(20, 900), st.floats(1.5, 8))
@settings(deadline=None)
def test_a_magnetic_trip_crosses_a_falling_curve_at_its_current(trip: float, slope: float) -> None:
    def relay(amps: float) -> float:
        return 1e6 / amps**slope

    crossing = last_crossing_a(lambda amps: 0.0 if amps >= trip else float("inf"), relay, 10, 1000)
    assert crossing == pytest.approx(trip, rel=1e-3)
    touch = first_touch_a(relay, lambda amps: 0.01, 10, 1e6)
    assert touch is None or relay(touch) == pytest.approx(0.01, rel=1e-2) or touch == pytest.approx(10, rel=1e-6)


def test_the_line_drop_grows_with_length_and_falls_with_section() -> None:
    shares = [coil_voltage_share(ohm, 230, 90, 0.7) for ohm in (0, 10, 20, 40)]
    assert shares[0] == 1 and shares == sorted(shares, reverse=True)
    assert coil_voltage_share(10, 24, 9, 1) == pytest.approx(64 / 74), "DC: resistances alone"


EARLY = {"start_time_s": None, "inertia_kgm2": 9.5, "torque_pct": 70, "shape": "square"}
LARGE = {"rated_power_kw": 37, "rated_current_delta_a": 66, "power_factor": 0.86, "efficiency_pct": 93.9, "rated_speed_rpm": 1480, "locked_rotor_torque_ratio": 2.3, "breakdown_torque_ratio": 2.7}  # fmt: skip


def test_a_reclosing_peak_above_the_first_one_is_what_the_breaker_must_not_see() -> None:
    """With common links and a pause of 100 ms the peak is larger than ki·Ia; the magnetic trip is set by it."""
    common = {"type": "star_delta", "dwell_s": 0.1, "delta_links": "common"}
    d = run(iec(motor=LARGE, load=EARLY, starter=common, protection={"device": "moulded_case_breaker"}))
    peak = d.figures["reclosing_peak_a"].number
    assert peak > d.figures["inrush_peak_a"].number
    q1 = device(d, "short_circuit_device")
    assert 0.8 * float(q1.settings.instantaneous_trip_a or 0) == pytest.approx(peak, rel=1e-6)
    late = run(
        iec(motor=LARGE, load=EARLY, starter={"type": "star_delta"}, protection={"device": "moulded_case_breaker"})
    )
    assert late.figures["reclosing_peak_a"].number < late.figures["inrush_peak_a"].number
    early = iec(
        motor=LARGE, load=EARLY, starter={**common, "star_time_s": 4}, protection={"device": "moulded_case_breaker"}
    )
    assert "changeover_early" in codes(run(early)) and "changeover_early" not in codes(late)


def test_a_long_pause_costs_speed_and_says_how_much() -> None:
    d = run(
        iec(
            motor=LARGE,
            load=EARLY,
            starter={"type": "star_delta", "dwell_s": 0.5},
            protection={"device": "moulded_case_breaker"},
        )
    )
    lost = d.figures["dwell_speed_loss_pct"]
    assert 0.2 < lost.number < 5
    assert f"loses speed ({lost.text} %)" in next(f.message for f in d.findings if f.code == "dwell_long")


@pytest.mark.parametrize("method", ["star_delta", "autotransformer", "part_winding", "stator_resistance"])
def test_the_time_of_a_first_stage_is_proposed_for_every_method_that_changes_over(method: str) -> None:
    d = run(iec(motor=LARGE, load={**EARLY, "torque_pct": 40, "inertia_kgm2": 3}, starter={"type": method}, protection={"device": "fuse_am"}))  # fmt: skip
    proposed = d.figures["proposed_stage_time_s"].number
    assert proposed >= (3 if method == "star_delta" else 1) and (2 * proposed) % 1 == 0
    assert d.start.star_time_s == proposed
    assert (d.start.run_up_time_s or 0) >= proposed
    assert proposed_time_s.__doc__


def test_every_method_has_stages_from_standstill_to_running() -> None:
    from volmek.core.context import Context
    from volmek.core.document.model import parse
    from volmek.core.plate.reading import read_plate

    document = parse(iec(motor={**LARGE, "low_speed_current_a": 20, "rotor_voltage_v": 260, "rotor_current_a": 90}))
    plate = read_plate(Context(document, reference_catalogue()))
    for key, method in METHODS.items():
        stages = method.layout(document).stages(plate)
        assert stages and stages[-1].duration_s is None, key
        for contactor in method.layout(document).contactors:
            assert len(contactor.stage_shares) <= max(len(stages), 2), (key, contactor.designation)


def test_measured_curves_are_drawn_and_backward_ones_refused() -> None:
    from volmek.core.document.model import parse
    from volmek.core.views.time_current import time_current_view

    points = [[20, 600], [100, 8], [400, 0.1]]
    good = iec(protection={"device": "fuse_gg", "measured_curves": [{"name": "F1 in the shop", "points": points}]})
    sheet = time_current_view(parse(good), reference_catalogue())
    assert next(c.time_s for c in sheet.curves if c.name == "F1 in the shop") == [600, 8, 0.1]
    good["protection"]["measured_curves"][0]["points"] = [[20, 600], [20, 8]]
    with pytest.raises(ProblemError, match="runs backwards"):
        run(good)


def test_frequent_starts_are_an_r_m_s_current_by_hand() -> None:
    """Every 360 s 2 s at 103.7 A, then 14.4 A: √((2·103.68² + 358·14.4²)/360) = 16.3 A; twice an hour it is 14.8 A."""
    often = run(iec(load={"start_time_s": 2, "starts_per_hour": 10}, protection={"device": "fuse_gg"}))
    assert often.figures["cycle_current_a"].number == pytest.approx(sqrt((2 * 103.68**2 + 358 * 14.4**2) / 360))
    assert codes(often)["starts_too_often"] == "attention"
    seldom = run(iec(load={"start_time_s": 2, "starts_per_hour": 2}, protection={"device": "fuse_gg"}))
    assert seldom.figures["cycle_current_a"].number == pytest.approx(
        14.8, abs=0.05
    ) and "starts_too_often" not in codes(seldom)
    bare = run(
        iec(load={"start_time_s": 2, "starts_per_hour": 120}, protection={"device": "fuse_gg", "overload": "none"})
    )
    assert "starts_too_often" not in codes(bare), "there is no dial to speak of"
    # Half the winding at 0.65 of the current is 1.3 times its share: √((2·(1.3·103.68)² + 358·14.4²)/360) = 17.5 A of motor current.
    half = run(
        iec(
            load={"start_time_s": 2, "starts_per_hour": 10},
            protection={"device": "fuse_gg"},
            starter={"type": "part_winding"},
        )
    )
    assert half.figures["cycle_current_a"].number == pytest.approx(17.53, abs=0.02)
    # In star a third of the line current is 0.577 of what the windings carry direct on line.
    star = run(
        iec(
            load={"start_time_s": 2, "starts_per_hour": 10},
            protection={"device": "fuse_gg"},
            starter={"type": "star_delta"},
        )
    )
    assert star.figures["cycle_current_a"].number == pytest.approx(sqrt((2 * 103.68**2 / 3 + 358 * 14.4**2) / 360))


@pytest.mark.parametrize("method", ["direct_on_line", "star_delta", "part_winding"])
def test_a_computed_start_heats_about_as_its_rectangle(method: str) -> None:
    drive = {"start_time_s": None, "torque_pct": 40, "shape": "square", "inertia_kgm2": 0.6, "starts_per_hour": 12}
    motor = {"rated_speed_rpm": 1465, "breakdown_torque_ratio": 3.0, "locked_rotor_torque_ratio": 2.4}
    computed = run(iec(load=drive, motor=motor, protection={"device": "fuse_gg"}, starter={"type": method}))
    seconds = computed.start.run_up_time_s
    typed = run(
        iec(
            load={"start_time_s": seconds, "starts_per_hour": 12},
            motor=motor,
            protection={"device": "fuse_gg"},
            starter={"type": method},
        )
    )
    over = [x.figures["cycle_current_a"].number ** 2 - 14.4**2 for x in (computed, typed)]
    assert 0.3 < over[0] / over[1] < 1.1, "the current falls as the motor gains speed"


def test_north_american_conductors_go_in_parallel_beyond_the_table() -> None:
    """125 % of 590 A are 738 A; with 0.7 for 38 °C and six conductors only sets of two carry it, each at least 1/0 AWG."""
    one = run(
        nec(
            motor={"rated_power_hp": 500, "rated_current_a": 590},
            supply={"cable_ambient_c": 55, "cable_grouping": 3, "prospective_current_ka": 20},
        )
    )
    w1 = device(one, "motor_conductor")
    assert w1.selected.parallel and w1.selected.parallel >= 2
    assert (w1.selected.rated_current_a or 0) >= (w1.required.current_a or 0)
    assert "cables_in_parallel" in codes(one)
