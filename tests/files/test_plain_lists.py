"""Plain lists: what is printed on a device is enough, and what is not the maker's is marked all the way."""

from typing import Any

import pytest

from samples import iec
from volmek.core.catalogue.catalogue import Catalogue, reference_catalogue, side_by_side
from volmek.core.catalogue.device_types import Contactor, OverloadRelay
from volmek.core.document.model import parse
from volmek.core.sizing import size
from volmek.files.catalogue_files import read_catalogue, template_csv, write_csv

PLAIN = "Type;Coil voltage;AC-3 at 400 V, A\nKM-12;230 V AC;12\nKM-25;24VDC;25 A\n"


def test_type_coil_and_one_current_are_enough_and_the_rest_is_marked() -> None:
    file = read_catalogue(PLAIN.encode(), "store.csv")
    assert file.problems == []
    small, large = file.devices["contactors"]
    assert isinstance(small, Contactor) and isinstance(large, Contactor)
    assert (small.type, str(small.coils[0]), large.ac3_400_a) == ("KM-12", "230 V AC", 25)
    assert "ac4_400_a" in small.typical and "ac3_400_a" not in small.typical
    # A typical value is scaled to the current, and what nobody can know is nothing.
    like = next(d for d in reference_catalogue().contactors if d.ac3_400_a == 13)
    assert small.ac4_400_a == pytest.approx(like.ac4_400_a * 12 / 13, rel=0.01)
    assert small.auxiliary_no == 0


def test_the_mark_survives_an_export_and_is_a_finding_of_the_design() -> None:
    devices = read_catalogue(PLAIN.encode(), "store.csv").devices
    again = read_catalogue(write_csv("contactors", devices["contactors"]).encode(), "again.csv")
    assert again.devices == devices
    catalogue = side_by_side([Catalogue.of("Store room", devices), reference_catalogue()])
    document: dict[str, Any] = iec(
        motor={"rated_current_delta_a": 11.5, "rated_power_kw": 5.5},
        overrides=[{"role": "line_contactor", "device_type": "KM-12", "reason": "in the store"}],
    )
    design = size(parse(document), catalogue).design
    found = [f for f in design.findings if f.code == "device_data_typical"]
    assert [f.device for f in found] == ["K1"] and "are typical values, not the maker's" in found[0].message


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("Type,Coil,AC-3\nKM-12,purple,12\n", "coils"), ("Type,Coil,AC-3\n,230 V AC,12\n", "type"), ("Type,Coil,AC-3\nKM-12,230 V AC,many\n", "ac3_400_a"),
        ("Type,from,to\nOR-1,9,lots\n", "range_max_a"),
    ],
)  # fmt: skip
def test_what_cannot_be_read_is_said_at_its_row_and_column(text: str, said: str) -> None:
    file = read_catalogue(text.encode(), "list.csv")
    assert any(p.row == 2 and p.column == said for p in file.problems), [str(p) for p in file.problems]


def test_a_list_that_says_too_little_gets_one_sentence() -> None:
    file = read_catalogue(b"Type;Coil\nKM-12;230 V AC\n", "list.csv")
    assert [p.message for p in file.problems] == [
        "a list of contactors needs type, coil and AC-3 at one voltage at least"
    ]


def test_an_overload_relay_needs_its_range_alone() -> None:
    (relay,) = read_catalogue(b"Part number,Setting range from,to\nOR-13,9,13\n", "r.csv").devices["overload_relays"]
    assert isinstance(relay, OverloadRelay)
    assert (relay.range_min_a, relay.range_max_a, relay.classes) == (9, 13, ("10",))
    assert not relay.phase_loss_sensitive and "phase_loss_sensitive" in relay.typical


@pytest.mark.parametrize("table", ["contactors", "overload_relays", "breakers", "fuses", "timers"])
def test_a_template_has_three_rows_and_can_be_read(table: str) -> None:
    text = template_csv(table)
    left = read_catalogue(text.encode(), "template.csv", table)
    assert [p.message for p in left.problems] == ["holds no devices"], "the examples are left out"
    file = read_catalogue(text.replace("EXAMPLE ", "X-").encode(), "template.csv", table)
    assert file.problems == [] and len(file.devices[table]) == 3
