"""Models that several subjects of the API answer or are asked with."""

from pydantic import BaseModel, ConfigDict

from volmek.core.catalogue.guide import ColumnGuide, TableGuide
from volmek.core.circuit.drawing.pen import Ink
from volmek.core.circuit.proof.rules import Proof
from volmek.core.coordination.checks import CalculatedCheck
from volmek.core.coordination.coordination import Coordination, Swap, TestedSet
from volmek.core.design import StartResult
from volmek.core.document.model import StarterDocument
from volmek.core.phase_loss.monitor_settings import MonitorSetting
from volmek.core.results.drawing import Drawing, Shape
from volmek.core.results.figures import Candidate, Figure
from volmek.core.results.findings import Finding
from volmek.core.standards.handbook import School, TablePage
from volmek.core.views.time_current import TimeCurve

#: In a response every field is there, defaults included; the generated types of the front end rely on it.
ALWAYS_THERE = ConfigDict(json_schema_serialization_defaults_required=True)
for _kind in (
    CalculatedCheck,
    Candidate,
    ColumnGuide,
    Coordination,
    Drawing,
    Figure,
    Finding,
    School,
    Shape,
    StartResult,
    Swap,
    TableGuide,
    TablePage,
    TestedSet,
    TimeCurve,
    Ink,
    Proof,
    MonitorSetting,
):
    setattr(_kind, "__pydantic_config__", ALWAYS_THERE)  # noqa: B010 (a dataclass of the core knows no pydantic)


class Output(BaseModel):
    """A response."""

    model_config = ALWAYS_THERE


class ProblemOut(Output):
    """One thing wrong with an input, at its field."""

    field: str
    message: str
    missing: bool = False


class ProblemsOut(Output):
    """Why a request was refused."""

    problems: list[ProblemOut]


class BoardPath(BaseModel):
    """A board's number in the address."""

    board_id: int


class StarterPath(BaseModel):
    """A starter's number in the address."""

    starter_id: int


class StarterCreate(BaseModel):
    """A new starter."""

    model_config = ConfigDict(extra="forbid")

    document: StarterDocument
