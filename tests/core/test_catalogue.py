"""The shipped range is complete and plausible: steps without holes, ratings that fall as they must."""

from itertools import pairwise
from typing import get_args

import pytest
from hypothesis import given
from hypothesis import strategies as st

from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.catalogue.device_types import Coil
from volmek.core.devices.branch_device import branch_rating_a, exception_pct
from volmek.core.devices.conductor import ampacity_factor
from volmek.core.document.model import ProtectionDevice
from volmek.core.physics.thermal import (
    am_time_s,
    gg_fast_time_s,
    gg_gates,
    gg_slow_time_s,
    miniature_edges,
    moulded_case_edges,
)
from volmek.core.standards.tables import interpolate, log_interpolate, nec_standard_ratings_a
from volmek.data.loader import STANDARDS, DataError, parse, standard

C = reference_catalogue()
VOLTAGES = (230, 400, 500, 690)


def test_contactors_go_from_six_to_six_hundred_and_thirty_amperes() -> None:
    assert (C.contactors[0].ac3_400_a, C.contactors[-1].ac3_400_a) == (6, 630)
    for small, large in pairwise(C.contactors):
        assert 1.1 < large.ac3_400_a / small.ac3_400_a < 1.4, "no hole in the steps"
    for k in C.contactors:
        for prefix in ("ac3", "ac3e", "ac4"):
            ratings = [getattr(k, f"{prefix}_{v}_a") for v in VOLTAGES]
            assert ratings == sorted(ratings, reverse=True), (k.type, prefix)
        assert k.ac4_400_a < k.ac3e_400_a <= k.ac3_400_a < k.ac1_a
        assert k.sealed_va < k.inrush_va
        assert (k.life_ac4_operations or 0) < k.life_ac3_operations
        assert {x.kind for x in k.coils} == {"ac", "dc"}


@pytest.mark.parametrize("kind", get_args(ProtectionDevice))
def test_every_kind_of_short_circuit_device_is_there_from_small_to_large(kind: ProtectionDevice) -> None:
    devices = C.short_circuit_devices[kind]
    assert len(devices) >= 14
    for small, large in pairwise(devices):
        assert large.rated_current_a >= small.rated_current_a
        assert large.rated_current_a <= 3.1 * small.rated_current_a
    for d in devices:
        breaking = [x for x in (d.icu_230_ka, d.icu_400_ka, d.icu_500_ka, d.icu_690_ka) if x is not None]
        assert breaking == sorted(breaking, reverse=True)
        assert breaking[0] >= 10


def test_the_dials_of_motor_breakers_and_relays_leave_no_hole() -> None:
    breakers = C.short_circuit_devices["motor_breaker"]
    for small, large in pairwise(breakers):
        assert (large.dial_min_a or 0) < (small.dial_max_a or 0)
    for trip_class in ("10", "20"):
        relays = [r for r in C.overload_relays if r.kind == "bimetal" and trip_class in r.classes]
        for r, s in pairwise(relays):
            assert s.range_min_a < r.range_max_a
    electronic = [r for r in C.overload_relays if r.kind == "electronic"]
    assert electronic[-1].range_max_a >= 630
    assert all("30E" in r.classes for r in electronic)


def test_every_contactor_takes_a_relay_for_its_own_current() -> None:
    for k in (*C.contactors, *C.nema_starters):
        assert any(k.frame in r.mounts_on for r in C.overload_relays) or k.frame in ("N7", "N8", "N9"), k.type


def test_types_are_unique_and_coils_are_read() -> None:
    assert len(C.types()) == sum(map(len, C.tables.values()))
    assert str(Coil.read("ac220-240")) == "220–240 V AC"
    assert str(Coil.read("dc24")) == "24 V DC"


@pytest.mark.parametrize("name", sorted(STANDARDS))
def test_every_standards_table_is_read_and_checked(name: str) -> None:
    rows = standard(name)
    assert rows
    assert all(len(r) == len(rows[0]) for r in rows)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("a,b\n1,x", "row 2, b: 'x' is not a number"),
        ("a,b\n1", "wrong number of cells"),
        ("a,b\n1,2,3", "wrong number of cells"),
        ("a,b\n1,", "row 2, b: a value is missing"),
    ],
)
def test_a_broken_table_is_named_by_row_and_column(text: str, words: str) -> None:
    with pytest.raises(DataError, match=words):
        list(parse(text.splitlines(), {"*": "n"}, "bad.csv"))


@pytest.mark.parametrize("rating", sorted(gg_gates()))
def test_gg_edges_go_through_their_gates_and_never_cross(rating: float) -> None:
    gates = gg_gates()[rating]
    assert gg_fast_time_s(rating, gates["current_min_10s_a"]) == pytest.approx(10)
    assert gg_slow_time_s(rating, gates["current_max_5s_a"]) == pytest.approx(5)
    for multiple in (1.3, 1.7, 2.5, 4, 7, 12, 20, 40):
        assert gg_fast_time_s(rating, multiple * rating) <= gg_slow_time_s(rating, multiple * rating)


@given(st.sampled_from(sorted(gg_gates())), st.floats(1.05, 30), st.floats(1.01, 3))
def test_more_current_never_melts_a_fuse_later(rating: float, multiple: float, more: float) -> None:
    for time in (gg_fast_time_s, gg_slow_time_s, am_time_s):
        assert time(rating, multiple * rating * more) <= time(rating, multiple * rating)


@given(st.floats(1.2, 40), st.floats(1.01, 3))
def test_more_current_never_trips_a_breaker_later(multiple: float, more: float) -> None:
    for edge in (*miniature_edges(16), *miniature_edges(63), *moulded_case_edges()):
        assert edge.trip_time_s(multiple * more) <= edge.trip_time_s(multiple)
        assert edge.trip_time_s(multiple, 0.5) <= edge.trip_time_s(multiple)


def test_interpolation_stays_inside_its_table() -> None:
    assert interpolate(2.5, [1, 2, 3], [10, 20, 40]) == 30
    assert log_interpolate(10, [1, 100], [1, 10000]) == pytest.approx(100)
    for outside in (0.9, 3.1):
        for way in (interpolate, log_interpolate):
            with pytest.raises(ValueError, match="outside"):
                way(outside, [1, 2, 3], [10, 20, 40])


@pytest.mark.parametrize(
    ("device", "amps", "pct", "exception", "rating"),
    [
        # Table 430.52(C)(1) with 240.6(A), worked by hand.
        ("inverse_time_breaker", 4.8, 250, None, 15),
        ("inverse_time_breaker", 7.6, 250, None, 20),
        ("inverse_time_breaker", 28, 250, None, 70),
        ("inverse_time_breaker", 40, 250, None, 100),
        ("inverse_time_breaker", 124, 250, None, 350),
        ("inverse_time_breaker", 124, 250, 400, 350),
        ("inverse_time_breaker", 14, 250, 400, 50),
        ("time_delay_fuse", 1.1, 175, None, 3),
        ("time_delay_fuse", 28, 175, None, 50),
        ("time_delay_fuse", 65, 175, None, 125),
        ("non_time_delay_fuse", 21, 300, None, 70),
        ("non_time_delay_fuse", 3.4, 300, 400, 15),
    ],
)
def test_branch_ratings_worked_by_hand(
    device: str, amps: float, pct: float, exception: float | None, rating: float
) -> None:
    ceiling = None if exception is None else exception_pct(device, amps, exception)
    assert branch_rating_a(amps, pct, nec_standard_ratings_a(fuse="fuse" in device), ceiling) == rating


def test_a_branch_rating_beyond_the_standard_ones_is_refused() -> None:
    with pytest.raises(ValueError, match="above the largest"):
        branch_rating_a(5000, 250, nec_standard_ratings_a(fuse=False))


@pytest.mark.parametrize(
    ("ambient", "conductors", "factor"),
    [
        (30, 3, 1.0),
        (31, 3, 0.94),
        (40, 3, 0.88),
        (45, 7, 0.82 * 0.7),
        (30, 6, 0.8),
        (30, 20, 0.5),
        (70, 3, 0.33),
        (30, 30, 0.45),
        (30, 90, 0.35),
    ],
)
def test_ampacity_factors_take_the_warmer_and_fuller_row(ambient: float, conductors: int, factor: float) -> None:
    assert ampacity_factor(ambient, conductors) == pytest.approx(factor)


@pytest.mark.parametrize(("ambient", "conductors"), [(71, 3), (90, 21)])
def test_ampacity_factors_end_with_their_tables(ambient: float, conductors: int) -> None:
    with pytest.raises(ValueError, match="no factor"):
        ampacity_factor(ambient, conductors)
