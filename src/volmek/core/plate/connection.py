"""Connection of the motor on its supply, and the plate current that belongs to it."""

from math import log, sqrt

from volmek.core.context import Context
from volmek.core.installation.connection import (
    Connection,
    MotorConnection,
    accepts,
    frequencies_hz,
    motor_connection,
    plate_voltages,
)
from volmek.core.results.figures import Figure


def read_connection(c: Context, line_v: float, line_hz: float) -> tuple[Connection, Figure, Figure | None]:
    w = c.working
    plate_hz = frequencies_hz(c.document)[1]
    offers = plate_voltages(c.document)
    accepted = [(k, v, z) for k, v in offers for fits, z in [accepts(v, plate_hz, line_v, line_hz, nec=c.nec)] if fits]
    if not accepted:
        plate = " / ".join(f"{v:g} V{' ' + k if k != 'plate' else ''}" for k, v in offers)
        more = ""
        if abs(line_hz / plate_hz - 1) > 0.05:
            more = f"; at {line_hz:g} Hz instead of {plate_hz:g} Hz it would want {offers[0][1] * line_hz / plate_hz:.0f} V"
        c.find("stop", "supply_voltage_wrong", f"{line_v:g} V {line_hz:g} Hz fits no plate voltage ({plate}, {plate_hz:g} Hz) within ±10 %{more}.",
               "supply.line_voltage_v")  # fmt: skip
        kind, nearest = min(offers, key=lambda o: abs(log(line_v * plate_hz / (line_hz * o[1]))))
        accepted = [(kind, nearest, "")]
    connection, voltage, zone = accepted[0]
    deviation = 100 * (line_v / voltage - 1)
    if zone == "zone_b":
        c.find(
            "attention",
            "supply_zone_b",
            f"The supply, {line_v:g} V {line_hz:g} Hz, lies {deviation:+.1f} % from the plate's {voltage:g} V "
            f"{plate_hz:g} Hz: it may run there, but warmer, and not continuously.",
            "supply.line_voltage_v",
        )
    elif zone:
        speed = 100 * (line_hz / plate_hz - 1)
        what = (
            "less torque, since the iron is magnetised less"
            if zone == "under_fluxed"
            else "about the same torque, since voltage and frequency moved together"
        )
        c.find(
            "attention",
            "supply_other_frequency",
            f"A {plate_hz:g} Hz motor on {line_hz:g} Hz: speed {speed:+.0f} %, {what}; cooling and current change "
            "with it, and so does the power that the driven machine takes.",
            "supply.frequency_hz",
        )
    field = {
        "plate": "rated_voltage_v",
        "delta": "rated_voltage_delta_v",
        "star": "rated_voltage_star_v",
        "parallel": "rated_voltage_low_v",
        "series": "rated_voltage_high_v",
    }[connection]
    volts = w.add("plate_voltage_v", "Plate voltage in use", "U", voltage, "V", field=f"motor.{field}", source="typed")
    words = {
        "delta": "delta (△)",
        "star": "star (Y)",
        "plate": "as the one plate voltage says",
        "parallel": "windings in parallel, for the low voltage",
        "series": "windings in series, for the high voltage",
        "unknown": "not known",
    }
    two = connection in ("parallel", "series")
    _ask(c, motor_connection(c.document))
    w.add(
        "connection",
        "Connection of the motor's ends",
        "",
        words[connection],
        inputs=(volts,),
        rule="parallel at the low voltage, series at the high one"
        if two
        else "delta when the plate's delta voltage is within ±10 % of the line voltage, star when its star voltage is",
        source="NEMA MG 1, part 2 (terminal markings)" if two else "IEC 60034-1; IEC 60034-8 (terminal markings)",
    )
    return connection, volts, nameplate_current(c, connection)


def _ask(c: Context, connection: MotorConnection) -> None:
    """Findings that ask for the connection before the motor is connected."""
    if connection.kind in ("parallel", "series") and connection.asks:
        c.find("stop", "lead_connection_unknown", connection.asks, "motor.lead_connection")
    elif connection.asks:
        c.find("attention", "connection_unknown", connection.asks, "motor.leads")


def nameplate_current(c: Context, connection: Connection) -> Figure | None:
    m, w = c.document.motor, c.working
    label, rule = "Rated current on the plate", "the current that belongs to the connection used"
    source = "IEC 60034-1"
    delta = w.typed("motor.rated_current_delta_a", "Plate current in delta", "I△", m.rated_current_delta_a, "A")
    star = w.typed("motor.rated_current_star_a", "Plate current in star", "IY", m.rated_current_star_a, "A")
    if delta and star:
        expected = sqrt(3) * star.number
        # A plate rounds each figure to about a twentieth of an ampere.
        if abs(delta.number - expected) > 0.05 * expected + 0.1:
            c.find(
                "attention",
                "currents_not_root3",
                f"The plate currents {delta.text} A (delta) and {star.text} A (star) are not in the ratio √3 "
                f"({expected:.3g} A would be): one of them is misread.",
                "motor.rated_current_delta_a" if connection == "delta" else "motor.rated_current_star_a",
            )
    if connection == "delta" and (delta or star):
        if delta:
            return w.add(
                "plate_current_a",
                label,
                "In",
                delta.number,
                "A",
                formula="I△",
                inputs=(delta,),
                rule=rule,
                source=source,
            )
        assert star
        return w.add(
            "plate_current_a",
            label,
            "In",
            sqrt(3) * star.number,
            "A",
            formula="√3·IY",
            inputs=(star,),
            rule=rule,
            source=source,
        )
    if connection == "star" and (delta or star):
        if star:
            return w.add(
                "plate_current_a", label, "In", star.number, "A", formula="IY", inputs=(star,), rule=rule, source=source
            )
        assert delta
        return w.add(
            "plate_current_a",
            label,
            "In",
            delta.number / sqrt(3),
            "A",
            formula="I△/√3",
            inputs=(delta,),
            rule=rule,
            source=source,
        )
    if connection in ("parallel", "series"):
        return _two_voltage_current(c, connection, label, rule)
    one = w.typed("motor.rated_current_a", label, "I", m.rated_current_a, "A")
    return one and w.add(
        "plate_current_a", label, "In", one.number, "A", formula="I", inputs=(one,), rule=rule, source=source
    )


def _two_voltage_current(c: Context, connection: Connection, label: str, rule: str) -> Figure | None:
    """Plate current of a motor with a low and a high voltage: in parallel twice that in series."""
    m, w = c.document.motor, c.working
    source = "NEMA MG 1; IEC 60034-1"
    low = w.typed("motor.rated_current_low_a", "Plate current at the low voltage", "IL", m.rated_current_low_a, "A")
    high = w.typed("motor.rated_current_high_a", "Plate current at the high voltage", "IH", m.rated_current_high_a, "A")
    if low and high and abs(low.number - 2 * high.number) > CURRENT_TOLERANCE * low.number + 0.1:
        c.find(
            "attention",
            "currents_not_double",
            f"The plate currents {low.text} A (low voltage) and {high.text} A (high voltage) are not in the ratio 2: one of them is misread.",
            f"motor.rated_current_{'low' if connection == 'parallel' else 'high'}_a",
        )
    if connection == "parallel":
        own, value, formula = (low, low.number, "IL") if low else (high, 2 * high.number if high else 0.0, "2·IH")
    else:
        own, value, formula = (high, high.number, "IH") if high else (low, low.number / 2 if low else 0.0, "IL/2")
    return own and w.add(
        "plate_current_a", label, "In", value, "A", formula=formula, inputs=(own,), rule=rule, source=source
    )


#: And their currents, which a plate gives for one of the lower voltages.
CURRENT_TOLERANCE = 0.06
