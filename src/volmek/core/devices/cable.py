"""Motor cable of IEC practice: current-carrying capacity, overload dial for each lead, voltage drop."""

from dataclasses import dataclass
from math import sqrt

from volmek.core.context import Context
from volmek.core.devices.device import Device, Required, Selected
from volmek.core.devices.dial import Dial
from volmek.core.devices.settings import Settings
from volmek.core.document.errors import NoDeviceError
from volmek.core.physics.conductors import REACTANCE_OHM_PER_M, conductor_resistance_ohm
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import Candidate, Figure, as_read
from volmek.data.loader import standard

#: Six loaded leads in one cable or conduit.
SIX_LEADS_FACTOR = 0.80
RUNNING_DROP_PCT, STARTING_DROP_PCT = 5.0, 15.0
START_POWER_FACTOR = 0.35
#: Cables in parallel that are reckoned with, and what is taken, and judged, where even they do not do.
MOST_PARALLEL = 6
LAST_RESORT = (6, 240.0)
#: What is taken where the document does not say.
DEFAULT_INSULATION, DEFAULT_METHOD, DEFAULT_AMBIENT_C = "pvc", "b2", 30.0


def cable_factor(insulation: str, ambient_c: float, circuits: int, leads: int) -> float:
    """Factor on the tabulated capacity for ambient temperature, bunched circuits and six star-delta leads.

    Parameters
    ----------
    insulation : ``pvc`` or ``xlpe``
    ambient_c : [°C]; between two rows the warmer one
    circuits : bunched circuits, this one included, 1 … 20; between two rows the next larger
    leads : 3 or 6 loaded ones

    Raises
    ------
    ValueError : beyond the tables.

    Examples
    --------
    >>> cable_factor("pvc", 30, 1, 3), round(cable_factor("pvc", 38, 2, 6), 3)
    (1.0, 0.557)

    References
    ----------
    IEC 60364-5-52, Tables B.52.14 and B.52.17.
    """
    column = {"pvc": "pvc_70", "xlpe": "xlpe_90"}[insulation]
    rows = [r for r in standard("cable_ambient_factor_iec") if r[column] is not None]
    ambient = next((r[column] for r in rows if ambient_c <= r["ambient_c"]), None)
    if ambient is None:
        raise ValueError(f"{insulation.upper()} has no factor above {rows[-1]['ambient_c']:g} °C")
    bunched = next(r["factor_bunched"] for r in standard("cable_grouping_factor_iec") if circuits <= r["circuits"])
    return float(ambient * bunched * (SIX_LEADS_FACTOR if leads == 6 else 1.0))


def voltage_drop_v(
    current_a: float, length_m: float, section_mm2: float, power_factor: float, *, three_phase: bool, six_leads: bool
) -> float:
    """Voltage lost in the motor cable.

    Parameters
    ----------
    current_a : line current of the motor [A]
    length_m, section_mm2 : of the cable [m], [mm²], > 0
    power_factor : of that current [-]
    three_phase : three phases, else one
    six_leads : star-delta: 0.577 of the line current in each lead, out and back

    Examples
    --------
    >>> round(voltage_drop_v(14.4, 50, 2.5, 0.83, three_phase=True, six_leads=False), 2)
    9.37

    References
    ----------
    ΔU = b·(ρ·L/S·cosφ + X·L·sinφ)·I; b = √3, for one phase and for six leads 2; IEC 60364-5-52, annex G.
    """
    b, amps = (
        (sqrt(3), current_a) if three_phase and not six_leads else (2.0, current_a / (sqrt(3) if six_leads else 1))
    )
    ohmic = conductor_resistance_ohm(length_m, section_mm2, warm=True) * power_factor
    return b * amps * (ohmic + REACTANCE_OHM_PER_M * length_m * sqrt(1 - power_factor**2))


@dataclass(frozen=True, slots=True)
class _Laying:
    insulation: str
    method: str
    ambient_c: float
    circuits: int
    factor: float
    column: str

    def words(self) -> str:
        return f"{self.insulation.upper()}, method {self.method.upper()}, {self.ambient_c:g} °C, {self.circuits} circuit{'s' if self.circuits > 1 else ''}"


def _laying(c: Context, plate: Plate, leads: int) -> _Laying:
    s = c.document.supply
    insulation, method = s.cable_insulation or DEFAULT_INSULATION, s.cable_method or DEFAULT_METHOD
    ambient = s.cable_ambient_c if s.cable_ambient_c is not None else DEFAULT_AMBIENT_C
    circuits = s.cable_grouping or 1
    try:
        factor = cable_factor(insulation, ambient, circuits, leads)
    except ValueError as error:
        raise NoDeviceError.at("supply.cable_ambient_c", str(error)) from None
    loaded = 2 if plate.phases == 1 else 3
    return _Laying(insulation, method, ambient, circuits, factor, f"{insulation}_{method}_{loaded}_loaded_a")


def select_cable(c: Context, plate: Plate, dial: Dial, lead_share: float, starting_a: float) -> Device:
    """The motor cable: the section typed, judged, else the smallest that carries motor and dial.

    Parameters
    ----------
    dial : overload setting that protects it
    lead_share : share of the line current in each lead; below 1 there are six
    starting_a : line current during the start [A]

    Raises
    ------
    NoDeviceError : the section typed is not one of the table, or the ambient is beyond the factors.

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> example_device("W1").selected.section_mm2
    1.5

    References
    ----------
    IEC 60364-5-52, Tables B.52.2 to B.52.5, B.52.14, B.52.17; IEC 60364-4-43, 433.1.
    """
    w, s = c.working, c.document.supply
    leads = 6 if lead_share < 1 else 3
    laying = _laying(c, plate, leads)
    # A relay protects each lead by its share of the motor current that the relay lets pass.
    dial_lead = dial.used.number * dial.ratio * lead_share
    needed = w.add(
        "motor_conductor.required_current_a", "Current that each lead of the motor cable must carry", "Ib",
        max(lead_share * plate.design.number, dial_lead), "A", inputs=(plate.design, dial.used),
        formula="max(In, Idial)" if leads == 3 else "0.577·max(In, Idial)", rule="motor current, and the dial that protects the cable",
        source="IEC 60364-4-43, 433.1",
    )  # fmt: skip
    capacities = [
        (r["section_mm2"], r[laying.column] * laying.factor) for r in standard("cable_current_capacity_copper_iec")
    ]
    typed = s.cable_section_mm2
    if typed is not None and typed not in [section for section, _ in capacities]:
        sizes = ", ".join(f"{section:g}" for section, _ in capacities)
        raise NoDeviceError.at("supply.cable_section_mm2", f"{typed:g} mm² is not a section of the table ({sizes})")
    section, able, parallel = next(
        (a, b * n, n)
        for n in range(1, MOST_PARALLEL + 1)
        for a, b in capacities
        if (a == typed if typed is not None else b * n >= needed.number * (1 - 1e-6) or (n, a) == LAST_RESORT)
    )
    if parallel > 1:
        c.find(
            "info",
            "cables_in_parallel",
            f"No single cable of the table carries {needed.text} A; {parallel} of {section:g} mm² in parallel are reckoned with.",
            "supply.cable_section_mm2",
            device="W1",
        )
    candidates = tuple(
        Candidate(f"{a:g} mm²", a == section, b >= needed.number * (1 - 1e-6), f"carries {as_read(b)} A here")
        for a, b in capacities
    )
    capacity = w.add(
        "motor_conductor.capacity_a", f"What {_words(parallel, section)} of copper carries here", "Iz", able, "A", inputs=(needed,),
        rule=f"{laying.words()}, factor {laying.factor:.3g}" + (", six loaded leads" if leads == 6 else ""),
        source="IEC 60364-5-52, Tables B.52.2 to B.52.5, B.52.14, B.52.17", candidates=candidates, typical=s.cable_method is None,
        note="" if s.cable_method else f"Nothing is said of the cable: {laying.words()} is taken.", field="supply.cable_section_mm2",
    )  # fmt: skip
    _judge(c, plate, lead_share, section, able, dial_lead)
    figures = (needed, capacity, *_drops(c, plate, section * parallel, leads, starting_a))
    return Device(
        "W1", "motor_conductor", "motor_conductor", "Motor cable" if leads == 3 else "Motor leads, six",
        Required(current_a=needed.number),
        Selected(f"{_words(parallel, section)} Cu", section_mm2=section, rated_current_a=able, conductors=leads if plate.phases == 3 else 2),
        Settings(), figures=figures, choice=capacity,
    )  # fmt: skip


def _words(parallel: int, section: float) -> str:
    return (f"{parallel} × " if parallel > 1 else "") + f"{section:g} mm²"


def _judge(c: Context, plate: Plate, lead_share: float, section: float, able: float, dial_lead: float) -> None:
    amps = lead_share * plate.design.number
    if amps > able * (1 + 1e-6):
        c.find("stop", "cable_too_small", f"{section:g} mm² carries {as_read(able)} A here; {as_read(amps)} A flow in each lead",
               "supply.cable_section_mm2", device="W1")  # fmt: skip
    elif dial_lead > able * (1 + 1e-6):
        c.find("stop", "cable_not_protected", f"The overload protection lets {as_read(dial_lead)} A pass in each lead; {section:g} mm² carries "
               f"{as_read(able)} A here", "supply.cable_section_mm2", device="W1")  # fmt: skip


def _drops(c: Context, plate: Plate, section: float, leads: int, starting_a: float) -> list[Figure]:
    length = c.document.supply.cable_length_m
    if length is None:
        return []
    w, figures = c.working, []
    power_factor = plate.power_factor.number if plate.power_factor else 0.8
    metres = w.typed("supply.cable_length_m", "Cable to the motor", "L", length, "m")
    for name, label, amps, cos, limit, inputs in (
        ("running", "running", plate.design.number, power_factor, RUNNING_DROP_PCT, (plate.design, metres)),
        ("starting", "at the start", starting_a, START_POWER_FACTOR, STARTING_DROP_PCT, (plate.locked_rotor, metres)),
    ):
        volts = voltage_drop_v(amps, length, section, cos, three_phase=plate.phases == 3, six_leads=leads == 6)
        figure: Figure = w.add(
            f"voltage_drop_{name}_pct", f"Voltage drop in the motor cable, {label}", "ΔU", 100 * volts / plate.line_voltage_v, "%",
            inputs=inputs, rule=f"at most {limit:g} % (default), cosφ {cos:.2g}", source="IEC 60364-5-52, annex G",
        )  # fmt: skip
        figures.append(figure)
        if figure.number > limit * (1 + 1e-9):
            c.find("attention", f"voltage_drop_{name}", f"{figure.text} % of the voltage is lost in the motor cable {label}; {limit:g} % is usual at the most",
                   "supply.cable_section_mm2", device="W1")  # fmt: skip
    return figures
