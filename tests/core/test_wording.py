"""Words: every field is named once, two practices, and terms by any of their names."""

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import nec, run
from volmek.core.document.model import Part, StarterDocument
from volmek.core.standards.wording import field_words, find_terms, glossary, in_practice, vocabulary


def fields() -> set[str]:
    found = set()
    for name, info in StarterDocument.model_fields.items():
        part: Any = info.annotation
        if isinstance(part, type) and issubclass(part, Part):
            found |= {f"{name}.{field}" for field in part.model_fields}
        elif name not in ("version", "overrides"):
            found.add(name)
    return found


def test_every_field_of_the_document_has_its_words_and_no_other() -> None:
    assert [f.field for f in field_words()] and {f.field for f in field_words()} == fields()
    assert all(f.label for f in field_words())


def test_a_label_means_one_field_within_its_part() -> None:
    for part in {f.field.partition(".")[0] for f in field_words()}:
        labels = [f.label for f in field_words() if f.field.startswith(f"{part}.")]
        twice = {x for x in labels if labels.count(x) > 1} - {"Rated power"}  # in kW, hp or PS: one field on the page
        assert twice == set(), part


@pytest.mark.parametrize(("name", "term"), [("magnet", "Contactor"), ("energy coil", "Coil A1-A2"), ("retaining contact", "Seal-in contact"), ("A1", "Coil A1-A2"), ("single phasing", "Phase loss"), ("CPT", "Control transformer")])  # fmt: skip
def test_a_term_is_found_by_any_of_its_names(name: str, term: str) -> None:
    assert find_terms(name)[0].term == term


def test_every_other_name_finds_its_term() -> None:
    for t in glossary():
        for name in (t.term, *t.also):
            assert t in find_terms(name)[:3], name


@given(st.lists(st.sampled_from([iec for iec, _ in vocabulary()] + ["motor", "2", "Ia/In"]), max_size=6))
def test_words_are_put_in_once_and_iec_stays(words: list[str]) -> None:
    text = " ".join(words)
    assert in_practice(text, "iec") == text
    once = in_practice(text, "nec")
    assert in_practice(once, "nec") == once
    assert not any(f" {w} " in f" {once} " for w in ("star", "earth", "star-delta"))


def test_a_design_speaks_the_words_of_its_practice() -> None:
    d = run(
        nec(starter={"type": "star_delta"}, motor={"rated_voltage_v": None, "rated_voltage_delta_v": 460, "leads": 6})
    )
    said = " ".join([d.method, *(x.label for x in d.devices), *(f"{f.message} {f.fix}" for f in d.findings), *(i.title for i in d.line_up)])  # fmt: skip
    assert "Wye contactor" in said
    assert " star " not in f" {said.lower()} " and "earth" not in said.lower()
