"""Two speeds: a contactor and a relay for each, two windings or one tapped."""

from dataclasses import replace
from math import pi

from volmek.core.context import Context
from volmek.core.devices.part import ContactorPart, RelayPart
from volmek.core.document.errors import PlateError, Problem
from volmek.core.document.model import StarterDocument
from volmek.core.installation.connection import frequencies_hz
from volmek.core.methods.method import Layout, Method, OtherStart, always, three_phase_only
from volmek.core.physics.motor_model import current_parameter, double_cage
from volmek.core.physics.numeric import np
from volmek.core.physics.run_up import Drive, LoadModel
from volmek.core.plate.plate import Plate

LOW_CURRENT = "motor.low_speed_current_a"
#: Rated slip that an induction motor may have.
LEAST_SLIP, MOST_SLIP = 0.0005, 0.2
#: Points by which the load is told over the low speed.
POINTS = 53


def _low_speed(c: Context, plate: Plate, drive: Drive) -> Drive | str:
    """The motor at its low speed with the same load: what the low plate lacks is taken as the high speed has it.

    References
    ----------
    The load's torque at a speed does not depend on how the motor is wound; torque = power / speed.
    """
    m, high = c.document.motor, drive.motor
    if m.low_speed_rpm is None or m.low_speed_current_a is None:
        return "the rpm of the low speed"
    plate_hz = frequencies_hz(c.document)[1]
    pairs = int(60 * plate_hz / m.low_speed_rpm + 1e-9)
    if pairs < 1:
        return "a low speed that an induction motor has"
    synchronous = 2 * pi * plate.frequency_hz / pairs
    slip = 1 - m.low_speed_rpm * pairs / (60 * plate_hz)
    if not LEAST_SLIP <= slip <= MOST_SLIP:
        return "a low speed that an induction motor has"
    times = plate.frequency_hz / plate_hz  # torque and slip in rev/min stay, power and speed follow the frequency
    high_w = high.rated_torque_nm * high.synchronous_rad_s * (1 - high.rated_slip) / times
    typed = m.low_speed_power_kw
    low_w = 1000 * typed if typed else high_w * m.low_speed_current_a / high.rated_current_a
    power = c.working.add("motor.low_speed_power_kw", "Power at the low speed", "Plow", low_w / 1000, "kW", field="motor.low_speed_power_kw",
                          typical=typed is None, rule="as typed" if typed else "as the currents of the two speeds",
                          source="typed" if typed else "no better known")  # fmt: skip
    torque = 1000 * power.number * times / (synchronous * (1 - slip))
    slip /= times
    try:
        motor = replace(
            high, rated_current_a=m.low_speed_current_a, synchronous_rad_s=synchronous, rated_slip=slip, rated_torque_nm=torque,
            q=current_parameter(slip, high.inrush_ratio, high.no_load_ratio),
            cages=None if high.cages is None else double_cage(slip, high.breakdown, high.locked),
        )  # fmt: skip
    except PlateError as error:
        return f"low-speed values that belong together: {error.problems[0].message}"
    # The same load over the low speed's own scales of speed and torque.
    own = np.linspace(0.0, 1.3, POINTS)
    ratio = synchronous * (1 - slip) / (high.synchronous_rad_s * (1 - high.rated_slip))
    loads = drive.load.at(own * ratio) * high.rated_torque_nm / torque
    load = LoadModel(float(np.interp(1.0, own, loads)), points=tuple(zip(own.tolist(), loads.tolist(), strict=True)))
    return replace(drive, motor=motor, load=load)


def _refuses(document: StarterDocument) -> list[Problem]:
    m = document.motor
    problems = three_phase_only(document)
    if m.low_speed_current_a is None:
        problems.append(Problem(LOW_CURRENT, "each speed has its own current and relay; type the low speed's", True))
    if m.low_speed_rpm is not None and m.rated_speed_rpm is not None and m.low_speed_rpm >= m.rated_speed_rpm:
        problems.append(
            Problem(
                "motor.low_speed_rpm", f"{m.low_speed_rpm:g} rpm is not below the high speed, {m.rated_speed_rpm:g} rpm"
            )
        )
    return problems


def _layout(document: StarterDocument) -> Layout:
    low = ContactorPart("low_speed_contactor", "K1", "Low-speed contactor", current_field=LOW_CURRENT,
                        why="it carries the low speed's current")  # fmt: skip
    high = ContactorPart(
        "high_speed_contactor", "K2", "High-speed contactor", why="it carries the high speed's current", branch=True
    )
    star = ContactorPart("high_speed_star_contactor", "K3", "High-speed star contactor", 0.5, "0.5",
                         "it joins the two parallel halves of the winding", branch=True)  # fmt: skip
    relays = (
        RelayPart(
            "low_speed_overload_relay",
            "F1",
            why="the low speed's current flows through it",
            current_field=LOW_CURRENT,
            without="it is set for the high speed; at the low speed nothing protects the motor",
        ),
        RelayPart("overload_relay", "F4", why="the high speed's current flows through it"),
    )
    tapped = document.motor.speed_winding == "tapped"
    return Layout(
        (low, high, star) if tapped else (low, high),
        relays,
        interlock="K1 and K2" + (", K1 and K3" if tapped else ""),
        other=OtherStart(LOW_CURRENT, _low_speed),
    )


METHOD = Method(
    label="Two speeds",
    cost="A contactor and a relay for each speed; two windings, or one tapped.",
    leads=6,
    roles=("low_speed_contactor", "high_speed_contactor", "high_speed_star_contactor", "low_speed_overload_relay"),
    refuses=_refuses,
    layout=_layout,
    line_current_share=always(1.0),
    torque_share=always(1.0),
    care="Only for a motor wound for two speeds; from high to low through stop.",
)
