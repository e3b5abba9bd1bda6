"""Coordination: proven by test of the combination, the nearest tested set fits, arithmetic beside it."""

from typing import Any

import pytest

from samples import codes, design, device, iec, nec, run, single_phase
from volmek.core.catalogue.catalogue import Catalogue, reference_catalogue, side_by_side
from volmek.core.coordination.checks import test_current_r_ka as current_r_ka
from volmek.core.design import Design
from volmek.core.document.model import parse

FUSE = {"device": "fuse_gg"}
RELAY = {"device": "magnetic_breaker"}


def state(d: Design, name: str) -> tuple[str, str]:
    return next((x.state, x.message) for x in d.coordination.checks if x.name == name)


def taken(document: dict[str, Any], d: Design) -> Design:
    """The design with the nearest tested set in the place of what was picked."""
    swaps = d.coordination.nearest[0].swaps
    chosen = [{"role": s.role, "device_type": s.type, "reason": "tested set"} for s in swaps]
    return run({**document, "overrides": chosen})


def test_a_set_that_was_tested_is_told_with_type_current_and_voltage() -> None:
    d = run(iec())
    row = next(t for t in reference_catalogue().combinations if t.type == d.coordination.combination)
    assert d.coordination.proven
    assert row.short_circuit_device == device(d, "short_circuit_device").selected.type
    assert set(row.contactors) == {device(d, "line_contactor").selected.type}
    assert (
        d.coordination.sentence
        == f"Tested, type {row.coordination_type}, up to {row.iq_ka:g} kA at 415 V ({row.type})."
    )
    assert d.to_json()["coordination"]["proven"] is True


def test_more_current_or_voltage_than_tested_is_not_proven() -> None:
    d = run(iec(supply={"prospective_current_ka": 60}))
    assert not d.coordination.proven
    assert "tested up to 50 kA, and 60 kA can flow" in d.coordination.sentence
    assert not run(iec(supply={"line_voltage_v": 440})).coordination.proven


SETS = [
    iec(protection={**FUSE, "coordination": "type_2"}),
    iec(protection={**RELAY, "coordination": "type_2"}),
    iec(starter={"type": "star_delta"}, protection={"device": "moulded_case_breaker", "coordination": "type_2"}),
    iec(
        starter={"type": "star_delta"},
        protection={**FUSE, "coordination": "type_2"},
        load={"start_time_s": None},
        motor={"rated_power_kw": 37, "rated_current_delta_a": 66},
    ),
    iec(starter={"type": "reversing"}, protection={**FUSE, "coordination": "type_2"}),
]


@pytest.mark.parametrize("document", SETS)
def test_the_nearest_tested_set_fits_and_is_then_proven(document: dict[str, Any]) -> None:
    d = run(document)
    assert codes(d)["coordination_not_proven"] == "attention"
    assert d.coordination.nearest[0].coordination_type == "2"
    after = taken(document, d)
    assert after.coordination.proven and after.coordination.coordination_type == "2"
    assert "stop" not in codes(after).values()
    changes = [len(s.swaps) for s in d.coordination.nearest]
    assert changes == sorted(changes), "the fewest changes first"


def test_without_tested_sets_nothing_is_proven_and_nothing_made_up() -> None:
    R = reference_catalogue()
    bare = Catalogue.of("Bare", {**R.tables, "tested_combinations": ()})
    d = design(parse(iec(protection={**FUSE, "coordination": "type_1"})), bare)
    assert not d.coordination.proven and not d.coordination.nearest
    assert "no tested set that fits" in next(f.message for f in d.findings if f.code == "coordination_not_proven")
    cells = {**R.combinations[0].cells(), "type": "MY-1", "contactors": "RC-17", "short_circuit_device": "RU-gG40", "overload_relay": "RT-15"}  # fmt: skip
    mine = Catalogue.from_rows("Mine", {"tested_combinations": [cells]})
    found = design(parse(iec(protection=FUSE)), side_by_side([bare, mine]))
    front, relay = (device(found, r).selected.type for r in ("short_circuit_device", "overload_relay"))
    cells |= {"short_circuit_device": str(front), "overload_relay": str(relay)}
    mine = Catalogue.from_rows("Mine", {"tested_combinations": [cells]})
    assert design(parse(iec(protection=FUSE)), side_by_side([bare, mine])).coordination.combination == "MY-1"


def test_crossover_of_a_magnetic_breaker_is_at_its_trip() -> None:
    """RG-15 trips at 13 × 15 = 195 A ± 20 %; K1 of 17 A breaks 8 × 17 = 136 A: the relay would make it break more."""
    d = run(iec(protection=RELAY))
    assert d.figures["crossover_current_a"].value == pytest.approx(195 * 0.96**0.5, rel=1e-3)
    assert state(d, "crossover") == ("attention", "Relay and short-circuit device cross over at 191 A; up to there the relay makes K1 open, which is proven to break 136 A (8 times Ie).")  # fmt: skip
    larger = run(
        iec(protection=RELAY, overrides=[{"role": "line_contactor", "device_type": "RC-28", "reason": "crossover"}])
    )
    assert state(larger, "crossover")[0] == "fine"


@pytest.mark.parametrize(
    ("rated_a", "r_ka"), [(16, 1), (16.1, 3), (63, 3), (125, 5), (315, 10), (630, 18), (1000, 30), (1600, 42)]
)
def test_test_current_r(rated_a: float, r_ka: float) -> None:
    """IEC 60947-4-1, Table 12."""
    assert current_r_ka(rated_a) == r_ka


def test_cable_against_let_through_energy() -> None:
    """2.5 mm² PVC: (115 × 2.5)² = 82 656 A²s; 1.5 mm²: 29 756 A²s, less than the 55 000 A²s of RG-15."""
    for section, wanted in ((2.5, "fine"), (1.5, "attention")):
        d = run(iec(protection=RELAY, supply={"cable_section_mm2": section}))
        assert d.figures["cable_stands_a2s"].value == pytest.approx((115 * section) ** 2)
        assert state(d, "cable")[0] == wanted
    xlpe = run(iec(protection=RELAY, supply={"cable_section_mm2": 1.5, "cable_insulation": "xlpe"}))
    assert xlpe.figures["cable_stands_a2s"].value == pytest.approx((143 * 1.5) ** 2)


def test_selectivity_against_the_fuse_of_the_board() -> None:
    """RG-15 lets 55 000 A²s through; a 250 A gG fuse melts from 185 000 A²s, a 100 A one from 24 000 A²s or so."""
    limits = []
    for rating in (63, 100, 250):
        d = run(iec(protection=RELAY, supply={"upstream_device": "fuse_gg", "upstream_rated_current_a": rating}))
        limits.append(d.figures["selectivity_limit_a"].number)
    assert limits == sorted(limits)
    assert state(d, "selectivity")[0] == "fine"
    open_ended = run(iec(supply={"upstream_device": "moulded_case_breaker", "upstream_rated_current_a": 160}))
    assert state(open_ended, "selectivity")[0] == "unknown"
    set_ = {
        "upstream_device": "moulded_case_breaker",
        "upstream_rated_current_a": 160,
        "upstream_instantaneous_trip_a": 1600,
    }
    assert run(iec(supply=set_)).figures["selectivity_limit_a"].value == pytest.approx(0.8 * 1600, rel=1e-6)


@pytest.mark.parametrize("document", [iec(starter={"type": "manual"}), nec(), single_phase(), iec(starter={"type": "two_speed"}, motor={"low_speed_current_a": 8}, protection=RELAY)])  # fmt: skip
def test_starters_of_every_sort_have_a_plain_sentence(document: dict[str, Any]) -> None:
    assert run(document).coordination.sentence.endswith(".")
