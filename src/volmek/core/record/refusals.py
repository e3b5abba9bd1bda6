"""Entries that the record does not take, each with its reason."""

from collections.abc import Mapping
from datetime import date, timedelta
from typing import Any

from volmek.core.circuit.build.causes import choices
from volmek.core.circuit.build.plan import Plan
from volmek.core.document.errors import Problem
from volmek.core.record.items import Item, refusal
from volmek.core.record.journal import Folded, check_id, stage_state, stage_title, trip_of


def refused(
    f: Folded,
    plan: Plan | None,
    items: Mapping[str, Item],
    kind: str,
    body: Mapping[str, Any],
    today: date | None = None,
) -> Problem | None:
    """Reason for refusing an entry; None when it is accepted.

    Parameters
    ----------
    f : the journal so far
    plan : of the starter, None where there is none
    items : what is measured on it, by id
    today : by the clock of the server; nothing was inspected after it
    """
    if kind == "reading":
        item = items.get(str(body["item"]))
        if item is None:
            return Problem("item", f"{body['item']!r} is not measured on this starter")
        value = body["value"]
        if (item.kind == "number") != isinstance(value, float):
            return Problem(
                "value",
                f"{item.title} must be {'a number in ' + item.unit if item.kind == 'number' else 'one of ' + ', '.join(item.choices)}",
            )
        words = refusal(item, value, confirmed=bool(body["confirmed"]))
        if not words:
            return None
        again = refusal(item, value, confirmed=True) == ""  # only doubted: it is saved when it is confirmed
        return Problem("confirmed" if again else "value", f"{item.title}: {words}")
    if kind in ("wire", "isolated", "check", "step"):
        return _refused_build(f, plan, kind, body)
    if kind == "trip":
        return _refused_trip(f, body)
    of = {
        "closed": ("point", f.points, "an open item"),
        "inspected": ("inspection", f.inspections, "an inspection"),
    }.get(kind)
    if of and str(body[of[0]]) not in of[1]:
        return Problem(of[0], f"there is no such thing as {of[2]} {body[of[0]]!r}")
    if (
        kind == "inspected" and today and date.fromisoformat(body["on"]) > today + timedelta(days=1)
    ):  # in the zone ahead it is tomorrow
        return Problem("on", f"{body['on']} lies in the future; an inspection is recorded when it is done")
    return None


def _refused_build(f: Folded, plan: Plan | None, kind: str, body: Mapping[str, Any]) -> Problem | None:
    if plan is None:
        return Problem("stage", "there is no build plan: the circuit has options that contradict each other")
    if kind == "wire":
        if body["done"] and body["wire"] not in {i.key for i in plan.wires}:
            return Problem("wire", f"{body['wire']!r} is not a conductor of this starter as it is designed now")
        return None
    stage = next((s for s in plan.stages if s.title == stage_title(body["stage"])), None)
    if stage is None:
        return Problem("stage", f"{body['stage']!r} is not a stage of this starter as it is designed now")
    if kind == "check" and body["check"] not in {check_id(c.a, c.b, c.held) for c in stage.checks}:
        return Problem("check", "this reading does not belong to the stage as it is designed now")
    if kind == "step":
        if body["step"] >= len(stage.steps):
            return Problem("step", f"the stage has {len(stage.steps)} steps")
        state = stage_state(f, stage, plan.stages[: plan.stages.index(stage)])
        if state["missing"]:
            return Problem("step", f"{stage.title} is not put under voltage yet: {state['missing']}")
        shown = stage.steps[body["step"]].state
        for name, value in body["different"].items():
            if name not in shown or value not in choices(shown[name]):
                return Problem("different", f"{name} {value!r} cannot be seen in this step")
    return None


def _refused_trip(f: Folded, body: Mapping[str, Any]) -> Problem | None:
    entries = f.trips.get(str(body["trip"]), []) if body["trip"] else []
    if body["trip"] and not entries:
        return Problem("trip", f"there is no trip {body['trip']!r}")
    if not entries and not (body["what"] and body["happened"]):
        return Problem("what", "say what tripped and when")
    whole = trip_of(entries) | {k: v for k, v in body.items() if v not in ("", None, False)}
    if body["close"] and not whole.get("cause"):
        return Problem("cause", "a trip cannot be closed without its cause")
    return None
