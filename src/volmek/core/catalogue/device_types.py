"""One row of a catalogue, for each kind of device: what its maker says of it, as checked data."""

from typing import Annotated, Any, Literal, Self, get_args

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, ValidationError, model_validator

from volmek.core.document.model import BREAKERS, FUSES, ProtectionDevice, TripClass, problems_of

#: Voltage columns of the ratings and up to which working voltage each one counts (380 to 415 V is one level).
VOLTAGE_COLUMNS: tuple[tuple[int, float], ...] = ((230, 240.0), (400, 415.0), (500, 525.0), (690, 690.0))

Rating = Annotated[float, Field(gt=0, le=1e9)]
Count = Annotated[int, Field(ge=0, le=20)]
Percent = Annotated[float, Field(gt=0, le=200)]
Words = Annotated[tuple[str, ...], BeforeValidator(lambda v: tuple(v.split()) if isinstance(v, str) else v)]


#: Types in one cell; a type may hold blanks.
Types = Annotated[
    tuple[str, ...],
    Field(min_length=1),
    BeforeValidator(lambda v: tuple(t.strip() for t in v.split(" + ")) if isinstance(v, str) else v),
]


def voltage_column(voltage_v: float) -> int | None:
    """The voltage column that covers a working voltage; None above the last.

    Examples
    --------
    >>> voltage_column(415), voltage_column(480), voltage_column(1000)
    (400, 500, None)
    """
    return next((column for column, top in VOLTAGE_COLUMNS if voltage_v <= top), None)


class Device(BaseModel):
    """Common columns of every device."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, defer_build=True)

    type: str = Field(min_length=1, max_length=40, pattern=r"^[^\s=+@]([^\n\r]*\S)?$")
    #: Columns whose values are typical ones, not the maker's.
    typical: Words = ()

    def by_voltage(self, prefix: str, voltage_v: float, unit: str = "a") -> float | None:
        """The rating of the first voltage column that covers a working voltage; None where there is none."""
        column = voltage_column(voltage_v)
        return None if column is None else getattr(self, f"{prefix}_{column}_{unit}")

    def cells(self) -> dict[str, str]:
        """As the text cells of a catalogue file; reading them gives the same device."""
        return {n: " + ".join(v) if n == "contactors" else _cell(v) for n, v in self if v is not None}


def _cell(value: object) -> str:
    if isinstance(value, bool):
        return str(value).lower()
    if isinstance(value, tuple):
        return " ".join(x.as_read_in() if isinstance(x, Span) else str(x) for x in value)
    return repr(value).removesuffix(".0") if isinstance(value, float) else str(value)


class Span(BaseModel):
    """A span of nominal voltages, such as ``220-240``."""

    model_config = ConfigDict(frozen=True, allow_inf_nan=False, defer_build=True)

    voltage_min_v: Rating
    voltage_max_v: Rating

    @model_validator(mode="after")
    def _upright(self) -> Self:
        if self.voltage_min_v > self.voltage_max_v:
            raise ValueError(f"{self.voltage_min_v:g}-{self.voltage_max_v:g} is reversed")
        return self

    @staticmethod
    def ends(text: str) -> dict[str, str]:
        """Both ends from text, the second as the first when there is one."""
        low, _, high = text.partition("-")
        return {"voltage_min_v": low, "voltage_max_v": high or low}

    @classmethod
    def read(cls, text: str) -> Self:
        """From catalogue text."""
        return cls.model_validate(cls.ends(text))

    def as_read_in(self) -> str:
        """The text that ``read`` reads."""
        one = self.voltage_min_v == self.voltage_max_v
        return f"{self.voltage_min_v:g}" if one else f"{self.voltage_min_v:g}-{self.voltage_max_v:g}"

    def covers(self, voltage_v: float) -> bool:
        """A voltage lies in the span, with the usual 10 % at its ends."""
        return self.voltage_min_v * 0.9 - 1e-9 <= voltage_v <= self.voltage_max_v * 1.1 + 1e-9

    def __str__(self) -> str:
        return f"{self.as_read_in().replace('-', '–')} V"


class Coil(Span):
    """One coil or supply that a device can have: a kind and a span of nominal voltages."""

    kind: Literal["ac", "dc"]

    @classmethod
    def read(cls, text: str) -> Self:
        """From catalogue text such as ``ac220-240`` or ``dc24``."""
        return cls.model_validate({"kind": text[:2], **cls.ends(text[2:])})

    def as_read_in(self) -> str:
        """The text that ``read`` reads."""
        return self.kind + super().as_read_in()

    def __str__(self) -> str:
        return f"{super().as_read_in().replace('-', '–')} V {self.kind.upper()}"


def _spans(model: type[Span]) -> BeforeValidator:
    def read(value: object) -> object:
        if not isinstance(value, str):
            return value
        try:
            return tuple(map(model.read, value.split()))
        except ValidationError as error:
            raise ValueError(f"{value!r}: {'; '.join(p.message for p in problems_of(error))}") from None

    return BeforeValidator(read)


Coils = Annotated[tuple[Coil, ...], Field(min_length=1), _spans(Coil)]
Spans = Annotated[tuple[Span, ...], Field(min_length=1), _spans(Span)]


def _check_range(device: Device, low: str, high: str) -> None:
    """Both ends or neither, and the right way up."""
    a, b = getattr(device, low), getattr(device, high)
    if (a is None) != (b is None):
        raise ValueError(f"{low} and {high} belong together: give both or neither")
    if a is not None and a > b:
        raise ValueError(f"the range is reversed: {low} {a:g} lies above {high} {b:g}")


class Switching(Device):
    """Common columns of coil-driven main switches."""

    frame: str = Field(min_length=1, max_length=20)
    coils: Coils
    inrush_va: Rating
    sealed_va: Rating
    auxiliary_no: Count
    auxiliary_nc: Count
    life_ac3_operations: Rating
    max_fuse_gg_a: Rating | None = None
    coil_frequency_hz: Literal["50", "60", "50/60"] = "50/60"


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
    life_ac4_operations: Rating | None = None
    short_time_10s_a: Rating | None = None
    max_operations_per_h: Rating
    ambient_limit_c: Annotated[float, Field(ge=-40, le=100)] = 40.0
    ambient_max_c: Annotated[float, Field(ge=-40, le=100)] = 60.0
    derating_pct_per_k: Annotated[float, Field(ge=0, le=10)] = 0.0

    @model_validator(mode="after")
    def _upright(self) -> Self:
        _check_range(self, "ambient_limit_c", "ambient_max_c")
        return self


class NemaStarter(Switching):
    """A contactor of a NEMA size."""

    size: Literal["00", "0", "1", "1P", "2", "3", "4", "5", "6", "7", "8", "9"]


class OverloadRelay(Device):
    """An overload relay with its dial range and the trip classes it offers."""

    kind: Literal["bimetal", "electronic"]
    range_min_a: Rating
    range_max_a: Rating
    classes: Annotated[tuple[TripClass, ...], Field(min_length=1), BeforeValidator(lambda v: tuple(v.split()) if isinstance(v, str) else v)]  # fmt: skip
    mounts_on: Words
    separate_base: str = Field(min_length=1, max_length=40)
    phase_loss_sensitive: bool
    functions: Annotated[tuple[Literal["stall", "earth_fault", "underload"], ...], BeforeValidator(lambda v: tuple(v.split()) if isinstance(v, str) else v)] = ()  # fmt: skip
    max_fuse_gg_a: Rating | None = None
    max_branch_device_nec_a: Rating | None = None

    @model_validator(mode="after")
    def _upright(self) -> Self:
        _check_range(self, "range_min_a", "range_max_a")
        if self.range_min_a == self.range_max_a:
            raise ValueError(f"range_min_a and range_max_a are both {self.range_min_a:g}; a setting needs a range")
        return self


class ShortCircuitDevice(Device):
    """A breaker or fuse link in front of the motor."""

    kind: ProtectionDevice
    rated_current_a: Rating
    dial_min_a: Rating | None = None
    dial_max_a: Rating | None = None
    trip_class: TripClass | None = None
    instantaneous_min_a: Rating | None = None
    instantaneous_max_a: Rating | None = None
    icu_230_ka: Rating | None = None
    icu_400_ka: Rating | None = None
    icu_500_ka: Rating | None = None
    icu_690_ka: Rating | None = None
    let_through_a2s: Rating | None = None


class Breaker(ShortCircuitDevice):
    """A breaker: its dial and magnetic trip where it has them."""

    @model_validator(mode="after")
    def _whole(self) -> Self:
        if self.kind not in BREAKERS:
            raise ValueError(f"kind {self.kind!r} is not a kind of breaker; choose one of {', '.join(BREAKERS)}")
        _check_range(self, "dial_min_a", "dial_max_a")
        _check_range(self, "instantaneous_min_a", "instantaneous_max_a")
        needed = {
            "motor_breaker": ("dial_min_a", "instantaneous_min_a", "trip_class"),
            "magnetic_breaker": ("instantaneous_min_a",),
            "moulded_case_breaker": ("instantaneous_min_a",),
            "instantaneous_trip_breaker": ("instantaneous_min_a",),
        }.get(self.kind, ())
        if missing := [n for n in needed if getattr(self, n) is None]:
            raise ValueError(f"a {self.kind} needs {', '.join(missing)}")
        return self


class Fuse(ShortCircuitDevice):
    """A fuse link."""

    @model_validator(mode="after")
    def _whole(self) -> Self:
        if self.kind not in FUSES:
            raise ValueError(f"kind {self.kind!r} is not a kind of fuse; choose one of {', '.join(FUSES)}")
        return self


class SoftStarter(Device):
    """A soft starter, rated in AC-53a, with the fuse that saves its thyristors."""

    rated_current_a: Rating
    voltage_min_v: Rating
    voltage_max_v: Rating
    limit_max_ratio: Annotated[float, Field(ge=1, le=10)]
    start_multiple: Annotated[float, Field(ge=1, le=10)]
    start_time_s: Rating
    thyristor_i2t_a2s: Rating
    semiconductor_fuse: str = Field(min_length=1, max_length=40)
    semiconductor_fuse_a: Rating
    semiconductor_fuse_i2t_a2s: Rating

    @model_validator(mode="after")
    def _upright(self) -> Self:
        _check_range(self, "voltage_min_v", "voltage_max_v")
        if self.semiconductor_fuse_i2t_a2s >= self.thyristor_i2t_a2s:
            raise ValueError(
                "semiconductor_fuse_i2t_a2s is not below thyristor_i2t_a2s: that fuse does not protect the thyristors"
            )
        return self


class Timer(Device):
    """A timer: on-delay, or made for star-delta with its pause built in."""

    kind: Literal["star_delta", "on_delay"]
    range_min_s: Rating
    range_max_s: Rating
    dwell_s: Rating | None = None
    coils: Coils
    supply_va: Rating

    @model_validator(mode="after")
    def _upright(self) -> Self:
        _check_range(self, "range_min_s", "range_max_s")
        return self


class PhaseMonitor(Device):
    """A phase-failure relay with the ranges of its settings."""

    kind: Literal["three_wire", "four_wire"]
    voltage_min_v: Rating
    voltage_max_v: Rating
    undervoltage_min_pct: Percent | None = None
    undervoltage_max_pct: Percent | None = None
    overvoltage_min_pct: Percent | None = None
    overvoltage_max_pct: Percent | None = None
    asymmetry_min_pct: Percent | None = None
    asymmetry_max_pct: Percent | None = None
    delay_min_s: Rating | None = None
    delay_max_s: Rating | None = None
    supply_va: Rating

    @model_validator(mode="after")
    def _upright(self) -> Self:
        for what, unit in (("voltage", "v"), ("undervoltage", "pct"), ("overvoltage", "pct"), ("asymmetry", "pct"), ("delay", "s")):  # fmt: skip
            _check_range(self, f"{what}_min_{unit}", f"{what}_max_{unit}")
        return self


class ControlTransformer(Device):
    """A control transformer: continuous rating, and what it gives for a moment at cosφ 0.5 with 95 % voltage."""

    rated_va: Rating
    short_time_va: Rating
    primary_v: Spans
    secondary_v: Spans


class TestedCombination(Device):
    """Devices that were tested together, and what the test proved."""

    __test__ = False  # not a test case

    short_circuit_device: str = Field(min_length=1, max_length=40)
    contactors: Types
    overload_relay: str | None = Field(default=None, min_length=1, max_length=40)
    coordination_type: Literal["1", "2"]
    voltage_v: Annotated[float, Field(gt=0, le=1000)]
    iq_ka: Annotated[float, Field(gt=0, le=500)]
    report: str | None = Field(default=None, max_length=120)


TableName = Literal[
    "contactors",
    "nema_starters",
    "overload_relays",
    "breakers",
    "fuses",
    "soft_starters",
    "timers",
    "phase_monitors",
    "control_transformers",
    "tested_combinations",
]
#: Every kind of row that a catalogue can hold, by the name of its table; the order is that of the page.
TABLES: dict[str, type[Device]] = {
    "contactors": Contactor,
    "nema_starters": NemaStarter,
    "overload_relays": OverloadRelay,
    "breakers": Breaker,
    "fuses": Fuse,
    "soft_starters": SoftStarter,
    "timers": Timer,
    "phase_monitors": PhaseMonitor,
    "control_transformers": ControlTransformer,
    "tested_combinations": TestedCombination,
}


def is_number(model: type[Device], column: str) -> bool:
    """A column holds numbers."""

    def numeric(annotation: Any) -> bool:
        return annotation in (float, int) or any(map(numeric, get_args(annotation)))

    return numeric(model.model_fields[column].annotation)
