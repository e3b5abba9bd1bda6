"""Rules that a user writes: read with the place of a mistake, decided, and seen to fail on circuits broken for them."""

from typing import Any

import pytest

from circuits import EVERYTHING, made
from samples import iec
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.circuit.faults.injection import damage
from volmek.core.circuit.kernel.report import run_script
from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.model.netlist import Circuit
from volmek.core.circuit.proof.own import PATTERNS, UnreadableError, read_rule
from volmek.core.circuit.proof.rules import Proof, prove
from volmek.core.circuit.simulated import simulated
from volmek.core.document.model import parse

STAR_DELTA = made("star_delta", **EVERYTHING)


def asked(text: str, circuit: Circuit = STAR_DELTA, *faults: str, sim: Simulator | None = None) -> Proof:
    d = damage(circuit, list(faults))
    return next(p for p in prove(d.circuit, d.engine(), own=[text], sim=sim) if p.rule == "own_rule_1")


HOLDS = [
    "K2 never without K1",
    "never K2 and K3",
    "never K2 and K3 even for a moment",
    "after S1 nothing until S2",
    "after stop nothing until start",
    "after F1 nothing until S2",
    "after S0 pressed nothing until start",
    "K1 never without KT1 star or KT1 pause or KT1 delta",
    "P1 never without K1",
    "P3 never without F1 tripped",
]


@pytest.mark.parametrize("text", HOLDS)
def test_what_the_circuit_was_made_for_holds(text: str) -> None:
    proof = asked(text)
    assert proof.holds is True and proof.how and proof.words == text


BROKEN: list[tuple[str, tuple[str, ...], str]] = [
    ("K1 never without K3", (), "wait"),
    ("never K1 even for a moment", (), "press S2"),
    ("after S1 nothing until S2", ("add S2:3 S2:4",), "release S1"),
    ("P1 never without motor on", (), "wait"),  # in the pause between star and delta nothing feeds it
]


@pytest.mark.parametrize(("text", "faults", "last"), BROKEN)
def test_a_broken_rule_comes_with_its_shortest_story(text: str, faults: tuple[str, ...], last: str) -> None:
    proof = asked(text, STAR_DELTA, *faults)
    assert proof.holds is False and proof.shortest and proof.shortest[-1].startswith(last), proof


def test_the_story_of_a_broken_rule_replays() -> None:
    d = damage(STAR_DELTA, ["add S2:3 S2:4"])
    proof = asked("after S1 nothing until S2", STAR_DELTA, "add S2:3 S2:4")
    last = run_script(Simulator(d.circuit, with_engine=d.engine()), "; ".join(proof.shortest or []))[-1]
    assert last["coils"]["K3"] and last["do"] == "release S1"


UNREADABLE = [
    ("", "at the end: a device of this circuit is missing"),
    ("K9 never without K1", "at letter 1: a device of this circuit, not K9"),
    ("K1 sometimes without K2", "at letter 4: never or within, not sometimes"),
    ("never K1 and", "at the end: a device of this circuit is missing"),
    ("K1 lit never without K2", "at letter 4: never or within, not lit"),
    ("after K1 nothing until S2", "at letter 7: stop, start, or an input of this circuit, not K1"),
    ("after S1 nothing before S2", "at letter 18: until, not before"),
    ("P1 lit within soon of pressing S2", "at letter 15: seconds, above 0 and up to 600, not soon"),
    ("P1 lit within 1e3 s of pressing S2", "at letter 15: seconds, above 0 and up to 600, not 1e3"),
    ("P1 lit within 1 s of kicking S2", "at letter 22: pressing or"),
    ("P1 lit within 1 s of losing L9", "at letter 29: "),
    ("never K1 and K2 for ever", "at letter 17: the end of the rule, not for"),
    ("never Q1 lit", "at letter 10: the end of the rule, not lit"),
    ("never X1", "at letter 7: a device with a state, not X1"),
]


@pytest.mark.parametrize(("text", "words"), UNREADABLE)
def test_bad_text_gets_the_place_of_its_mistake(text: str, words: str) -> None:
    with pytest.raises(UnreadableError) as wrong:
        read_rule(text, STAR_DELTA)
    assert words in str(wrong.value)
    if text:
        proof = asked(text)
        assert proof.holds is None and words in proof.why


def test_a_rule_with_seconds_is_tried_with_the_times_of_the_design_only() -> None:
    control: dict[str, Any] = {"lamps": ["running", "stopped", "tripped", "phase_fault"], "phase_monitor": "three_wire"}
    document = parse(iec(starter={"type": "star_delta"}, control=control))
    it = simulated(document, reference_catalogue())
    decided = {
        text: asked(text, it.circuit, sim=it.simulator)
        for text in (
            "P5 lit within 5 s of losing L3",
            "P1 lit within 1 s of pressing S2",
            "K2 within 0.5 s of pressing S2",
        )
    }
    assert [p.holds for p in decided.values()] == [True, True, False]
    assert "tried, not proved" in decided["P1 lit within 1 s of pressing S2"].how
    assert decided["K2 within 0.5 s of pressing S2"].shortest == ["press S2", "wait 0.5"]
    assert asked("P1 lit within 1 s of pressing S2", it.circuit).holds is None
    assert all(read_rule(text, it.circuit) for text in PATTERNS)
