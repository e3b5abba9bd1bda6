"""The devices to choose from: types, ratings and what they need, as checked data."""

from collections.abc import Iterable, Mapping
from functools import cache
from typing import Annotated, Any, Literal, Self, TypeVar, get_args

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, ValidationError, model_validator

from volmek.core.document import ProtectionDevice, TripClass, problems_of
from volmek.core.errors import Problem, ProblemError
from volmek.data.loader import reference

#: Voltage columns of the ratings and up to which working voltage each one counts (380 to 415 V is one level).
VOLTAGE_COLUMNS: tuple[tuple[int, float], ...] = ((230, 240.0), (400, 415.0), (500, 525.0), (690, 690.0))

D = TypeVar("D", bound="Device")

Rating = Annotated[float, Field(gt=0)]
Words = Annotated[tuple[str, ...], BeforeValidator(lambda v: tuple(v.split()) if isinstance(v, str) else v)]
#: A CSV cell that may be blank.
Blank = BeforeValidator(lambda v: None if v == "" else v)


def voltage_column(voltage_v: float) -> int | None:
    """The voltage column that covers a working voltage; None above the last.

    Examples
    --------
    >>> voltage_column(415), voltage_column(480), voltage_column(1000)
    (400, 500, None)
    """
    return next((column for column, top in VOLTAGE_COLUMNS if voltage_v <= top), None)


class Device(BaseModel):
    """What every device of the catalogue has."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    type: str = Field(min_length=1, max_length=40)

    def by_voltage(self, prefix: str, voltage_v: float, unit: str = "a") -> float | None:
        """The rating of the first voltage column that covers a working voltage; None where there is none."""
        column = voltage_column(voltage_v)
        return None if column is None else getattr(self, f"{prefix}_{column}_{unit}")

    def facts(self) -> dict[str, Any]:
        """Plain data for files and screens."""
        return self.model_dump(exclude_none=True)


class Coil(BaseModel):
    """One coil that a contactor can have: a kind and a span of nominal voltages."""

    model_config = ConfigDict(frozen=True)

    kind: Literal["ac", "dc"]
    voltage_min_v: Rating
    voltage_max_v: Rating

    @classmethod
    def read(cls, text: str) -> "Coil":
        """From catalogue text such as ``ac220-240`` or ``dc24``."""
        low, _, high = text[2:].partition("-")
        return cls.model_validate({"kind": text[:2], "voltage_min_v": low, "voltage_max_v": high or low})

    def __str__(self) -> str:
        span = f"{self.voltage_min_v:g}" + (
            f"–{self.voltage_max_v:g}" if self.voltage_max_v != self.voltage_min_v else ""
        )
        return f"{span} V {self.kind.upper()}"


def _coils(value: object) -> object:
    return tuple(Coil.read(t) for t in value.split()) if isinstance(value, str) else value


class Switching(Device):
    """What every coil-driven main switch has."""

    frame: str
    coils: Annotated[tuple[Coil, ...], BeforeValidator(_coils)]
    inrush_va: Rating
    sealed_va: Rating
    auxiliary_no: int
    auxiliary_nc: int
    life_ac3_operations: Rating
    max_fuse_gg_a: Annotated[float | None, Blank] = None


class Contactor(Switching):
    """A contactor with its ratings per utilisation category and voltage."""

    ac1_a: Rating
    ac3_230_a: Rating
    ac3_400_a: Rating
    ac3_500_a: Rating
    ac3_690_a: Rating
    ac3e_230_a: Rating
    ac3e_400_a: Rating
    ac3e_500_a: Rating
    ac3e_690_a: Rating
    ac4_230_a: Rating
    ac4_400_a: Rating
    ac4_500_a: Rating
    ac4_690_a: Rating
    life_ac4_operations: Annotated[float | None, Blank] = None
    short_time_10s_a: Annotated[float | None, Blank] = None
    max_operations_per_h: Rating
    ambient_limit_c: float = 40.0
    ambient_max_c: float = 60.0
    derating_pct_per_k: float = 0.0


class NemaStarter(Switching):
    """A contactor of a NEMA size."""

    size: str


class OverloadRelay(Device):
    """An overload relay with its dial range and the trip classes it offers."""

    kind: Literal["bimetal", "electronic"]
    range_min_a: Rating
    range_max_a: Rating
    classes: Annotated[tuple[TripClass, ...], BeforeValidator(lambda v: tuple(v.split()) if isinstance(v, str) else v)]
    mounts_on: Words
    separate_base: str
    phase_loss_sensitive: bool
    max_fuse_gg_a: Annotated[float | None, Blank] = None
    max_branch_device_nec_a: Annotated[float | None, Blank] = None

    @model_validator(mode="after")
    def _upright(self) -> Self:
        if self.range_min_a >= self.range_max_a:
            raise ValueError(f"range_min_a {self.range_min_a:g} is not below range_max_a {self.range_max_a:g}")
        return self


class ShortCircuitDevice(Device):
    """A breaker or fuse link in front of the motor."""

    kind: ProtectionDevice
    rated_current_a: Rating
    dial_min_a: Annotated[float | None, Blank] = None
    dial_max_a: Annotated[float | None, Blank] = None
    trip_class: Annotated[TripClass | None, Blank] = None
    instantaneous_min_a: Annotated[float | None, Blank] = None
    instantaneous_max_a: Annotated[float | None, Blank] = None
    icu_230_ka: Annotated[float | None, Blank] = None
    icu_400_ka: Annotated[float | None, Blank] = None
    icu_500_ka: Annotated[float | None, Blank] = None
    icu_690_ka: Annotated[float | None, Blank] = None

    @model_validator(mode="after")
    def _upright(self) -> Self:
        for low, high in (("dial_min_a", "dial_max_a"), ("instantaneous_min_a", "instantaneous_max_a")):
            a, b = getattr(self, low), getattr(self, high)
            if (a is None) != (b is None) or (a is not None and a > b):
                raise ValueError(f"{low} and {high} are not a range")
        return self


class Catalogue(BaseModel):
    """The devices of one catalogue, each kind from the smallest up."""

    model_config = ConfigDict(frozen=True)

    name: str
    contactors: tuple[Contactor, ...]
    overload_relays: tuple[OverloadRelay, ...]
    nema_starters: tuple[NemaStarter, ...]
    short_circuit_devices: dict[ProtectionDevice, tuple[ShortCircuitDevice, ...]]

    @classmethod
    def from_rows(cls, name: str, tables: Mapping[str, Iterable[Mapping[str, str]]]) -> "Catalogue":
        """A catalogue from rows of text cells, one table per device type.

        Parameters
        ----------
        name : what the catalogue is called on screen
        tables : ``contactors``, ``overload_relays``, ``nema_starters`` and ``short_circuit_devices``

        Raises
        ------
        ProblemError : each cell that does not fit, by table, row and column; also a type that occurs twice.
        """
        problems: list[Problem] = []
        seen: set[str] = set()

        def read(table: str, model: type[D]) -> list[D]:
            devices = []
            for number, row in enumerate(tables.get(table, ()), start=2):
                try:
                    device = model.model_validate(row)
                except ValidationError as error:
                    problems.extend(Problem(f"{table}, row {number}, {p.field}", p.message) for p in problems_of(error))
                    continue
                if device.type in seen:
                    problems.append(Problem(f"{table}, row {number}, type", f"{device.type!r} occurs twice"))
                seen.add(device.type)
                devices.append(device)
            return devices

        contactors = read("contactors", Contactor)
        relays = read("overload_relays", OverloadRelay)
        starters = read("nema_starters", NemaStarter)
        devices = read("short_circuit_devices", ShortCircuitDevice)
        if problems:
            raise ProblemError(problems)
        return cls.model_construct(
            name=name,
            contactors=tuple(sorted(contactors, key=lambda c: c.ac3_400_a)),
            overload_relays=tuple(
                sorted(relays, key=lambda r: (r.kind == "electronic", r.range_max_a, r.range_max_a - r.range_min_a))
            ),
            nema_starters=tuple(starters),
            short_circuit_devices={
                kind: tuple(
                    sorted((d for d in devices if d.kind == kind), key=lambda d: (d.rated_current_a, d.icu_400_ka or 0))
                )
                for kind in get_args(ProtectionDevice)
            },
        )

    def types(self) -> frozenset[str]:
        """Every device type there is in it."""
        others = (d.type for kind in self.short_circuit_devices.values() for d in kind)
        return frozenset([*others, *(d.type for d in (*self.contactors, *self.overload_relays, *self.nema_starters))])


@cache
def reference_catalogue() -> Catalogue:
    """The invented *Reference range R* that ships with the application."""
    names = ("contactors", "overload_relays", "nema_starters", "short_circuit_devices")
    return Catalogue.from_rows("Reference range R", {name: reference(name) for name in names})
