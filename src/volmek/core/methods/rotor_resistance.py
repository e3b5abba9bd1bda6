"""Slip-ring motor: resistors in the rotor, taken out in steps."""

from math import sqrt

from volmek.core.context import Context
from volmek.core.devices.part import IN_THE_LINE, ContactorPart
from volmek.core.document.errors import Problem
from volmek.core.document.model import StarterDocument
from volmek.core.methods.method import Layout, Method, three_phase_only
from volmek.core.physics.run_up import Stage
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import Figure, as_read

ROTOR_CURRENT = "motor.rotor_current_a"
#: Starting current of a slip-ring motor in multiples of rated current, and its number of steps.
SLIP_RING_START, STEPS = 2.0, 3
#: Locked-rotor torque of direct on line that a slip-ring start is compared with.
USUAL_LOCKED_TORQUE = 2.2
DELTA_POLES = 0.58
#: Rated slip of a slip-ring motor whose speed is not known.
USUAL_SLIP = 0.03
TIMES = ("starter.first_stage_time_s", "starter.second_stage_time_s", "starter.third_stage_time_s")


def _refuses(document: StarterDocument) -> list[Problem]:
    m = document.motor
    return three_phase_only(document) + [
        Problem(f"motor.{name}", f"a slip-ring start needs the {words} from the plate", True)
        for name, value, words in (
            ("rotor_voltage_v", m.rotor_voltage_v, "rotor voltage"),
            ("rotor_current_a", m.rotor_current_a, "rotor current"),
        )
        if value is None
    ]


def _rated_slip(document: StarterDocument) -> float:
    m = document.motor
    if not m.rated_speed_rpm:
        return USUAL_SLIP
    hertz = m.frequency_hz or document.supply.frequency_hz or 50.0
    pairs = int(60 * hertz / m.rated_speed_rpm + 1e-9)
    return max(1 - m.rated_speed_rpm * pairs / (60 * hertz), 0.005)


def ring_stages(document: StarterDocument) -> tuple[Stage, ...]:
    """One stage for each resistor that is still in, and one with the rings short-circuited."""
    slip = _rated_slip(document)
    # Shares of the standstill voltage and rated current of the rotor cancel: only ratios are wanted.
    added = rotor_resistances_ohm(1.0, 1.0, slip, SLIP_RING_START, STEPS)
    own = slip / sqrt(3)
    steps = tuple(
        Stage(f"over the rotor resistors, step {i}", rotor_ratio=1 + r / own) for i, r in enumerate(added, start=1)
    )
    return (*steps, Stage("with the rings short-circuited", rotor_ratio=1.0))


def _layout(document: StarterDocument) -> Layout:
    stator = ContactorPart(
        "line_contactor", "K1", "Stator contactor", category="AC-2", why="it carries the line current; slip-ring duty"
    )
    steps = tuple(
        ContactorPart(
            f"rotor_contactor_{i}", f"K{i + 1}", f"Rotor contactor {i}", 1.0 if i == STEPS else DELTA_POLES,
            "1" if i == STEPS else "0.58", branch=True, start_share=0.0, current_field=ROTOR_CURRENT, category="AC-2",
            why="the last step carries the rotor current" if i == STEPS else "its three poles in delta carry 0.58 of the rotor current",
        )
        for i in range(1, STEPS + 1)
    )  # fmt: skip
    return Layout(
        (stator, *steps),
        (IN_THE_LINE,),
        figures=_resistor_figures,
        stages=lambda plate: ring_stages(document),
        timed=TIMES,
    )


def rotor_resistances_ohm(
    rotor_voltage_v: float, rotor_current_a: float, rated_slip: float, start_multiple: float, steps: int
) -> list[float]:
    """Resistance in each phase of the rotor circuit while each step is in, the largest first.

    Parameters
    ----------
    rotor_voltage_v : between the rings with the rotor at rest [V], > 0
    rotor_current_a : rated rotor current [A], > 0
    rated_slip : [-], > 0
    start_multiple : current at the start in multiples of rated current [-], > 0
    steps : number of contactors that take resistance out, >= 1

    Returns
    -------
    Added resistance in each phase before the first, second … contactor closes [ohm].

    Examples
    --------
    >>> [round(r, 2) for r in rotor_resistances_ohm(260, 130, 0.03, 2.0, 3)]
    [0.54, 0.19, 0.05]

    References
    ----------
    Geometric steps: R_total = U2/(√3·m·I2), R_rotor = s·U2/(√3·I2), each step the same ratio; usual practice.
    """
    whole = rotor_voltage_v / (sqrt(3) * start_multiple * rotor_current_a)
    own = rated_slip * rotor_voltage_v / (sqrt(3) * rotor_current_a)
    ratio = (whole / own) ** (1 / steps)
    return [whole / ratio**i - own for i in range(steps)]


def _resistor_figures(c: Context, plate: Plate, protection: str) -> tuple[Figure, ...]:
    """The rotor resistors of a slip-ring start, as figures; their ids."""
    m, w = c.document.motor, c.working
    assert m.rotor_voltage_v
    assert m.rotor_current_a
    u2 = w.typed("motor.rotor_voltage_v", "Rotor voltage on the plate", "U2", m.rotor_voltage_v, "V")
    i2 = w.typed(ROTOR_CURRENT, "Rotor current on the plate", "I2", m.rotor_current_a, "A")
    slip = _rated_slip(c.document)
    s = w.add("rated_slip", "Rated slip", "s", slip, field="motor.rated_speed_rpm", typical=m.rated_speed_rpm is None,
              rule="from the speed on the plate" if m.rated_speed_rpm else "typical of a slip-ring motor", source="IEC 60034-1")  # fmt: skip
    values = rotor_resistances_ohm(m.rotor_voltage_v, m.rotor_current_a, slip, SLIP_RING_START, STEPS)
    return tuple(
        w.add(
            f"rotor_resistor_{i}_ohm", f"Added resistance in each phase before K{i + 1} closes", f"R{i}", value, "Ω",
            inputs=(u2, i2, s), rule=f"geometric steps from {as_read(SLIP_RING_START)} times rated current",
            source="R = U2/(√3·m·I2), divided by the same ratio at each step; usual practice",
            note="Short-time rated for the start; the maker's data takes precedence.",
        )
        for i, value in enumerate(values, start=1)
    )  # fmt: skip


METHOD = Method(
    label="Resistors in the rotor",
    cost="Slip-ring motor: twice the current, up to breakdown torque; resistors and three rotor contactors.",
    leads=6,
    roles=("line_contactor", *(f"rotor_contactor_{i}" for i in range(1, STEPS + 1))),
    refuses=_refuses,
    layout=_layout,
    line_current_share=lambda document, inrush_ratio: min(SLIP_RING_START / inrush_ratio, 1.0),
    torque_share=lambda document, inrush_ratio: min(SLIP_RING_START / USUAL_LOCKED_TORQUE, 1.0),
)
