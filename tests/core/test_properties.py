"""What must hold for every motor, by hypothesis."""

from typing import Any

from hypothesis import assume, given
from hypothesis import strategies as st

from samples import codes, device, iec, nec, run
from volmek.core.document.errors import Problem, ProblemError

KINDS = [
    "motor_breaker",
    "magnetic_breaker",
    "miniature_breaker_c",
    "miniature_breaker_d",
    "moulded_case_breaker",
    "fuse_gg",
    "fuse_am",
]
powers = st.floats(0.09, 250)
ratios = st.floats(4, 9.5)
starts = st.one_of(st.none(), st.floats(0.2, 25))


def motor(power_kw: float, ratio: float) -> dict[str, Any]:
    """A plate with a power and an inrush ratio, current from the table."""
    return {
        "rated_power_kw": power_kw,
        "rated_current_delta_a": None,
        "power_factor": None,
        "efficiency_pct": None,
        "rated_speed_rpm": None,
        "locked_rotor_current_ratio": ratio,
    }


def tried(document: dict[str, Any]) -> Any:
    """The design, or nothing where the catalogue lacks one of its devices."""
    try:
        d = run(document)
    except ProblemError:
        return None
    return None if any(x.none_fits for x in d.devices) else d


@given(powers, st.floats(1.0, 1.6), ratios, starts)
def test_more_power_never_gives_a_smaller_contactor(
    power: float, more: float, ratio: float, start: float | None
) -> None:
    pair = [
        tried(iec(motor=motor(p, ratio), load={"start_time_s": start}, protection={"device": "fuse_am"}))
        for p in (power, power * more)
    ]
    assume(all(pair))
    small, large = (device(d, "line_contactor").selected.rated_current_a for d in pair)
    assert large >= small


@given(powers, ratios, starts, st.sampled_from(KINDS), st.one_of(st.none(), st.floats(0.5, 2)))
def test_the_dial_is_inside_the_span_or_there_is_a_finding(
    power: float, ratio: float, start: float | None, kind: str, own: float | None
) -> None:
    document = iec(motor=motor(power, ratio), load={"start_time_s": start}, protection={"device": kind})
    first = tried(document)
    assume(first is not None)
    role = "short_circuit_device" if kind == "motor_breaker" else "overload_relay"
    if own:
        dial = device(first, role).settings.dial_a * own
        document["overrides"] = [
            {"role": role, "device_type": device(first, role).selected.type, "dial_a": dial, "reason": "as it was"}
        ]
    d = tried(document)
    assume(d is not None)
    relay = device(d, role)
    if relay.none_fits:
        assert codes(d)["no_device_fits"] == "stop"
        return
    inside = relay.selected.range_min_a * 0.999999 <= relay.settings.dial_a <= relay.selected.range_max_a * 1.000001
    assert inside or codes(d)["dial_outside_range"] == "stop"
    assert relay.settings.dial_a <= (
        relay.required.dial_a or relay.required.current_a
    ) * 1.15 or "double_margin" in codes(d)


@given(powers, ratios, st.sampled_from(KINDS[:5]), st.one_of(st.none(), st.floats(0.2, 1)))
def test_the_lower_trip_edge_clears_the_inrush_or_there_is_a_finding(
    power: float, ratio: float, kind: str, turned_down: float | None
) -> None:
    document = iec(motor=motor(power, ratio), protection={"device": kind})
    first = tried(document)
    assume(first is not None)
    setting = device(first, "short_circuit_device").settings.instantaneous_trip_a
    if turned_down and kind == "moulded_case_breaker":
        document["overrides"] = [
            {"role": "short_circuit_device", "instantaneous_trip_a": setting * turned_down, "reason": "one third"}
        ]
    d = run(document)
    q1 = device(d, "short_circuit_device")
    if q1.none_fits:
        assert codes(d)["no_device_fits"] == "stop"
        return
    clears = q1.selected.instantaneous_lower_edge_a >= q1.required.instantaneous_lower_edge_a * 0.999999
    assert clears or codes(d)["instantaneous_below_inrush"] == "stop" or codes(d)["setting_outside_range"] == "stop"


@given(powers, ratios, st.floats(0.2, 40))
def test_a_trip_class_that_is_passed_without_finding_lets_the_start_pass(
    power: float, ratio: float, start: float
) -> None:
    from volmek.core.physics.thermal import trip_class_edges

    d = tried(iec(motor=motor(power, ratio), load={"start_time_s": start}, protection={"device": "fuse_am"}))
    assume(d is not None)
    relay = device(d, "overload_relay")
    x = d.currents.locked_rotor_current_a / relay.settings.dial_a
    sure = trip_class_edges(relay.settings.trip_class).fast.trip_time_s(x) > start
    assert sure or {"trip_class_likely", "trip_class_too_fast"} & set(codes(d))


@given(
    st.sampled_from([0.5, 1, 2, 5, 10, 25, 50, 100, 200]),
    st.floats(0.5, 1.3),
    st.sampled_from([1.0, 1.15]),
    st.booleans(),
)
def test_north_american_overload_never_passes_its_limit_without_a_stop(
    hp: float, share: float, factor: float, recorded: bool
) -> None:
    plate = run(
        nec(motor={"rated_power_hp": hp, "rated_current_a": None, "service_factor": factor})
    ).currents.table_current_a
    assert plate is not None
    d = tried(
        nec(
            motor={"rated_power_hp": hp, "rated_current_a": plate * share, "service_factor": factor},
            protection={"failed_start_recorded": recorded},
        )
    )
    assume(d is not None)
    trip = d.figures["overload_relay.ultimate_trip_a"].number / d.currents.design_current_a
    allowed = (1.40 if factor >= 1.15 else 1.30) if recorded else (1.25 if factor >= 1.15 else 1.15)
    assert trip <= allowed * 1.000001 or codes(d)["overload_above_limit"] == "stop"


@given(
    st.recursive(
        st.none() | st.booleans() | st.floats() | st.text(max_size=8),
        lambda x: (
            st.lists(x, max_size=3)
            | st.dictionaries(
                st.sampled_from(["tag", "motor", "supply", "rated_power_kw", "line_voltage_v", "overrides"]),
                x,
                max_size=4,
            )
        ),
        max_leaves=12,
    )
)
def test_any_plain_data_is_a_design_or_a_problem_in_words(data: object) -> None:
    from volmek.core.document.model import parse

    problems: tuple[Problem, ...] = ()
    try:
        parse(data)
    except ProblemError as error:
        problems = error.problems
    assert all(p.field and p.message for p in problems)
