"""The time-current sheet: its curves go through their gates, its crossings say what the design says."""

import itertools
from typing import Any

import pytest

from samples import codes, iec, nec, run, single_phase
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import parse
from volmek.core.physics.thermal import gg_gates, trip_class_edges
from volmek.core.views.time_current import TimeCurrentView, TimeCurve, points_csv, read_at, time_current_view
from volmek.files.svg import to_svg

RELAY = {"device": "magnetic_breaker"}


def sheet(document: dict[str, Any]) -> TimeCurrentView:
    return time_current_view(parse(document), reference_catalogue())


def curve(s: TimeCurrentView, start: str, edge: str = "") -> TimeCurve:
    return next(c for c in s.curves if c.name.startswith(start) and (not edge or c.edge == edge))


def test_the_relay_goes_through_the_limits_of_its_class() -> None:
    s = sheet(iec(protection=RELAY))
    edges = trip_class_edges("10")
    amps = 7.2 * 14.4
    assert read_at(curve(s, "F1 class 10, cold", "earliest"), amps) == pytest.approx(
        edges.fast.trip_time_s(7.2), rel=0.01
    )
    assert read_at(curve(s, "F1 class 10, cold", "latest"), amps) == pytest.approx(10, rel=0.01)
    warm, cold = (read_at(curve(s, f"F1 class 10, {w}", "latest"), amps) for w in ("warm", "cold"))
    assert warm and cold and warm < cold


def test_a_relay_in_the_winding_is_drawn_in_amperes_of_the_line() -> None:
    s = sheet(iec(starter={"type": "star_delta"}, protection={"device": "moulded_case_breaker"}))
    assert read_at(curve(s, "F1 class 10, cold", "latest"), 7.2 * 14.4) == pytest.approx(10, rel=0.01)


@pytest.mark.parametrize("rating", [32, 40, 63])
def test_a_fuse_goes_through_its_gates(rating: float) -> None:
    own = [{"role": "short_circuit_device", "device_type": f"RU-gG{rating}", "reason": "the gates"}]
    s = sheet(iec(protection={"device": "fuse_gg"}, overrides=own))
    gates = gg_gates()[rating]
    assert read_at(curve(s, f"Q1 RU-gG{rating}", "earliest"), gates["current_min_10s_a"]) == pytest.approx(10, rel=0.03)
    assert read_at(curve(s, f"Q1 RU-gG{rating}", "latest"), gates["current_max_5s_a"]) == pytest.approx(5, rel=0.03)


def test_the_magnetic_part_stands_at_its_tolerance() -> None:
    """RG-15: 195 A −20 % and +20 %."""
    s = sheet(iec(protection=RELAY))
    earliest, latest = curve(s, "Q1 RG-15", "earliest"), curve(s, "Q1 RG-15", "latest")
    assert earliest.current_a[0] == pytest.approx(0.8 * 195, rel=1e-6)
    assert latest.current_a[0] == pytest.approx(1.2 * 195, rel=1e-6)


def test_limits_cable_and_upstream_are_on_it() -> None:
    supply = {"cable_section_mm2": 2.5, "upstream_device": "fuse_gg", "upstream_rated_current_a": 100}
    s = sheet(iec(protection=RELAY, supply=supply, motor={"permitted_stall_time_s": 18}))
    assert {x.name for x in s.limits} == {"K1 breaks", "Ik", "r"}
    assert read_at(curve(s, "2.5 mm²"), 1000) == pytest.approx((115 * 2.5) ** 2 / 1e6, rel=0.01)
    assert curve(s, "upstream", "earliest").current_a
    assert read_at(curve(s, "locked rotor"), 7.2 * 14.4) == pytest.approx(18, rel=0.01)
    assert {m.name for m in s.marks} == {"start under the relay", "stalled rotor", "change-over", "peak inrush", "contactor's limit", "cable", "selectivity"}  # fmt: skip


def test_marks_agree_with_the_findings() -> None:
    slow = iec(load={"start_time_s": 30}, protection={"device": "fuse_am"}, motor={"permitted_stall_time_s": 5})
    found = codes(run(slow))
    marks = {m.name: m for m in sheet(slow).marks}
    assert (marks["stalled rotor"].state == "attention") == (
        "stall_not_protected" in found or "stall_cold_not_protected" in found
    )
    assert "Remedies" in marks["stalled rotor"].words


@pytest.mark.parametrize("document", [iec(), iec(protection={"device": "miniature_breaker_d"}), iec(starter={"type": "manual"}), nec(), nec(protection={"device": "time_delay_fuse"}), single_phase(), iec(load={"start_time_s": None, "inertia_kgm2": 0.4}), iec(protection={"device": "fuse_gg", "overload": "none"})])  # fmt: skip
def test_every_sort_of_starter_has_a_sheet_that_can_be_drawn_and_written(document: dict[str, Any]) -> None:
    s = sheet(document)
    for c in s.curves:
        assert len(c.current_a) == len(c.time_s)
        assert all(0.004 < t <= 10_000 for t in c.time_s) and all(a > 0 for a in c.current_a)
    assert to_svg(s.drawing).count("<polyline") > 4
    lines = points_csv(s).splitlines()
    assert lines[0] == "curve,edge,kind,current_a,time_s" and len(lines) == 1 + sum(len(c.current_a) for c in s.curves)


EVERY = [
    "motor_breaker",
    "magnetic_breaker",
    "moulded_case_breaker",
    "miniature_breaker_c",
    "miniature_breaker_d",
    "fuse_gg",
    "fuse_am",
]


@pytest.mark.parametrize("device", EVERY)
@pytest.mark.parametrize("power", [1.5, 11, 30])
def test_no_curve_rises_and_no_device_breaks_later_than_its_latest(device: str, power: float) -> None:
    s = sheet(iec(motor={"rated_power_kw": power, "rated_current_delta_a": None}, protection={"device": device}))
    bands = {c.name for c in s.curves if c.edge == "earliest"}
    assert bands, "a relay or a device at least is drawn as a band"
    for c in s.curves:
        if c.kind != "start":
            assert all(later <= sooner for sooner, later in itertools.pairwise(c.time_s)), c.name
    for name in bands:
        early, late = curve(s, name, "earliest"), curve(s, name, "latest")
        for amps in (1.5 * late.current_a[0], 3 * late.current_a[0], 10 * late.current_a[0]):
            first, last = read_at(early, amps), read_at(late, amps)
            assert first is None or last is None or first <= last * (1 + 1e-9), (name, amps)


def test_a_measured_curve_stands_beside_the_computed_ones_and_one_that_runs_backwards_is_refused() -> None:
    measured = [{"name": "bench", "points": [[20, 100], [40, 12], [100, 3]]}]
    s = sheet(iec(protection={**RELAY, "measured_curves": measured}))
    assert read_at(curve(s, "bench"), 40) == pytest.approx(12)
    assert read_at(curve(s, "bench"), 500) is None, "nothing is made up beyond the last point"
    assert "bench" in points_csv(s)
    with pytest.raises(ProblemError) as caught:
        sheet(iec(protection={**RELAY, "measured_curves": [{"name": "bench", "points": [[40, 12], [20, 100]]}]}))
    assert caught.value.problems[0].field.startswith("protection.measured_curves")
