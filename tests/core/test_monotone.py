"""What is harder for a starter never looks better: more load, more inertia, a weaker supply, a hotter panel, by hypothesis."""

from math import inf
from typing import Any

from hypothesis import assume, given, settings
from hypothesis import strategies as st

from samples import iec
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.devices.trip_class import CLASS_ORDER
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import parse
from volmek.core.sizing import Sized, size

METHODS = ["direct_on_line", "star_delta", "star_delta_closed", "autotransformer", "stator_resistance", "soft_starter"]
SHAPES = ["constant", "linear", "square"]
GRAVITY = {"stop": 2, "attention": 1, "info": 0}
#: Findings that more load or a weaker supply brings, never takes away.
OF_THE_START = ("start_stalls", "supply_dip_exceeded", "start_current_exceeded")


@st.composite
def drives(draw: st.DrawFn) -> dict[str, Any]:
    """A direct or reduced starter with a load that its motor may or may not start."""
    locked = draw(st.floats(1.2, 3.0))
    return iec(
        motor={"locked_rotor_torque_ratio": locked, "breakdown_torque_ratio": locked + draw(st.floats(0.05, 0.9)),
               "locked_rotor_current_ratio": draw(st.floats(4.5, 8.5)), "rated_speed_rpm": draw(st.integers(1440, 1485))},
        supply={"prospective_current_ka": draw(st.floats(0.5, 20))},
        load={"start_time_s": None, "torque_pct": draw(st.floats(10, 220)), "shape": draw(st.sampled_from(SHAPES)),
              "breakaway_pct": draw(st.floats(0, 200)), "inertia_kgm2": draw(st.floats(0.05, 15))},
        starter={"type": draw(st.sampled_from(METHODS))},
        protection={"device": "fuse_gg"},
    )  # fmt: skip


def harder(document: dict[str, Any], how: str, by: float) -> dict[str, Any]:
    """The same starter in one respect harder."""
    part, field, times = {
        "load": ("load", "torque_pct", by), "breakaway": ("load", "breakaway_pct", by),
        "inertia": ("load", "inertia_kgm2", by), "supply": ("supply", "prospective_current_ka", 1 / by),
    }[how]  # fmt: skip
    return {**document, part: {**document[part], field: document[part][field] * times}}


def tried(document: dict[str, Any]) -> Sized | None:
    try:
        return size(parse(document), reference_catalogue())
    except ProblemError:
        return None


def class_rank(s: Sized) -> int:
    """How slow a class the relay needs; one more than the slowest where none passes."""
    relay = next(d for d in s.design.devices if d.kind == "overload_relay")
    return len(CLASS_ORDER) if relay.designation in blocked(s) else CLASS_ORDER.index(str(relay.settings.trip_class))


def blocked(s: Sized) -> set[str | None]:
    return {f.device for f in s.design.findings if f.code == "trip_class_too_fast"}


def time_s(s: Sized) -> float:
    return s.built.start.result.run_up_time_s if s.built.start.result else inf


@settings(max_examples=150)
@given(drives(), st.sampled_from(["load", "breakaway", "inertia", "supply"]), st.floats(1.01, 2.0))
def test_a_harder_start_never_looks_better(document: dict[str, Any], how: str, by: float) -> None:
    first = tried(document)
    assume(first)
    assert first
    # The settings of the easier start are held: a time that is proposed anew follows the speed at which a stage settles.
    held = {change.field.partition(".")[2]: change.time_s for change in first.built.start.changes}
    document = {**document, "starter": {**document["starter"], **held}}
    easy, hard = tried(document), tried(harder(document, how, by))
    assume(easy and hard)
    assert easy and hard and easy.built.start.result and hard.built.start.result
    assert time_s(hard) >= time_s(easy) * (1 - 1e-6)
    for code in OF_THE_START:
        worst = [
            max((GRAVITY[f.severity] for f in s.design.findings if f.code == code), default=-1) for s in (easy, hard)
        ]
        assert worst[1] >= worst[0], code
    if easy.built.dip and hard.built.dip:
        assert hard.built.dip.board_pct >= easy.built.dip.board_pct - 1e-9
    if time_s(hard) < inf:
        assert class_rank(hard) >= class_rank(easy)
        # A weaker supply starts longer with less current: of the heat only the class, which knows both, is compared.
        # The start counts up to 98 % of its final speed, which more load lowers: that much less is counted.
        heat = [s.built.start.result.heat_i2t_a2s for s in (easy, hard) if s.built.start.result]
        assert how == "supply" or heat[1] >= heat[0] * (1 - (5e-3 if how == "load" else 1e-6))


def test_no_torque_form_makes_a_heavier_load_start_sooner() -> None:
    """Close to the saddle one form hangs and the other does not: the run-up time goes on growing."""
    document = iec(
        motor={"locked_rotor_torque_ratio": 1.8, "breakdown_torque_ratio": 2.1, "rated_speed_rpm": 1480},
        load={"start_time_s": None, "shape": "constant", "inertia_kgm2": 0.5},
        protection={"device": "fuse_gg"},
    )
    times, said = [], set()
    for torque_pct in range(100, 201, 2):
        s = size(parse({**document, "load": {**document["load"], "torque_pct": torque_pct}}), reference_catalogue())
        times.append(time_s(s))
        said |= {f.code for f in s.design.findings} & {"start_may_hang", "start_stalls"}
    assert times == sorted(times)
    assert said == {"start_may_hang", "start_stalls"}


@settings(max_examples=60)
@given(drives(), st.floats(20, 45), st.floats(1, 20))
def test_a_hotter_panel_never_looks_better(document: dict[str, Any], ambient_c: float, hotter: float) -> None:
    cool, hot = (tried({**document, "surroundings": {"ambient_c": t}}) for t in (ambient_c, ambient_c + hotter))
    assume(cool and hot)
    assert cool and hot
    assert class_rank(hot) >= class_rank(cool)
    for a in cool.design.devices:
        b = next((d for d in hot.design.devices if d.designation == a.designation), None)
        if a.kind != "contactor" or b is None or b.selected.type != a.selected.type:
            continue
        lives = [s.context.log()[0].get(f"{a.role}.life_operations") for s in (cool, hot)]
        assert all(lives) and lives[1].number <= lives[0].number * (1 + 1e-9)
    grave = [sum(GRAVITY[f.severity] == 2 for f in s.design.findings) for s in (cool, hot)]
    assert grave[1] >= grave[0]
