"""Copper conductors: resistivity, reactance and the protective conductor that belongs to a line conductor."""

#: Resistivity of copper at 20 °C and at working temperature [Ω·mm²/m], and reactance of a cable [Ω/m].
COPPER_20C_OHM_MM2_PER_M = 0.0185
COPPER_WARM_OHM_MM2_PER_M = 0.0225
REACTANCE_OHM_PER_M = 0.08e-3
#: Resistance of a conductor at the end of a fault over that at 20 °C.
END_OF_FAULT = 1.2


def conductor_resistance_ohm(length_m: float, section_mm2: float, *, warm: bool = False) -> float:
    """Resistance of a copper conductor.

    Parameters
    ----------
    length_m : one way [m], >= 0
    section_mm2 : [mm²], > 0
    warm : at working temperature, else at 20 °C

    Examples
    --------
    >>> round(conductor_resistance_ohm(100, 10), 3), round(conductor_resistance_ohm(100, 10, warm=True), 3)
    (0.185, 0.225)

    References
    ----------
    IEC 60909-0 (20 °C); IEC 60364-5-52, annex G (warm): R = ρ·L/S.
    """
    rho = COPPER_WARM_OHM_MM2_PER_M if warm else COPPER_20C_OHM_MM2_PER_M
    return rho * length_m / section_mm2


def protective_section_mm2(section_mm2: float) -> float:
    """Section of the protective conductor that belongs to a line conductor.

    Parameters
    ----------
    section_mm2 : of the line conductor [mm²], > 0

    Examples
    --------
    >>> protective_section_mm2(10), protective_section_mm2(25), protective_section_mm2(95)
    (10, 16, 47.5)

    References
    ----------
    IEC 60364-5-54, Table 54.2.
    """
    return section_mm2 if section_mm2 <= 16 else 16 if section_mm2 <= 35 else section_mm2 / 2
