"""Motor conductors of North American practice: 125 % of the table current, by the ampacity table."""

from volmek.core.context import Context
from volmek.core.devices.device import Device, Required, Selected
from volmek.core.devices.settings import Settings
from volmek.core.document.errors import NoDeviceError
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import Candidate, Figure, as_read
from volmek.data.loader import standard

#: Sets of conductors in parallel that are tried, and the least size that may lie so (310.10(G)).
MOST_SETS, LEAST_PARALLEL = 6, "1/0 AWG"
#: 14 to 1 AWG end at 60 °C terminals unless these are marked otherwise (NEC 110.14(C)(1)(a)).
SIXTY_DEGREE_SIZES = ("14 AWG", "12 AWG", "10 AWG", "8 AWG", "6 AWG", "4 AWG", "3 AWG", "2 AWG", "1 AWG")
SHARE = 1.25


def ampacity_factor(ambient_c: float, current_carrying: int) -> float:
    """Factor on the 75 °C ampacity for ambient temperature and number of conductors.

    Parameters
    ----------
    ambient_c : [°C], up to 50
    current_carrying : conductors in the raceway, 1 … 20

    Raises
    ------
    ValueError : beyond the tables.

    Examples
    --------
    >>> ampacity_factor(30, 3), ampacity_factor(38, 6)
    (1.0, 0.704)

    References
    ----------
    NEC Tables 310.15(B)(1) and 310.15(C)(1).
    """
    try:
        ambient = next(
            r["factor"] for r in standard("conductor_ambient_factor_nec_75c") if ambient_c <= r["ambient_max_c"]
        )
        count = next(
            r["factor"]
            for r in standard("conductor_count_factor_nec")
            if r["current_carrying_min"] <= current_carrying
            and (r["current_carrying_max"] is None or current_carrying <= r["current_carrying_max"])
        )
    except StopIteration:
        raise ValueError(f"no factor for {ambient_c:g} °C and {current_carrying} conductors") from None
    return float(round(ambient * count, 6))


def select_conductor(c: Context, plate: Plate, current: Figure, lead_share: float) -> Device:
    """Size of the motor's branch-circuit conductors.

    Parameters
    ----------
    current : full-load current that sizes them
    lead_share : share of it in each lead; below 1 there are six leads

    Raises
    ------
    NoDeviceError : no size of the table carries the current, or the ambient is beyond its factors.

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> example_device("W1", practice="nec", motor={"rated_voltage_v": 460, "rated_current_a": 14, "rated_voltage_delta_v": None, "rated_voltage_star_v": None, "rated_current_delta_a": None, "leads": 3}, supply={"line_voltage_v": 460, "frequency_hz": 60}).selected.size
    '12 AWG'

    References
    ----------
    NEC 430.22, Table 310.16, 110.14(C)(1).
    """
    w, s, m = c.working, c.document.supply, c.document.motor
    needed = w.add(
        "motor_conductor.required_ampacity_a",
        "Required ampacity of the motor conductors",
        "Iz,min",
        SHARE * lead_share * current.number,
        "A",
        formula=f"1.25·{current.symbol}" if lead_share == 1 else f"1.25·{lead_share:.3g}·{current.symbol}",
        inputs=(current,),
        rule="125 % of the full-load current",
        source="NEC 430.22",
    )
    seventy_five = m.nec_design_letter in ("B", "C", "D")
    conductors = 6 if lead_share < 1 else 3 if m.phases == 3 else 2
    ambient = s.cable_ambient_c if s.cable_ambient_c is not None else 30.0
    try:
        count = conductors * (s.cable_grouping or 1)
        factor = ampacity_factor(ambient, count)
    except ValueError as error:
        raise NoDeviceError.at("supply.cable_ambient_c", f"{error}; the table ends at 70 °C") from None
    looked_at = []
    taken: tuple[str, float, str, int] | None = None
    rows = standard("conductor_ampacity_copper_nec310_16")
    sizes = [r["size"] for r in rows]
    for sets in range(1, MOST_SETS + 1):
        for row in rows if sets == 1 else rows[sizes.index(LEAST_PARALLEL) :]:
            column = "60" if row["size"] in SIXTY_DEGREE_SIZES and not seventy_five else "75"
            # Terminals limit the size by their own column, surroundings by the conductor's 75 °C insulation.
            able = sets * min(row[f"ampacity_{column}c_a"], row["ampacity_75c_a"] * factor)
            fits = able >= needed.number * (1 - 1e-6)
            if fits and taken is None:
                taken = (row["size"], able, column, sets)
            if sets == 1 or (taken is not None and taken[3] == sets):
                said = f"{as_read(able)} A, {column} °C column" + ("" if factor == 1 else f", factor {factor:g}")
                name = row["size"] if sets == 1 else f"{sets} × {row['size']}"
                looked_at.append(Candidate(name, taken == (row["size"], able, column, sets), fits, said))
        if taken is not None:
            break
    if taken is None:
        raise NoDeviceError.at(
            "motor.rated_power_hp", f"{MOST_SETS} conductors of Table 310.16 in parallel do not carry {needed.text} A"
        )
    size, able, column, sets = taken
    if sets > 1:
        words = f"No single conductor of the table is enough for {needed.text} A; {sets} of {size} in parallel are used, each set in a raceway of its own."
        c.find("info", "cables_in_parallel", words, "supply.cable_section_mm2", device="W1")
    figure = w.add(
        "motor_conductor.size",
        "Smallest copper conductor",
        "",
        size,
        inputs=(needed,),
        candidates=tuple(looked_at),
        rule=f"{column} °C column" + (" (design B, C or D motor)" if seventy_five else "") + f", {ambient:g} °C, "
        f"{count} current-carrying conductors",
        source="NEC Table 310.16, 110.14(C)(1)",
    )
    disconnect = w.add(
        "disconnect_a",
        "Minimum rating of the disconnecting means",
        "Idisc",
        1.15 * current.number,
        "A",
        formula=f"1.15·{current.symbol}",
        inputs=(current,),
        rule="115 % of the full-load current",
        source="NEC 430.110(A)",
    )
    return Device(
        "W1",
        "motor_conductor",
        "motor_conductor",
        "Motor conductors",
        Required(current_a=needed.number),
        Selected(
            f"{size} copper" if sets == 1 else f"{sets} × {size} copper",
            size=size,
            parallel=sets if sets > 1 else None,
            rated_current_a=able,
            column_c=int(column),
            conductors=conductors,
        ),
        Settings(),
        figures=(needed, figure, disconnect),
        choice=figure,
    )
