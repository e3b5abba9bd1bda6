"""Lines of a generated circuit that somebody changed: everything follows them, or they are refused at their place."""

import random
from typing import Any

import pytest

from circuits import EVERYTHING
from samples import iec
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.circuit.build.plan import build_plan
from volmek.core.circuit.drawing.control import draw_control
from volmek.core.circuit.kernel.operator import lamp_table
from volmek.core.circuit.model.netlist import Circuit
from volmek.core.circuit.proof.rules import prove
from volmek.core.circuit.schemes import circuit_of
from volmek.core.circuit.simulated import simulated
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import StarterDocument, by_method, parse
from volmek.core.views.circuit import circuit_view
from volmek.core.views.compare import compare

DELTA = "r > KT1:17-18 > K3:21-22 > K1:83-84 > commandK2 > K2:A1"


def edited(*edits: dict[str, str], scheme: str = "star_delta", **control: Any) -> StarterDocument:
    return parse(iec(starter={"type": scheme}, control=control, circuit_edits=list(edits)))


def broken(c: Circuit) -> dict[str, list[str]]:
    return {p.rule: p.shortest or [] for p in prove(c) if p.holds is False}


def test_a_changed_line_is_drawn_wired_proved_planned_and_told() -> None:
    document = edited({"line": "bus > (S2:3-4 | K1:13-14) > r", "now": "bus > S2:3-4 > r", "note": "as found"})
    it = simulated(document, reference_catalogue())
    assert broken(it.circuit) == {} and it.circuit.changed == [
        "bus > (S2:3-4 | K1:13-14) > r, changed to bus > S2:3-4 > r"
    ]
    assert not any("K1:13" in (w.a, w.b) for w in it.circuit.wires)
    view = circuit_view(document, reference_catalogue())
    assert view.control is not None and view.changed == it.circuit.changed and "changed by hand" in view.restart
    assert not any("contact:K1:13-14" in p.part for p in view.control.places)
    plan = build_plan(it, document)
    assert not any("K1:13" in (w.a, w.b) for w in plan.wires) and "Coil of K1" in [s.title for s in plan.stages]


def test_an_interlock_left_out_and_a_contact_bridged_are_proved_as_they_are() -> None:
    out = circuit_of(edited({"line": DELTA, "now": DELTA.replace("K3:21-22 > ", "")}))
    assert "forbidden_pairs_exclusive" not in broken(out)  # the star-delta relay keeps them apart
    stop = circuit_of(edited({"now": "o > K1:33-34 > bus"}))
    assert broken(stop)["stop_drops_all"][-1] == "press S1"


REFUSED = [
    ({"line": "", "now": ""}, "now", "not empty"),
    ({"line": "bus > S9:3-4 > r", "now": "bus > r"}, "line", "not generated any more"),
    ({"now": "bus > (S2:3-4"}, "now", "a bracket is not closed"),
    ({"now": "bus > S2:3-4 &"}, "now", "at letter 14"),
    ({"now": "((((((((bus))))))))"}, "now", "more than 6 brackets"),
    ({"now": "K1:33-34 > r"}, "now", "begins with a node"),
    ({"now": "bus"}, "now", "at least two things"),
    ({"now": "bus > K1:33-34 > elsewhere"}, "now", "stands in no other line"),
    ({"now": "bus > K9:13-14 > r"}, "now", "there is no K9"),
    ({"now": "bus > K1:13-14 > r"}, "now", "stands twice"),
    ({"now": "bus > K1:1-2 > r"}, "now", "main pole"),
    ({"now": "bus > S2:3-7 > r"}, "now", "S2 has no contact 3-7"),
    ({"now": "bus > K1:33-44 > r"}, "now", "K1 has no contact 33-44"),
    ({"now": "bus > K1:A1 > r"}, "now", "stands last"),
    ({"now": "bus > M1:U1 > r"}, "now", "is one terminal"),
    ({"now": "bus > Bus > r"}, "now", "neither a contact"),
    ({"now": "bus > P9"}, "now", "there is no P9"),
    ({"now": "bus > S2:A1"}, "now", "is no coil or lamp"),
]


@pytest.mark.parametrize(("edit", "field", "words"), REFUSED)
def test_what_cannot_be_wired_is_refused_at_its_place(edit: dict[str, str], field: str, words: str) -> None:
    with pytest.raises(ProblemError, match=words) as refused:
        circuit_of(edited(edit))
    assert refused.value.problems[0].field == f"circuit_edits.0.{field}"


def test_a_line_is_changed_once() -> None:
    with pytest.raises(ProblemError, match="changed twice"):
        circuit_of(edited({"line": DELTA, "now": ""}, {"line": DELTA, "now": DELTA}))


def drawn(draw: random.Random, lines: list[str]) -> dict[str, str]:
    """An edit as it could be found: left out, a part less, two parts exchanged, elsewhere connected, a contact more."""
    line = draw.choice(lines)
    parts = line.split(" > ")
    k = draw.randrange(1, len(parts))
    changed = {
        "out": "",
        "less": " > ".join(parts[:k] + parts[k + 1 :]),
        "turned": " > ".join([parts[0], *draw.sample(parts[1:-1], len(parts) - 2), parts[-1]]),
        "elsewhere": " > ".join([draw.choice(["L", "bus", "o", "r"]), *parts[1:]]),
    }
    kind = draw.choice([*changed, "more"])
    if kind == "more":
        contact = draw.choice(["K1:33-34", "S2:13-14", "K1:31-32"])
        return {"now": f"{draw.choice(['L', 'bus'])} > {contact} > {draw.choice(['bus', 'r', '0'])}"}
    return {"line": line, "now": changed[kind]}


@pytest.mark.parametrize("seed", range(6))
def test_whatever_was_changed_everything_follows_or_it_is_refused(seed: int) -> None:
    draw, followed, fields = random.Random(seed), 0, list[str]()
    for _ in range(8):
        scheme = draw.choice(
            ["direct_on_line", "reversing", "star_delta", "star_delta_closed", "autotransformer", "two_speed"]
        )
        plain = simulated(edited(scheme=scheme, **EVERYTHING), reference_catalogue()).circuit
        edits = [drawn(draw, [line for line, _ in plain.written]) for _ in range(draw.randint(1, 2))]
        document = edited(*edits, scheme=scheme, **EVERYTHING)
        try:
            it = simulated(document, reference_catalogue())
        except ProblemError as refused:
            fields += [p.field for p in refused.problems]
            continue
        for style in ("columns", "ladder"):
            draw_control(it.circuit, style)
        lamp_table(it.circuit)
        assert build_plan(it, document).stages
        assert {p.rule for p in prove(it.circuit) if p.holds is None} == set()
        followed += 1
    assert followed and all(f.startswith("circuit_edits.") for f in fields)


def test_another_method_is_compared_and_changed_to_without_the_edits_of_this_one() -> None:
    document = edited({"line": DELTA, "now": DELTA.replace("K3:21-22 > ", "")})
    rows = {x.offer.key: x for x in compare(document, reference_catalogue(), ["direct_on_line", "star_delta"])}
    said = [f.message for x in rows.values() for f in x.findings if "not generated" in f.message]
    assert rows["direct_on_line"].parts and said == []
    assert by_method(document, "direct_on_line").circuit_edits == [] and by_method(document, "star_delta").circuit_edits
