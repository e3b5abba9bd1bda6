"""The drawings of one starter: its single-line from supply to motor, terminal links, overload band."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from volmek.core.devices.circuit_parts import CONTROL_ONLY, IN_POWER
from volmek.core.devices.device import Device
from volmek.core.document.model import StarterDocument
from volmek.core.installation.connection import motor_connection
from volmek.core.installation.designations import MOTOR
from volmek.core.plate.plate import Plate
from volmek.core.results.drawing import Drawing, Shape, line, rect, text
from volmek.core.results.figures import Figure, as_read
from volmek.core.results.findings import Finding
from volmek.core.symbols import symbol_of


@dataclass(frozen=True, slots=True)
class LineUpItem:
    """One device of the single-line.

    Attributes
    ----------
    key : designation, or ``supply`` and ``motor``
    designation, title, rating, setting : text beside the symbol
    verdict : ``stop``, ``attention`` or ``fine``
    stage : the stage that opens when it is chosen
    figure : id of the figure whose working it opens
    symbol : name of its symbol
    """

    key: str
    designation: str
    title: str
    rating: str
    setting: str
    verdict: str
    stage: str
    figure: str
    symbol: str


def _rating(d: Device) -> str:
    s = d.selected
    if s.type is None and d.kind not in IN_POWER:
        return "none in the catalogue"
    if d.kind in ("overload_relay", "motor_breaker"):
        return f"{s.type} · {s.range_min_a:g}–{s.range_max_a:g} A"
    if d.kind in ("motor_conductor", "timer", "phase_monitor"):
        return str(s.type)
    if d.kind in ("control_transformer", "power_unit"):
        return f"{s.type} · {s.rated_va:g} VA"
    if d.kind in IN_POWER:
        size = d.required.capacitance_uf
        return f"{as_read(size)} µF" if size is not None else "not in the catalogue"
    return f"{s.type} · {as_read(s.rated_current_a)} A" if s.rated_current_a is not None else "none in the catalogue"


def _setting(d: Device) -> str:
    x = d.settings
    parts = []
    if x.dial_a is not None and d.kind in ("overload_relay", "motor_breaker"):
        parts.append(f"set {as_read(x.dial_a)} A")
    if x.trip_class:
        parts.append(f"class {x.trip_class}")
    if x.instantaneous_trip_a is not None and d.kind in ("moulded_case_breaker", "instantaneous_trip_breaker"):
        parts.append(f"trip {as_read(x.instantaneous_trip_a)} A")
    if x.star_time_s is not None and x.dwell_s is not None:
        parts.append(f"star {as_read(x.star_time_s)} s · {1000 * x.dwell_s:g} ms")
    if x.asymmetry_pct is not None:
        parts.append(f"asymmetry {as_read(x.asymmetry_pct)} %")
    if x.current_limit_a is not None:
        parts.append(f"limit {as_read(x.current_limit_a)} A")
    if d.selected.primary_v is not None:
        parts.append(f"{d.selected.primary_v:.0f}/{d.selected.secondary_v:g} V")
    if d.selected.coil:
        parts.append(f"coil {d.selected.coil}")
    return " · ".join(parts)


def _in_line(devices: list[Device]) -> list[Device]:
    """Devices of the single-line: what carries power or feeds the control circuit; of a set of resistors the first, with the name of all."""
    found = [d for d in devices if d.role not in CONTROL_ONLY and d.kind != "resistor"]
    resistors = [d for d in devices if d.kind == "resistor"]
    if resistors:
        name = (
            resistors[0].designation
            if len(resistors) == 1
            else f"{resistors[0].designation}…{resistors[-1].designation}"
        )
        found.append(replace(resistors[0], designation=name, label="Resistors"))
    return found


def line_up(
    document: StarterDocument,
    plate: Plate,
    devices: list[Device],
    findings: list[Finding],
    figures: Mapping[str, Figure],
) -> list[LineUpItem]:
    """The single-line of a starter, from supply to motor."""

    def verdict(key: str, fields: tuple[str, ...] = ()) -> str:
        for f in findings:
            if f.severity != "info" and (
                f.device == key or (f.device is None and f.field.startswith(fields or ("\0",)))
            ):
                return f.severity
        return "fine"

    devices = _in_line(devices)
    prospective = figures.get("prospective_current_ka")
    words = {
        "delta": "△ delta",
        "star": "Y star",
        "plate": "",
        "parallel": "in parallel",
        "series": "in series",
        "unknown": "connection not known",
    }[plate.connection]
    power = next(
        (figures[i] for i in ("motor.rated_power_kw", "motor.rated_power_hp", "motor.rated_power_ps") if i in figures),
        None,
    )
    items = [
        LineUpItem(
            "supply",
            " ".join(plate.supply.taken),
            "Supply",
            f"{as_read(plate.line_voltage_v)} V {plate.frequency_hz:g} Hz",
            f"Ik {prospective.text} kA" if prospective else "Ik not known",
            verdict("supply", ("supply",)),
            "plate",
            "prospective_current_ka" if prospective else "",
            "supply.1" if plate.phases == 1 else "supply",
        )
    ]
    items += [
        LineUpItem(
            d.designation,
            d.designation,
            d.label,
            _rating(d),
            _setting(d),
            verdict(d.designation),
            "devices",
            d.figures[0].id,
            symbol_of(d.kind, document.practice, branch=d.branch, conductors=d.selected.conductors or 3),
        )
        for d in devices
    ]
    # The contactors of a slip-ring motor's rotor lie behind the motor.
    rotor = [i for i, d in zip(items[1:], devices, strict=True) if d.role.startswith("rotor_contactor")]
    items = [i for i in items if i not in rotor]
    rated = f"{power.text} {power.unit} · " if power else ""
    items.append(
        LineUpItem(
            "motor",
            MOTOR,
            document.service or "Motor",
            f"{rated}{plate.design.text} A",
            words,
            verdict("motor", ("motor", "surroundings", "load")),
            "plate",
            "design_current_a",
            "motor.1" if plate.phases == 1 else "motor.slip_ring" if rotor else "motor",
        )
    )
    return items + rotor


def links_of(document: StarterDocument) -> str | None:
    """Name of the drawing of the motor's links as they lie with this starter, None where that would be a guess."""
    return motor_connection(document).drawing


def overload_band(devices: list[Device], figures: Mapping[str, Figure]) -> Drawing:
    """Hold, decision and trip range of the overload protection, on a scale of motor current."""
    role = next((d.role for d in devices if f"{d.role}.ultimate_trip_a" in figures), None)
    if role is None:
        return Drawing(560, 40, "No overload protection", [text(280, 24, "no overload protection", 12, tone="stop")])
    base, dial = figures["permitted_current_a"].number, figures[f"{role}.dial_a"]
    trip = figures[f"{role}.ultimate_trip_a"].number
    limit = figures.get("overload_limit_pct")
    multiple = figures["protection.ultimate_trip_multiple"].number
    in_motor_amperes = trip / multiple
    holds = 1.05 * in_motor_amperes
    top = max(1.7, 1.1 * trip / base)
    low, left, right = 0.7, 16.0, 544.0

    def x(amps: float) -> float:
        return left + (right - left) * min(max((amps / base - low) / (top - low), 0), 1)

    y = 58.0
    shapes: list[Shape] = [
        rect(left, y - 9, x(holds) - left, 18, tone="quiet", weight="hair"),
        text((left + x(holds)) / 2, y + 4, "holds", 11),
        rect(x(holds), y - 9, max(x(trip) - x(holds), 1), 18, filled=True, tone="quiet"),
        rect(x(holds), y - 9, max(x(trip) - x(holds), 1), 18, weight="hair"),
        rect(x(trip), y - 9, right - x(trip), 18, tone="quiet", weight="hair"),
        text((x(trip) + right) / 2, y + 4, "trips", 11),
        line(x(base), 28, x(base), y + 22, weight="heavy"),
        text(x(base), 22, f"motor {as_read(base)} A", 11),
        text(x(holds), y + 24, f"{as_read(holds)} A", 11),
        line(x(in_motor_amperes), y + 9, x(in_motor_amperes), y + 32, weight="hair"),
        text(x(in_motor_amperes), y + 43, f"set {dial.text} A", 11),
        text(
            x(trip) + 4,
            y + 24,
            f"{as_read(trip)} A = {100 * trip / base:.0f} %",
            11,
            "start" if x(trip) < right - 110 else "end",
        ),
    ]
    if limit:
        at = base * limit.number / 100
        shapes += [
            line(x(at), 34, x(at), y + 14, tone="stop", dashed=True),
            text(x(at) + 4, 34, f"limit {limit.text} %", 11, "start", "stop"),
        ]
    described = (
        f"Motor {as_read(base)} A, set to {dial.text} A: does not trip up to {as_read(holds)} A, trips at the latest at {as_read(trip)} A, "
        f"{100 * trip / base:.0f} % of the motor current"
    ) + (f"; {limit.text} % is allowed" if limit else "")
    return Drawing(560, 104, described, shapes)
