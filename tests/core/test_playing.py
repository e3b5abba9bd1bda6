"""Simulations that are gone on with: from snapshots, after hours, while the motor turns round."""

from dataclasses import replace
from math import log
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter

from circuits import VARIANTS, made
from volmek.core.circuit.faults.injection import damage
from volmek.core.circuit.kernel.dynamics import usual
from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.kernel.snapshot import Due, Snapshot
from volmek.core.circuit.kernel.state import Event
from volmek.core.circuit.kernel.timeline import Frame, Operation, play
from volmek.core.document.errors import ProblemError
from volmek.core.physics.thermal import ThermalEdge


@settings(max_examples=30)
@given(
    st.sampled_from(sorted(VARIANTS)),
    st.lists(st.tuples(st.sampled_from(["press S2", "release S2", "press S1", "release S1", "press S3", "release S3", "lose L3", "restore L3", "trip F1", "reset F1"]),
                       st.sampled_from([0.0, 0.013, 0.4, 3.0, 400.0])), max_size=7),
)  # fmt: skip
def test_going_on_from_a_snapshot_is_as_playing_it_whole(name: str, steps: list[tuple[str, float]]) -> None:
    sim = Simulator(VARIANTS[name], usual(0.6))
    operations, at = [], 0.2
    for what, pause in steps:
        at += pause
        if what.split()[1] in sim.engine.index or what.split()[1] in sim.power.sources:
            operations.append(Operation(at, what))
    whole = play(sim, operations)
    answers = [play(sim, [])]
    for operation in operations:
        kept = TypeAdapter(Snapshot).validate_json(TypeAdapter(Snapshot).dump_json(answers[-1].snapshot))
        answers.append(play(sim, [operation], snapshot=kept))
    last = answers[-1]

    def joined(of: str) -> list[Any]:
        before = [row for x in answers[:-1] for row in getattr(x, of)[: getattr(x.settled, of)]]
        return before + getattr(last, of)

    def once(frames: list[Frame]) -> list[Frame]:
        return [f for k, f in enumerate(frames) if k == 0 or f != replace(frames[k - 1], time_s=f.time_s)]

    assert once(joined("frames")) == once(whole.frames)
    assert joined("events") == whole.events and joined("gaps") == whole.gaps
    assert {repr(x) for x in joined("spans")} == {repr(x) for x in whole.spans}
    assert last.snapshot == whole.snapshot and last.quiet_s == whole.quiet_s


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"version": 0}, "snapshot"), ({"circuit": "0123456789abcdef"}, "snapshot"), ({"positions": {"K1": 0}}, "snapshot.positions"),
        ({"speed": float("nan")}, "snapshot.speed"), ({"time_s": 1e9, "due": []}, "snapshot.time_s"), ({"lost": ["L9"]}, "snapshot.lost"),
        ({"swapped": ["L1"]}, "snapshot.swapped"), ({"pushed": ["S1"]}, "snapshot.pushed"), ({"since_s": {"K1": 99.0}}, "snapshot.since_s"),
        ({"due": [Due("K1", 9, 0.5)]}, "snapshot.due"), ({"due": [Due("K1", 1, -1.0)]}, "snapshot.due"), ({"due": [Due("K1", 1, 0.5)] * 2}, "snapshot.due"),
        ({"heat": -1.0}, "snapshot.heat"),
    ],
)  # fmt: skip
def test_a_snapshot_that_the_circuit_cannot_have_is_refused(change: dict[str, Any], field: str) -> None:
    sim = Simulator(made())
    snapshot = play(sim, [Operation(0.2, "press S2")]).snapshot
    with pytest.raises(ProblemError) as refused:
        play(sim, [], snapshot=replace(snapshot, **change))
    assert refused.value.problems[0].field == field
    with pytest.raises(ProblemError, match="is no state of K1"):
        play(sim, [], snapshot=replace(snapshot, positions={**snapshot.positions, "K1": 7}))
    with pytest.raises(ProblemError, match="a simulation ends at"):
        play(sim, [Operation(1e9, "press S2")])


def test_after_plugging_the_frames_turn_with_the_motor() -> None:
    """The direction changes while no contact moves; a frame says so."""
    sim = Simulator(made("reversing", reversing_sequence="direct"), usual(1.0))
    did = ["press S2", "release S2", "press S3", "release S3"]
    frames = play(sim, [Operation(at, what) for at, what in zip((0.5, 1, 6, 6.4), did, strict=True)]).frames
    ways = [(f.direction, f.connection) for f in frames if f.time_s > 5.9]
    assert ways[0][0] == "forward" and ways[-1] == ("reverse", ways[-1][1])
    turned = next(k for k, f in enumerate(frames) if f.direction == "reverse")
    assert frames[turned].positions == frames[turned - 1].positions and frames[turned].time_s > 6.1


def test_a_relay_that_warms_for_hours_trips_when_its_curve_says() -> None:
    """Played in one step and in small ones alike: nothing but its heat moves, and that is known at any time."""
    dynamics = usual(1.0, ThermalEdge(1.05, 300.0), dial=0.75)
    sim = Simulator(made(), dynamics)
    s = sim.advance(sim.operate(sim.begin(), "press S2"), 30)
    end = (s.amps / dynamics.dial / 1.05) ** 2
    assert s.heat < 1 < end
    expected = s.time_s + 300 * log((end - s.heat) / (end - 1))
    events: list[Event] = []
    sim.advance(s, 20000, events)
    small: list[Event] = []
    t = s
    while t.time_s < expected + 5:
        t = sim.advance(t, 0.5, small)
    trips = [next(e.time_s for e in log_ if e.kind == "trips") for log_ in (events, small)]
    assert trips == pytest.approx([expected] * 2, rel=1e-3) and trips[0] == pytest.approx(trips[1], abs=0.1)


def test_a_short_is_noticed_at_the_start_and_as_a_breaker_is_closed_onto_it() -> None:
    """Nothing has to move for it."""
    d = damage(made(), ["add F3:2 X1:N"])
    sim = Simulator(d.circuit, with_engine=d.engine())
    timeline = play(sim, [Operation(1.0, "close F3")])
    assert [(e.time_s, e.device) for e in timeline.events if "short" in e.words.lower()] == [(0.0, "F3"), (1.0, "F3")]
    assert timeline.frames[-1].positions.get("F3", 0) == 0


@pytest.mark.parametrize("start_s", [0.05, 0.1, 0.3, 2.0])
def test_a_light_motor_settles_at_a_speed_and_stays_there(start_s: float) -> None:
    """Its speed does not swing from step to step, so a day of running is one step."""
    sim = Simulator(made(), usual(start_s))
    s = sim.advance(sim.operate(sim.begin(), "press S2"), 20)
    later = sim.advance(s, 0.02)
    assert s.speed == pytest.approx(later.speed, abs=1e-5) and 0.97 < s.speed < 0.985
    day = play(sim, [Operation(86400, "press S1")], snapshot=play(sim, [Operation(1, "press S2")]).snapshot)
    assert len(day.track.time_s) < 600
