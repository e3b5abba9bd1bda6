"""The dial of the overload protection, by the school in use, and how a dial is judged."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import acos, cos, inf, sin, sqrt

from volmek.core.context import Context
from volmek.core.devices.device import Device
from volmek.core.devices.part import RelayPart
from volmek.core.physics.thermal import BAND_SOURCE, MUST_TRIP_MULTIPLE, NO_TRIP_MULTIPLE
from volmek.core.plate.plate import Plate, negative_sequence_ratio, no_load_current_ratio, voltage_unbalance_pct
from volmek.core.results.figures import Candidate, Figure, as_read
from volmek.core.standards.tables import typical_motor_value, unbalance_derating

#: From this multiple of the permitted current on, an IEC dial has its margin twice.
DOUBLE_MARGIN = 1.15


def relay_setting_a(rated_current_a: float, power_factor: float, capacitor_current_a: float) -> float:
    """Current through a relay on the line side of a capacitor at the motor's terminals.

    Parameters
    ----------
    rated_current_a : motor current at full load [A], > 0
    power_factor : at full load [-], in (0, 1]
    capacitor_current_a : Ic = Q/(√3·U) [A], ≥ 0

    Examples
    --------
    >>> round(relay_setting_a(66, 0.86, 20), 1)
    58.4

    References
    ----------
    Phasor sum: Iset = √((In·cosφ)² + (In·sinφ − Ic)²).
    """
    phi = acos(power_factor)
    return sqrt((rated_current_a * cos(phi)) ** 2 + (rated_current_a * sin(phi) - capacitor_current_a) ** 2)


def percentage_setting_a(
    full_load_current_a: float, limit_pct: float, ultimate_trip_multiple: float, *, trip_amperes: bool
) -> float:
    """Dial figure that keeps a relay's greatest trip current at a percentage of the nameplate current.

    Parameters
    ----------
    full_load_current_a : nameplate current [A], > 0
    limit_pct : greatest trip current allowed [% of it]: 125, 115, after a failed start 140, 130
    ultimate_trip_multiple : greatest trip current over dial, marked on a relay in motor amperes [-]
    trip_amperes : the dial is marked in trip amperes instead

    Examples
    --------
    >>> round(percentage_setting_a(100, 115, 1.20, trip_amperes=False), 1)
    95.8
    >>> percentage_setting_a(100, 125, 1.20, trip_amperes=False)
    100
    >>> round(percentage_setting_a(100, 115, 1.20, trip_amperes=True), 1)
    115.0

    References
    ----------
    NEC 430.32(A)(1) and (C): motor amperes min(FLA, pct·FLA/m), trip amperes pct·FLA.
    """
    share = limit_pct / 100
    if trip_amperes:
        return share * full_load_current_a
    return min(full_load_current_a, share * full_load_current_a / ultimate_trip_multiple)


@dataclass(frozen=True, slots=True)
class Dial:
    """The setting of the overload protection.

    Attributes
    ----------
    computed : what the rule gives; ``used`` that or the user's own
    base : motor current that it protects
    line : motor current that the dial stands for
    ultimate_trip : greatest motor current that the relay lets pass for ever
    ratio : motor current over relay current (current transformers, place of the relay)
    start_share : share of the starting current of direct on line that flows through it during the start
    stage_shares : share of the line current in each stage of a computed run-up
    factor : share of the motor current at full load
    """

    computed: Figure
    used: Figure
    base: Figure
    line: Figure
    ultimate_trip: Figure
    ratio: float
    start_share: float
    stage_shares: tuple[float, ...]
    factor: float


def protecting(devices: Sequence[Device]) -> Device | None:
    """The device whose dial and class protect the motor against overload: the one answer for curves, heat, phase loss and simulation.

    The overload relay, else any relay (of two speeds, when there is no other), else the motor breaker.

    Parameters
    ----------
    devices : of a design

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> protecting(example().built.devices).designation
    'Q1'
    """
    found = [d for d in devices if d.dial_line_a is not None and d.settings.trip_class]
    found.sort(key=lambda d: (d.role != "overload_relay", d.kind != "overload_relay"))
    return found[0] if found else None


def sees_a_lost_line(device: Device) -> bool:
    """Sensitivity of an overload protection to a lost line: a motor breaker always, a relay where its maker says so.

    Parameters
    ----------
    device : a motor breaker or overload relay

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> sees_a_lost_line(example_device("Q1"))
    True

    References
    ----------
    IEC 60947-4-1, 8.2.1.5.2.
    """
    return device.selected.phase_loss_sensitive is not False


def set_dial(c: Context, plate: Plate, role: str, designation: str, part: RelayPart, line_share: float) -> Dial:
    """Work out the dial by the school in use, take the user's own figure if there is one, and judge it.

    Parameters
    ----------
    c : inputs and log of the sizing
    plate : what the plate and the supply come to
    role, designation : of the device with the dial
    part : where the relay lies and what flows through it
    line_share : line current during the start as a share of direct on line [-]

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> round(example_device("F1", starter={"type": "star_delta"}).settings.dial_a, 2)
    8.31

    References
    ----------
    IEC 60947-4-1; NEC 430.32.
    """
    d, w = c.document, c.working
    p = d.protection
    through, base = _through_relay(c, plate, role, part)
    school = p.overload_school or ("percentage" if c.nec else "nameplate")
    trip_amperes = p.dial_marking == "trip_amperes"
    multiple = w.typed(
        "protection.ultimate_trip_multiple",
        "Ultimate trip current over setting, as marked on the relay",
        "m",
        p.ultimate_trip_multiple,
    )
    assert multiple
    limit = None
    if school == "percentage":
        limit = _limit(c)
        value = percentage_setting_a(through.number, limit.number, multiple.number, trip_amperes=trip_amperes)
        computed = w.add(
            f"{role}.computed_dial_a",
            "Setting by the percentage rule",
            "Iset",
            value,
            "A",
            formula="p%/100·Ir" if trip_amperes else "min(Ir, p%/100·Ir/m)",
            inputs=(limit, through) if trip_amperes else (through, limit, multiple),
            rule="the relay trips at the latest at p % of the plate current",
            source="NEC 430.32(A)(1), (C)",
            school="ultimate trip percentage (North American practice)",
            note="The dial is marked in trip amperes: it shows the current at which it trips."
            if trip_amperes
            else "The dial is marked in motor amperes: the percentage is included already. Setting it at 115 or 125 % of the plate "
            "current would apply the margin twice.",
        )
    else:
        value = through.number * (multiple.number if trip_amperes else 1.0)
        computed = w.add(
            f"{role}.computed_dial_a",
            "Setting by the plate-current rule",
            "Iset",
            value,
            "A",
            formula="m·Ir" if trip_amperes else "Ir",
            inputs=(multiple, through) if trip_amperes else (through,),
            rule="setting = current through the relay at full load; the relay's own band, 1.05 to 1.20, is the margin",
            source=BAND_SOURCE,
            school="setting = nameplate current (IEC practice)",
            note="The dial is marked in trip amperes, so the same relay shows m times as much."
            if trip_amperes
            else "Setting it 15 to 25 % higher would apply the margin twice.",
        )
    schools = _schools(c, through, multiple.number, computed, trip_amperes=trip_amperes)
    override = d.override(role)
    if override and override.dial_a is not None:
        used = w.add(
            f"{role}.dial_a",
            "Overload setting, your choice",
            "Iset",
            override.dial_a,
            "A",
            inputs=(computed,),
            rule=f"your choice: {override.reason}",
            source="override",
            field=f"overrides.{role}",
            candidates=schools,
        )
    else:
        used = w.again(computed, id=f"{role}.dial_a", label="Overload setting", symbol="Iset", candidates=schools)
    ratio = (p.current_transformer_ratio or 1.0) / part.factor
    trip = used.number * ratio * (1.0 if trip_amperes else multiple.number)
    line = w.add(
        f"{role}.dial_line_a",
        "Motor current that the setting corresponds to",
        "Iline",
        used.number * ratio / (multiple.number if trip_amperes else 1.0),
        "A",
        formula=("Iset/m" if trip_amperes else "Iset") + (f"·{ratio:.3g}" if ratio != 1 else ""),
        inputs=(used, multiple) if trip_amperes else (used,),
        rule="by the place of the relay, its transformers and its marking",
        source=BAND_SOURCE,
    )
    ultimate = w.add(
        f"{role}.ultimate_trip_a",
        "Motor current at the ultimate trip",
        "Itrip",
        trip,
        "A",
        formula=("Iset" if trip_amperes else "m·Iset") + (f"·{ratio:.3g}" if ratio != 1 else ""),
        inputs=(used,) if trip_amperes else (multiple, used),
        rule="after long enough, from warm",
        source=BAND_SOURCE,
    )
    if p.failed_start_recorded and school != "percentage":
        c.find(
            "info",
            "failed_start_unused",
            "A failed start is recorded, but the plate-current rule has no higher percentage.",
            "protection.failed_start_recorded",
        )
    share = line_share if part.start_share is None else part.start_share
    dial = Dial(computed, used, base, line, ultimate, ratio, share, part.stage_shares, part.factor)
    _judge(c, plate, dial, limit, designation, role, trip_amperes=trip_amperes)
    return dial


def _schools(
    c: Context, through: Figure, multiple: float, computed: Figure, *, trip_amperes: bool
) -> tuple[Candidate, ...]:
    """Setting by each rule, so that the one in use can be compared with the other."""
    pct, _ = _limit_pct(c)
    by_percentage = percentage_setting_a(through.number, pct, multiple, trip_amperes=trip_amperes)
    by_nameplate = through.number * (multiple if trip_amperes else 1.0)
    percentage = computed.school.startswith("ultimate")
    return (
        Candidate("nameplate", not percentage, True, f"{as_read(by_nameplate)} A: set to the plate current"),
        Candidate(
            "percentage",
            percentage,
            True,
            f"{as_read(by_percentage)} A: trips at the latest at {pct:g} % of the plate current",
        ),
    )


def _limit_pct(c: Context) -> tuple[float, str]:
    m = c.document.motor
    generous = (m.service_factor or 1.0) >= 1.15 or (m.temperature_rise_k is not None and m.temperature_rise_k <= 40)
    why = "service factor ≥ 1.15 or rise ≤ 40 °C" if generous else "service factor below 1.15, or not on the plate"
    if c.document.protection.failed_start_recorded:
        return 140.0 if generous else 130.0, why
    return 125.0 if generous else 115.0, why


def _limit(c: Context) -> Figure:
    m, w = c.document.motor, c.working
    recorded = c.document.protection.failed_start_recorded
    pct, why = _limit_pct(c)
    factor = w.typed("motor.service_factor", "Service factor", "SF", m.service_factor)
    return w.add(
        "overload_limit_pct",
        "Maximum trip current, of the plate current",
        "p%",
        pct,
        "%",
        inputs=(factor,),
        rule=why + ("; a failed start is recorded" if recorded else ""),
        source="NEC 430.32(C)" if recorded else "NEC 430.32(A)(1)",
        school="North American practice",
    )


def _worst_line(c: Context, plate: Plate, role: str) -> Figure | None:
    """Current of the most loaded line when the motor carries what it may on unbalanced voltages; None where they derate nothing.

    The derating spares the motor, not the relay: a relay set to the derated mean would trip at a load that the motor may carry.
    """
    volts = c.document.supply.measured_voltages_v
    if volts is None or plate.phases != 3:
        return None
    three = (volts[0], volts[1], volts[2])
    factor = unbalance_derating(min(voltage_unbalance_pct(three), 5.0))
    if factor == 1:
        return None
    permitted, share = plate.permitted.number, negative_sequence_ratio(three)
    negative_a = share * plate.locked_rotor.number
    return c.working.add(
        f"{role}.worst_line_a", "Current of the most loaded line at the derated load", "Imax", min(permitted + negative_a, permitted / factor),
        "A", formula="min(Iperm + U2/U1·Ia, Iperm/ku)", inputs=(plate.permitted, plate.locked_rotor),
        rule=f"U2/U1 = {100 * share:.2f} %: the negative sequence meets the motor as one at standstill; never more than a balanced supply would allow",
        source="symmetrical components; NEMA MG 1, 14.36",
    )  # fmt: skip


def _through_relay(c: Context, plate: Plate, role: str, part: RelayPart) -> tuple[Figure, Figure]:
    """Current through the relay, by a capacitor on its load side and current transformers; and the current it protects."""
    s, w = c.document.supply, c.working
    figure = base = plate.permitted
    if part.current_field:
        own = getattr(c.document.motor, part.current_field.partition(".")[2])
        typed = w.typed(part.current_field, "Low speed's current on the plate", "Ilow", own, "A")
        assert typed
        share = plate.permitted.number / plate.design.number
        figure = base = w.add(
            f"{role}.own_current_a",
            "Derated full-load current at this speed",
            "Ilow,perm",
            share * typed.number,
            "A",
            formula=f"{share:.3g}·Ilow" if share != 1 else "Ilow",
            inputs=(typed,),
            rule="each speed its own current and relay",
            source="IEC 60947-4-1",
        )
    elif worst := _worst_line(c, plate, role):
        figure = worst
    if s.power_factor_capacitor_kvar and s.power_factor_capacitor_position is None:
        c.find(
            "attention",
            "capacitor_position_unknown",
            "A capacitor is given, but not whether it lies ahead of or downstream of the "
            "overload relay; the setting assumes that it lies before.",
            "supply.power_factor_capacitor_position",
        )
    if s.power_factor_capacitor_kvar and s.power_factor_capacitor_position == "after_relay" and plate.power_factor:
        kvar = w.typed("supply.power_factor_capacitor_kvar", "Capacitor", "Q", s.power_factor_capacitor_kvar, "kvar")
        volts = w.typed("supply.line_voltage_v", "Line voltage", "U", plate.line_voltage_v, "V")
        assert kvar
        ic = w.add(
            "capacitor_current_a",
            "Capacitor current",
            "Ic",
            1000 * kvar.number * (sqrt(3) if plate.phases == 1 else 1) / (sqrt(3) * plate.line_voltage_v),
            "A",
            formula="1000·Q / U" if plate.phases == 1 else "1000·Q / (√3·U)",
            inputs=(kvar, volts),
            source="arithmetic",
        )
        figure = w.add(
            f"{role}.capacitor_corrected_a",
            "Current through the relay with the capacitor downstream of it",
            "Ir",
            relay_setting_a(plate.permitted.number, plate.power_factor.number, ic.number),
            "A",
            formula="√((Iperm·cosφ)² + (Iperm·sinφ − Ic)²)",
            inputs=(plate.permitted, plate.power_factor, ic),
            rule="the capacitor supplies part of the reactive current",
            source="phasor sum",
        )
        mb = c.document.motor.breakdown_torque_ratio or typical_motor_value(
            "breakdown_torque_ratio", plate.power_kw or 4.0
        )
        i0 = no_load_current_ratio(plate.power_factor.number, mb)
        if ic.number > 0.9 * i0 * plate.design.number:
            c.find(
                "attention",
                "self_excitation",
                f"The capacitor draws {ic.text} A, more than 0.9 of the no-load current ({as_read(i0 * plate.design.number)} A): "
                "switched off together, the motor can excite itself to overvoltage.",
                "supply.power_factor_capacitor_kvar",
            )
    ratio = c.document.protection.current_transformer_ratio
    if ratio:
        r = w.typed("protection.current_transformer_ratio", "Current transformer ratio", "n", ratio)
        figure = w.add(
            f"{role}.secondary_current_a",
            "Current through the relay, through current transformers",
            "Ir",
            figure.number / ratio,
            "A",
            formula=f"{figure.symbol}/n",
            inputs=(figure, r),
            rule="Iset = In·s/p",
            source="transformer ratio",
            note="Check the transformers' burden against relay and leads.",
        )
    through = w.add(
        f"{role}.relay_current_a",
        "Current through the relay at full load",
        "Ir",
        part.factor * figure.number,
        "A",
        formula=f"{part.formula}·{figure.symbol}"
        if part.factor != 1
        else figure.symbol
        if figure.symbol != "Ir"
        else "",
        inputs=(figure,),
        rule=part.why,
        source="IEC 60947-4-1",
    )
    return through, base


def _judge(
    c: Context, plate: Plate, dial: Dial, limit: Figure | None, designation: str, role: str, *, trip_amperes: bool
) -> None:
    set_by_user = dial.used.number != dial.computed.number
    at = f"overrides.{role}" if set_by_user else "protection.ultimate_trip_multiple"
    base = dial.base
    share = 100 * dial.ultimate_trip.number / (base.number or inf)
    if limit is not None and share > limit.number * (1 + 1e-6):
        twice = (
            ""
            if trip_amperes
            else f" The dial is marked in motor amperes and trips at up to {dial.ultimate_trip.text} A: the "
            "margin is included already, a higher setting applies it twice."
        )
        c.find(
            "stop",
            "overload_above_limit",
            f"Set at {dial.used.text} A it trips at the latest at {share:.0f} % of {base.text} A; {limit.text} % is allowed.{twice}",
            at,
            fix=f"Set {dial.computed.text} A.",
            device=designation,
        )
    elif limit is None and dial.used.number > dial.computed.number * 1.02:
        ratio = dial.used.number / dial.computed.number
        double = ratio >= DOUBLE_MARGIN * (1 - 1e-9)
        c.find(
            "stop" if double else "attention",
            "double_margin",
            f"Set at {dial.used.text} A, {100 * (ratio - 1):.0f} % above the {dial.computed.text} A that is right: the relay includes "
            f"its margin already and would trip only at {dial.ultimate_trip.text} A, {share:.0f} % of the derated full-load current.",
            at,
            fix=f"Set {dial.computed.text} A.",
            device=designation,
        )
    no_trip = dial.used.number * dial.ratio * (NO_TRIP_MULTIPLE if not trip_amperes else 1 / MUST_TRIP_MULTIPLE)
    if dial.used.number < dial.computed.number * 0.95:
        sure = dial.ultimate_trip.number <= base.number
        c.find(
            "stop" if sure else "attention",
            "dial_low",
            f"Set at {dial.used.text} A it {'trips' if sure else 'may trip'} at full load "
            f"({base.text} A; it does not trip up to {as_read(no_trip)} A).",
            at,
            fix=f"Set {dial.computed.text} A.",
            device=designation,
        )
