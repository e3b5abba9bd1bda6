"""Effect of a change of a starter at the panel: parts, settings and wires, and the drawing of it."""

from dataclasses import dataclass

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.circuit.build.difference import Difference, difference
from volmek.core.circuit.simulated import simulated
from volmek.core.document.model import StarterDocument
from volmek.core.views.circuit import CircuitView, circuit_view


@dataclass(frozen=True, slots=True)
class ChangeView:
    """From one starter to another.

    Attributes
    ----------
    difference : wires removed, moved and added, parts, devices and settings
    circuit : the changed circuit, drawn
    work : terminals of its drawing: ``next`` where a wire is new or moved, ``done`` elsewhere
    """

    difference: Difference
    circuit: CircuitView
    work: dict[str, str]


def change_view(before: StarterDocument, after: StarterDocument, catalogue: Catalogue) -> ChangeView:
    """Work to be done at the panel, and the circuit after it.

    Parameters
    ----------
    before, after : the starter as it was and as it is to be
    catalogue : the devices to choose from

    Raises
    ------
    ProblemError : one of them cannot be designed, or its options contradict each other.

    Examples
    --------
    >>> from volmek.core.catalogue.catalogue import reference_catalogue
    >>> from volmek.core.examples import example_document
    >>> one, two = example_document(), example_document(control={"phase_monitor": "three_wire"})
    >>> seen = change_view(one, two, reference_catalogue())
    >>> seen.difference.parts_added[0], len(seen.difference.added) > 3, "next" in seen.work.values()
    ('F2 Phase monitor', True, True)
    """
    old, new = simulated(before, catalogue), simulated(after, catalogue)
    sized = tuple(it.sized.design.devices if it.sized else [] for it in (old, new))
    found = difference(old.circuit, new.circuit, (sized[0], sized[1]))
    touched = {t for w in found.added for t in (w.a, w.b)} | {t for m in found.moved for t in (m.keeps, m.goes)}
    terminals = {t for w in (*new.circuit.wires, *new.circuit.feed) for t in (w.a, w.b)}
    return ChangeView(
        found, circuit_view(after, catalogue), {t: "next" if t in touched else "done" for t in sorted(terminals)}
    )
