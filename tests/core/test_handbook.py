"""The tables and schools as they are read: complete, and found by any of their names."""

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from volmek.core.document.model import StarterDocument
from volmek.core.standards.handbook import find_schools, find_tables, schools, table_pages
from volmek.data.loader import STANDARDS, handbook, standard


def test_every_table_that_the_core_uses_can_be_read_whole() -> None:
    pages = {page.name: page for page in table_pages()}
    assert set(pages) == set(STANDARDS)
    for name, page in pages.items():
        assert len(page.rows) == len(standard(name))
        assert all(len(row) == len(page.headings) for row in page.rows), name
        for row, cells in zip(page.rows, standard(name), strict=True):
            assert all(
                float(read) == cell for read, cell in zip(row, cells.values(), strict=True) if isinstance(cell, float)
            )
        assert page.title and page.source and page.used_for


def test_cells_read_as_the_standard_prints_them() -> None:
    pages = {page.name: page for page in table_pages()}
    assert ("7.5", "27", "15.5", "12.4", "8.9") in pages["motor_current_three_phase_iec"].rows
    assert pages["fuse_am_gates_iec60269"].rows[0] == ("4", "60", "")
    assert pages["motor_branch_device_limits_nec430_52"].rows[0][0] == "non time delay fuse"


def test_each_question_has_two_schools_and_a_field_that_the_document_has() -> None:
    for question in {s.question for s in schools()}:
        assert sum(s.question == question for s in schools()) >= 2, question
    for school in schools():
        model: Any = StarterDocument
        for part in school.field.split("."):
            assert part in model.model_fields, school.field
            model = model.model_fields[part].annotation


@pytest.mark.parametrize("group", [row["alike"].split("|") for row in handbook("words")], ids=lambda g: g[0])
def test_other_names_lead_to_the_same_thing(group: list[str]) -> None:
    found = [([t.name for t in find_tables(word)], find_schools(word)) for word in group]
    assert all(f == found[0] for f in found)


def test_an_unfinished_word_finds_and_a_trade_word_is_meant_whole() -> None:
    assert [t.name for t in find_tables("condu awg")] == ["conductor_ampacity_copper_nec310_16"]
    assert {s.question for s in find_schools("wye")} == {"Place of the overload relay in a star-delta starter"}
    assert find_tables("no such thing") == [] and len(find_tables("  ")) == len(STANDARDS)


@given(st.text(max_size=30))
def test_whatever_is_typed_is_answered_and_more_words_never_find_more(find: str) -> None:
    few, more = find_tables(find), find_tables(f"{find} copper")
    assert {t.name for t in more} <= {t.name for t in few}
