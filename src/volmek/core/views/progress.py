"""Progress of a starter at the panel: conductors, stages, measurements, open items."""

from collections.abc import Mapping
from dataclasses import dataclass

from volmek.core.circuit.build.plan import Plan
from volmek.core.record.items import Item
from volmek.core.record.journal import Folded, conductor, stage_state
from volmek.core.record.open_points import open_points


@dataclass(frozen=True, slots=True)
class Progress:
    """Progress of build and test of a starter.

    Attributes
    ----------
    laid, wires : conductors connected, and all of the plan
    stages_done, stages : of the build plan
    measured, wanted : items of the record that have a reading, and all of them
    points : open items in words
    """

    laid: int
    wires: int
    stages_done: int
    stages: int
    measured: int
    wanted: int
    points: tuple[str, ...]


def progress(f: Folded, items: Mapping[str, Item], plan: Plan) -> Progress:
    """Count what is done of plan and record.

    Parameters
    ----------
    f : the journal
    items : of the record, by id
    plan : of the build

    Examples
    --------
    >>> from volmek.core.circuit.build.plan import build_plan
    >>> from volmek.core.circuit.simulated import simulated_of
    >>> from volmek.core.examples import example
    >>> from volmek.core.record.journal import fold
    >>> s = example()
    >>> progress(fold([]), {}, build_plan(simulated_of(s.document, s.catalogue, s), s.document)).laid
    0
    """
    return Progress(
        sum(conductor(f.wires.get(i.key)) for i in plan.wires),
        len(plan.wires),
        sum(bool(stage_state(f, s, plan.stages[:n])["done"]) for n, s in enumerate(plan.stages)),
        len(plan.stages),
        sum(i in f.readings for i in items),
        len(items),
        tuple(p.text for p in open_points(f, items, plan)),
    )
