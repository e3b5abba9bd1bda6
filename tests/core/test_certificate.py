"""Certificates of proofs: confirmed by the checker, refused when anything in them was changed."""

import copy
import json
from collections.abc import Callable
from functools import cache
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner

from circuits import LARGEST, VARIANTS, made
from samples import iec
from volmek.cli import main
from volmek.core.circuit.faults.injection import damage
from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.proof.certificate import behaviour_table, certificate_of, digest_of
from volmek.core.document.errors import ProblemError
from volmek.core.verify import checker
from volmek.core.verify.checker import RefusedError, check

CIRCUITS = {**VARIANTS, **{f"largest {name}": c for name, c in LARGEST.items()}}
NOT_CHECKED = {
    "comes_to_rest", "every_coil_reachable", "lamps_truthful", "earth_fault_tolerant", "mechanical_interlock_fitted", "jog_drops_out",
    "no_backfeed",
}  # fmt: skip


def certificate(name: str) -> dict[str, Any]:
    return copy.deepcopy(kept(name))


@cache
def kept(name: str) -> Any:
    return json.loads(json.dumps(certificate_of("A-1", Simulator(CIRCUITS[name]))))


@pytest.mark.parametrize("name", sorted(CIRCUITS))
def test_the_checker_confirms_what_was_proved(name: str) -> None:
    data = certificate(name)
    found = check(data)
    held = {r["rule"] for r in data["rules"] if r["holds"]}
    beyond = NOT_CHECKED | ({"no_power_short"} if "autotransformer" in name else set())
    assert held - set(found.confirmed) <= beyond and len(found.confirmed) >= 4
    assert found.states == data["states"] and not set(found.confirmed) - held


def again(data: dict[str, Any]) -> None:
    """The digest made anew, as somebody does who knows how."""
    data["digest"] = digest_of([data["netlist"], data["behaviour"]])


def smaller(data: dict[str, Any]) -> None:
    """A state less: the last way to 1 leads to 0."""
    node = data["diagram"][data["reached"] - 2]
    node[1 if node[1] > 1 or node[1] == 1 else 2] = 0


def everything(data: dict[str, Any]) -> None:
    data["reached"] = 1


def flipped(data: dict[str, Any]) -> None:
    rule = next(r for r in data["rules"] if r["rule"] == "stop_drops_all")
    rule["holds"], rule["story"] = False, ["press S2"]


def other_netlist(data: dict[str, Any]) -> None:
    data["netlist"]["wires"].append(["99", "S1:1", "S1:2"])


def bridged(data: dict[str, Any]) -> None:
    other_netlist(data)
    again(data)


def lazy(data: dict[str, Any]) -> None:
    """A contactor that never drops out."""
    data["behaviour"]["contactor"] = [x for x in data["behaviour"]["contactor"] if x[1]]
    again(data)


def without_stop(data: dict[str, Any]) -> None:
    data["variables"] = [v for v in data["variables"] if v["device"] != "S1"]


def never_pressed(data: dict[str, Any]) -> None:
    next(v for v in data["variables"] if v["device"] == "S2")["positions"] = [0]


def shared_bit(data: dict[str, Any]) -> None:
    data["variables"][1]["levels"] = data["variables"][0]["levels"]


def begun_elsewhere(data: dict[str, Any]) -> None:
    next(v for v in data["variables"] if v["device"] == "K1")["positions"].reverse()


def disordered(data: dict[str, Any]) -> None:
    data["diagram"][-1][1] = len(data["diagram"]) + 5


def counted_wrong(data: dict[str, Any]) -> None:
    data["states"] += 1


def no_certificate(data: dict[str, Any]) -> None:
    data.clear()


TAMPERED: list[tuple[Callable[[dict[str, Any]], None], str]] = [
    (smaller, "leaves"), (everything, "said to hold, but"), (flipped, "said to be broken, but"), (other_netlist, "digest does not fit"),
    (bridged, "but the set meets|leaves"), (lazy, "behave otherwise"), (without_stop, "leaves out"), (never_pressed, "leaves out"), (shared_bit, "share a bit"),
    (begun_elsewhere, "begin where it rests|leaves"), (disordered, "not in order"), (counted_wrong, "as many states"), (no_certificate, "no certificate"),
]  # fmt: skip


@pytest.mark.parametrize(("change", "words"), TAMPERED, ids=[f.__name__ for f, _ in TAMPERED])
@pytest.mark.parametrize("name", ["star_delta", "reversing"])
def test_a_certificate_that_was_changed_is_refused(
    name: str, change: Callable[[dict[str, Any]], None], words: str
) -> None:
    data = certificate(name)
    change(data)
    with pytest.raises(RefusedError, match=words):
        check(data)


def test_broken_rules_stay_broken_and_are_not_confirmed() -> None:
    d = damage(made(), ["add S1:1 S1:2"])
    found = check(json.loads(json.dumps(certificate_of("A-1", Simulator(d.circuit)))))
    assert "stop_drops_all" not in found.confirmed and "overload_drops_all" in found.confirmed


def test_the_checker_shares_nothing_with_the_prover_and_knows_the_behaviour() -> None:
    source = Path(checker.__file__).read_text()
    assert "volmek" not in source.replace("volmek proof", "") and digest_of(behaviour_table()) == checker.BEHAVIOUR
    code = [line for line in source.splitlines() if line.strip() and not line.strip().startswith(("#", '"""'))]
    assert len(code) < 340  # below 300 without its docstrings


def test_faults_have_no_certificate() -> None:
    d = damage(made(), ["weld K1"])
    with pytest.raises(ProblemError, match="without faults"):
        certificate_of("A-1", Simulator(d.circuit, with_engine=d.engine()))


def test_a_certificate_is_written_and_verified_on_the_command_line(tmp_path: Path) -> None:
    one, other, out = tmp_path / "a.json", tmp_path / "b.json", tmp_path / "proof.json"
    one.write_text(json.dumps(iec(starter={"type": "star_delta"})))
    other.write_text(json.dumps(iec(starter={"type": "reversing"})))
    run = CliRunner().invoke
    assert run(main, ["prove", str(one), "--certificate", str(out)]).exit_code == 0
    answer = run(main, ["verify", str(out), "--document", str(one)])
    assert answer.exit_code == 0 and "stop_drops_all" in json.loads(answer.output)["confirmed"]
    refused = run(main, ["verify", str(out), "--document", str(other)])
    assert refused.exit_code == 1 and "another circuit" in refused.output
    out.write_text("[]")
    assert run(main, ["verify", str(out)]).exit_code == 1
    assert run(main, ["prove", str(one), "--fault", "weld K1", "--certificate", str(out)]).exit_code == 2
