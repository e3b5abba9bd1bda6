"""Frequent starting: heat of a cycle, permitted starts an hour against a simulation in small steps, life of the contacts."""

from math import sqrt

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from samples import codes, device, iec, run
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.document.model import parse
from volmek.core.physics.profile import permitted_starts_per_hour
from volmek.core.physics.thermal import ThermalEdge
from volmek.core.views.start import start_view


def trips(
    edge: ThermalEdge,
    start: list[tuple[float, float]],
    setting_a: float,
    running_a: float,
    share: float,
    per_hour: float,
) -> bool:
    """The heat of many cycles, added up in steps of a fiftieth of each part."""
    period, started, theta = 3600 / per_hour, sum(dt for dt, _ in start), 0.0
    rest = period - started
    for _ in range(int(8 * edge.time_constant_s / period) + 3):
        for seconds, amps in (*start, (rest * share, running_a), (rest * (1 - share), 0.0)):
            for _ in range(50):
                theta += ((amps / setting_a / edge.k) ** 2 - theta) * (seconds / 50) / edge.time_constant_s
                if theta >= 1:
                    return True
    return False


@settings(max_examples=40)
@given(st.floats(100, 600), st.floats(0.5, 6), st.floats(4, 8), st.floats(0.2, 1.0), st.floats(0, 1))
def test_permitted_starts_are_those_at_which_a_simulated_trip_just_holds(
    tau: float, start_s: float, ratio: float, load: float, share: float
) -> None:
    edge, steps = ThermalEdge(1.05, tau), [(start_s, ratio * 10.0)]
    z = permitted_starts_per_hour(edge, steps, 10.0, load * 10.0, share)
    if z < 0.5:
        return
    assert not trips(edge, steps, 10.0, load * 10.0, share, 0.93 * z)
    assert trips(edge, steps, 10.0, load * 10.0, share, 1.08 * z)


def test_more_pause_permits_more_starts() -> None:
    heat = start_view(
        parse(iec(load={"start_time_s": None, "inertia_kgm2": 0.5, "torque_pct": 60})), reference_catalogue()
    ).heat
    assert heat and [p.running_pct for p in heat.per_hour] == [100, 60, 25]
    starts = [p.starts for p in heat.per_hour]
    assert starts == sorted(starts) and starts[0] > 0


def test_plugging_heats_twice_by_hand() -> None:
    """2 s at 103.7 A and as long again for the braking, 40 times an hour, 14.4 A in between."""
    load = {"start_time_s": 2, "starts_per_hour": 40}
    plain, plugged = (
        run(iec(load={**load, **more}, protection={"device": "fuse_am"})) for more in ({}, {"duty": "ac4"})
    )
    amps = 7.2 * 14.4
    for d, n in ((plain, 1), (plugged, 2)):
        by_hand = sqrt((n * 2 * amps**2 + (90 - n * 2) * 14.4**2) / 90)
        assert d.figures["cycle_current_a"].number == pytest.approx(by_hand, rel=1e-6)
    assert codes(plugged)["starts_too_often"] == "stop"


def test_the_life_of_contacts_that_plug_is_months_and_said() -> None:
    use = {"start_time_s": 1, "starts_per_hour": 60, "hours_per_year": 6000}
    calm, hard = (run(iec(load={**use, "duty": duty}, protection={"device": "fuse_am"})) for duty in ("ac3", "ac4"))
    assert "contactor_life_short" not in codes(calm)
    said = next(f for f in hard.findings if f.code == "contactor_life_short")
    years = hard.figures["line_contactor.life_years"].number
    assert years < 2 and "months" in said.message and said.device == device(hard, "line_contactor").designation
