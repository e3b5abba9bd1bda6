"""Run-up, change-over and lost phase against closed forms, hand calculations and a full network solution."""

import cmath
from dataclasses import replace
from math import cos, pi, radians, sqrt
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from samples import codes, device, iec, nec, run, single_phase, stops
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import parse
from volmek.core.phase_loss.open_phase import open_phase, positive_ohm, relay_on_two_phases
from volmek.core.physics.motor_model import (
    MotorModel,
    closed_form_torque,
    current_parameter,
    current_ratio,
    double_cage,
    double_cage_torque,
)
from volmek.core.physics.profile import Profile, heat_a2s, longest_warm, thermal_peak
from volmek.core.physics.reclosing import LINK_ANGLE_DEG, better_links, reclosing, usual_links
from volmek.core.physics.run_up import Drive, LoadModel, Stage, run_up
from volmek.core.physics.thermal import trip_class_edges
from volmek.core.sizing import size
from volmek.core.views.phase_loss import phase_loss_view, unbalance
from volmek.core.views.start import start_view

DIRECT = Stage("direct on line")
STAR = Stage("in star", 1 / 3, 1 / 3)
FAN: dict[str, Any] = {
    "motor": {"rated_power_kw": 37, "rated_current_delta_a": 66, "rated_current_star_a": 38.1, "power_factor": 0.86, "efficiency_pct": 93.9,
              "rated_speed_rpm": 1480, "locked_rotor_torque_ratio": 2.3, "breakdown_torque_ratio": 2.7, "rotor_inertia_kgm2": 0.4},
    "load": {"start_time_s": None, "torque_pct": 85, "shape": "square", "breakaway_pct": 15, "inertia_kgm2": 9.5},
    "starter": {"type": "star_delta"},
    "protection": {"device": "moulded_case_breaker"},
}  # fmt: skip


def motor(**changes: Any) -> MotorModel:
    slip, ws, i0 = 0.0133, 2 * pi * 25, 0.35
    base = MotorModel(
        400,
        66,
        0.86,
        ws,
        slip,
        37000 / (ws * (1 - slip)),
        7.2,
        2.3,
        2.7,
        None,
        i0,
        current_parameter(slip, 7.2, i0),
        None,
    )
    return replace(base, **changes)


class Flat(MotorModel):
    """A motor whose torque is the same at every speed: its run-up has a closed form."""

    def torque(self, slip: Any) -> Any:
        return np.full_like(slip, 2.0)


class Falling(MotorModel):
    """A motor whose torque falls in a straight line to nothing at synchronous speed."""

    def torque(self, slip: Any) -> Any:
        return 2.0 * slip


def as_kind(kind: type[MotorModel]) -> MotorModel:
    m = motor()
    return kind(**{name: getattr(m, name) for name in MotorModel.__dataclass_fields__})


def test_constant_acceleration_has_the_time_of_the_closed_form() -> None:
    """M = 2·Mn against ML = 1·Mn: t = J·ω/(Mn·1) to any speed."""
    m = as_kind(Flat)
    r = run_up(Drive(m, LoadModel(1.0, "constant"), 5.0, 400), [DIRECT])
    wanted = 5.0 * m.synchronous_rad_s * 0.98 * r.final_speed / m.rated_torque_nm
    assert r.run_up_time_s == pytest.approx(wanted, rel=0.01)


def test_linear_torque_has_the_time_of_the_closed_form() -> None:
    """M = 2·s without load: n = 1 − e^(−t/T), T = J·ωs/(2·Mn); 98 % after T·ln 50."""
    m = as_kind(Falling)
    r = run_up(Drive(m, LoadModel(0.0, "constant"), 5.0, 400), [DIRECT])
    time_constant = 5.0 * m.synchronous_rad_s / (2 * m.rated_torque_nm)
    assert r.run_up_time_s == pytest.approx(time_constant * np.log(1 / (1 - 0.98 * r.final_speed)), rel=0.01)


@given(st.floats(0.5, 20), st.floats(1.2, 3.0), st.floats(0.005, 0.05))
@settings(deadline=None, max_examples=30)
def test_the_rotor_takes_as_heat_what_the_mass_takes_as_motion(inertia: float, locked: float, slip: float) -> None:
    """Without load: rotor heat = ½·J·ωs²."""
    m = motor(rated_slip=slip, locked=locked, breakdown=1.3 * locked, q=current_parameter(slip, 7.2, 0.35))
    r = run_up(Drive(m, LoadModel(0.0, "constant"), inertia, 400), [DIRECT])
    assert r.rotor_heat_j == pytest.approx(0.5 * inertia * m.synchronous_rad_s**2, rel=0.02)


@given(st.floats(0.006, 0.06), st.floats(1.1, 2.6), st.floats(1.1, 1.6))
@settings(deadline=None, max_examples=60)
def test_both_forms_of_the_torque_go_through_the_plate(slip: float, locked: float, more: float) -> None:
    breakdown = locked * more
    sb = slip * (breakdown + sqrt(breakdown**2 - 1))
    at = closed_form_torque(np.array([slip, sb, 1.0]), slip, breakdown, locked)
    assert at == pytest.approx([1, breakdown, locked], rel=1e-6)
    fit = double_cage(slip, breakdown, locked)
    if fit:
        assert double_cage_torque(np.array([slip, 1.0]), *fit) == pytest.approx([1, locked], rel=0.01)
        assert float(np.max(double_cage_torque(np.linspace(slip, 0.6, 500), *fit))) == pytest.approx(
            breakdown, rel=0.01
        )


@given(st.floats(0.005, 0.06), st.floats(4, 9), st.floats(0.2, 0.6))
def test_the_current_goes_through_the_plate_or_is_refused(slip: float, ratio: float, idle: float) -> None:
    if slip * sqrt(ratio**2 - idle**2) >= sqrt(1 - idle**2):
        with pytest.raises(ProblemError, match="misread"):
            current_parameter(slip, ratio, idle)
        return
    q = current_parameter(slip, ratio, idle)
    assert current_ratio(np.array([slip, 1.0]), ratio, idle, q) == pytest.approx([1, ratio], rel=1e-6)


def test_the_kiln_fan_of_the_method() -> None:
    """37 kW fan, 9.5 kg·m²: 21.5 s in star, 95.6 % of speed, about 188 A in delta, running after 21.6 s."""
    d = run(iec(**FAN))
    assert d.start.star_time_s == 21.5
    assert d.start.changeover_speed_pct == pytest.approx(95.6, abs=0.1)
    assert d.start.changeover_current_a == pytest.approx(188, abs=2)
    assert d.start.run_up_time_s == pytest.approx(21.64, abs=0.1)
    assert d.start.stalls is False and d.start.start_time_source == "run-up"
    assert device(d, "star_delta_timer").settings.star_time_s == 21.5
    assert codes(d)["star_contactor_as_delta"] == "attention", "so long in star is too much for a third"
    assert device(d, "overload_relay").settings.trip_class not in ("10", "10A", "5")


def test_a_measured_run_up_gives_the_inertia_back() -> None:
    star = start_view(parse(iec(**FAN)), reference_catalogue())
    assert star.star and star.method
    first = star.star.points
    assert first[-1].speed_pct == pytest.approx(95.6, abs=0.1)
    seconds = 18.49
    measured = iec(**{**FAN, "load": {**FAN["load"], "inertia_kgm2": None, "measured_run_up_time_s": seconds}})
    assert run(measured).figures["total_inertia_kgm2"].value == pytest.approx(9.9, rel=0.02)


@given(st.floats(1, 60), st.floats(20, 75), st.sampled_from(["direct_on_line", "star_delta", "autotransformer", "soft_starter", "stator_resistance", "part_winding"]))  # fmt: skip
@settings(deadline=None, max_examples=40)
def test_more_inertia_never_starts_sooner_and_no_method_before_direct(
    inertia: float, torque: float, method: str
) -> None:
    def time(method: str, inertia: float) -> float:
        document = iec(**{**FAN, "load": {**FAN["load"], "torque_pct": torque, "inertia_kgm2": inertia}, "starter": {"type": method}, "protection": {"device": "fuse_am"}})  # fmt: skip
        try:
            found = run(document).start
        except ProblemError:  # the catalogue has nothing for so long a start
            return float("inf")
        return found.run_up_time_s if found.run_up_time_s is not None else float("inf")

    assert time(method, inertia) <= time(method, 1.3 * inertia) + 1e-6
    assert time("direct_on_line", inertia) <= time(method, inertia) + 1e-6


def test_a_load_that_never_starts_and_one_that_hangs_have_a_plain_answer() -> None:
    points = [[0, 20], [50, 300], [100, 300]]
    hangs = iec(**{**FAN, "load": {**FAN["load"], "torque_points": points}, "starter": {"type": "direct_on_line"}})
    d = run(hangs)
    assert d.start.stalls and d.start.run_up_time_s is None
    assert 5 < (d.start.stall_speed_pct or 0) < 95
    never = run(iec(**{**FAN, "load": {**FAN["load"], "breakaway_pct": 300}}))
    assert never.start.stall_speed_pct == pytest.approx(0, abs=0.5)
    assert "does not move" in next(f.message for f in never.findings if f.code == "start_stalls")
    sheet = start_view(parse(hangs), reference_catalogue())
    assert sheet.method and sheet.method.stalls and sheet.method.time_s, "and a drawing"


@pytest.mark.parametrize(
    ("changes", "field"),
    [
        ({"motor": {"breakdown_torque_ratio": 2.0}}, "motor.breakdown_torque_ratio"),
        ({"motor": {"pull_up_torque_ratio": 2.5}}, "motor.pull_up_torque_ratio"),
        ({"load": {"torque_points": [[0, 20], [50, 40], [40, 60]]}}, "load.torque_points"),
        ({"load": {"inertia_kgm2": 0}}, "load.inertia_kgm2"),
    ],
)
def test_impossible_motors_and_loads_are_refused_at_their_field(changes: dict[str, Any], field: str) -> None:
    document = iec(**{**FAN, **{k: {**FAN.get(k, {}), **v} for k, v in changes.items()}})
    with pytest.raises(ProblemError) as caught:
        run(document)
    assert caught.value.problems[0].field == field


def test_without_inertia_nothing_is_made_up() -> None:
    sheet = start_view(parse(iec()), reference_catalogue())
    assert sheet.method is None and "inertia" in sheet.missing[0]
    assert start_view(parse(single_phase()), reference_catalogue()).method is None


def test_the_thermal_steps_agree_with_the_closed_form_and_with_small_steps() -> None:
    edge = trip_class_edges("10").mean
    whole, cut = [(3.0, 72.0), (4.0, 30.0)], [(0.01, 72.0)] * 300 + [(0.01, 30.0)] * 400
    assert thermal_peak(edge, whole, 10) == pytest.approx(thermal_peak(edge, cut, 10))
    time = edge.trip_time_s(7.2)
    assert thermal_peak(edge, [(time, 72.0)], 10) == pytest.approx(1)
    allowed = longest_warm(edge, whole, 10)
    assert thermal_peak(edge, whole, 10, allowed) == pytest.approx(1)
    profile = Profile(5.0, 100.0, ((2.0, 90.0, 0), (1.0, 200.0, 1)))
    assert profile.through(1.0, (0.5, 0.0)) == [(2.0, 45.0), (1.0, 0.0)]
    assert heat_a2s(Profile(5.0, 100.0).through(1 / 3, (1.0,))) == pytest.approx(5 * (100 / 3) ** 2)


def fan(starter: dict[str, Any], **parts: dict[str, Any]) -> dict[str, Any]:
    """The kiln fan with another method."""
    return iec(**{**FAN, **{k: {**FAN[k], **v} for k, v in parts.items()}, "starter": starter})


SLIP_RING = {"rotor_voltage_v": 300, "rotor_current_a": 75}


def test_rotor_resistance_moves_the_same_torque_to_another_slip() -> None:
    """So many times the resistance give the same torque and current at so many times the slip."""
    drive = Drive(motor(), LoadModel(0.0), 1.0, 400)
    for k in (2.0, 5.0, 12.0):
        bare = drive.values(Stage("", rotor_ratio=1.0), np.array([1 - 0.05]))
        more = drive.values(Stage("", rotor_ratio=k), np.array([1 - 0.05 * k]))
        assert [float(x[0]) for x in more] == pytest.approx([float(x[0]) for x in bare])
    rated = drive.values(Stage("", rotor_ratio=1.0), np.array([1 - 0.0133]))
    assert float(rated[0][0]) == pytest.approx(1, rel=1e-6) and float(rated[1][0]) == pytest.approx(66, rel=1e-6)


def test_each_rotor_step_is_taken_out_when_the_next_draws_no_more_than_the_start() -> None:
    d = fan({"type": "rotor_resistance"}, motor=SLIP_RING, load={"torque_pct": 40})  # fmt: skip
    s = start_view(parse(d), reference_catalogue())
    assert (
        s.method
        and s.direct
        and [c.field.split("_")[0] for c in s.changes] == ["starter.first", "starter.second", "starter.third"]
    )
    begin = s.method.current_a[0]
    for change in s.changes:
        assert change.after_a <= 1.1 * begin and change.after_a > change.before_a
        assert change.time_s == change.proposed_s
    assert max(s.method.current_a) < max(s.direct.current_a) / 2
    assert s.speed and s.speed.stages[-1] == "with the rings short-circuited" and len(s.speed.stages) == 4
    d["starter"]["second_stage_time_s"] = 9.0
    again = start_view(parse(d), reference_catalogue()).changes
    assert again[1].time_s == 9.0 and again[1].proposed_s == s.changes[1].proposed_s
    assert again[2].at_s == pytest.approx(again[0].time_s + 9 + again[2].time_s, abs=1e-3)


@pytest.mark.parametrize("method", ["autotransformer", "part_winding", "stator_resistance"])
def test_a_first_stage_that_is_typed_overrides_the_proposed_one(method: str) -> None:
    d = fan({"type": method, "first_stage_time_s": 1.5}, load={"torque_pct": 30, "inertia_kgm2": 2})  # fmt: skip
    s = start_view(parse(d), reference_catalogue())
    assert s.star and s.star.field == "starter.first_stage_time_s" and not s.star.star
    assert s.star.chosen.star_time_s == 1.5 and s.star.proposed_s and s.star.proposed_s > 1.5
    assert [(c.to, c.time_s) for c in s.changes] == [("direct on line", 1.5)]
    assert s.changes[0].after_a == pytest.approx(s.star.chosen.current_a)
    assert "changeover_early" in codes(run(d))
    assert s.dip is None or s.dip.motor_pct < 15  # resistors of the starter are not the supply's


def test_the_low_speed_of_two_has_a_start_of_its_own() -> None:
    low = {"low_speed_current_a": 36, "low_speed_rpm": 980, "low_speed_power_kw": 18.5}
    d = fan({"type": "two_speed"}, motor=low)
    s = start_view(parse(d), reference_catalogue())
    assert (
        s.low and s.low.start and s.low.then_high and s.low.start.run_up_time_s and s.method and s.method.run_up_time_s
    )
    assert s.low.start.final_speed_pct > 97 and s.low.start.run_up_time_s < s.method.run_up_time_s
    assert max(s.low.start.current_a) == pytest.approx(7.2 * 36, rel=0.05)
    assert s.low.then_high.run_up_time_s and s.low.then_high.run_up_time_s < s.method.run_up_time_s
    assert s.low.then_high.speed_pct[0] == pytest.approx(100 * 980 / 1500, abs=1)
    # The low speed's relay stands its own short start, and so may be quicker.
    of = {x.designation: x.settings.trip_class for x in run(d).devices if x.settings.trip_class is not None}
    order = ("5", "5E", "10A", "10", "10E", "20", "20E", "30", "30E", "40E")
    assert order.index(str(of["F1"])) <= order.index(str(of["F4"]))
    d["motor"]["low_speed_rpm"] = None
    missing = start_view(parse(d), reference_catalogue()).low
    assert missing and "rpm of the low speed" in missing.missing
    heavy = {**d, "motor": {**d["motor"], "low_speed_rpm": 980, "low_speed_power_kw": 0.4}}
    assert "start_stalls" in codes(run(heavy))


def test_the_curve_over_a_soft_starters_limit_holds_the_start_in_use() -> None:
    d = fan({"type": "soft_starter", "current_limit_ratio": 4.0})
    s = start_view(parse(d), reference_catalogue())
    assert s.limit and s.method and s.limit.run_up_time_s == s.method.run_up_time_s and s.limit.current_a == 4 * 66
    times = [p.run_up_time_s for p in s.limits if p.run_up_time_s is not None]
    assert times == sorted(times, reverse=True) and s.limits[0].run_up_time_s is None
    assert s.limit.run_up_time_s
    assert min(times) < s.limit.run_up_time_s < max(times)


def test_what_an_undervoltage_setting_sees_of_a_lost_phase_goes_by_the_setting_in_use() -> None:
    d = iec(**FAN, control={"phase_monitor": "three_wire"})
    usual = phase_loss_view(parse(d), reference_catalogue())
    low = phase_loss_view(parse({**d, "monitor": {"undervoltage_pct": 75}}), reference_catalogue())
    blind = [sum("does not detect" in words for words in view.undervoltage) for view in (usual, low)]
    assert len(usual.undervoltage) == len(usual.at_load) and 0 < blind[0] < blind[1], "a lower setting sees less"
    assert "the undervoltage setting of 90 %" in usual.undervoltage[0] and "of 75 %" in low.undervoltage[0]
    lowest = [min(o.line_voltages_pct) for o in low.at_load]
    assert [v >= 75 for v in lowest] == ["does not detect" in words for words in low.undervoltage]


def test_monitor_settings_are_typed_over_and_judged() -> None:
    d = iec(**FAN, control={"phase_monitor": "three_wire"})
    proposed = device(run(d), "phase_monitor").settings
    assert (proposed.undervoltage_pct, proposed.loss_delay_s, proposed.sequence) == (90, 0.2, True)
    assert not {"monitor_setting", "monitor_range"} & set(codes(run(d)))
    typed = run(
        {**d, "monitor": {"asymmetry_pct": 6, "asymmetry_measure": "spread", "loss_delay_s": 0.5, "sequence": False}}
    )
    assert device(typed, "phase_monitor").settings.asymmetry_pct == 6 and codes(typed)["monitor_setting"] == "attention"
    sheet = phase_loss_view(parse({**d, "monitor": {"voltage_delay_s": 1}}), reference_catalogue())
    assert {s.name: s.value for s in sheet.settings}["delay for voltage"] == 1
    with pytest.raises(ProblemError):
        parse({**d, "monitor": {"undervoltage_pct": 20}})


def test_reclosing_phasors_by_hand() -> None:
    """s = 5 %, 50 ms: lag 2π·50·0.05·0.05 = 45°; E = 0.9/√3·e^(−0.05/0.7) = 0.484; triangles by the law of cosines."""
    for links, turned in LINK_ANGLE_DEG.items():
        angle = {"common": 75.0, "favourable": 15.0}[links]
        assert abs(turned) == 30
        r = reclosing(links, 0.05, 0.05, 0.05, 50, 0.7, 7.2, 475, 1.5)
        e = 0.9 / sqrt(3) * np.exp(-0.05 / 0.7)
        wanted = sqrt(1 + e * e - 2 * e * cos(radians(angle)))
        assert (r.lag_deg, r.difference) == (pytest.approx(45), pytest.approx(wanted))
        assert r.peak_a == pytest.approx(wanted * 475 * 1.5)
    assert usual_links(0.05, 0.05, 50) == "favourable" and usual_links(0.25, 0.05, 50) == "common"


@given(st.floats(0.1, 1.0))
@settings(deadline=None, max_examples=40)
def test_an_open_phase_against_the_whole_network(share: float) -> None:
    """Kirchhoff in phases: terminal A open, B and C on the supply, the motor as a symmetrical three-phase load."""
    m = motor()
    o = open_phase(m, share)
    if o.stalls:
        return
    # The admittance matrix of the motor from its sequence impedances, found from the result's own positive impedance.
    a = cmath.rect(1, 2 * pi / 3)
    z2 = cmath.rect(1 / 7.2, radians(75))
    z1 = positive_ohm(m, share, z2)
    assert z1
    t = np.array([[1, 1, 1], [1, a * a, a], [1, a, a * a]])
    z = t @ np.diag([1e9, z1, z2]) @ np.linalg.inv(t)
    # Unknown: voltage of the open terminal and of the star point; currents sum to nothing and the open one is nothing.
    y = np.linalg.inv(z)
    ub, uc = a * a, a
    column = y[:, 0]
    known = y[:, 1] * ub + y[:, 2] * uc
    ua = -known[0] / column[0]
    currents = y @ np.array([ua, ub, uc])
    assert abs(currents[0]) < 1e-6
    before = sqrt(0.35**2 + share**2 * (1 - 0.35**2))
    assert max(abs(currents[1]), abs(currents[2])) / before == pytest.approx(o.line_ratio, rel=0.01)
    lines = [100 * abs(x - y_) / sqrt(3) for x, y_ in ((ua, ub), (ub, uc), (uc, ua))]
    assert sorted(lines) == pytest.approx(sorted(o.line_voltages_pct), rel=0.01)


def test_full_load_on_two_phases() -> None:
    """1.9 to 2.1 times in the lines, 2.2 to 2.4 in the worst delta winding; standstill 0.866 Ia."""
    o = open_phase(motor(), 1.0)
    assert 1.85 <= o.line_ratio <= 2.1 and 2.15 <= o.delta_winding_ratio <= 2.4
    stopped = open_phase(motor(), 1.4)
    assert stopped.stalls and stopped.line_current_a == pytest.approx(0.866 * 7.2 * 66, rel=1e-3)
    assert relay_on_two_phases(1.4, "10", sensitive=False, warm_share=0.7).must_trip


def test_the_phase_sheet_says_why_a_monitor_is_fitted() -> None:
    s = phase_loss_view(parse(iec(**FAN)), reference_catalogue())
    assert s.delta and s.damage and 0.2 < s.damage.from_share < 0.6
    assert s.undervoltage_blind_pct and 70 < s.undervoltage_blind_pct < 90
    assert all(a.proposed_pct is None or 2 < a.proposed_pct < a.least_pct for a in s.asymmetry)
    assert {x.name for x in s.settings} >= {"phase sequence", "undervoltage", "asymmetry", "on-delay, restart"}
    assert "wire is proposed" in s.notes[0]
    assert "equivalent circuit" in s.notes[-1]
    assert "single-phase" in phase_loss_view(parse(single_phase()), reference_catalogue()).missing


@pytest.mark.parametrize(
    ("volts", "nema", "true", "verdict"),
    [
        ((400, 400, 400), 0, 0, "fine"),
        ((396, 399, 405), 1.25, 1.15, "attention"),
        ((450, 470, 440), 3.68, 3.91, "attention"),
        ((420, 400, 350), 10.26, 10.6, "stop"),
    ],
)
def test_known_triples_of_voltages(volts: tuple[float, float, float], nema: float, true: float, verdict: str) -> None:
    """NEMA by hand; U2/U1 from the triangle, by its phasors."""
    u = unbalance(list(volts))
    assert u.nema_pct == pytest.approx(nema, abs=0.01) and u.verdict == verdict
    along = (volts[2] ** 2 - volts[0] ** 2 - volts[1] ** 2) / (2 * volts[0])
    ab, bc = complex(volts[0]), complex(along, sqrt(volts[1] ** 2 - along**2))
    a = cmath.rect(1, 2 * pi / 3)
    parts = sorted(abs(ab + w * bc - w * w * (ab + bc)) for w in (a, a * a))
    assert u.true_pct == pytest.approx(100 * parts[0] / parts[1], abs=1e-6)
    assert u.true_pct == pytest.approx(true, abs=0.25)
    assert (u.derating is None) == (verdict == "stop")


def test_three_voltages_that_are_none() -> None:
    with pytest.raises(ProblemError, match="cannot be three line voltages"):
        unbalance([400, 100, 100])
    assert "look at the motor" in unbalance([400, 400, 402], [66, 66, 90]).words


VOLTS = st.tuples(*[st.floats(320, 480)] * 3)


@given(VOLTS, st.floats(0.3, 1.6))
def test_unbalance_knows_neither_the_order_nor_the_height_of_the_voltages(
    volts: tuple[float, float, float], times: float
) -> None:
    first = unbalance(list(volts))
    turned, higher = unbalance([volts[2], volts[0], volts[1]]), unbalance([times * v for v in volts])
    for other in (turned, higher):
        assert other.nema_pct == pytest.approx(first.nema_pct, abs=1e-6)
        assert other.true_pct == pytest.approx(first.true_pct, abs=1e-5)
    assert first.nema_pct > 5 or first.derating is not None


@given(st.floats(0.05, 0.6), st.floats(1.1, 3), st.floats(2.5, 9))
@settings(max_examples=60)
def test_more_load_on_two_phases_is_more_current_up_to_that_of_a_motor_at_rest(
    share: float, more: float, ratio: float
) -> None:
    m = motor(inrush_ratio=ratio, q=current_parameter(0.0133, ratio, 0.35))
    light, heavy = open_phase(m, share), open_phase(m, share * more)
    assert light.line_current_a <= heavy.line_current_a <= sqrt(3) / 2 * ratio * 66 * (1 + 1e-9)
    for o in (light, heavy):
        assert o.delta_winding_ratio >= o.line_ratio, "the winding across the two live lines is the worst"
        if o.stalls:
            assert o.open_terminal_pct == pytest.approx(50), "the open terminal lies between the two live ones"


@given(st.sampled_from(["5", "10A", "10", "20", "30"]), st.floats(1.25, 6), st.floats(0, 0.95))
def test_a_sensitive_relay_never_trips_later_and_a_warm_one_never_later_than_a_cold(
    trip_class: str, multiple: float, warm: float
) -> None:
    plain, sensitive, hot = (
        relay_on_two_phases(multiple, trip_class, sensitive=s, warm_share=w)
        for s, w in ((False, 0.0), (True, 0.0), (False, warm))
    )
    assert sensitive.typical_s <= plain.typical_s + 1e-9 and hot.typical_s <= plain.typical_s + 1e-9
    assert plain.must_trip <= sensitive.must_trip


@given(st.floats(0.01, 0.3), st.floats(0.02, 0.5), st.sampled_from([50.0, 60.0]), st.floats(0.05, 2))
def test_the_better_links_have_the_smaller_difference_until_the_field_has_gone(
    slip: float, dwell: float, frequency: float, decay: float
) -> None:
    both = [reclosing(links, slip, slip, dwell, frequency, decay, 7.2, 475, 1.5) for links in LINK_ANGLE_DEG]
    less = next(r for r in both if r.links == usual_links(slip, dwell, frequency))
    assert less.difference <= min(r.difference for r in both) + 1e-6
    assert better_links(both) in (less.links, None)
    rested = [reclosing(links, slip, slip, 40 * decay, frequency, decay, 7.2, 475, 1.5) for links in LINK_ANGLE_DEG]
    assert all(r.difference == pytest.approx(1, abs=1e-9) for r in rested), "a motor that has lost its field is at rest"


def on(volts: float, hertz: float, **more: Any) -> Drive:
    """The drive of a 400 V 50 Hz motor on another supply."""
    plate = {
        "rated_speed_rpm": 1465,
        "frequency_hz": 50,
        "locked_rotor_torque_ratio": 2.4,
        "breakdown_torque_ratio": 3.0,
    }
    load = {"start_time_s": None, "inertia_kgm2": 0.5, "torque_pct": 40, "shape": "constant"}
    supply = {"line_voltage_v": volts, "frequency_hz": hertz, "prospective_current_ka": None}
    drive = size(parse(iec(motor=plate, load=load, supply=supply, **more)), reference_catalogue()).built.start.drive
    assert drive
    return drive


def test_at_the_same_volts_per_hertz_torque_and_current_stay_and_speed_follows() -> None:
    """7.5 kW at 1465 rpm are 48.9 Nm, at 50 Hz and at 60 Hz; 35 rev/min of slip at both; 9 kW at 1765 rpm."""
    home, away = on(400, 50), on(480, 60)
    a, b = home.motor, away.motor
    assert (b.rated_current_a, b.inrush_ratio, b.breakdown) == (a.rated_current_a, a.inrush_ratio, a.breakdown)
    assert b.rated_torque_nm == pytest.approx(a.rated_torque_nm) and a.rated_torque_nm == pytest.approx(48.9, abs=0.05)
    assert b.synchronous_rad_s == pytest.approx(1.2 * a.synchronous_rad_s)
    assert b.rated_slip * b.synchronous_rad_s == pytest.approx(a.rated_slip * a.synchronous_rad_s)
    assert b.rated_torque_nm * b.synchronous_rad_s * (1 - b.rated_slip) == pytest.approx(9036, abs=5)
    assert b.locked == pytest.approx(a.locked / 1.2), "reactances grow, the rotor's resistance does not"
    at_rated = [x.values(Stage("direct on line"), np.array([1 - x.motor.rated_slip])) for x in (home, away)]
    assert [float(v[0][0]) for v in at_rated] == pytest.approx([1, 1], abs=0.03)


def test_on_the_same_voltage_at_60_hz_the_iron_is_weaker_by_the_square() -> None:
    right, weak = on(480, 60), on(400, 60)
    speeds = np.linspace(0, 0.95, 20)
    ratio = weak.values(Stage("d"), speeds)[0] / right.values(Stage("d"), speeds)[0]
    assert ratio == pytest.approx(np.full(20, (400 / 480) ** 2), rel=1e-6)


def test_star_delta_and_the_american_table_follow_the_volts_per_hertz() -> None:
    delta = run(
        iec(
            motor={"frequency_hz": 50},
            supply={"line_voltage_v": 480, "frequency_hz": 60},
            starter={"type": "star_delta"},
        )
    )
    assert delta.currents.design_current_a == 14.4
    over = {"supply": {"line_voltage_v": 480, "frequency_hz": 50}, "starter": {"type": "star_delta"}}
    said = stops(run(iec(motor={"frequency_hz": 50}, **over)))
    assert "480 V 50 Hz would be across windings made for 400 V 50 Hz" in said["motor.rated_voltage_delta_v"]
    plate = {"rated_power_hp": 10, "rated_voltage_v": 400, "frequency_hz": 50, "rated_current_a": 15}
    # 10 hp at 400 V are 14 A of the 460 V column times 460/400.
    assert run(
        nec(motor=plate, supply={"line_voltage_v": 480, "frequency_hz": 60})
    ).currents.table_current_a == pytest.approx(14 * 1.15)
