"""The starter document: everything that a user decides about one starter, and nothing computed.

The same shape is in a file, in a database row, in the API and on the command line. Unknown values are left
out. The names are the words of the standards with the unit as suffix, and they are fixed: fields may be added,
never renamed.
"""

from difflib import get_close_matches
from typing import Annotated, Any, Literal, get_args

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, ValidationError, model_validator

from volmek.core.document.errors import Problem, ProblemError
from volmek.core.document.gauges import section_mm2
from volmek.core.document.rated import paired, rated_values
from volmek.core.document.units import in_unit_of

VERSION = 1

Practice = Literal["iec", "nec"]
StarterType = Literal[
    "manual",
    "direct_on_line",
    "reversing",
    "star_delta",
    "star_delta_manual",
    "star_delta_closed",
    "autotransformer",
    "stator_resistance",
    "rotor_resistance",
    "soft_starter",
    "part_winding",
    "two_speed",
    "single_phase_direct",
    "single_phase_reversing",
]
ProtectionDevice = Literal[
    "motor_breaker",
    "magnetic_breaker",
    "miniature_breaker_b",
    "miniature_breaker_c",
    "miniature_breaker_d",
    "moulded_case_breaker",
    "fuse_gg",
    "fuse_am",
    "inverse_time_breaker",
    "instantaneous_trip_breaker",
    "time_delay_fuse",
    "non_time_delay_fuse",
]
FUSES = ("fuse_gg", "fuse_am", "time_delay_fuse", "non_time_delay_fuse")
BREAKERS = tuple(kind for kind in get_args(ProtectionDevice) if kind not in FUSES)
#: Conductors that the supply has; what ``line_voltage_v`` lies between follows from them.
Conductors = Literal["three_phase_4w", "three_phase_3w", "single_phase", "split_phase", "two_lines"]
#: Earthing of the supply; left out it is not known.
Earthing = Literal["tn", "tn_c", "tt", "it", "earthed_star", "corner", "high_leg", "ungrounded"]
#: Kinds of time relay for the change from star to delta.
StarDeltaTimer = Literal["on_delay", "star_delta", "star_delta_fixed"]
TripClass = Literal["5", "5E", "10A", "10", "10E", "20", "20E", "30", "30E", "40E"]


def _one_value(typed: object) -> object:
    """The text that was not understood as the values of a plate with two voltages."""
    if isinstance(typed, str) and "/" in typed:
        raise ValueError(f"{typed!r} is not understood: two values as 400/690 or 230/460, or one with Δ or Y behind it")
    return typed


Power = Annotated[float, Field(gt=0, le=2000)]
Voltage = Annotated[float, Field(gt=0, le=1000)]
Current = Annotated[float, Field(gt=0, le=5000)]
Hertz = Annotated[float, Field(ge=16, le=400)]
Share = Annotated[float, Field(gt=0, le=1)]
#: Typed in mm² or as a gauge.
Section = Annotated[float, BeforeValidator(section_mm2)]
Positive = Annotated[float, Field(gt=0)]
Percent = Annotated[float, Field(ge=0, le=100)]
Celsius = Annotated[float, Field(ge=-40, le=80)]
Seconds = Annotated[float, Field(gt=0, le=600)]


class Part(BaseModel):
    """Manners of every part of the document: nothing unknown, nothing converted behind the user's back."""

    model_config = ConfigDict(extra="forbid", strict=True, allow_inf_nan=False, frozen=True, defer_build=True)

    @model_validator(mode="before")
    @classmethod
    def _units(cls, data: Any) -> Any:
        """A unit typed behind a number is understood; text fields end on no unit."""
        if not isinstance(data, dict) or not any(type(value) is str for value in data.values()):
            return data
        return {key: in_unit_of(key, value) if type(key) is str else value for key, value in data.items()}


class Motor(Part):
    """Data of the rating plate or the motor's data sheet."""

    phases: Literal[1, 3] = 3
    rated_power_kw: Power | None = None
    rated_power_hp: Power | None = None
    rated_power_ps: Power | None = None
    frequency_hz: Hertz | None = None
    rated_voltage_v: Annotated[Voltage | None, BeforeValidator(_one_value)] = None
    rated_voltage_delta_v: Voltage | None = None
    rated_voltage_star_v: Annotated[float, Field(gt=0, le=1200)] | None = None
    rated_current_a: Annotated[Current | None, BeforeValidator(_one_value)] = None
    rated_current_delta_a: Current | None = None
    rated_current_star_a: Current | None = None
    rated_voltage_low_v: Voltage | None = None
    rated_voltage_high_v: Voltage | None = None
    rated_current_low_a: Current | None = None
    rated_current_high_a: Current | None = None
    lead_connection: Literal["star", "delta"] | None = None
    power_factor: Share | None = None
    efficiency_pct: Annotated[float, Field(gt=0, le=100)] | None = None
    rated_speed_rpm: Annotated[float, Field(gt=0, le=24000)] | None = None
    efficiency_class: Literal["IE1", "IE2", "IE3", "IE4", "IE5"] | None = None
    locked_rotor_current_ratio: Annotated[float, Field(ge=1.5, le=15)] | None = None
    locked_rotor_torque_ratio: Annotated[float, Field(gt=0, le=6)] | None = None
    pull_up_torque_ratio: Annotated[float, Field(gt=0, le=6)] | None = None
    breakdown_torque_ratio: Annotated[float, Field(gt=1, le=8)] | None = None
    rotor_inertia_kgm2: Positive | None = None
    leads: Literal[2, 3, 4, 6, 9, 12] | None = None
    service_factor: Annotated[float, Field(ge=1, le=1.5)] | None = None
    permitted_stall_time_s: Seconds | None = None
    code_letter: (
        Literal["A", "B", "C", "D", "E", "F", "G", "H", "J", "K", "L", "M", "N", "P", "R", "S", "T", "U", "V"] | None
    ) = None
    nec_design_letter: Literal["A", "B", "C", "D"] | None = None
    temperature_rise_k: Annotated[float, Field(gt=0, le=200)] | None = None
    rotor_voltage_v: Annotated[float, Field(gt=0, le=5000)] | None = None
    rotor_current_a: Current | None = None
    single_phase_kind: (
        Literal["split_phase", "capacitor_start", "capacitor_run", "capacitor_start_run", "shaded_pole"] | None
    ) = None
    run_capacitor_uf: Positive | None = None
    start_capacitor_uf: Positive | None = None
    run_capacitor_voltage_v: Voltage | None = None
    start_capacitor_voltage_v: Voltage | None = None
    bleed_resistor_ohm: Positive | None = None
    thermal_protector: bool | None = None
    thermistors: bool | None = None
    permitted_starts_per_hour: Annotated[float, Field(gt=0, le=3600)] | None = None
    low_speed_power_kw: Power | None = None
    low_speed_current_a: Current | None = None
    low_speed_rpm: Positive | None = None
    speed_winding: Literal["separate", "tapped"] | None = None

    @model_validator(mode="before")
    @classmethod
    def _as_on_the_plate(cls, data: Any) -> Any:
        """Two voltages or currents, a mark of delta or star, another unit of power: put into the fields that they belong to."""
        if not isinstance(data, dict):
            return data
        typed = {k: rated_values(k, v) for k, v in data.items() if type(v) is str}
        moved = {k: v for k, v in typed.items() if v and not any(f in data for f in v if f != k)}
        if not moved:
            return data
        return paired(
            {
                **{k: v for k, v in data.items() if k not in moved},
                **{f: x for v in moved.values() for f, x in v.items()},
            }
        )


class Supply(Part):
    """Supply of the starter."""

    line_voltage_v: Voltage | None = None
    frequency_hz: Hertz | None = None
    prospective_current_ka: Annotated[float, Field(gt=0, le=200)] | None = None
    transformer_kva: Annotated[float, Field(gt=0, le=10000)] | None = None
    transformer_uk_pct: Annotated[float, Field(gt=0, le=20)] | None = None
    neutral: bool | None = None
    system: Earthing | None = None
    conductors: Conductors | None = None
    supply_cable_length_m: Annotated[float, Field(gt=0, le=5000)] | None = None
    supply_cable_section_mm2: Annotated[Section, Field(gt=0, le=1100)] | None = None
    earth_loop_ohm: Annotated[float, Field(gt=0, le=5000)] | None = None
    cable_length_m: Annotated[float, Field(gt=0, le=5000)] | None = None
    cable_parallel: Annotated[int, Field(ge=1, le=6)] | None = None
    cable_section_mm2: Annotated[Section, Field(gt=0, le=1100)] | None = None
    cable_insulation: Literal["pvc", "xlpe"] | None = None
    cable_method: Literal["b1", "b2", "c", "e"] | None = None
    cable_grouping: Annotated[int, Field(ge=1, le=20)] | None = None
    cable_ambient_c: Celsius | None = None
    running_motors_current_a: Annotated[float, Field(ge=0, le=10000)] | None = None
    measured_voltages_v: Annotated[list[Voltage], Field(min_length=3, max_length=3)] | None = None
    power_factor_capacitor_kvar: Annotated[float, Field(gt=0, le=1000)] | None = None
    power_factor_capacitor_position: Literal["before_relay", "after_relay"] | None = None
    maximum_dip_pct: Annotated[float, Field(gt=0, lt=100)] | None = None
    maximum_start_current_a: Annotated[float, Field(gt=0, le=20000)] | None = None
    upstream_device: (
        Literal[
            "fuse_gg",
            "fuse_am",
            "miniature_breaker_b",
            "miniature_breaker_c",
            "miniature_breaker_d",
            "moulded_case_breaker",
        ]
        | None
    ) = None
    upstream_rated_current_a: Current | None = None
    upstream_instantaneous_trip_a: Annotated[float, Field(gt=0, le=50000)] | None = None


class Load(Part):
    """Driven machine and duty."""

    torque_pct: Annotated[float, Field(ge=0, le=200)] | None = None
    shape: Literal["constant", "linear", "square", "constant_power"] | None = None
    breakaway_pct: Annotated[float, Field(ge=0, le=300)] | None = None
    machine: str | None = Field(default=None, min_length=1, max_length=40)
    torque_points: (
        Annotated[
            list[Annotated[list[Annotated[float, Field(ge=0, le=400)]], Field(min_length=2, max_length=2)]],
            Field(min_length=2, max_length=60),
        ]
        | None
    ) = None
    measured_run_up_time_s: Seconds | None = None
    inertia_kgm2: Positive | None = None
    speed_rpm: Annotated[float, Field(gt=0, le=100000)] | None = None
    start_time_s: Seconds | None = None
    starts_per_hour: Annotated[float, Field(gt=0, le=3600)] | None = None
    hours_per_year: Annotated[float, Field(gt=0, le=8784)] | None = None
    duty: Literal["ac3", "ac4"] = "ac3"
    ac4_share_pct: Percent | None = None
    duty_type: Literal["s1", "s2", "s3", "s4", "s5", "s6", "s7", "s8"] | None = None

    @property
    def ac4_share(self) -> float:
        """Share of the operations that are inching or plugging [-]; all of them in duty AC-4 where none is given."""
        if self.ac4_share_pct is not None:
            return self.ac4_share_pct / 100
        return 1.0 if self.duty == "ac4" else 0.0


class Starter(Part):
    """The starting method and its own settings."""

    type: StarterType = "direct_on_line"
    overload_position: Literal["line", "winding", "delta_branch"] | None = None
    autotransformer_tap: Share | None = None
    stator_voltage_ratio: Share | None = None
    current_limit_ratio: Annotated[float, Field(ge=1, le=10)] | None = None
    star_time_s: Seconds | None = None
    first_stage_time_s: Seconds | None = None
    second_stage_time_s: Seconds | None = None
    third_stage_time_s: Seconds | None = None
    dwell_s: Annotated[float, Field(ge=0, le=10)] | None = None
    star_sequence: Literal["together", "star_first"] | None = None
    delta_links: Literal["common", "favourable"] | None = None


class MeasuredCurve(Part):
    """A curve that somebody measured or read from a data sheet, to be drawn on the time-current sheet."""

    name: str = Field(min_length=1, max_length=40)
    points: Annotated[list[Annotated[list[Annotated[float, Field(gt=0, le=1e6)]], Field(min_length=2, max_length=2)]], Field(min_length=2, max_length=200)]  # fmt: skip


class Protection(Part):
    """Protection, and the rule by which it is set."""

    device: ProtectionDevice | None = None
    overload_school: Literal["nameplate", "percentage"] | None = None
    dial_marking: Literal["motor_amperes", "trip_amperes"] = "motor_amperes"
    ultimate_trip_multiple: Annotated[float, Field(ge=1.05, le=1.6)] = 1.20
    current_transformer_ratio: Annotated[float, Field(gt=1, le=2000)] | None = None
    reset: Literal["manual", "automatic"] = "manual"
    failed_start_recorded: bool = False
    coordination: Literal["type_1", "type_2"] | None = None
    measured_curves: list[MeasuredCurve] = Field(default=[], max_length=6)
    overload: Literal["relay", "none"] = "relay"


class Control(Part):
    """The control supply and the options of the circuit."""

    voltage_v: Annotated[float, Field(gt=0, le=690)] | None = None
    coil_voltage_v: Annotated[float, Field(gt=0, le=690)] | None = None
    measured_voltage_v: Annotated[float, Field(ge=0, le=1000)] | None = None
    line_length_m: Annotated[float, Field(gt=0, le=10000)] | None = None
    line_section_mm2: Annotated[Section, Field(gt=0, le=16)] | None = None
    kind: Literal["ac", "dc"] = "ac"
    source: Literal["common", "transformer", "power_unit", "separate"] | None = None
    tap: Literal["behind_main", "before_main"] | None = None
    earthed: bool | None = None
    earthed_point: Literal["end", "centre"] | None = None
    restart_harmless: Annotated[str, Field(min_length=10, max_length=300)] | None = None
    leaves_enclosure: bool = True
    scheme: Literal["three_wire", "two_wire", "hand_off_auto"] = "three_wire"
    overload_contact: Literal["line_side", "before_coil", "return_side"] | None = None
    start_stations: Annotated[int, Field(ge=1, le=12)] | None = None
    stop_stations: Annotated[int, Field(ge=1, le=12)] | None = None
    emergency_stop: bool | None = None
    phase_monitor: Literal["none", "three_wire", "four_wire"] | None = None
    lamps: list[Literal["running", "stopped", "tripped", "phase_healthy", "phase_fault"]] | None = None
    stopped_lamp_feed: Literal["after_overload", "line"] | None = None
    buzzer: bool | None = None
    lamp_code: Literal["run_green", "machine", "live_red"] | None = None
    wire_colours: Literal["iec", "north_american", "red_yellow_blue"] | None = None
    control_phase: Literal["L1", "L2", "L3"] | None = None
    field_contact: Literal["float_fill", "float_drain", "pressure", "thermostat", "limit"] | None = None
    standby: bool | None = None
    heater: bool | None = None
    controller_signal: bool | None = None
    hold: Literal["auxiliary", "power_pole"] | None = None
    mechanical_interlock: bool | None = None
    variant: Literal["sound", "as_often_built"] | None = None
    jog: Literal["selector", "relay"] | None = None
    monitor_position: Literal["supply_side", "motor_side"] | None = None
    reversing_sequence: Literal["stop_first", "direct"] | None = None
    end_of_travel: bool | None = None
    rest_time_s: Annotated[float, Field(gt=0, le=120)] | None = None
    reversed_winding: Literal["main", "start"] | None = None
    star_delta_relay: bool | None = None
    early_release_guard: bool | None = None
    running_lamp_feed: Literal["contactor", "command"] | None = None
    start_capacitor_switch: Literal["button", "centrifugal", "relay", "potential_relay", "timer"] | None = None
    controller_signal_form: Literal["on_trip", "fail_safe"] | None = None


class Monitor(Part):
    """Settings of the phase monitor that are typed against those proposed."""

    asymmetry_measure: Literal["nema", "sequence", "spread"] = "nema"
    asymmetry_pct: Annotated[float, Field(ge=0.5, le=40)] | None = None
    undervoltage_pct: Annotated[float, Field(ge=50, le=100)] | None = None
    overvoltage_pct: Annotated[float, Field(ge=100, le=130)] | None = None
    sequence: bool | None = None
    neutral: bool | None = None
    loss_delay_s: Annotated[float, Field(ge=0, le=60)] | None = None
    voltage_delay_s: Annotated[float, Field(ge=0, le=120)] | None = None
    on_delay_s: Annotated[float, Field(ge=0, le=1200)] | None = None


class Surroundings(Part):
    """Surroundings of panel and motor."""

    ambient_c: Celsius | None = None
    motor_ambient_c: Celsius | None = None
    altitude_m: Annotated[float, Field(ge=-500, le=6000)] | None = None


class Assumptions(Part):
    """Default values of the method that a user may change."""

    inrush_peak_factor: Annotated[float, Field(ge=1, le=2.5)] | None = None
    life_exponent: Annotated[float, Field(ge=1, le=4)] = 2.0
    prospective_voltage_factor: Annotated[float, Field(ge=0.9, le=1.2)] = 1.10
    transformer_r_over_x: Annotated[float, Field(ge=0, le=3)] = 1 / 3
    running_motors_inrush_ratio: Annotated[float, Field(ge=1, le=15)] = 6.0
    miniature_breakers_packed: bool = False
    lamp_va: Annotated[float, Field(gt=0, le=100)] | None = None


class Override(Part):
    """A choice that the user makes against the one computed, with the reason."""

    role: str = Field(min_length=1, max_length=40)
    device_type: str | None = Field(default=None, min_length=1, max_length=40)
    dial_a: Current | None = None
    trip_class: TripClass | None = None
    instantaneous_trip_a: Annotated[float, Field(gt=0, le=50000)] | None = None
    reason: str = Field(min_length=3, max_length=300)


class CircuitEdit(Part):
    """A line of the control circuit as it is in the panel, in the notation; an added one changes no line, one that is left out is empty now."""

    line: str = Field(default="", max_length=300)
    now: str = Field(default="", max_length=300)
    note: str = Field(default="", max_length=200)


class StarterDocument(Part):
    """One starter, as its user decided it."""

    version: Literal[1] = 1
    tag: str = Field(min_length=1, max_length=40)
    service: str = Field(default="", max_length=120)
    practice: Practice = "iec"
    motor: Motor = Field(default_factory=Motor)
    supply: Supply = Field(default_factory=Supply)
    load: Load = Field(default_factory=Load)
    starter: Starter = Field(default_factory=Starter)
    protection: Protection = Field(default_factory=Protection)
    control: Control = Field(default_factory=Control)
    monitor: Monitor = Field(default_factory=Monitor)
    surroundings: Surroundings = Field(default_factory=Surroundings)
    assumptions: Assumptions = Field(default_factory=Assumptions)
    overrides: list[Override] = Field(default=[], max_length=40)
    circuit_edits: list[CircuitEdit] = Field(default=[], max_length=60)
    own_rules: list[Annotated[str, Field(min_length=1, max_length=160)]] = Field(default=[], max_length=20)

    def to_json(self) -> dict[str, Any]:
        """As plain data, with unknown values left out."""
        return self.model_dump(exclude_unset=True, exclude_none=True)

    def override(self, role: str) -> Override | None:
        """The override for a role, None when the computed choice is used."""
        return next((o for o in self.overrides if o.role == role), None)


def by_method(document: StarterDocument, method: StarterType) -> StarterDocument:
    """The same starter by another method: choices of devices and changes of the circuit belong to the method that they were made for.

    Examples
    --------
    >>> d = parse({"tag": "A", "circuit_edits": [{"now": "bus > K1:33-34 > r"}]})
    >>> by_method(d, "star_delta").circuit_edits, by_method(d, "direct_on_line").circuit_edits == d.circuit_edits
    ([], True)
    """
    starter = document.starter.model_copy(update={"type": method})
    if method == method_of(document):
        return document.model_copy(update={"starter": starter})
    return document.model_copy(update={"starter": starter, "overrides": [], "circuit_edits": []})


def method_of(document: StarterDocument) -> StarterType:
    """The method that the document asks for; without a choice the direct one for its number of phases."""
    if "type" not in document.starter.model_fields_set and document.motor.phases == 1:
        return "single_phase_direct"
    return document.starter.type


def parse(data: object) -> StarterDocument:
    """A starter document from plain data.

    Parameters
    ----------
    data : what a JSON reader gave

    Raises
    ------
    ProblemError : one problem per field that is not as it must be.

    Examples
    --------
    >>> parse({"tag": "A", "motor": {"rated_power_kw": 4}}).motor.rated_power_kw
    4.0
    """
    if isinstance(data, dict) and data.get("version", VERSION) != VERSION:
        raise ProblemError(
            [Problem("version", f"{data['version']!r} is not a version this program reads; it reads version {VERSION}")]
        )
    try:
        return StarterDocument.model_validate(data)
    except ValidationError as error:
        raise ProblemError(problems_of(error)) from None


def problems_of(error: ValidationError, skip: int = 0) -> list[Problem]:
    """The sentences for a validation error; ``skip`` leading parts of each path are dropped."""
    return [
        Problem(
            ".".join(str(p) for p in e["loc"][skip:]) or "document",
            _sentence(
                e["type"], e["input"], dict(e.get("ctx", {})), str(e["loc"][-1]) if e["loc"] else "document", e["msg"]
            ),
        )
        for e in error.errors(include_url=False)
    ]


def _shown(value: object) -> str:
    text = repr(value) if isinstance(value, str) else "nothing" if value is None else str(value)
    return text if len(text) <= 60 else text[:57] + "…"


def _bound(limit: Any) -> str:
    """A limit in words: a number, or a date."""
    return f"{limit:g}" if isinstance(limit, int | float) else str(limit)


def _sentence(kind: str, value: object, ctx: dict[str, Any], name: str, message: str) -> str:
    given = _shown(value)
    match kind:
        case "greater_than":
            return f"{given} is not allowed; it must be greater than {_bound(ctx['gt'])}"
        case "greater_than_equal":
            return f"{given} is too small; the least is {_bound(ctx['ge'])}"
        case "less_than":
            return f"{given} is too large; it must be less than {_bound(ctx['lt'])}"
        case "less_than_equal":
            return f"{given} is too large; the most is {_bound(ctx['le'])}"
        case "finite_number":
            return f"{given} is not a number that can be computed with"
        case "float_type" | "float_parsing":
            return f"{given} is not a number"
        case "int_type" | "int_parsing" | "int_from_float":
            return f"{given} is not a whole number"
        case "bool_type" | "bool_parsing":
            return f"{given} is neither true nor false"
        case "string_type":
            return f"{given} is not text"
        case "string_too_short":
            return f"needs at least {ctx['min_length']} characters"
        case "string_too_long":
            return f"is longer than {ctx['max_length']} characters"
        case "string_pattern_mismatch":
            return f"{given} is not allowed: one line that does not begin with =, + or @, without blanks at its ends"
        case "too_short" | "too_long":
            bound = ctx.get("min_length", ctx.get("max_length"))
            return f"has {ctx['actual_length']} entries; it must have {bound}"
        case "literal_error":
            return f"{given} is not one of {ctx['expected']}"
        case "missing":
            return "is required"
        case "extra_forbidden":
            close = get_close_matches(name, FIELD_NAMES, n=1)
            return "is not a field of the starter document" + (f"; is {close[0]} meant?" if close else "")
        case "model_type" | "model_attributes_type" | "dict_type":
            return f"{given} is not an object with named fields"
        case _:
            return message.removeprefix("Value error, ")


def _names(model: type[BaseModel]) -> set[str]:
    names = set()
    for name, info in model.model_fields.items():
        names.add(name)
        for inner in (info.annotation, *get_args(info.annotation)):
            if isinstance(inner, type) and issubclass(inner, BaseModel):
                names |= _names(inner)
    return names


FIELD_NAMES = sorted(_names(StarterDocument))
