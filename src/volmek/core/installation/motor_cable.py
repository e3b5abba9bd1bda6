"""Conductors between starter and motor: those that the document says, or those that are proposed."""

from dataclasses import dataclass

from volmek.core.physics.conductors import REACTANCE_OHM_PER_M, conductor_resistance_ohm


@dataclass(frozen=True, slots=True)
class MotorCable:
    """Motor cable of a starter.

    Attributes
    ----------
    section_mm2 : of each conductor
    parallel : cables side by side
    typed : its section stands in the document; else it is proposed
    """

    section_mm2: float
    parallel: int = 1
    typed: bool = True

    @property
    def words(self) -> str:
        """As it is ordered.

        Examples
        --------
        >>> MotorCable(2.5).words, MotorCable(185, 2).words
        ('2.5 mm²', '2 × 185 mm²')
        """
        return (f"{self.parallel} × " if self.parallel > 1 else "") + f"{self.section_mm2:g} mm²"

    def impedance_ohm(self, length_m: float) -> complex:
        """Of the conductors of one phase at working temperature, one way.

        Parameters
        ----------
        length_m : of the cable [m], >= 0

        Examples
        --------
        >>> round(MotorCable(2.5).impedance_ohm(50).real, 3)
        0.45

        References
        ----------
        IEC 60364-5-52, annex G: ρ·L/S of warm copper, and 0.08 mΩ/m.
        """
        resistance = conductor_resistance_ohm(length_m, self.section_mm2, warm=True)
        return complex(resistance, REACTANCE_OHM_PER_M * length_m) / self.parallel
