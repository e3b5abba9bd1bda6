"""Bodies of journal entries: a model for each kind, checked as it comes in."""

from datetime import date, datetime
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator

from volmek.core.document.errors import Problem, ProblemError
from volmek.core.document.model import problems_of

Text = Field(min_length=1, max_length=400)


class Body(BaseModel):
    """Body of an entry; unknown fields are errors."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class WireLaid(Body):
    """A conductor laid, or taken out again; its length and the torque at its terminals where they were noted."""

    wire: str = Field(min_length=3, max_length=80)
    done: bool = True
    length_mm: float | None = Field(default=None, gt=0, le=500_000)
    torque_nm: float | None = Field(default=None, gt=0, le=200)


class Isolated(Body):
    """Isolated, locked off and proved dead before the readings of a stage."""

    stage: str = Field(min_length=1, max_length=80)
    isolated: bool
    locked: bool
    proved_dead: bool


class Checked(Body):
    """A continuity reading of a stage."""

    stage: str = Field(min_length=1, max_length=80)
    check: str = Field(min_length=1, max_length=200)
    reads: Literal["closed", "coil", "open"]


class Stepped(Body):
    """A step under voltage: all as it must be seen, or what was different."""

    stage: str = Field(min_length=1, max_length=80)
    step: int = Field(ge=0, le=500)
    different: dict[str, str] = Field(default={}, max_length=40)


class Reading(Body):
    """A measured value, a setting or an answer."""

    item: str = Field(min_length=1, max_length=80)
    value: float | str = Field(union_mode="left_to_right")
    source: Literal["typed", "meter"] = "typed"
    confirmed: bool = False
    note: str = Field(default="", max_length=400)

    @field_validator("value", mode="before")
    @classmethod
    def _a_number_or_words(cls, value: Any) -> Any:
        if isinstance(value, bool):
            raise ValueError("must be a number or one of the answers")
        return value


class Trip(Body):
    """A trip, from what happened to the restart; a later entry of the same trip adds to it."""

    trip: str = Field(default="", max_length=64)
    happened: datetime | None = None
    what: str = Field(default="", max_length=80)
    reading: str = Field(default="", max_length=200)
    cause: str = Field(default="", max_length=400)
    repair: str = Field(default="", max_length=400)
    reset: str = Field(default="", max_length=200)
    restarted: datetime | None = None
    close: bool = False


class Change(Body):
    """A deviation from the design."""

    what: str = Field(min_length=1, max_length=120)
    designed: str = Field(min_length=1, max_length=200)
    built: str = Field(min_length=1, max_length=200)
    reason: str = Text


class OpenPoint(Body):
    """An open item."""

    text: str = Text


class Closed(Body):
    """Settlement of an open item."""

    point: str = Field(min_length=1, max_length=64)
    how: str = Text


#: Dates of inspections lie between these; beyond them a slip of the pen would put a due date out of every calendar.
EARLIEST, LATEST = date(1970, 1, 1), date(2120, 12, 31)


class Inspection(Body):
    """A recurring inspection."""

    title: str = Field(min_length=1, max_length=120)
    every_months: int = Field(ge=1, le=240)
    first_due: date = Field(ge=EARLIEST, le=LATEST)


class Inspected(Body):
    """An inspection done."""

    inspection: str = Field(min_length=1, max_length=64)
    on: date = Field(ge=EARLIEST, le=LATEST)
    result: str = Text


class Signature(Body):
    """Somebody answers for something."""

    role: Literal["set", "checked", "answers"]
    name: str = Field(min_length=1, max_length=80)


BODIES: dict[str, type[Body]] = {
    "wire": WireLaid, "isolated": Isolated, "check": Checked, "step": Stepped, "reading": Reading, "trip": Trip, "change": Change,
    "open": OpenPoint, "closed": Closed, "inspection": Inspection, "inspected": Inspected, "signature": Signature,
}  # fmt: skip


def parse_body(kind: str, body: Any) -> dict[str, Any]:
    """An entry's body, checked.

    Raises
    ------
    ProblemError : an unknown kind, or fields that are wrong; each names the field and the limit.
    """
    model = BODIES.get(kind)
    if model is None:
        raise ProblemError([Problem("kind", f"{kind!r} is not one of {', '.join(BODIES)}")])
    try:
        return model.model_validate(body).model_dump(mode="json")
    except ValidationError as error:
        raise ProblemError(problems_of(error)) from None
