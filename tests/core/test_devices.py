"""Devices picked, set and judged: worked examples with the standards' figures."""

from math import log
from typing import Any

import pytest

from samples import codes, design, device, iec, nec, run, stops
from volmek.core.catalogue.catalogue import Catalogue, reference_catalogue
from volmek.core.catalogue.device_types import TABLES
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import parse
from volmek.core.physics.thermal import trip_class_edges
from volmek.data.loader import reference


@pytest.mark.parametrize(
    ("kw", "amps", "fuse"), [(4, 8.5, 20), (7.5, 15.5, 32), (15, 29, 63), (30, 55, 100), (55, 97, 160)]
)
def test_gg_fuses_of_light_starts_are_the_usual_ones(kw: float, amps: float, fuse: float) -> None:
    motor = {
        "rated_power_kw": kw,
        "rated_current_delta_a": amps,
        "power_factor": None,
        "efficiency_pct": None,
        "efficiency_class": None,
        "locked_rotor_current_ratio": None,
        "rated_speed_rpm": None,
    }
    d = run(iec(motor=motor, load={"start_time_s": None}, protection={"device": "fuse_gg"}))
    assert device(d, "short_circuit_device").selected.rated_current_a == fuse


@pytest.mark.parametrize(
    ("kind", "rated", "lower_edge"),
    [
        ("motor_breaker", 15, 0.8 * 13 * 15),
        ("magnetic_breaker", 15, 0.8 * 13 * 15),
        ("miniature_breaker_b", 63, 3 * 63),
        ("miniature_breaker_c", 32, 5 * 32),
        ("miniature_breaker_d", 25, 10 * 25),
        ("moulded_case_breaker", 16, 1.5 * 7.2 * 14.4),
    ],
)
def test_breakers_clear_the_first_peak(kind: str, rated: float, lower_edge: float) -> None:
    # The peak is 1.5 (IE3) × 7.2 × 14.4 A = 155.5 A.
    q1 = device(run(iec(protection={"device": kind})), "short_circuit_device")
    assert q1.required.instantaneous_lower_edge_a == pytest.approx(155.52)
    assert q1.selected.rated_current_a == rated
    assert q1.selected.instantaneous_lower_edge_a == pytest.approx(lower_edge)


def test_a_dial_is_passed_over_for_the_inrush_and_it_is_said() -> None:
    d = run(iec(motor={"rated_current_delta_a": 14.9, "locked_rotor_current_ratio": 8.0}))
    assert d.devices[0].selected.type == "RM-21"
    assert codes(d)["next_dial_for_inrush"] == "info"


def test_a_miniature_breaker_in_a_warm_packed_row_carries_less() -> None:
    # 0.9 at 50 °C times 0.8 side by side: 25 A carries 18 A, 20 A only 14.4 A; the peak inrush then asks for D20.
    parts = {
        "protection": {"device": "miniature_breaker_d"},
        "surroundings": {"ambient_c": 50, "motor_ambient_c": 40},
        "load": {"start_time_s": 1},
    }
    d = run(iec(**parts, assumptions={"miniature_breakers_packed": True}, motor={"rated_current_delta_a": 14.6}))
    assert d.devices[0].selected.rated_current_a == 25
    hot = run(iec(**{**parts, "surroundings": {"ambient_c": 55, "motor_ambient_c": 40}}))
    assert "50 °C is the limit" in stops(hot)["protection.device"]


def test_breaking_capacity_decides_with_the_transformer() -> None:
    supply = {"prospective_current_ka": None, "transformer_kva": 250, "transformer_uk_pct": 4}
    d = run(iec(supply=supply, protection={"device": "miniature_breaker_c"}))
    assert d.supply.prospective_current_ka == pytest.approx(1.1 * 250 / (3**0.5 * 400 * 0.04), rel=1e-9)
    strong = run(iec(supply={**supply, "transformer_kva": 1600}, protection={"device": "miniature_breaker_c"}))
    assert "No miniature breaker C in the catalogues is suitable for Q1" in stops(strong)["protection.device"]
    cable = {**supply, "supply_cable_length_m": 50, "supply_cable_section_mm2": 50}
    assert (run(iec(supply=cable)).supply.prospective_current_ka or 0) < 7
    assert codes(run(iec(supply={"prospective_current_ka": None})))["prospective_current_unknown"] == "attention"


def test_a_long_thin_motor_cable_is_stopped_when_the_fault_is_not_cleared_in_time() -> None:
    cable = {"cable_length_m": 300, "cable_section_mm2": 1.5, "system": "tn"}
    assert codes(run(iec(supply=cable)))["disconnection_too_slow"] == "stop"
    assert "disconnection_too_slow" not in codes(
        run(iec(supply={**cable, "cable_length_m": 20, "cable_section_mm2": 2.5}))
    )
    assert codes(run(iec(supply={**cable, "system": "tt"})))["tt_needs_rcd"] == "attention"


def test_contactor_by_current_duty_altitude_and_start() -> None:
    assert device(run(iec()), "line_contactor").selected.type == "RC-17"
    inching = device(run(iec(load={"duty": "ac4"})), "line_contactor")
    assert (inching.selected.type, inching.required.category) == ("RC-35", "AC-4")
    high = device(run(iec(surroundings={"altitude_m": 3000}, motor={"rated_current_delta_a": 16.5})), "line_contactor")
    assert high.selected.rated_current_a == pytest.approx(22 * 0.93)
    # 640·17² / 103.7² = 17.2 s: a start of 20 s asks for the next larger one, and the design says why.
    long = run(iec(load={"start_time_s": 20}, protection={"device": "magnetic_breaker"}))
    assert device(long, "line_contactor").selected.type == "RC-22"
    assert codes(long)["contactor_larger_for_start"] == "attention"


def test_electrical_life_of_mixed_duty() -> None:
    life = run(iec(load={"starts_per_hour": 10, "hours_per_year": 4000})).figures
    assert life["line_contactor.life_operations"].number == pytest.approx(1.3e6 * (17 / 14.4) ** 2)
    assert life["line_contactor.life_years"].number == pytest.approx(1.3e6 * (17 / 14.4) ** 2 / 40_000)
    mixed = run(iec(load={"ac4_share_pct": 5})).figures["line_contactor.life_operations"].number
    n4 = 1.8e5 * (6 * 7.8 / (7.2 * 14.4)) ** 2
    assert mixed == pytest.approx(1 / (0.95 / (1.3e6 * (17 / 14.4) ** 2) + 0.05 / n4))


@pytest.mark.parametrize(
    ("control", "severity"),
    [
        ({"voltage_v": 120, "coil_voltage_v": 24}, "stop"),
        ({"voltage_v": 24, "coil_voltage_v": 120}, "stop"),
        ({"voltage_v": 230}, None),
        ({"voltage_v": 24, "kind": "dc"}, None),
    ],
)
def test_coil_against_control_voltage(control: dict[str, object], severity: str | None) -> None:
    assert codes(run(iec(control=control))).get("coil_voltage_mismatch") == severity


def test_overload_dial_of_both_schools() -> None:
    relay = {"device": "magnetic_breaker"}
    assert device(run(iec(protection=relay)), "overload_relay").settings.dial_a == 14.4
    # 430.32 with a dial in motor amperes: SF 1.15 gives FLA, SF 1.0 115/120 of it; in trip amperes 125 %.
    for parts, dial in (
        ({}, 31.5),
        ({"motor": {"service_factor": 1.0}}, 31.5 * 115 / 120),
        ({"motor": {"service_factor": 1.0}, "protection": {"ultimate_trip_multiple": 1.25}}, 31.5 * 0.92),
        ({"protection": {"dial_marking": "trip_amperes"}}, 31.5 * 1.25),
        (
            {
                "motor": {"service_factor": 1.0},
                "protection": {"dial_marking": "trip_amperes", "failed_start_recorded": True},
            },
            31.5 * 1.30,
        ),
    ):
        assert device(run(nec(**parts)), "overload_relay").settings.dial_a == pytest.approx(dial)


def test_the_double_margin_is_caught_in_both_practices() -> None:
    def own(dial: float) -> list[dict[str, object]]:
        return [{"role": "overload_relay", "dial_a": dial, "reason": "set like the others"}]

    assert codes(run(iec(protection={"device": "magnetic_breaker"}, overrides=own(18))))["double_margin"] == "stop"
    assert (
        codes(run(iec(protection={"device": "magnetic_breaker"}, overrides=own(15.2))))["double_margin"] == "attention"
    )
    assert codes(run(nec(overrides=own(39.4))))["overload_above_limit"] == "stop"
    low = run(iec(protection={"device": "magnetic_breaker"}, overrides=own(11.9)))
    assert codes(low)["dial_low"] == "stop"
    relay = device(low, "overload_relay")
    assert (relay.override_reason, relay.overridden) == ("set like the others", ("dial_a",))


def test_a_thirteen_ampere_relay_at_its_maximum_on_three_kilowatts_is_stopped() -> None:
    motor = {"rated_power_kw": 3, "rated_current_delta_a": 6.3, "efficiency_pct": 87.7, "power_factor": 0.8}
    own = [{"role": "overload_relay", "device_type": "RT-12.6", "dial_a": 12.6, "reason": "was there"}]
    assert (
        codes(run(iec(motor=motor, protection={"device": "magnetic_breaker"}, overrides=own)))["double_margin"]
        == "stop"
    )


def test_a_capacitor_behind_the_relay_and_current_transformers_change_the_dial() -> None:
    behind = {"power_factor_capacitor_kvar": 1.5, "power_factor_capacitor_position": "after_relay"}
    dial = device(run(iec(supply=behind, protection={"device": "fuse_gg"})), "overload_relay").settings.dial_a
    ic = 1500 / (3**0.5 * 400)
    assert dial == pytest.approx(((14.4 * 0.83) ** 2 + (14.4 * (1 - 0.83**2) ** 0.5 - ic) ** 2) ** 0.5)
    before = {**behind, "power_factor_capacitor_position": "before_relay"}
    assert device(run(iec(supply=before, protection={"device": "fuse_gg"})), "overload_relay").settings.dial_a == 14.4
    assert codes(run(iec(supply={**behind, "power_factor_capacitor_kvar": 5})))["self_excitation"] == "attention"
    through = run(iec(protection={"device": "fuse_gg", "current_transformer_ratio": 20}))
    assert device(through, "overload_relay").settings.dial_a == pytest.approx(0.72)


@pytest.mark.parametrize("name", ["5", "5E", "10A", "10", "10E", "20", "20E", "30", "30E", "40E"])
def test_trip_class_edges_meet_the_standard(name: str) -> None:
    from volmek.core.standards.tables import row_of

    row, edges = row_of("overload_trip_class_iec", "trip_class", name), trip_class_edges(name)
    assert edges.fast.trip_time_s(7.2) == pytest.approx(row["time_at_7_2_min_s"])
    assert edges.slow.trip_time_s(7.2) <= row["time_at_7_2_max_s"] * (1 + 1e-9)
    assert edges.slow.trip_time_s(1.5, 1.2**-2) <= row["time_at_1_5_warm_max_s"] * (1 + 1e-9)
    assert edges.fast.trip_time_s(1.05) == float("inf")
    assert edges.slow.trip_time_s(1.21) < float("inf")


@pytest.mark.parametrize(
    ("seconds", "name"), [(None, "10"), (3.9, "10"), (4.5, "10E"), (5.5, "20"), (9.0, "20E"), (16.0, "30E")]
)
def test_trip_class_follows_the_start(seconds: float | None, name: str) -> None:
    relay = device(
        run(iec(load={"start_time_s": seconds}, protection={"device": "magnetic_breaker"})), "overload_relay"
    )
    assert relay.settings.trip_class == name


def test_trip_class_against_stall_time() -> None:
    parts = {"protection": {"device": "magnetic_breaker"}, "load": {"start_time_s": 16}}
    assert codes(run(iec(**parts, motor={"permitted_stall_time_s": 6})))["stall_not_protected"] == "stop"
    assert codes(run(iec(**parts, motor={"permitted_stall_time_s": 25})))["stall_cold_not_protected"] == "attention"
    assert codes(run(iec(**parts)))["stall_time_unknown"] == "attention"
    assert codes(run(iec(load={"start_time_s": 12})))["trip_class_too_fast"] == "stop", (
        "a motor breaker has class 10 only"
    )


def test_automatic_reset_with_a_maintained_contact_is_stopped() -> None:
    d = run(iec(protection={"device": "magnetic_breaker", "reset": "automatic"}, control={"scheme": "two_wire"}))
    assert codes(d)["automatic_reset"] == "stop"


@pytest.mark.parametrize(
    ("device_kind", "rating", "exception"),
    # 34 A of Table 430.250: 250 % = 85, 175 % = 59.5, 300 % = 102; after a failed start 400 %, 225 %, 400 %.
    [("inverse_time_breaker", 90, 125), ("time_delay_fuse", 60, 70), ("non_time_delay_fuse", 110, 125)],
)
def test_branch_devices_of_430_52(device_kind: str, rating: float, exception: float) -> None:
    assert (
        device(run(nec(protection={"device": device_kind})), "short_circuit_device").selected.rated_current_a == rating
    )
    recorded = {"device": device_kind, "failed_start_recorded": True}
    assert device(run(nec(protection=recorded)), "short_circuit_device").selected.rated_current_a == exception


def test_instantaneous_trip_has_hard_ceilings() -> None:
    q1 = device(run(nec(protection={"device": "instantaneous_trip_breaker"})), "short_circuit_device")
    assert q1.settings.instantaneous_trip_a == pytest.approx(272)  # 800 % of 34 A
    own = [{"role": "short_circuit_device", "instantaneous_trip_a": 400, "reason": "it tripped"}]
    assert (
        codes(run(nec(protection={"device": "instantaneous_trip_breaker"}, overrides=own)))["instantaneous_above_limit"]
        == "stop"
    )
    recorded = {"device": "instantaneous_trip_breaker", "failed_start_recorded": True}
    assert "instantaneous_above_limit" not in codes(run(nec(protection=recorded, overrides=own)))


def test_nema_size_conductor_and_disconnect() -> None:
    d = run(nec())
    assert device(d, "line_contactor").selected.size == "2"
    assert device(run(nec(load={"duty": "ac4"})), "line_contactor").selected.size == "3", "one size up for jogging"
    wire = device(d, "motor_conductor")
    assert wire.required.current_a == pytest.approx(42.5)
    assert wire.selected.size == "6 AWG", "60 °C column up to 1 AWG"
    assert device(run(nec(motor={"nec_design_letter": "B"})), "motor_conductor").selected.size == "8 AWG"
    assert d.figures["disconnect_a"].number == pytest.approx(39.1)
    # 28 A · 1.25 = 35 A: a 35 A conductor will do.
    ten = run(nec(motor={"rated_power_hp": 20, "rated_current_a": 25}))
    assert device(ten, "motor_conductor").selected.size == "8 AWG"


def test_an_override_is_judged_like_any_choice() -> None:
    own = [{"role": "line_contactor", "device_type": "RC-13", "reason": "the spare in the store"}]
    d = run(iec(overrides=own))
    assert device(d, "line_contactor").selected.type == "RC-13"
    assert codes(d)["contactor_too_small"] == "stop"
    larger = run(iec(overrides=[{**own[0], "device_type": "RC-28"}]))
    assert device(larger, "line_contactor").selected.type == "RC-28"
    assert "contactor_too_small" not in codes(larger)


def test_an_override_without_effect_is_said_and_a_wrong_one_refused() -> None:
    relay = [{"role": "overload_relay", "dial_a": 14, "reason": "kept from before"}]
    assert codes(run(iec(overrides=relay)))["override_unused"] == "attention"
    for bad, field in (
        ({"role": "nobody", "dial_a": 1, "reason": "typo here"}, "overrides.0.role"),
        ({"role": "line_contactor", "reason": "nothing said"}, "overrides.0"),
    ):
        with pytest.raises(ProblemError) as caught:
            run(iec(overrides=[bad]))
        assert caught.value.problems[0].field == field
    gone = run(iec(overrides=[{"role": "line_contactor", "device_type": "XX-1", "reason": "typo here"}]))
    assert "no contactor of type 'XX-1'" in stops(gone)["overrides.line_contactor"]
    assert device(gone, "line_contactor").selected.type == device(run(iec()), "line_contactor").selected.type


def test_a_fuse_above_the_marking_of_contactor_or_relay_is_stopped() -> None:
    own = [{"role": "short_circuit_device", "device_type": "RU-gG100", "reason": "it was at hand"}]
    assert codes(run(iec(protection={"device": "fuse_gg"}, overrides=own)))["upstream_device_too_large"] == "stop"


@pytest.mark.parametrize("table", [*TABLES, "every one"])
@pytest.mark.parametrize(
    "document",
    [
        iec(protection={"device": "fuse_gg"}),
        iec(starter={"type": "star_delta"}),
        nec(),
        iec(protection={"device": None}),
    ],
)
def test_a_catalogue_without_a_kind_of_device_still_gives_a_design(table: str, document: dict[str, Any]) -> None:
    """A board may choose from a file that holds contactors only: what is not in it is said, the rest is computed."""
    tables = {n: [] if table in (n, "every one") else reference(n) for n in TABLES}
    d = design(parse(document), Catalogue.from_rows("Nothing", tables))
    lacking = {x.designation for x in d.devices if x.none_fits}
    said = {f.device: f.message for f in d.findings if f.code == "no_device_fits"}
    assert set(said) == lacking
    assert all("Nothing has no" in words or table != "every one" for words in said.values())
    assert lacking or table not in ("contactors", "every one") or document["practice"] == "nec"
    assert d.currents == run(document).currents
    assert all(x.selected.type is None for x in d.devices if x.none_fits)


def test_a_catalogue_row_that_is_wrong_is_named_by_row_and_column() -> None:
    row = dict(reference("overload_relays")[0])
    bad = [row, {**row, "type": "RT-X", "range_min_a": "9"}, {**row, "type": "RT-Y", "range_max_a": "a lot"}]
    with pytest.raises(ProblemError) as caught:
        Catalogue.from_rows("Bad", {"overload_relays": bad})
    assert ["row 3" in str(caught.value), "row 4, range_max_a" in str(caught.value)] == [True, True]
    with pytest.raises(ProblemError, match="occurs twice"):
        Catalogue.from_rows("Twice", {"overload_relays": [row, row]})


def test_every_motor_from_the_table_finds_a_set() -> None:
    from volmek.data.loader import standard

    for row in standard("motor_current_three_phase_iec"):
        kw = row["rated_power_kw"]
        if kw > 315:
            continue
        for kind in ("moulded_case_breaker", "fuse_gg", "fuse_am") + (("motor_breaker",) if kw <= 45 else ()):
            motor = {"rated_power_kw": kw, "rated_voltage_delta_v": 400}
            d = design(
                parse({"tag": "x", "motor": motor, "supply": {"line_voltage_v": 400}, "protection": {"device": kind}}),
                reference_catalogue(),
            )
            assert not [f for f in d.findings if f.severity == "stop"], (kw, kind, d.findings)


def test_the_thermal_closed_form_agrees_with_the_differential_equation() -> None:
    edge, theta, t = trip_class_edges("10").mean, 0.0, 0.0
    while theta < 1:
        theta += 1e-3 * ((6.0 / edge.k) ** 2 - theta) / edge.time_constant_s
        t += 1e-3
    assert edge.trip_time_s(6.0) == pytest.approx(t, rel=2e-3)
    assert edge.time_constant_s == pytest.approx((4 * 10) ** 0.5 / log(7.2**2 / (7.2**2 - 1.12**2)))
