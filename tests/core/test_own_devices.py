"""Catalogues of one's own: side by side with the shipped one, and kept with the designs made from them."""

from typing import Any, get_args

import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import codes, design, device, iec, nec
from volmek.core.catalogue.catalogue import (
    Catalogue,
    number_trouble,
    read_rows,
    reference_catalogue,
    remarks,
    side_by_side,
)
from volmek.core.catalogue.device_types import TABLES, TableName
from volmek.core.catalogue.guide import table_guides
from volmek.core.design import Design, in_use
from volmek.core.document.model import parse

R = reference_catalogue()
METHODS = ("direct_on_line", "star_delta", "autotransformer")


def own(name: str = "Own", **changes: Any) -> Catalogue:
    """A catalogue with one contactor of 16 A; ``changes`` to its cells."""
    cells = {**next(c for c in R.contactors if c.type == "RC-17").cells(), "type": "OWN-16", "ac3_400_a": "16"}
    return Catalogue.from_rows(name, {"contactors": [{**cells, **changes}]})


def made(catalogue: Catalogue, **parts: Any) -> Design:
    return design(parse(iec(**parts)), catalogue)


@pytest.mark.parametrize("table", TABLES)
def test_every_row_written_as_cells_reads_back_as_itself(table: str) -> None:
    devices, problems = read_rows(table, enumerate((d.cells() for d in R.tables[table]), start=2))
    assert not problems
    assert sorted(devices, key=lambda d: d.type) == sorted(R.tables[table], key=lambda d: d.type)


def test_every_table_and_column_is_explained() -> None:
    assert [g.table for g in table_guides()] == list(TABLES) == list(get_args(TableName))
    for guide in table_guides():
        assert [c.name for c in guide.columns] == sorted(TABLES[guide.table].model_fields, key="typical".__eq__)
        assert all(c.meaning.endswith(".") for c in guide.columns)


def test_two_catalogues_side_by_side_give_the_smallest_that_fits_and_say_whose_it_is() -> None:
    both = side_by_side([R, own()])
    d = made(both)
    k1 = device(d, "line_contactor")
    assert k1.selected.type == "OWN-16"
    assert d.figures["line_contactor.rated_current_a"].source == "Own"
    assert d.figures[
        "overload_relay.range" if "overload_relay.range" in d.figures else "short_circuit_device.rated_current_a"
    ]
    same = side_by_side([own("First", ac3_400_a="15"), own("Second")])
    assert (same.contactors[0].ac3_400_a, same.source_of("OWN-16")) == (15, "First"), (
        "of one type the first one's counts"
    )


def test_a_device_that_is_gone_stays_with_the_design_that_uses_it() -> None:
    both = side_by_side([R, own()])
    kept = in_use(made(both), both)
    assert [d.type for d in kept["contactors"]] == ["OWN-16"]
    later = made(R.keeping(kept, unchanged=True))
    assert device(later, "line_contactor").selected.type == "OWN-16"
    assert codes(later)["device_kept"] == "attention"
    assert "no longer in the catalogue" in next(f.message for f in later.findings if f.code == "device_kept")
    edited = design(parse(iec(service="renamed")), R.keeping(kept, unchanged=False))
    assert device(edited, "line_contactor").selected.type == "OWN-16", "nor does typing elsewhere lose it"
    larger = design(
        parse(iec(motor={"rated_power_kw": 15, "rated_current_delta_a": 28.5})), R.keeping(kept, unchanged=False)
    )
    assert "device_kept" not in codes(larger), "another motor takes what the catalogue has"


def test_a_device_whose_figures_changed_keeps_those_of_the_design() -> None:
    before = side_by_side([R, own()])
    kept = in_use(made(before), before)
    after = side_by_side([R, own(ac3_400_a="14.5")])
    later = made(after.keeping(kept, unchanged=True))
    assert device(later, "line_contactor").selected.rated_current_a == 16
    assert "has changed" in next(f.message for f in later.findings if f.code == "device_kept")


def test_a_design_that_is_only_looked_at_does_not_turn_to_a_device_that_came_later() -> None:
    kept = in_use(made(R), R)
    both = side_by_side([R, own()])
    looked_at = made(both.keeping(kept, unchanged=True))
    assert device(looked_at, "line_contactor").selected.type == "RC-17"
    assert "device_kept" not in codes(looked_at)
    candidates = {x.name: x.reason for x in looked_at.figures["line_contactor.rated_current_a"].candidates}
    assert candidates["RC-17"] == "kept with this design; suitable"
    assert device(made(both), "line_contactor").selected.type == "OWN-16", "a new design does"


def test_what_is_odd_is_remarked_on_and_the_shipped_range_is_not_odd() -> None:
    assert remarks(R.tables, ()) == []
    odd, _ = read_rows("fuses", [(2, {"type": "F-17", "kind": "fuse_gg", "rated_current_a": "17"})])
    assert remarks({"fuses": odd}, ()) == ["F-17: 17 A is no standard rating of a fuse gg."]
    alone = remarks({"tested_combinations": R.tables["tested_combinations"]}, ())
    assert len(alone) == len(R.combinations)


@pytest.mark.parametrize("method", METHODS)
@pytest.mark.parametrize("document", [iec(), iec(protection={"device": "fuse_gg"}), nec()])
def test_what_a_design_keeps_is_what_it_is_made_of(method: str, document: dict[str, Any]) -> None:
    whole = {**document, "starter": {"type": method}}
    if document["practice"] == "nec":
        whole["motor"] = {**document["motor"], "leads": 6}
    first = design(parse(whole), R)
    again = design(parse(whole), R.keeping(in_use(first, R), unchanged=True))
    assert [d.selected for d in again.devices] == [d.selected for d in first.devices]


@pytest.mark.parametrize(
    ("changes", "column", "words"),
    [
        ({"ac3_400_a": "16 A"}, "ac3_400_a", "has a unit in it; write 16"),
        ({"ac3_400_a": "16,5"}, "ac3_400_a", "has a comma in it; write 16.5"),
        ({"ac3_400_a": "=8*2"}, "ac3_400_a", "holds a formula"),
        ({"ac3_400_a": "-1"}, "ac3_400_a", "must be greater than 0"),
        ({"ac3_400_a": "nan"}, "ac3_400_a", "'nan' is not a number"),
        ({"ac3_400_a": "1e999"}, "ac3_400_a", "number"),
        ({"ac3_400_a": ""}, "ac3_400_a", "is required"),
        ({"auxiliary_no": "1.5"}, "auxiliary_no", "not a whole number"),
        ({"coils": "ac240-220"}, "coils", "reversed"),
        ({"coils": "24"}, "coils", "not one of 'ac' or 'dc'"),
        ({"ambient_limit_c": "65"}, "", "reversed"),
        ({"type": "=cmd"}, "type", "formula"),
        ({"type": "x" * 41}, "type", "longer than 40"),
    ],
)
def test_a_wrong_cell_is_named_by_its_column(changes: dict[str, str], column: str, words: str) -> None:
    cells = {**R.contactors[3].cells(), **changes}
    devices, problems = read_rows("contactors", [(7, cells)])
    assert not devices
    assert (problems[0].row, problems[0].column) == (7, column)
    assert words in problems[0].message


@pytest.mark.parametrize(
    ("table", "changes", "words"),
    [
        (
            "overload_relays",
            {"range_min_a": "9", "range_max_a": "6"},
            "reversed: range_min_a 9 lies above range_max_a 6",
        ),
        ("overload_relays", {"range_min_a": "9", "range_max_a": "9"}, "a setting needs a range"),
        ("breakers", {"kind": "fuse_gg"}, "is not a kind of breaker"),
        ("breakers", {"dial_min_a": ""}, "give both or neither"),
        ("breakers", {"dial_min_a": "", "dial_max_a": ""}, "needs dial_min_a"),
        ("fuses", {"kind": "motor_breaker"}, "is not a kind of fuse"),
        ("timers", {"range_min_s": "500"}, "reversed"),
        ("phase_monitors", {"asymmetry_min_pct": "30"}, "reversed"),
        ("control_transformers", {"primary_v": "415-380"}, "reversed"),
    ],
)
def test_a_row_that_contradicts_itself_is_refused(table: str, changes: dict[str, str], words: str) -> None:
    _, problems = read_rows(table, [(2, {**R.tables[table][0].cells(), **changes})])
    assert words in " ".join(p.message for p in problems)


@given(st.floats(1e-6, 1e8))
def test_any_number_written_plainly_is_no_trouble(value: float) -> None:
    assert number_trouble(repr(value)) is None
    assert number_trouble(f"{value:.3f} A") is not None


def test_a_coil_for_another_frequency_and_a_soft_starter_for_another_voltage_are_passed_over() -> None:
    k = {
        **next(c for c in R.contactors if c.type == "RC-17").cells(),
        "type": "A-50",
        "ac3_400_a": "16",
        "coil_frequency_hz": "60",
    }
    g = {**R.soft_starters[4].cells(), "type": "A-19", "voltage_max_v": "240"}
    both = side_by_side([Catalogue.from_rows("Own", {"contactors": [k], "soft_starters": [g]}), R])
    chosen = [
        {"role": "line_contactor", "device_type": "A-50", "reason": "it was there"},
        {"role": "soft_starter", "device_type": "A-19", "reason": "it was there"},
    ]
    found = codes(made(both, starter={"type": "soft_starter"}, overrides=chosen))
    assert found["coil_frequency"] == found["soft_starter_voltage"] == "stop"
    assert device(made(both), "line_contactor").selected.type == "RC-17"
