"""Control transformer by the worst step, its breaker, coils against what the supply reads, phase monitor."""

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import codes, device, iec, nec, run
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.devices.control import closing_steps, step_power_va
from volmek.core.methods import METHODS

T1 = {"source": "transformer"}
DELTA = {"motor": {"rated_power_kw": 37, "rated_current_delta_a": 66}, "protection": {"device": "moulded_case_breaker"}}


def test_star_delta_of_37_kw_by_hand() -> None:
    """K1, K2: RC-42 or the like, 180 VA in, 16 VA held; K3 RC-22 with 90 and 9.5 VA; timer 2.5 VA; by hand from the catalogue."""
    d = run(iec(starter={"type": "star_delta"}, control={**T1, "lamps": ["running"]}, **DELTA))
    k1, k3 = device(d, "line_contactor").selected, device(d, "star_contactor").selected
    assert (k1.inrush_va, k1.sealed_va, k3.inrush_va, k3.sealed_va) == (180, 16, 90, 9.5)
    steady = 2.5 + 2
    worst = max(90 + steady, 9.5 + 180 + steady, 16 + 180 + steady)
    t1 = device(d, "control_transformer")
    assert t1.required.short_time_va == pytest.approx(worst) == pytest.approx(200.5)
    assert t1.required.continuous_va == pytest.approx(2 * 16 + steady)
    assert t1.selected.type == "RV-100", "it gives 220 VA for a moment, which decides, and 100 VA for long"
    assert t1.selected.short_time_va == 220
    steps = {x.name: x.reason for x in d.figures["control.worst_step_va"].candidates}
    assert steps == {"K3 pulls in": "94.5 VA", "K3 holds, K1 pulls in": "194 VA", "K1 holds, K2 pulls in": "200 VA"}
    f3 = device(d, "control_breaker")
    assert f3.required.limit_a == 0.5, "the standard rating above 100 VA / 230 V = 0.43 A"
    assert f3.selected.rated_current_a <= 0.5


def test_line_and_star_together_ask_for_more_at_once() -> None:
    document = iec(starter={"type": "star_delta", "star_sequence": "together"}, control=T1, **DELTA)
    assert device(run(document), "control_transformer").required.short_time_va == pytest.approx(180 + 90 + 2.5)


def test_what_is_on_for_long_decides_where_it_is_more_than_the_rated_power() -> None:
    d = run(iec(control={**T1, "lamps": ["running", "stopped"]}, assumptions={"lamp_va": 60}))
    t1 = device(d, "control_transformer")
    assert t1.required.continuous_va == pytest.approx(120 + device(d, "line_contactor").selected.sealed_va)
    assert t1.selected.type == "RV-160" and t1.required.short_time_va < 220


def test_where_no_transformer_fits_the_design_stands_and_says_what_is_missing() -> None:
    d = run(iec(control={**T1, "voltage_v": 60}))
    assert device(d, "control_transformer").selected.type is None
    assert "does not give 60 V" in next(f.message for f in d.findings if f.code == "part_not_in_catalogue")


def test_north_american_control_fuse_stays_below_167_pct_of_the_secondary() -> None:
    d = run(nec(control=T1))
    t1, f3 = device(d, "control_transformer"), device(d, "control_breaker")
    assert f3.kind == "control_fuse"
    assert f3.selected.rated_current_a <= max(1.67 * float(t1.selected.rated_va or 0) / 120, 1)


@pytest.mark.parametrize(("hp", "rating"), [(25, 1), (75, 1)])
def test_the_primary_fuse_carries_the_transformer_and_protects_it(hp: float, rating: float) -> None:
    """430.72(C): below 2 A at most five times the primary current."""
    d = run(
        nec(motor={"rated_power_hp": hp, "rated_current_a": None}, control={"voltage_v": 120, "source": "transformer"})
    )
    t1, f6 = device(d, "control_transformer"), device(d, "primary_breaker")
    amps = float(t1.selected.rated_va or 0) / 480
    assert f6.selected.rated_current_a is not None
    assert amps <= f6.selected.rated_current_a <= min(rating, 5 * amps)


@pytest.mark.parametrize("method", sorted(METHODS))
def test_every_order_closes_every_contactor_of_its_method(method: str) -> None:
    from samples import single_phase

    extra = {"low_speed_current_a": 9, "rotor_voltage_v": 260, "rotor_current_a": 18, "speed_winding": "tapped"}
    plain = single_phase() if method.startswith("single") else iec(motor=extra)
    d = run({**plain, "starter": {"type": method}, "control": {"voltage_v": 230, **T1}})
    contactors = [x for x in d.devices if x.kind == "contactor"]
    if not contactors:
        assert not [x for x in d.devices if x.role == "control_transformer"]
        return
    said = " ".join(x.name for x in d.figures["control.worst_step_va"].candidates)
    assert all(k.designation in said for k in contactors)
    least = max(float(k.selected.inrush_va or 0) for k in contactors)
    assert device(d, "control_transformer").required.short_time_va >= least


@given(st.lists(st.sampled_from(["", "K1", "K2", "K1 K2", "K1 K2 K3", "K3"]), max_size=8))
def test_a_contactor_pulls_in_only_from_open_and_holds_only_when_closed(order: list[str]) -> None:
    for (holding, closing), before in zip(closing_steps(tuple(order), []), [""] * 99, strict=False):
        assert not set(holding) & set(closing)
        assert closing
        assert before == ""


@given(st.lists(st.floats(1, 100)), st.lists(st.floats(1, 1000)), st.floats(0, 100))
def test_more_coils_never_ask_for_less(sealed: list[float], inrush: list[float], steady: float) -> None:
    assert step_power_va(sealed, inrush, steady) >= step_power_va(sealed[1:], inrush, steady)
    assert step_power_va(sealed, inrush, steady) >= max(inrush, default=0)


def test_sizes_of_transformers_are_the_standard_ones() -> None:
    sizes = [t.rated_va for t in reference_catalogue().control_transformers]
    assert sizes == [25, 40, 63, 100, 160, 250, 400, 630, 1000]
    assert all(a < b for a, b in pairwise(sizes))


@pytest.mark.parametrize(
    ("reads", "code"),
    [(186.9, "coil_voltage_low"), (187.1, None), (263.9, None), (264.1, "coil_voltage_high"), (0, "coil_voltage_low")],
)
def test_the_coil_against_what_the_control_supply_reads(reads: float, code: str | None) -> None:
    """A 220 to 240 V coil: 0.85 × 220 = 187 V to 1.1 × 240 = 264 V."""
    found = {c for c in codes(run(iec(control={"measured_voltage_v": reads}))) if c.startswith("coil_voltage")}
    assert found == ({code} if code else set())


def test_a_typed_coil_is_judged_by_itself() -> None:
    """220 V are printed on the coil: 255 V are 16 % more, though the catalogue's coil goes from 220 to 240 V."""
    typed = codes(run(iec(control={"coil_voltage_v": 220, "measured_voltage_v": 255})))
    assert typed["coil_voltage_high"] == "stop"
    assert "coil_voltage_high" not in codes(run(iec(control={"measured_voltage_v": 255})))
    assert (
        codes(run(iec(control={"voltage_v": 255, "source": "separate", "coil_voltage_v": 220})))[
            "coil_voltage_mismatch"
        ]
        == "stop"
    )


def test_pull_in_over_a_long_line() -> None:
    """RC-17 at 24 V: 24²/90 = 6.4 Ω at cosφ 0.7, behind 2·0.0225·20/1.5 = 0.6 Ω: 6.4/√((4.48 + 0.6)² + 4.57²) = 93.7 % left."""
    d = run(iec(control={"voltage_v": 24, "line_length_m": 20}))
    assert d.figures["line_contactor.coil_voltage_pct"].number == pytest.approx(93.7, abs=0.1)
    assert "control_line_drop" not in codes(d)


def test_a_dc_coil_has_a_voltage_drop_too() -> None:
    """24 V DC over 100 m of 1.5 mm², 3 Ω: 24²/90 = 6.4 Ω keep 68 %, 24²/9 = 64 Ω keep 95.5 %: what the DC coil takes has to be found out."""
    dc = {"voltage_v": 24, "kind": "dc", "line_length_m": 100}
    far, farther = run(iec(control=dc)), run(iec(control={**dc, "line_length_m": 700}))
    figure = far.figures["line_contactor.coil_voltage_pct"]
    assert figure.typical and figure.number == pytest.approx(100 * 6.4 / 9.4, abs=0.1)
    assert (codes(far)["control_line_drop"], codes(farther)["control_line_drop"]) == ("attention", "stop")


def test_the_monitor_is_the_one_for_the_wires_and_the_voltage() -> None:
    for wires, volts, type in (("three_wire", 400, "RP-3"), ("four_wire", 400, "RP-4")):
        d = run(iec(control={"phase_monitor": wires}, supply={"line_voltage_v": volts}))
        assert (device(d, "phase_monitor").selected.type, device(d, "phase_monitor").designation) == (type, "F2")
