"""Derated full-load current of a motor: ambient, altitude, unbalanced supply."""

from volmek.core.context import Context
from volmek.core.document.errors import PlateError
from volmek.core.plate.plate import negative_sequence_ratio, voltage_unbalance_pct
from volmek.core.results.figures import Figure, as_read
from volmek.core.standards.tables import surroundings_factor, unbalance_derating


def permitted_current(c: Context, base: Figure) -> Figure:
    d, w = c.document, c.working
    factors: list[Figure] = []
    fields: list[str] = []
    ambient = d.surroundings.motor_ambient_c if d.surroundings.motor_ambient_c is not None else d.surroundings.ambient_c
    field = "surroundings.motor_ambient_c" if d.surroundings.motor_ambient_c is not None else "surroundings.ambient_c"
    for kind, at, value, label, symbol, source in (
        (
            "ambient_c",
            field,
            ambient,
            "Motor ambient factor",
            "kϑ",
            "IEC 60034-1, 8.10; the maker's data takes precedence",
        ),
        (
            "altitude_m",
            "surroundings.altitude_m",
            d.surroundings.altitude_m,
            "Motor altitude factor",
            "kh",
            "IEC 60034-1, 8.10; the maker's data takes precedence",
        ),
    ):
        if value is None:
            continue
        try:
            factor = surroundings_factor(kind, value)
        except ValueError:
            limit = "60 °C" if kind == "ambient_c" else "4000 m"
            raise PlateError.at(
                at, f"{value:g} is beyond {limit}, where the factors end; ask the motor's maker"
            ) from None
        if factor < 1:
            typed = w.typed(
                at,
                "Ambient temperature" if kind == "ambient_c" else "Altitude",
                "x",
                value,
                "°C" if kind == "ambient_c" else "m",
            )
            fields.append(at)
            factors.append(
                w.add(
                    f"motor_{kind}_factor",
                    label,
                    symbol,
                    factor,
                    formula="table(x)",
                    inputs=(typed,),
                    rule="above 40 °C or 1000 m",
                    source=source,
                )
            )
    unbalance = _unbalance(c)
    if unbalance:
        fields.append("supply.measured_voltages_v")
        factors.append(unbalance)
    if not factors:
        return w.add(
            "permitted_current_a",
            "Derated full-load current",
            "Iperm",
            base.number,
            "A",
            formula="In",
            inputs=(base,),
            rule="up to 40 °C, 1000 m and on a balanced supply",
            source="IEC 60034-1, 6",
        )
    value = base.number
    for f in factors:
        value *= f.number
    c.find(
        "attention",
        "motor_derated",
        f"Derated full-load current {as_read(value)} A instead of {base.text} A; the overload setting follows {'the most loaded line' if unbalance else 'it'}.",
        fields[0],
    )
    return w.add(
        "permitted_current_a",
        "Derated full-load current",
        "Iperm",
        value,
        "A",
        formula="In·" + "·".join(f.symbol for f in factors),
        inputs=(base, *factors),
        rule="the overload setting follows it",
        source="IEC 60034-1, 8.10; NEMA MG 1, 14.36",
    )


def _unbalance(c: Context) -> Figure | None:
    measured = c.document.supply.measured_voltages_v
    if measured is None:
        return None
    w, at = c.working, "supply.measured_voltages_v"
    volts = (measured[0], measured[1], measured[2])
    figure = w.add(
        "voltage_unbalance_pct",
        "Voltage unbalance",
        "u%",
        voltage_unbalance_pct(volts),
        "%",
        formula="100·max|Ui − mean|/mean",
        rule="greatest deviation from the mean",
        source="NEMA MG 1, 14.36.2",
        note=f"True unbalance U2/U1 is {100 * negative_sequence_ratio(volts):.2f} %.",
        field=at,
    )
    rule, source = "derated from 1 %, not run above 5 %", "NEMA MG 1, 14.36"
    if figure.number > 5:
        c.find(
            "stop",
            "unbalance_too_high",
            f"The measured voltages are unbalanced by {figure.number:.1f} %; above 5 % the motor is not to be run.",
            at,
        )
    factor = unbalance_derating(min(figure.number, 5.0))
    if factor == 1:
        return None
    return w.add(
        "motor_unbalance_factor",
        "Unbalance factor",
        "ku",
        factor,
        formula="table(u%)",
        inputs=(figure,),
        rule=rule,
        source=source,
    )
