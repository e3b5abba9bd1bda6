"""A starter with everything that is computed for its record; kept apart, since boards and sheets show its open items."""

import json
from functools import lru_cache
from typing import Literal

from pydantic import BaseModel
from sqlalchemy.orm import Session

from volmek.core.catalogue.catalogue import Catalogue
from volmek.core.circuit.build.plan import Plan, build_plan
from volmek.core.circuit.simulated import SimulatedStarter, simulated_of
from volmek.core.design import Design
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import StarterDocument, parse
from volmek.core.record.items import Item, commissioning
from volmek.core.record.journal import Folded, fold
from volmek.core.record.open_points import open_points
from volmek.core.results.beside import Beside
from volmek.core.sizing import Sized, size
from volmek.store.records import entries
from volmek.store.repository import Kept, read_starter
from volmek.web.common import catalogue_of

Order = Literal["control_first", "power_first"]


class OrderQuery(BaseModel):
    """Circuit that is wired first."""

    order: Order = "control_first"


class Looked:
    """A starter with everything that is computed for its record."""

    def __init__(self, session: Session, starter_id: int, catalogue: Catalogue | None = None) -> None:
        self.kept: Kept = read_starter(session, starter_id)
        self.document: StarterDocument = parse(self.kept.document)
        self.catalogue: Catalogue = catalogue or catalogue_of(session, self.kept)
        self.design: Design | None = None
        self.sized: Sized | None = None
        try:
            self.sized = size(self.document, self.catalogue)
            self.design = self.sized.design
        except ProblemError as error:
            self.problems = error.problems
        self.live: SimulatedStarter = simulated_of(self.document, self.catalogue, self.sized)
        self.items: list[Item] = commissioning(self.document, self.design, self.live)
        self.by_id = {i.id: i for i in self.items}

    def plan(self, order: Order = "control_first") -> Plan:
        """The build plan; the last ones are kept, since every tick asks for it."""
        key = (json.dumps(self.kept.document, sort_keys=True), self.kept.devices, self.kept.catalogues)
        return _planned(key, order, Beside(self))


@lru_cache(maxsize=32)
def _planned(key: tuple[str, str, str], order: Order, looked: Beside[Looked]) -> Plan:
    del key
    return build_plan(looked.value.live, looked.value.document, order)


def folded(session: Session, starter_id: int) -> Folded:
    """State of a starter's record."""
    return fold(entries(session, starter_id))


def points_of(session: Session, starter_id: int, *, whole: bool = False) -> list[str]:
    """Open items of a starter in words; on screens nothing is computed for one without a record.

    Parameters
    ----------
    whole : for a paper: what is left of the plan is counted even where nobody has begun
    """
    journal = entries(session, starter_id)
    if not journal and not whole:
        return []
    try:
        looked = Looked(session, starter_id)
    except ProblemError:
        return [p.text for p in open_points(fold(journal), {}, None)]
    f = fold(journal)
    return [p.text for p in open_points(f, looked.by_id, looked.plan(), whole=whole)]
