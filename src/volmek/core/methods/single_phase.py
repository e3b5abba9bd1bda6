"""Common parts of single-phase methods: capacitors, start winding, and the loop through the relay."""

from math import log, pi, sqrt

from volmek.core.context import Context
from volmek.core.devices.part import RelayPart
from volmek.core.document.errors import Problem
from volmek.core.document.model import StarterDocument
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import Figure, as_read

#: Turns ratio of start winding to main winding where the maker does not tell.
TURNS_RATIO = 1.2
LEAST_RUN_CAPACITOR_V = 400.0
TYPICAL_RUN_UF_PER_KW, START_OVER_RUN = 50.0, 2.5
LONGEST_START_WINDING_S = 3.0
TOUCHABLE_V = 50.0
#: What the contact of a push-button may carry (AC-15 at 230 V, usual).
BUTTON_CONTACT_A = 6.0
WITH_RUN = ("capacitor_run", "capacitor_start_run")
WITH_START = ("capacitor_start", "capacitor_start_run")
WITH_START_WINDING = ("split_phase", *WITH_START)
LOOP = RelayPart(
    why="through all three poles in series: out through the first, back through the second, the neutral through the third"
)


def typical_run_capacitor_uf(rated_power_kw: float, voltage_v: float, frequency_hz: float) -> float:
    """Usual run capacitor, for a plate that does not tell.

    Parameters
    ----------
    rated_power_kw : [kW], > 0
    voltage_v, frequency_hz : [V], [Hz], > 0

    Examples
    --------
    >>> round(typical_run_capacitor_uf(0.55, 230, 50), 1)
    27.5

    References
    ----------
    30 to 70 µF for each kW at 230 V 50 Hz, the middle, by (230/U)²·(50/f); usual practice.
    """
    return TYPICAL_RUN_UF_PER_KW * rated_power_kw * (230 / voltage_v) ** 2 * (50 / frequency_hz)


def capacitor_voltage_v(voltage_v: float, turns_ratio: float = TURNS_RATIO) -> float:
    """Voltage across a run capacitor.

    Examples
    --------
    >>> round(capacitor_voltage_v(230))
    359

    References
    ----------
    U·√(1+a²), a the turns ratio of start to main winding.
    """
    return voltage_v * sqrt(1 + turns_ratio**2)


def discharge_time_s(resistor_ohm: float, capacitor_uf: float, capacitor_voltage: float) -> float:
    """Time until a capacitor with a bleed resistor is down to 50 V.

    Examples
    --------
    >>> round(discharge_time_s(100e3, 25, 359), 1)
    5.8

    References
    ----------
    t = R·C·ln(√2·U/50).
    """
    return resistor_ohm * capacitor_uf * 1e-6 * log(sqrt(2) * capacitor_voltage / TOUCHABLE_V)


def one_phase_only(document: StarterDocument) -> list[Problem]:
    """A three-phase motor has methods of its own."""
    if document.motor.phases == 3:
        return [Problem("motor.phases", "a three-phase motor needs a method for three phases")]
    return []


def auxiliary_figures(c: Context, plate: Plate, protection: str) -> tuple[Figure, ...]:
    """Capacitors, their voltage and discharge, and what a start button would carry; with ``protection`` the device that protects against overload, empty where none does."""
    m, w = c.document.motor, c.working
    kind = m.single_phase_kind
    if protection:
        c.find(
            "info",
            "single_phase_loop",
            "One current must flow through all three poles of the overload protection: out through the first, back through "
            "the second, the neutral through the third; else a relay that senses phase loss trips early, another one late.",
            "motor.phases",
            device=protection,
        )
    if kind is None:
        c.find("attention", "single_phase_kind_unknown", "The kind of single-phase motor is not known: capacitors and start winding are not checked",
               "motor.single_phase_kind")  # fmt: skip
        return ()
    start_s = c.document.load.start_time_s
    if kind in WITH_START_WINDING and start_s and start_s > LONGEST_START_WINDING_S:
        c.find("attention", "start_winding_too_long", f"The start winding is in circuit for {start_s:g} s; longer than {LONGEST_START_WINDING_S:g} s burns it",
               "load.start_time_s")  # fmt: skip
    figures: list[Figure] = []
    volts = w.add("capacitor_voltage_v", "Voltage across the capacitor", "Uc", capacitor_voltage_v(plate.line_voltage_v), "V",
                  inputs=(plate.plate_voltage,), formula=f"U·√(1+{TURNS_RATIO:g}²)", typical=True,
                  rule=f"run capacitor for at least {LEAST_RUN_CAPACITOR_V:g} V AC", source="usual turns ratio; the maker's data takes precedence")  # fmt: skip
    run = None
    if kind in WITH_RUN or kind in WITH_START:
        kw = plate.power_kw or 0.5
        usual = typical_run_capacitor_uf(kw, plate.line_voltage_v, plate.frequency_hz)
        if kind in WITH_RUN:
            run = _capacitor(c, "run_capacitor_uf", "Run capacitor", "Cr", m.run_capacitor_uf, usual)
            figures += [run, volts]
            needed = max(LEAST_RUN_CAPACITOR_V, volts.number) if plate.line_voltage_v > 150 else volts.number
            _check_voltage(c, "run_capacitor", m.run_capacitor_uf, m.run_capacitor_voltage_v, needed)
        if kind in WITH_START:
            start = _capacitor(
                c, "start_capacitor_uf", "Start capacitor", "Cs", m.start_capacitor_uf, START_OVER_RUN * usual
            )
            amps = 2 * pi * plate.frequency_hz * start.number * 1e-6 * plate.line_voltage_v
            button = w.add("start_button_a", "Current through a contact that switches the start capacitor", "Ibutton", amps, "A",
                           formula=f"2π·{plate.frequency_hz:g}·Cs/10⁶·U", inputs=(start, plate.plate_voltage),
                           rule=f"a push-button carries about {BUTTON_CONTACT_A:g} A", source="IEC 60947-5-1, AC-15")  # fmt: skip
            figures += [start, button]
            _check_voltage(
                c, "start_capacitor", m.start_capacitor_uf, m.start_capacitor_voltage_v, plate.line_voltage_v
            )
            if amps > BUTTON_CONTACT_A:
                c.find("attention", "start_button_overloaded", f"The start capacitor draws {button.text} A through the contact that switches it; a push-button "
                       f"carries about {BUTTON_CONTACT_A:g} A", "motor.start_capacitor_uf")  # fmt: skip
    if run is not None:
        if m.bleed_resistor_ohm is None:
            c.find("attention", "no_bleed_resistor", "No bleed resistor is known on the capacitor: no time can be given; discharge it and prove it dead before touching",
                   "motor.bleed_resistor_ohm")  # fmt: skip
        else:
            bleed = w.typed("motor.bleed_resistor_ohm", "Bleed resistor", "R", m.bleed_resistor_ohm, "Ω")
            figures.append(w.add("discharge_time_s", "Time to discharge to 50 V", "td",
                             discharge_time_s(m.bleed_resistor_ohm, run.number, volts.number), "s", formula="R·Cr/10⁶·ln(√2·Uc/50)",
                             inputs=(bleed, run, volts), rule="then still prove it dead", source="exponential discharge"))  # fmt: skip
    return tuple(figures)


def _check_voltage(c: Context, name: str, typed_uf: float | None, rated_v: float | None, needed_v: float) -> None:
    """The voltage rating of a capacitor that is there; one that is still to be bought says what it needs."""
    words = name.replace("_", " ")
    if rated_v is not None and rated_v < needed_v * (1 - 1e-6):
        c.find("stop", "capacitor_voltage_low", f"The {words} is rated {rated_v:g} V; there is up to {as_read(needed_v)} V across it: it will fail.",
               f"motor.{name}_voltage_v", device="K1")  # fmt: skip
    elif rated_v is None and typed_uf is not None:
        c.find("attention", "capacitor_voltage_unknown", f"The voltage rating of the {words} is not known; at least {as_read(needed_v)} V AC is needed.",
               f"motor.{name}_voltage_v", device="K1")  # fmt: skip


def _capacitor(c: Context, name: str, label: str, symbol: str, typed: float | None, usual: float) -> Figure:
    field = f"motor.{name}"
    figure = c.working.typed(field, f"{label} on the plate", symbol, typed, "µF")
    return figure or c.working.add(field, f"{label}, usual", symbol, usual, "µF", typical=True, field=field,
                                   rule="30 to 70 µF for each kW at 230 V 50 Hz; a start capacitor 2 to 3 times that",
                                   source="usual practice; the plate takes precedence")  # fmt: skip
