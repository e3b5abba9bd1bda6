"""Motor cable of IEC practice: current-carrying capacity, overload dial for each lead, voltage drop."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from math import sqrt

from volmek.core.context import Context
from volmek.core.devices.device import Device, Required, Selected
from volmek.core.devices.dial import Dial
from volmek.core.devices.settings import Settings
from volmek.core.document.errors import NoDeviceError
from volmek.core.document.model import StarterDocument
from volmek.core.installation.motor_cable import MotorCable
from volmek.core.physics.motor_model import START_POWER_FACTOR
from volmek.core.physics.run_up import Stage
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import Candidate, Figure, as_read
from volmek.data.loader import standard

#: Six loaded leads in one cable or conduit.
SIX_LEADS_FACTOR = 0.80
RUNNING_DROP_PCT, STARTING_DROP_PCT = 5.0, 15.0
#: Cables in parallel that are used.
MOST_PARALLEL = 6
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
    current_a: float,
    cable: MotorCable,
    length_m: float,
    power_factor: float,
    *,
    three_phase: bool,
    cable_share: float = 1.0,
) -> float:
    """Voltage lost in the motor cable.

    Parameters
    ----------
    current_a : line current of the motor [A]
    cable, length_m : of the motor, > 0 m
    power_factor : of that current [-]
    three_phase : three phases, else one
    cable_share : impedance of the cable as the line sees it over that of one conductor: 2 in star through six leads, 2/3 in delta

    Examples
    --------
    >>> round(voltage_drop_v(14.4, MotorCable(2.5), 50, 0.83, three_phase=True), 2)
    9.37

    References
    ----------
    ΔU = b·(ρ·L/S·cosφ + X·L·sinφ)·I; b = √3 times the share, for one phase 2; IEC 60364-5-52, annex G.
    """
    z = cable.impedance_ohm(length_m)
    ways = sqrt(3) * cable_share if three_phase else 2.0
    return ways * current_a * (z.real * power_factor + z.imag * sqrt(1 - power_factor**2))


@dataclass(frozen=True, slots=True)
class Laying:
    """Laying of the motor cable, and the factor and column of the table that follow."""

    insulation: str
    method: str
    ambient_c: float
    circuits: int
    factor: float
    column: str

    def words(self) -> str:
        return f"{self.insulation.upper()}, method {self.method.upper()}, {self.ambient_c:g} °C, {self.circuits} circuit{'s' if self.circuits > 1 else ''}"


def laying_of(document: StarterDocument, phases: int, leads: int) -> Laying:
    """Laying of a document's motor cable, the usual one where it is not given.

    Parameters
    ----------
    phases : of the motor
    leads : 3 or 6 loaded ones

    Raises
    ------
    NoDeviceError : the ambient is beyond the factors.

    Examples
    --------
    >>> from volmek.core.examples import example_document
    >>> laying_of(example_document(), 3, 3).words()
    'PVC, method B2, 30 °C, 1 circuit'

    References
    ----------
    IEC 60364-5-52, Tables B.52.1, B.52.14 and B.52.17.
    """
    s = document.supply
    insulation, method = s.cable_insulation or DEFAULT_INSULATION, s.cable_method or DEFAULT_METHOD
    ambient = s.cable_ambient_c if s.cable_ambient_c is not None else DEFAULT_AMBIENT_C
    circuits = s.cable_grouping or 1
    try:
        factor = cable_factor(insulation, ambient, circuits, leads)
    except ValueError as error:
        raise NoDeviceError.at("supply.cable_ambient_c", str(error)) from None
    loaded = 2 if phases == 1 else 3
    return Laying(insulation, method, ambient, circuits, factor, f"{insulation}_{method}_{loaded}_loaded_a")


def capacities_a(laying: Laying) -> dict[float, float]:
    """Current that each section of the table carries here [A], by section [mm²].

    Parameters
    ----------
    laying : of the cable

    Examples
    --------
    >>> from volmek.core.examples import example_document
    >>> capacities_a(laying_of(example_document(), 3, 3))[2.5]
    20.0

    References
    ----------
    IEC 60364-5-52, Tables B.52.2 to B.52.5.
    """
    return {r["section_mm2"]: r[laying.column] * laying.factor for r in standard("cable_current_capacity_copper_iec")}


def candidates_of(document: StarterDocument, laying: Laying) -> tuple[MotorCable, ...]:
    """Cables that can be taken, the preferred one first: the section and number typed, else single ones before parallel ones.

    Parameters
    ----------
    laying : of the cable

    Examples
    --------
    >>> from volmek.core.examples import example_document
    >>> d = example_document(supply={"cable_section_mm2": 4, "cable_parallel": 2})
    >>> [k.words for k in candidates_of(d, laying_of(d, 3, 3))]
    ['2 × 4 mm²']

    References
    ----------
    IEC 60364-5-52, 523.7 (cables in parallel).
    """
    s, sections = document.supply, capacities_a(laying)
    return _cables(s.cable_section_mm2, s.cable_parallel, tuple(sections))


@lru_cache(maxsize=64)
def _cables(typed: float | None, parallel: int | None, sections: tuple[float, ...]) -> tuple[MotorCable, ...]:
    numbers = [parallel] if parallel else range(1, (MOST_PARALLEL if typed is None else 1) + 1)
    return tuple(
        MotorCable(mm2, n, typed is not None) for n in numbers for mm2 in ((typed,) if typed is not None else sections)
    )


def smallest(cables: Sequence[MotorCable], laying: Laying, needed_a: float) -> int:
    """Place of the first cable that carries a current; of the largest where none does.

    Parameters
    ----------
    cables, laying : candidates, and how they are laid
    needed_a : in each lead [A]

    Examples
    --------
    >>> from volmek.core.examples import example_document
    >>> d = example_document()
    >>> laying = laying_of(d, 3, 3)
    >>> candidates_of(d, laying)[smallest(candidates_of(d, laying), laying, 18)].words
    '2.5 mm²'

    References
    ----------
    IEC 60364-4-43, 433.1.
    """
    able = capacities_a(laying)
    carry = (i for i, k in enumerate(cables) if k.parallel * able[k.section_mm2] >= needed_a * (1 - 1e-6))
    return next(carry, max(range(len(cables)), key=lambda i: cables[i].parallel * able[cables[i].section_mm2]))


def lead_current_a(plate: Plate, dial: Dial, lead_share: float) -> float:
    """Current that each lead must carry [A]: the motor's, or what the relay lets pass.

    Parameters
    ----------
    dial : overload setting that protects it
    lead_share : share of the line current in each lead

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> example_device("W1").required.current_a
    14.4

    References
    ----------
    IEC 60364-4-43, 433.1.
    """
    return lead_share * max(plate.design.number, dial.used.number * dial.ratio)


def select_cable(
    c: Context, plate: Plate, dial: Dial, lead_share: float, stages: Sequence[Stage], starting_a: float
) -> Device:
    """The motor cable that is typed or proposed, judged.

    Parameters
    ----------
    dial : overload setting that protects it
    lead_share : share of the line current in each lead; below 1 there are six
    stages : of the start, the last one running
    starting_a : line current during the start [A]

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> example_device("W1").selected.section_mm2
    2.5

    References
    ----------
    IEC 60364-5-52, Tables B.52.2 to B.52.5, B.52.14, B.52.17; IEC 60364-4-43, 433.1.
    """
    w, s, cable = c.working, c.document.supply, c.cable
    assert cable
    leads = 6 if lead_share < 1 else 3
    laying = laying_of(c.document, plate.phases, leads)
    # A relay protects each lead by its share of the motor current that the relay lets pass.
    dial_lead = dial.used.number * dial.ratio * lead_share
    needed = w.add(
        "motor_conductor.required_current_a", "Current that each lead of the motor cable must carry", "Ib",
        lead_current_a(plate, dial, lead_share), "A", inputs=(plate.design, dial.used),
        formula="max(In, Iset)" if leads == 3 else "0.577·max(In, Iset)", rule="motor current, and the overload setting that protects the cable",
        source="IEC 60364-4-43, 433.1",
    )  # fmt: skip
    table = capacities_a(laying)
    able = cable.parallel * table[cable.section_mm2]
    if cable.parallel > 1 and not s.cable_parallel:
        c.find(
            "info",
            "cables_in_parallel",
            f"No single cable of the table is enough for {needed.text} A; {cable.words} in parallel are used.",
            "supply.cable_section_mm2",
            device="W1",
        )
    candidates = tuple(
        Candidate(
            f"{mm2:g} mm²",
            mm2 == cable.section_mm2,
            amps >= needed.number * (1 - 1e-6),
            f"carries {as_read(amps)} A here",
        )
        for mm2, amps in table.items()
    )
    capacity = w.add(
        "motor_conductor.capacity_a", f"What {cable.words} of copper carries as laid", "Iz", able, "A", inputs=(needed,),
        rule=f"{laying.words()}, factor {laying.factor:.3g}" + (", six loaded leads" if leads == 6 else ""),
        source="IEC 60364-5-52, Tables B.52.2 to B.52.5, B.52.14, B.52.17", candidates=candidates, typical=s.cable_method is None,
        note="" if s.cable_method else f"The cable is not described: {laying.words()} is assumed.", field="supply.cable_section_mm2",
    )  # fmt: skip
    _judge(c, plate, lead_share, cable, able, dial_lead)
    figures = (needed, capacity, *check_drops(c, plate, cable, stages, starting_a))
    return Device(
        "W1", "motor_conductor", "motor_conductor", "Motor cable" if leads == 3 else "Motor leads, six",
        Required(current_a=needed.number),
        Selected(f"{cable.words} Cu", section_mm2=cable.section_mm2, parallel=cable.parallel if cable.parallel > 1 else None, rated_current_a=able, conductors=leads if plate.phases == 3 else 2),
        Settings(), figures=figures, choice=capacity,
    )  # fmt: skip


def _judge(c: Context, plate: Plate, lead_share: float, cable: MotorCable, able: float, dial_lead: float) -> None:
    amps = lead_share * plate.design.number
    if amps > able * (1 + 1e-6):
        c.find("stop", "cable_too_small", f"{cable.words} carries {as_read(able)} A here; {as_read(amps)} A flow in each lead",
               "supply.cable_section_mm2", device="W1")  # fmt: skip
    elif dial_lead > able * (1 + 1e-6):
        c.find("stop", "cable_not_protected", f"The overload protection lets {as_read(dial_lead)} A pass in each lead; {cable.words} carries "
               f"{as_read(able)} A here", "supply.cable_section_mm2", device="W1")  # fmt: skip


def check_drops(
    c: Context, plate: Plate, cable: MotorCable, stages: Sequence[Stage], starting_a: float
) -> list[Figure]:
    """Voltage lost in the motor cable, running and at the start.

    Parameters
    ----------
    cable : that is judged
    stages : of the start, the last one running
    starting_a : line current during the start [A]

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> s = example(supply={"cable_length_m": 40})
    >>> [f.text for f in check_drops(s.context, s.plate, s.context.cable, [Stage("direct on line")], 101)]
    ['1.87', '5.64']

    References
    ----------
    IEC 60364-5-52, annex G.
    """
    length = c.document.supply.cable_length_m
    if length is None:
        return []
    w, figures = c.working, []
    power_factor = plate.power_factor.number if plate.power_factor else 0.8
    metres = w.typed("supply.cable_length_m", "Cable to the motor", "L", length, "m")
    for name, label, amps, cos, limit, share, inputs in (
        ("running", "running", plate.design.number, power_factor, RUNNING_DROP_PCT, stages[-1].cable_share, (plate.design, metres)),
        ("starting", "at the start", starting_a, START_POWER_FACTOR, STARTING_DROP_PCT, stages[0].cable_share, (plate.locked_rotor, metres)),
    ):  # fmt: skip
        volts = voltage_drop_v(amps, cable, length, cos, three_phase=plate.phases == 3, cable_share=share)
        figure: Figure = w.add(
            f"voltage_drop_{name}_pct", f"Voltage drop in the motor cable, {label}", "ΔU", 100 * volts / plate.line_voltage_v, "%",
            inputs=inputs, rule=f"at most {limit:g} % (default), cosφ {cos:.2g}", source="IEC 60364-5-52, annex G",
        )  # fmt: skip
        figures.append(figure)
        if figure.number > limit * (1 + 1e-9):
            c.find("attention", f"voltage_drop_{name}", f"{figure.text} % of the voltage is lost in the motor cable {label}; the usual limit is {limit:g} %",
                   "supply.cable_section_mm2", device="W1")  # fmt: skip
    return figures
