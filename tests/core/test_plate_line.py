"""A plate in one line: every piece is understood or said not to be, and the answer is the one of the full document."""

from itertools import pairwise
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import reference_catalogue
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import parse
from volmek.core.document.plate_line import LONGEST, read_line
from volmek.core.sizing import size
from volmek.core.views.quick import quick_answer

PLATES: list[tuple[str, dict[str, Any]]] = [
    ("7.5 kW 400 V 14.8 A", {"rated_power_kw": 7.5, "rated_voltage_v": 400, "rated_current_a": 14.8, "phases": 3}),
    ("10 hp 460 V 3 ph", {"rated_power_hp": 10, "rated_voltage_v": 460, "phases": 3}),
    (
        "1,1 kW 230 V 1~ 7.2 A star delta",
        {"rated_power_kw": 1.1, "rated_voltage_v": 230, "phases": 1, "rated_current_a": 7.2},
    ),
    (
        "7,5kW;400/690V;14.8/8.5A;50Hz;1,465 min-1;cosφ 0,83;IE3",
        {
            "rated_power_kw": 7.5, "rated_voltage_delta_v": 400, "rated_voltage_star_v": 690, "rated_current_delta_a": 14.8,
            "rated_current_star_a": 8.5, "frequency_hz": 50, "rated_speed_rpm": 1465, "power_factor": 0.83, "efficiency_class": "IE3", "phases": 3,
        },
    ),
    (
        "7-1/2 HP 208-230/460V FLA 22/11 SF 1.15 code H",
        {
            "rated_power_hp": 7.5, "rated_voltage_low_v": 230, "rated_voltage_high_v": 460, "rated_current_low_a": 22, "rated_current_high_a": 11,
            "service_factor": 1.15, "code_letter": "H", "phases": 3,
        },
    ),
    (
        "½ hp 115V 1ph cap start",
        {"rated_power_hp": 0.5, "rated_voltage_v": 115, "phases": 1, "single_phase_kind": "capacitor_start"},
    ),
    # A method behind a current is no mark of that current, and two voltages with one current ask the supply.
    (
        "37 kW 400/690 V 66 A star-delta",
        {
            "rated_power_kw": 37, "rated_voltage_delta_v": 400, "rated_voltage_star_v": 690, "rated_current_delta_a": 66, "phases": 3,
        },
    ),
    (
        "4 kW 230/400 V D/Y 8.1 A",
        {"rated_power_kw": 4, "rated_voltage_delta_v": 230, "rated_voltage_star_v": 400, "rated_current_star_a": 8.1, "phases": 3},
    ),
    ("7500 W 0.4 kV 14800 mA", {"rated_power_kw": 7.5, "rated_voltage_v": 400, "rated_current_a": 14.8, "phases": 3}),
    # The ratio of two small currents is rounded: they go by the voltages.
    (
        "0.06 kW 230/400 V 0.3/0.16 A",
        {
            "rated_power_kw": 0.06, "rated_voltage_delta_v": 230, "rated_voltage_star_v": 400, "rated_current_delta_a": 0.3,
            "rated_current_star_a": 0.16, "phases": 3,
        },
    ),
    # Too much for three phases at 230 V: what nobody typed is inferred, and said.
    ("2.2 kW 230 V 14 A", {"rated_power_kw": 2.2, "rated_voltage_v": 230, "rated_current_a": 14, "phases": 1}),
]  # fmt: skip


@pytest.mark.parametrize(("line", "motor"), PLATES)
def test_a_plate_is_read_as_it_stands(line: str, motor: dict[str, Any]) -> None:
    read = read_line(line)
    assert read.document["motor"] == motor
    assert all(p.understood for p in read.pieces)


@pytest.mark.parametrize(
    ("line", "practice"),
    [
        ("7.5 kW 400 V", "iec"), ("10 hp 400 V", "nec"), ("7.5 kW 460 V", "nec"), ("4 kW 400 V 60 Hz", "nec"), ("10 hp 400 V 50 Hz", "iec"),
        ("4 kW 230 V wye delta", "nec"), ("4 kW 460 V IEC", "iec"), ("4 kW 400 V control 120 V", "iec"),
    ],
)  # fmt: skip
def test_units_and_voltages_propose_the_practice_and_a_choice_overrules_it(line: str, practice: str) -> None:
    assert read_line(line).practice == practice
    assert read_line(line, "nec").practice == "nec"


def test_what_is_not_understood_is_said_and_never_dropped() -> None:
    read = read_line("7.5 kW turbo 400 V, 15 A 14.8 A 5250 V IP55 frame 132S 20 bananas")
    said = {p.typed: p.understood or p.why or "?" for p in read.pieces}
    assert said["turbo"] == said["20"] == said["bananas"] == "?"
    assert said["14.8 A"] == "15 A was entered before it; that is used"
    assert said["5250 V"] == "400 V was entered before it; that is used"
    assert said["IP55"] == said["frame 132S"] == "not needed here"
    assert read_line("7.5 kW 5250 V").pieces[1].why == "5250.0 is too large; the most is 1000"


def test_what_is_assumed_is_said() -> None:
    assert read_line("10 hp 460 V").assumed == ("Three-phase is assumed.", "Supply assumed to be 480 V.")
    assert read_line("4 kW 230/400 V 8.1 A supply 230 V 3~").assumed == ("8.1 A taken as the current at 230 V.",)
    assert read_line("4 kW").assumed == ()


@given(st.text(max_size=80))
def test_any_text_is_read_and_every_character_of_it_accounted_for(text: str) -> None:
    read = read_line(text)
    covered = {i for p in read.pieces for i in range(p.start, p.end)}
    spans = [(p.start, p.end) for p in read.pieces]
    assert spans == sorted(spans) and all(a[1] <= b[0] for a, b in pairwise(spans))
    assert all(text[p.start : p.end] == p.typed for p in read.pieces)
    left = {text[i] for i in range(len(text)) if i not in covered}
    # Besides what separates, only little words that say nothing are left out.
    assert not any(c.isdigit() for c in left)


NUMBERS = st.sampled_from([0.37, 1.1, 7.5, 15, 37, 90])


@given(
    st.tuples(
        NUMBERS.map(lambda n: (f"{n} kW", f"{1000 * n:g} W", f"{n}kW".replace(".", ","))).flatmap(st.sampled_from),
        st.sampled_from(["400 V", "400V 3~", "supply 400 V 400 V Δ", "Δ 400 V"]),
        st.sampled_from(["", "dol", "star-delta", "soft starter", "reversing", "autotransformer"]),
        st.sampled_from(["", "10 kA", "20 m 6 mm²", "45 °C", "start 4 s"]),
    )
)
def test_the_answer_is_that_of_the_document(parts: tuple[str, ...]) -> None:
    quick = quick_answer(" ".join(parts), reference_catalogue())
    design = size(parse({"tag": "A", **quick.read.document}), reference_catalogue()).design
    assert quick.answer is not None
    assert all(p.understood for p in quick.read.pieces)
    dials = {f"{d.settings.dial_a:.3g}" for d in design.devices if d.settings.dial_a is not None}
    overload = next(r for r in quick.answer.rows if r.subject == "Overload")
    assert f"{float(overload.answer.split(' A')[0]):.3g}" in dials
    assert [f.message for f in quick.answer.findings] == [f.message for f in design.findings if f.severity != "info"]


def test_a_single_phase_motor_in_star_delta_is_answered_and_the_method_refused() -> None:
    answer = quick_answer("1,1 kW 230 V 1~ 7.2 A star delta", reference_catalogue()).answer
    assert answer and answer.method == "Single-phase, direct"
    assert answer.findings[0].severity == "stop" and "star-delta" in answer.findings[0].message


def test_a_value_that_contradicts_the_others_is_marked_where_it_was_typed() -> None:
    quick = quick_answer("7.5 kW 400/690 V 148 A", reference_catalogue())
    assert quick.answer is None and quick.wrong == ()
    assert [p.typed for p in quick.read.pieces if "decimal point" in p.why] == ["148 A"]


def test_a_line_has_an_end() -> None:
    with pytest.raises(ProblemError, match="at most 300"):
        read_line("x" * (LONGEST + 1))


@pytest.mark.parametrize(
    ("part", "field", "typed", "value"),
    [
        ("motor", "rated_power_kw", "7500 W", 7.5), ("motor", "rated_current_a", "14,8 A", 14.8), ("supply", "prospective_current_ka", "6000 A", 6),
        ("supply", "cable_length_m", "100 ft", 30.48), ("surroundings", "ambient_c", "104 °F", 40), ("load", "start_time_s", "500 ms", 0.5),
        ("motor", "locked_rotor_current_ratio", "7.2 x", 7.2), ("supply", "transformer_kva", "0.63 MVA", 630), ("motor", "efficiency_pct", "90.4 %", 90.4),
    ],
)  # fmt: skip
def test_a_unit_typed_in_a_field_is_understood(part: str, field: str, typed: str, value: float) -> None:
    document = parse({"tag": "A", part: {field: typed}})
    assert getattr(getattr(document, part), field) == pytest.approx(value)
    with pytest.raises(ProblemError, match=field):
        parse({"tag": "A", part: {field: "7 furlongs"}})


@pytest.mark.parametrize(
    ("typed", "motor"),
    [
        ({"rated_voltage_v": "400/690 V", "rated_current_a": "14,8/8,5"}, {"rated_voltage_delta_v": 400, "rated_voltage_star_v": 690, "rated_current_delta_a": 14.8, "rated_current_star_a": 8.5}),
        ({"rated_voltage_v": "208-230/460"}, {"rated_voltage_low_v": 230, "rated_voltage_high_v": 460}),
        ({"rated_voltage_v": "400 V Y"}, {"rated_voltage_star_v": 400}),
        ({"rated_power_kw": "10 hp"}, {"rated_power_hp": 10}),
        ({"rated_power_hp": "7500 W"}, {"rated_power_kw": 7.5}),
    ],
)  # fmt: skip
def test_a_field_takes_what_stands_on_the_plate(typed: dict[str, str], motor: dict[str, float]) -> None:
    assert parse({"tag": "A", "motor": typed}).to_json()["motor"] == motor


def test_two_voltages_that_belong_together_in_no_way_are_refused_at_the_field() -> None:
    with pytest.raises(
        ProblemError, match=r"motor\.rated_voltage_v: '400/500' is not understood: two values as 400/690"
    ):
        parse({"tag": "A", "motor": {"rated_voltage_v": "400/500"}})
    # What is typed for a field that has a value already stays a contradiction for somebody to settle.
    with pytest.raises(ProblemError, match=r"motor\.rated_voltage_v"):
        parse({"tag": "A", "motor": {"rated_voltage_v": "400/690", "rated_voltage_star_v": 690}})
