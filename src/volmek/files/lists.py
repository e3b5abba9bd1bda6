"""Wire list, wire markers and terminal strip as CSV."""

import csv
import io
from collections import defaultdict

from volmek.core.circuit.build.plan import Plan
from volmek.files.cells import safe_cell


def _csv(head: list[str], rows: list[list[object]]) -> str:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(head)
    writer.writerows([safe_cell(x) for x in row] for row in rows)
    return out.getvalue()


def wires_csv(plan: Plan) -> str:
    """Every conductor in working order, with empty columns for what is noted at the panel."""
    titles = {s.number: s.title for s in plan.stages}
    head = [
        "stage",
        "stage_title",
        "wire",
        "from",
        "to",
        "group",
        "colour",
        "section",
        "sleeve_from",
        "sleeve_to",
        "kind",
        "length_mm",
        "torque_nm",
    ]
    return _csv(
        head,
        [
            [i.stage, titles[i.stage], i.number, i.a, i.b, i.group, i.colour, i.section, *i.sleeves, i.kind, "", ""]
            for i in plan.wires
        ],
    )


def markers_csv(plan: Plan) -> str:
    """One line for each ferrule: its number, its terminal and the far end of the conductor."""
    rows: list[list[object]] = []
    for i in plan.wires:
        if i.kind != "bridge":
            rows += [
                [i.number, here, there, i.section]
                for here, there in ((i.a, i.b), (i.b, i.a))
                if not here.startswith("supply:")
            ]
    return _csv(["marker", "at", "goes_to", "section"], rows)


def strip_csv(plan: Plan) -> str:
    """One line for each terminal of the strips: what comes from the panel, what leaves, and its bridges."""
    inside: dict[str, list[str]] = defaultdict(list)
    outside: dict[str, list[str]] = defaultdict(list)
    bridged: dict[str, list[str]] = defaultdict(list)
    section: dict[str, str] = {}
    number: dict[str, str] = {}
    for i in plan.wires:
        for here, there in ((i.a, i.b), (i.b, i.a)):
            if here.partition(":")[0] in ("X1", "X2", "PE"):
                number.setdefault(here, i.number)
                if i.kind == "bridge":
                    bridged[here].append(there)
                else:
                    section[here] = i.section
                    (outside if i.group in ("field", "door") or i.kind == "incoming" else inside)[here].append(there)
    rows: list[list[object]] = [
        [
            *t.split(":", 1),
            number[t],
            " ".join(inside[t]),
            " ".join(outside[t]),
            " ".join(bridged[t]),
            section.get(t, ""),
        ]
        for t in sorted(number)
    ]
    return _csv(["strip", "terminal", "wire", "from_panel", "to_outside", "bridged_to", "section"], rows)
