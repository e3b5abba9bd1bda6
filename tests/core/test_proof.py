"""Proofs: each rule broken on purpose, small and large; faults in; what nobody decided."""

from collections.abc import Callable
from itertools import product
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from circuits import EVERYTHING, LARGEST, VARIANTS, drawn_sets, made, script
from volmek.core.circuit.faults.failures import BY_CONTINUITY, BY_TRIAL, NEXT_STOP, UNDER_FAULT, failures, rules_broken
from volmek.core.circuit.faults.injection import damage
from volmek.core.circuit.kernel.engine import Engine
from volmek.core.circuit.kernel.power import PowerNet
from volmek.core.circuit.model.netlist import Circuit
from volmek.core.circuit.proof.diagrams import Diagrams
from volmek.core.circuit.proof.rules import RULES, Proof, prove
from volmek.core.circuit.schemes import circuit_of
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import parse


def proofs(circuit: Circuit, *faults: str) -> dict[str, Proof]:
    d = damage(circuit, list(faults))
    return {p.rule: p for p in prove(d.circuit, d.engine())}


def broken(circuit: Circuit, *faults: str) -> set[str]:
    return {rule for rule, p in proofs(circuit, *faults).items() if p.holds is False}


#: A circuit, faults that break a rule in it, and the largest circuit with faults that do.
PLANTED = [
    ("no_power_short", made("star_delta", mechanical_interlock=False), ["weld K2:1-2", "weld K2:3-4", "add K2:21 K2:22"]),
    ("no_power_short", made("star_delta", mechanical_interlock=False, standby=True, **EVERYTHING), ["weld K2:1-2", "weld K2:3-4", "add K2:21 K2:22"]),
    ("forbidden_pairs_exclusive", made("reversing"), ["add K1:21 K1:22"]),
    ("forbidden_pairs_exclusive", LARGEST["star_delta, stand-by"], ["add K2:21 K2:22", "add K3:21 K3:22", "weld KT1:17-28"]),
    ("mechanical_interlock_fitted", made("reversing", mechanical_interlock=False), []),
    ("mechanical_interlock_fitted", made("star_delta", mechanical_interlock=False, **EVERYTHING), []),
    ("comes_to_rest", made(), ["exchange K1:13-14"]),
    ("comes_to_rest", LARGEST["autotransformer, stand-by"], ["exchange K1:13-14"]),
    ("stop_drops_all", made(), ["add S1:1 S1:2"]),
    ("stop_drops_all", LARGEST["rotor_resistance"], ["weld S5:13-14"]),
    ("stop_drops_all", LARGEST["star_delta, stand-by"], ["weld S5:13-14"]),
    ("emergency_stop_drops_all", made(emergency_stop=True), ["weld S0:1-2"]),
    ("emergency_stop_drops_all", LARGEST["part_winding, stand-by"], ["weld S0:1-2"]),
    ("overload_drops_all", made(), ["weld F1:95-96"]),
    ("overload_drops_all", LARGEST["star_delta, stand-by"], ["weld F1:95-96"]),
    ("phase_monitor_drops_all", made(phase_monitor="three_wire"), ["weld F2:11-14"]),
    ("phase_monitor_drops_all", LARGEST["autotransformer, stand-by"], ["weld F2:11-14"]),
    ("no_self_start", made(), ["weld S2:3-4"]),
    ("no_self_start", LARGEST["star_delta, stand-by"], ["weld K1", "weld K3"]),
    ("every_coil_reachable", made(), ["remove S2:4 K1:A1"]),
    ("every_coil_reachable", LARGEST["rotor_resistance"], ["open KT2:15-18"]),
    ("jog_drops_out", made(variant="as_often_built", jog="selector"), []),
    ("no_backfeed", made(hold="power_pole"), []),
    ("lamps_truthful", made(lamps=["running", "stopped", "tripped"]), ["exchange F1:97-98"]),
    ("lamps_truthful", LARGEST["star_delta, stand-by"], ["weld F1:97-98"]),
    ("earth_fault_tolerant", made(overload_contact="return_side"), []),
    ("earth_fault_tolerant", LARGEST["rotor_resistance"], ["weld S5:13-14"]),
]  # fmt: skip


def test_every_rule_is_planted() -> None:
    assert {rule for rule, _, _ in PLANTED} == set(RULES)


@pytest.mark.parametrize(("rule", "circuit", "faults"), PLANTED)
def test_a_rule_fails_on_a_circuit_that_is_broken_for_it(rule: str, circuit: Circuit, faults: list[str]) -> None:
    if faults:
        assert rule not in broken(circuit)
    assert rule in broken(circuit, *faults)


@pytest.mark.parametrize("name", LARGEST)
def test_the_largest_sets_of_options_are_decided_and_sound(name: str) -> None:
    found = prove(LARGEST[name])
    assert [(p.rule, p.why) for p in found if p.holds is None or not p.passed] == []
    assert all(p.how for p in found if p.holds)


@pytest.mark.parametrize("fault", ["S0:1-2", "S1:1-2", "F1:95-96", "F2:11-14"])
def test_one_of_a_chain_that_is_stuck_is_not_hidden_by_its_neighbours(fault: str) -> None:
    assert broken(VARIANTS["direct_on_line"], f"weld {fault}") & {
        "stop_drops_all",
        "emergency_stop_drops_all",
        "overload_drops_all",
        "phase_monitor_drops_all",
    }


def test_rules_look_at_the_motor_where_a_contactor_is_welded() -> None:
    found = proofs(made(), "weld K1")
    assert {"stop_drops_all", "overload_drops_all", "no_self_start"} <= {r for r, p in found.items() if p.holds is False}  # fmt: skip
    assert "on the lines through the poles of K1" in found["stop_drops_all"].why


def test_one_welded_pole_does_no_harm_while_its_make_contact_is_open_and_the_proof_tries_it_closed() -> None:
    told = script(made(), "press S2; release S2; wait 1; press S1; wait 2; release S1; wait 2", "weld K1:5-6")
    assert [e["coils"]["K1"] for e in told] == [True, True, True, False, False, False, False]
    assert not any("chatters" in e["words"] for entry in told for e in entry["events"])
    found = proofs(made(), "weld K1:5-6")
    assert found["comes_to_rest"].holds and found["stop_drops_all"].holds
    assert "taken as made behind the welded pole" in found["no_self_start"].why


def test_a_start_after_a_reset_is_found_and_a_declared_one_is_listed_with_its_story() -> None:
    two_wire = circuit_of(parse({"tag": "A", "control": {"scheme": "two_wire"}}))
    declared = proofs(two_wire)["no_self_start"]
    assert declared.declared and declared.holds is False and declared.shortest
    assert declared.why == two_wire.declared["no_self_start"]
    with pytest.raises(ProblemError) as refused:
        made(jog="relay", overload_contact="before_coil")
    assert refused.value.problems[0].field == "control.overload_contact"


def test_each_fault_names_the_rules_that_it_breaks_and_how_it_is_found() -> None:
    told: list[tuple[int, int]] = []
    circuit = made(emergency_stop=True, lamps=["running"])
    table = {f.fault: f for f in failures(circuit, lambda done, of: told.append((done, of)))}
    assert told == [(n, len(table)) for n in range(len(table))]
    for guard, rule, found in (
        ("S1:1-2", "stop_drops_all", NEXT_STOP), ("S0:1-2", "emergency_stop_drops_all", BY_TRIAL), ("F1:95-96", "overload_drops_all", BY_TRIAL),
    ):  # fmt: skip
        row = table[f"weld {guard}"]
        assert row.dangerous and row.breaks == (rule,) and row.found == found and row.measure
    for fault, row in table.items():
        d = damage(circuit, [fault])
        broken_now = {p.rule for p in prove(d.circuit, d.engine()) if p.holds is False and p.rule in UNDER_FAULT}
        assert set(row.breaks) == broken_now and row.undecided == (), fault
        assert not row.hidden or (row.found == BY_CONTINUITY and not row.breaks)
    late = rules_broken(
        LARGEST["star_delta, stand-by"],
        Engine(LARGEST["star_delta, stand-by"]),
        PowerNet(LARGEST["star_delta, stand-by"]),
        0,
    )
    assert late[1], "what there was no time for is said"


#: Options that are offered as the weaker way, with the rules that they break; sizing says so at each.
WEAK: dict[str, Callable[[dict[str, Any]], bool]] = {
    "no_self_start": lambda c: c.get("source") == "separate" or c.get("tap") == "before_main",
    "earth_fault_tolerant": lambda c: c.get("overload_contact") == "return_side" or c.get("variant") == "as_often_built",
    "mechanical_interlock_fitted": lambda c: c.get("mechanical_interlock") is False or c.get("variant") == "as_often_built",
    "no_backfeed": lambda c: c.get("hold") == "power_pole" or c.get("variant") == "as_often_built",
    "forbidden_pairs_exclusive": lambda c: c.get("variant") == "as_often_built",
    "jog_drops_out": lambda c: c.get("variant") == "as_often_built",
}  # fmt: skip


def test_options_drawn_at_random_are_decided_and_break_only_what_they_are_known_for() -> None:
    for control, circuit in drawn_sets(60, 15):
        for p in prove(circuit):
            assert p.holds is not None
            assert p.passed or WEAK[p.rule](control), (p.rule, p.shortest, p.why, control)


def test_what_there_was_no_time_for_is_not_decided() -> None:
    found = prove(LARGEST["star_delta, stand-by"], limit_s=0)
    assert {p.holds for p in found} <= {None, True} and any(p.holds is None for p in found)
    assert all("were not enough" in p.why and not p.passed for p in found if p.holds is None)


FORMULAS = st.recursive(
    st.integers(0, 4),
    lambda inner: st.tuples(st.sampled_from(["both", "either", "without"]), inner, inner) | st.tuples(st.just("other"), inner),
    max_leaves=12,
)  # fmt: skip


@given(FORMULAS, st.dictionaries(st.integers(0, 4), st.integers(0, 1), max_size=3))
def test_diagrams_are_truth_tables(formula: object, fixed: dict[int, int]) -> None:
    d = Diagrams()

    def built(f: object) -> int:
        if isinstance(f, int):
            return d.bit(f)
        assert isinstance(f, tuple)
        return int(getattr(d, f[0])(*(built(x) for x in f[1:])))

    def true(f: object, bits: tuple[int, ...]) -> bool:
        if isinstance(f, int):
            return bool(bits[f])
        assert isinstance(f, tuple)
        values = [true(x, bits) for x in f[1:]]
        return {"both": all(values), "either": any(values), "other": not values[0], "without": values[0] and not values[-1]}[f[0]]  # fmt: skip

    f = built(formula)
    rows = list(product((0, 1), repeat=5))
    cubes = {bits: d.cube(dict(enumerate(bits))) for bits in rows}
    assert [bool(d.both(f, cubes[b])) for b in rows] == [true(formula, b) for b in rows]
    assert d.count(f, 5) == sum(true(formula, b) for b in rows)
    left = d.fixed(f, fixed)
    as_fixed = [tuple(fixed.get(n, x) for n, x in enumerate(b)) for b in rows]
    assert [bool(d.both(left, cubes[b])) for b in rows] == [true(formula, b) for b in as_fixed]
    if f:
        some = d.some(f)
        assert d.both(f, d.cube({n: some.get(n, 0) for n in range(5)}))
