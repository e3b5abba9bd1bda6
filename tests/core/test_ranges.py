"""Ranges: the same digits each time, every end inside, and what is typed is not asked for."""

from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from samples import iec, nec, single_phase
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.document.model import parse
from volmek.core.ranges.ranges import Held, Overtaken, RangedFigure, Ranges, ToFindOut, ranges
from volmek.core.ranges.unknowns import unknowns
from volmek.core.sizing import size

LATE: dict[str, Any] = iec(motor={"locked_rotor_current_ratio": None}, load={"start_time_s": None, "inertia_kgm2": 0.6})
FULL: dict[str, Any] = iec(
    supply={"cable_length_m": 20}, surroundings={"ambient_c": 35}, load={"start_time_s": 2}, protection={"device": "fuse_gg"}
)  # fmt: skip


def of(document: dict[str, Any]) -> Ranges:
    return ranges(parse(document), reference_catalogue())


def figure(r: Ranges, key: str) -> RangedFigure:
    return next(f for f in r.figures if f.key == key)


def held(r: Ranges, designation: str, what: str) -> Held:
    return next(h for h in r.held if (h.designation, h.what) == (designation, what))


def asked(r: Ranges, label: str) -> ToFindOut:
    return next(u for u in r.find_out if u.label == label)


def test_a_plate_with_everything_on_it_leaves_nothing_to_find_out() -> None:
    r = of(FULL)
    assert r.find_out == () and r.tried == 1
    assert all(h.holds for h in r.held)
    assert r.words == "Everything that the design rests on is known."


def test_the_same_document_gives_the_same_digits() -> None:
    assert of(LATE) == of(LATE)


def test_a_run_up_has_a_range_about_what_is_computed() -> None:
    r, d = of(LATE), size(parse(LATE), reference_catalogue())
    time = figure(r, "start_time_s")
    assert time.value == pytest.approx(d.built.start.figure.number)
    assert time.low and time.high and time.value
    assert time.low < 0.85 * time.value and time.high > 1.3 * time.value
    assert time.text == f"{d.built.start.figure.text} s" and " to " in time.span


def test_each_end_is_a_design_of_its_own() -> None:
    """The least and the most are what the application computes when the end of a spread is typed."""
    late = iec(
        load={"start_time_s": None},
        surroundings={"ambient_c": 35},
        supply={"cable_length_m": 20},
        motor={"locked_rotor_current_ratio": None},
    )
    r = of(late)
    for end in ("low", "high"):
        u = next(x for x in unknowns(size(parse(late), reference_catalogue())) if x.label == "Starting current Ia/In")
        typed = iec(
            load={"start_time_s": 2},
            surroundings={"ambient_c": 35},
            supply={"cable_length_m": 20},
            motor={"locked_rotor_current_ratio": getattr(u, end)},
        )
        alone = size(parse(typed), reference_catalogue()).design.currents.starting_line_current_a
        f = figure(r, "starting_line_current_a")
        assert f.low is not None and f.high is not None
        assert f.low <= alone * (1 + 1e-9) and alone <= f.high * (1 + 1e-9)


def test_a_class_says_up_to_which_start_it_holds() -> None:
    r = of(
        iec(
            load={"start_time_s": None},
            protection={"device": "fuse_gg"},
            supply={"cable_length_m": 20},
            surroundings={"ambient_c": 35},
        )
    )
    c = held(r, "F1", "class")
    assert not c.holds and c.value == "class 10" and "class 20E" in c.others
    said = next(x for x in c.until if "starting time" in x)
    up_to = float(said.rpartition(" of ")[2].split()[0])
    for seconds, same in ((up_to * 0.99, True), (8.0, False)):
        d = size(
            parse(iec(load={"start_time_s": seconds}, protection={"device": "fuse_gg"})), reference_catalogue()
        ).design
        relay = next(x for x in d.devices if x.designation == "F1")
        assert (f"class {relay.settings.trip_class}" == c.value) == same


def test_unknowns_are_ranked_and_one_that_changes_nothing_says_so() -> None:
    r = of(nec())
    weights = [u.weight for u in r.find_out]
    assert weights == sorted(weights, reverse=True)
    assert asked(r, "Length of the motor cable").changes == ()
    assert all(u.how.endswith(".") and u.source for u in r.find_out)
    assert {u.field.partition(".")[0] for u in r.find_out} <= {"motor", "supply", "load", "surroundings", "starter"}


def test_a_table_current_asks_for_the_plate_first() -> None:
    r = of(single_phase(load={"start_time_s": 1}, supply={"cable_length_m": 10}, surroundings={"ambient_c": 30}))
    assert [u.label for u in r.find_out] == ["Starting current Ia/In"]
    table = of(
        iec(
            motor={"rated_current_delta_a": None, "power_factor": None, "efficiency_pct": None},
            protection={"device": "fuse_gg"},
        )
    )
    current = asked(table, "Rated current")
    assert current.field == "motor.rated_current_delta_a"
    assert any("F1 overload setting" in x for x in current.changes)
    assert not held(table, "F1", "overload setting").holds


def test_a_start_that_may_never_end_says_never() -> None:
    heavy = iec(motor={"locked_rotor_torque_ratio": 1.3, "breakdown_torque_ratio": 2.0},
                load={"start_time_s": None, "inertia_kgm2": 2, "torque_pct": 118, "shape": "constant"})  # fmt: skip
    time = figure(of({**heavy, "supply": {**heavy["supply"], "prospective_current_ka": 0.6}}), "start_time_s")
    assert time.high is None and "never" in f"{time.text} {time.span}"


def test_a_question_that_nobody_waits_for_ends() -> None:
    with pytest.raises(Overtaken):
        ranges(parse(LATE), reference_catalogue(), lambda: True)


METHODS = ["direct_on_line", "star_delta", "autotransformer", "soft_starter", "reversing", "part_winding"]


@settings(max_examples=25)
@given(
    st.sampled_from(METHODS),
    st.floats(1.1, 90),
    st.booleans(),
    st.booleans(),
    st.booleans(),
    st.sampled_from(["iec", "nec"]),
)
def test_every_value_lies_inside_its_range(
    method: str, kw: float, inertia: bool, ratio: bool, cable: bool, practice: str
) -> None:
    base = iec if practice == "iec" else nec
    motor: dict[str, Any] = {"rated_power_kw": kw, "rated_power_hp": None, "rated_current_delta_a": None, "rated_current_a": None, "rated_speed_rpm": None,
                             "power_factor": None, "efficiency_pct": None, "code_letter": None, "locked_rotor_current_ratio": 6.5 if ratio else None}  # fmt: skip
    document = base(motor=motor, starter={"type": method}, load={"start_time_s": None, "inertia_kgm2": kw / 20 if inertia else None},
                    supply={"cable_length_m": 30 if cable else None}, protection={"device": None})  # fmt: skip
    r = of(document)
    for f in r.figures:
        assert f.value is None or f.low is None or f.low <= f.value * (1 + 1e-9)
        assert f.value is None or f.high is None or f.high >= f.value * (1 - 1e-9)
    assert r.refused < r.tried
    assert all(h.holds == (not h.others) for h in r.held)
    for u in r.find_out:
        assert (u.weight == 0) <= (not u.changes)
