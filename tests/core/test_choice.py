"""A choice against the computed device: tried, with its margin and what else moves."""

import pytest

from samples import iec
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import Override, parse
from volmek.core.sizing import size
from volmek.core.views.choice import choice_view


def test_a_choice_tells_its_margin_and_what_else_moves() -> None:
    s = size(parse(iec(protection={"device": "magnetic_breaker"})), reference_catalogue())
    larger = Override(role="overload_relay", dial_a=16.0, reason="tried")
    seen = choice_view(s.document, s.catalogue, larger)
    assert seen.margin.startswith("setting range")
    assert [f.severity for f in seen.found] and all("F1" in (f.device or "F1") for f in seen.found)
    own = choice_view(s.document, s.catalogue, Override(role="line_contactor", device_type="RC-8", reason="tried"))
    assert "below the 14.4 A that are needed" in own.margin and own.found[0].severity == "stop"
    with pytest.raises(ProblemError, match="changes nothing"):
        choice_view(s.document, s.catalogue, Override(role="line_contactor", reason="nothing else"))


def test_another_breaker_kind_of_rating_moves_what_hangs_on_it() -> None:
    s = size(parse(iec(supply={"cable_length_m": 20})), reference_catalogue())
    wide = choice_view(
        s.document, s.catalogue, Override(role="short_circuit_device", device_type="RM-26", reason="tried")
    )
    assert "14.4 A" in wide.margin or "setting range" in wide.margin
    assert all(not m.startswith("Q1: ") for m in wide.moves)
