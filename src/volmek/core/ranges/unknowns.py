"""Values that a design assumes as typical or leaves open: each with its spread, its source, and how to find it out."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from math import inf
from typing import Any

from volmek.core.document.model import StarterDocument
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import as_read
from volmek.core.sizing import Sized
from volmek.core.standards.tables import code_letter_range, typical_efficiency_pct, typical_motor_value
from volmek.data.loader import Row, standard


@dataclass(frozen=True, slots=True)
class Unknown:
    """An input that nobody typed.

    Attributes
    ----------
    field : of the document, where it can be typed
    label, unit : in words
    low, high : ends of its spread
    typical : what is used; None where nothing is
    source, how : of the spread, and how to find it out at the machine
    applied : the document with a value of it
    """

    field: str
    label: str
    unit: str
    low: float
    high: float
    typical: float | None
    source: str
    how: str
    applied: Callable[[StarterDocument, float], StarterDocument]

    def at(self, share: float) -> float:
        """Value at a share of the way from the low to the high end.

        Examples
        --------
        >>> from volmek.core.examples import example
        >>> u = next(x for x in unknowns(example(load={"start_time_s": None})) if x.field == "load.start_time_s")
        >>> u.at(0), u.at(1)
        (1.0, 8.0)
        """
        if self.low > 0 and self.high / self.low > 3:
            return float(self.low * (self.high / self.low) ** share)
        return self.low + (self.high - self.low) * share

    def read(self, value: float) -> str:
        """A value with its unit."""
        return f"{as_read(value)} {self.unit}".strip()


#: Least Ia/In that a document may hold.
LEAST_RATIO = 1.5


def _typed(document: StarterDocument, value: float, *, part: str, name: str) -> StarterDocument:
    """The document with a value in a field."""
    own = getattr(document, part).model_copy(update={name: value})
    return document.model_copy(update={part: own})


def _heavier(document: StarterDocument, factor: float, *, rotor_kgm2: float) -> StarterDocument:
    """The document with a run-up that takes so many times as long: all inertia grows by it."""
    load, motor = document.load, document.motor
    own = motor.rotor_inertia_kgm2 or rotor_kgm2
    return document.model_copy(
        update={
            "load": load.model_copy(update={"inertia_kgm2": (load.inertia_kgm2 or 0.0) * factor}),
            "motor": motor.model_copy(update={"rotor_inertia_kgm2": own * factor}),
        }
    )


def _spread(named: str, kw: float, kind: str | None) -> Row:
    """Spread of an input for a motor of this power and class: the row that is narrowest in what it is for."""
    rows = [r for r in standard("spread_of_inputs") if r["input"] == named and r["power_from_kw"] <= kw]
    own = [r for r in rows if kind and r["for"] == kind]
    return (own or [r for r in rows if not r["for"]])[-1]


def _ends(row: Row, typical: float | None) -> tuple[float, float]:
    if row["kind"] == "value" or typical is None:
        return row["low"], row["high"]
    if row["kind"] == "difference":
        return typical + row["low"], typical + row["high"]
    return typical * row["low"], typical * row["high"]


def unknowns(sized: Sized) -> tuple[Unknown, ...]:
    """The unknowns of a design, in the order of the plate.

    Parameters
    ----------
    sized : the design

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> [u.label for u in unknowns(example(motor={"locked_rotor_current_ratio": None}))][0]
    'Starting current Ia/In'

    References
    ----------
    Spreads: table ``spread_of_inputs``, each row with its source.
    """
    d, plate, start = sized.document, sized.plate, sized.built.start
    m, kw = d.motor, plate.power_kw or 4.0
    found: list[Unknown] = []

    def add(named: str, field: str, label: str, unit: str, typical: float | None, *, kind: str | None = None, applied: Any = None,
            within: tuple[float, float] = (0.0, inf)) -> None:  # fmt: skip
        row = _spread(named, kw, kind)
        part, _, name = field.partition(".")
        low, high = (min(max(end, within[0]), within[1]) for end in _ends(row, typical))
        put = applied or partial(_typed, part=part, name=name)
        found.append(Unknown(field, label, unit, low, high, typical, row["source"], row["how"], put))

    if plate.design_source == "table":
        add("rated current from the table, A", _current_field(plate), "Rated current", "A", plate.design.number)
    if m.locked_rotor_current_ratio is None and m.code_letter is None:
        ratio = plate.locked_rotor.number / plate.design.number
        add(
            "starting current Ia/In",
            "motor.locked_rotor_current_ratio",
            "Starting current Ia/In",
            "",
            ratio,
            kind=m.efficiency_class,
        )
    elif m.locked_rotor_current_ratio is None and m.code_letter:
        least, most = code_letter_range(m.code_letter)
        ratio = plate.locked_rotor.number / plate.design.number
        if most is not None and ratio > LEAST_RATIO:
            how = "Read Ia/In in the data sheet; or clamp the current at the first moment of a start."
            put = partial(_typed, part="motor", name="locked_rotor_current_ratio")
            found.append(Unknown("motor.locked_rotor_current_ratio", "Starting current Ia/In", "", max(ratio * least / most, LEAST_RATIO), ratio, ratio,
                                 "the two ends of the code letter, NEC Table 430.7(B)", how, put))  # fmt: skip
    running = start.drive is not None
    if running and plate.phases == 3:
        if m.locked_rotor_torque_ratio is None:
            most = 0.97 * m.breakdown_torque_ratio if m.breakdown_torque_ratio else inf
            add(
                "starting torque Ma/Mn",
                "motor.locked_rotor_torque_ratio",
                "Starting torque",
                "× Mn",
                typical_motor_value("locked_rotor_torque_ratio", kw),
                within=(0, most),
            )
        if m.breakdown_torque_ratio is None:
            locked = m.locked_rotor_torque_ratio or typical_motor_value("locked_rotor_torque_ratio", kw)
            usual = max(typical_motor_value("breakdown_torque_ratio", kw), 1.05 * locked)
            add(
                "breakdown torque Mb/Mn",
                "motor.breakdown_torque_ratio",
                "Breakdown torque",
                "× Mn",
                usual,
                within=(1.03 * locked, inf),
            )
        if m.rotor_inertia_kgm2 is None and d.load.measured_run_up_time_s is None:
            add(
                "inertia of the rotor, kg·m²",
                "motor.rotor_inertia_kgm2",
                "Inertia of the rotor",
                "kg·m²",
                typical_motor_value("rotor_inertia_kgm2", kw),
            )
        if d.load.torque_pct is None:
            add("load torque, % of rated", "load.torque_pct", "Load torque", "%", 80.0)
        if d.load.inertia_kgm2 is not None and d.load.start_time_s is None:
            rotor = typical_motor_value("rotor_inertia_kgm2", kw)
            kind = "star" if start.changes and start.changes[0].field == "starter.star_time_s" else "direct"
            add("run-up time from a plate", "load.measured_run_up_time_s", "Run-up from a plate", "times", 1.0, kind=kind,
                applied=partial(_heavier, rotor_kgm2=rotor))  # fmt: skip
        if start.dwell_s > 0 and d.starter.dwell_s is None:
            add("pause before delta, s", "starter.dwell_s", "Pause before delta", "s", start.dwell_s)
    if m.power_factor is None and plate.phases == 3 and plate.power_kw is not None:
        add("cosφ", "motor.power_factor", "cosφ", "", typical_motor_value("power_factor", kw))
    if m.efficiency_pct is None and plate.phases == 3 and plate.power_kw is not None:
        add(
            "efficiency, %",
            "motor.efficiency_pct",
            "Efficiency",
            "%",
            typical_efficiency_pct(kw, plate.poles or 4),
            within=(1, 99),
        )
    if start.source == "assumed" and not (start.result and start.result.stalls):
        add("starting time, s", "load.start_time_s", "Starting time", "s", start.figure.number)
    if sized.built.network is None:
        add("prospective current, kA", "supply.prospective_current_ka", "Prospective fault current", "kA", None)
    if d.supply.cable_length_m is None:
        add("length of the motor cable, m", "supply.cable_length_m", "Length of the motor cable", "m", None)
    if d.surroundings.ambient_c is None:
        both = d.surroundings.motor_ambient_c is None
        add(
            "temperature in the panel, °C",
            "surroundings.ambient_c",
            f"Temperature in the panel{' and at the motor' if both else ''}",
            "°C",
            40.0,
        )
    return tuple(found)


def _current_field(plate: Plate) -> str:
    names = {"delta": "motor.rated_current_delta_a", "star": "motor.rated_current_star_a", "parallel": "motor.rated_current_low_a",
             "series": "motor.rated_current_high_a"}  # fmt: skip
    return names.get(plate.connection, "motor.rated_current_a")
