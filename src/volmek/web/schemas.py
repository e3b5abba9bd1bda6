"""Request and response models of the API, built from the core's own types."""

from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field

from volmek.core.catalogue.guide import ColumnGuide, TableGuide
from volmek.core.circuit.drawing.control import Ink
from volmek.core.circuit.proof.rules import Proof
from volmek.core.coordination.checks import ArithmeticCheck
from volmek.core.coordination.coordination import Coordination, Swap, TestedSet
from volmek.core.design import ControlResult, Currents, Design, StartResult, SupplyResult
from volmek.core.devices.device import Device
from volmek.core.devices.settings import known
from volmek.core.document.model import StarterDocument, StarterType
from volmek.core.lineup import LineUpItem
from volmek.core.methods.choose import Offer
from volmek.core.phase_loss.monitor_settings import MonitorSetting
from volmek.core.results.drawing import Drawing, Shape
from volmek.core.results.figures import Candidate, Figure
from volmek.core.results.findings import Finding
from volmek.core.standards.handbook import School, TablePage, UsualLoad
from volmek.core.views.compare import Compared
from volmek.core.views.phase_loss import PhaseFailureSheet, Unbalance
from volmek.core.views.start import StartSheet
from volmek.core.views.time_current import TimeCurrentSheet, TimeCurve

#: In a response every field is there, defaults included; the generated types of the front end rely on it.
ALWAYS_THERE = ConfigDict(json_schema_serialization_defaults_required=True)
for _kind in (
    ArithmeticCheck,
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


@dataclass(slots=True)
class Reading:
    """A figure as it is read on the page; its working is asked for when somebody opens it."""

    label: str
    text: str
    unit: str
    typical: bool


#: Figures that the page shows beside those of the devices and the typical values in its fields.
ON_THE_PLATE = (
    "plate_current_a",
    "calculated_current_a",
    "calculated_difference_pct",
    "table_current_a",
    "table_difference_pct",
    "permitted_current_a",
    "locked_rotor_current_a",
    "inrush_peak_a",
    "connection",
)


#: A fact of a device as files and pages carry it.
Fact = float | int | str | bool


@dataclass(slots=True)
class DeviceOut:
    """A device of a design: of its facts those that are known, of its figures the ids."""

    designation: str
    role: str
    kind: str
    label: str
    required: dict[str, Fact]
    selected: dict[str, Fact]
    settings: dict[str, Fact]
    figures: tuple[str, ...]
    choice: str
    override_reason: str
    overridden: tuple[str, ...]
    branch: bool


def device_out(d: Device) -> DeviceOut:
    """A device of the core as the page takes it."""
    return DeviceOut(
        d.designation,
        d.role,
        d.kind,
        d.label,
        known(d.required),
        known(d.selected),
        known(d.settings),
        tuple(f.id for f in d.figures),
        d.choice.id,
        d.override_reason,
        d.overridden,
        d.branch,
    )


@dataclass(slots=True)
class DesignBrief:
    """What the page shows of a design at every keystroke."""

    method: str
    connection: str
    currents: Currents
    supply: SupplyResult
    control: ControlResult
    devices: list[DeviceOut]
    findings: list[Finding]
    figures: dict[str, Reading]
    line_up: list[LineUpItem]
    links: str | None
    start: StartResult
    overload_band: Drawing
    coordination: Coordination
    cautions: tuple[str, ...]


def brief(d: Design) -> DesignBrief:
    """A design with the figures that the page shows, without their workings."""
    shown = {
        *ON_THE_PLATE,
        *(f.id for device in d.devices for f in device.figures),
        *(check.figure for check in d.coordination.checks),
    }
    figures = {
        id: Reading(f.label, f.text, f.unit, f.typical)
        for id, f in d.figures.items()
        if id in shown or (f.typical and f.field)
    }
    return DesignBrief(
        d.method,
        d.connection,
        d.currents,
        d.supply,
        d.control,
        [device_out(x) for x in d.devices],
        d.findings,
        figures,
        d.line_up,
        d.links,
        d.start,
        d.overload_band,
        d.coordination,
        d.cautions,
    )


class FiguresOut(Output):
    """Every figure of a starter's design with its working."""

    figures: dict[str, Figure]


class StarterRow(Output):
    """One line of a board's list."""

    id: int
    tag: str
    service: str
    practice: str
    power: str
    voltage: str
    current: str
    breaker: str
    contactor: str
    relay: str
    dial: str
    stop: int
    attention: int
    open_points: int
    problem: str


class BoardRow(Output):
    """One board in the list of boards."""

    id: int
    job: str
    name: str
    title: str
    stop: int
    attention: int
    starters: list[StarterRow]


class BoardsOut(Output):
    """All boards."""

    boards: list[BoardRow]


class BoardOut(Output):
    """A board with its starters."""

    id: int
    job: str
    name: str
    title: str
    defaults: dict[str, Any]
    catalogues: list[int]
    starters: list[StarterRow]


class StarterOut(Output):
    """A starter as it is kept, with its design, or with what is missing for one."""

    id: int
    board_id: int
    board: str
    job: str
    version: int
    saved: datetime
    document: dict[str, Any]
    design: DesignBrief | None
    problems: list[ProblemOut]


class RevisionOut(Output):
    """A state that can be gone back to."""

    id: int
    change: str
    saved: datetime


class OverrideNoteOut(Output):
    """One entry of the log of override reasons."""

    role: str
    choice: str
    reason: str
    noted: datetime


class HistoryOut(Output):
    """Revisions and override reasons of a starter, newest first."""

    revisions: list[RevisionOut]
    overrides: list[OverrideNoteOut]


class OffersOut(Output):
    """Every starting method with its verdict for one starter."""

    offers: list[Offer]


class CompareOut(Output):
    """Methods side by side."""

    methods: list[Compared]


class CompareQuery(BaseModel):
    """Which methods to compare."""

    method: list[StarterType] = Field(min_length=1, max_length=3)


class StartOut(Output):
    """Curves of a start."""

    start: StartSheet


class PhaseFailureOut(Output):
    """A lost phase."""

    sheet: PhaseFailureSheet


class TimeCurrentOut(Output):
    """A time-current sheet."""

    sheet: TimeCurrentSheet


class UnbalanceIn(BaseModel):
    """Three measured line voltages, and line currents if there are any."""

    model_config = ConfigDict(extra="forbid")

    voltages_v: list[Annotated[float, Field(gt=0, le=1000)]] = Field(min_length=3, max_length=3)
    currents_a: list[Annotated[float, Field(gt=0, le=10000)]] | None = Field(default=None, min_length=3, max_length=3)


class UnbalanceOut(Output):
    """What they come to."""

    result: Unbalance


class LoadsOut(Output):
    """Usual machines."""

    loads: list[UsualLoad]


class SymbolsOut(Output):
    """Every symbol by its name."""

    symbols: dict[str, Drawing]


class DesignOut(Output):
    """A design that is not kept, in the words of ``volmek size --working``."""

    design: dict[str, Any]


class BoardCreate(BaseModel):
    """A new board; ``defaults`` are parts of a document that its new starters begin with."""

    model_config = ConfigDict(extra="forbid")

    job: str = Field(min_length=1, max_length=120)
    name: str = Field(min_length=1, max_length=40)
    title: str = Field(default="", max_length=120)
    defaults: dict[str, Any] = {}


class StarterCreate(BaseModel):
    """A new starter."""

    model_config = ConfigDict(extra="forbid")

    document: StarterDocument


class StarterCopy(BaseModel):
    """A starter like another one, under its own tag."""

    model_config = ConfigDict(extra="forbid")

    tag: str = Field(min_length=1, max_length=40)
    service: str = Field(default="", max_length=120)


class StarterSave(BaseModel):
    """A changed document, and the version that the change was made on."""

    model_config = ConfigDict(extra="forbid")

    version: int
    document: StarterDocument


class Restore(BaseModel):
    """Go back to a revision."""

    model_config = ConfigDict(extra="forbid")

    version: int
    revision_id: int


class BoardPath(BaseModel):
    """A board's number in the address."""

    board_id: int


class StarterPath(BaseModel):
    """A starter's number in the address."""

    starter_id: int


class HandbookQuery(BaseModel):
    """What is looked for in the tables and schools."""

    find: str = Field("", max_length=100, description="words, each also found by its other names")


class HandbookOut(Output):
    """Tables and schools that hold every word asked for."""

    tables: list[TablePage]
    schools: list[School]
