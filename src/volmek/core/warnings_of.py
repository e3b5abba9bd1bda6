"""Findings that follow from the sized starter as a whole: what curves, start and circuit warn of counts on line-up, board and papers."""

from volmek.core.circuit.model.netlist import Circuit
from volmek.core.context import Context
from volmek.core.devices.dial import protecting, sees_a_lost_line
from volmek.core.installation.designations import MAIN_BREAKER, STAR_DELTA_TIMER
from volmek.core.methods.build import Built
from volmek.core.phase_loss.open_phase import burns_unseen
from volmek.core.physics.motor_circuit import Value, fit
from volmek.core.physics.motor_model import MotorModel
from volmek.core.plate.plate import Plate
from volmek.core.start.start import motor_of

#: Plate values of the equivalent circuit, in words, and where they are typed.
VALUES: dict[Value, tuple[str, str]] = {
    "rated_current": ("The rated current", "motor.rated_current_delta_a"),
    "power_factor": ("cosφ", "motor.power_factor"),
    "rated_speed": ("The speed", "motor.rated_speed_rpm"),
    "locked_rotor_current": ("Ia/In", "motor.locked_rotor_current_ratio"),
    "locked_rotor_torque": ("The starting torque", "motor.locked_rotor_torque_ratio"),
    "breakdown_torque": ("The breakdown torque", "motor.breakdown_torque_ratio"),
}


def add_findings(c: Context, plate: Plate, built: Built, circuit: Circuit | None) -> None:
    """Add them to a design in the making.

    Parameters
    ----------
    built : its devices, coordination and start
    circuit : its netlist; None while the options contradict each other
    """
    if plate.design_source == "table":
        c.find(
            "attention", "current_from_table", f"{plate.design.text} A is the table's value for a motor of this power, not this motor's: read the plate.",
            "motor.rated_current_a" if c.document.motor.rated_voltage_v else "motor.rated_current_delta_a",
        )  # fmt: skip
    timer = next((d for d in built.devices if d.role == "star_delta_timer"), None)
    if timer is not None and timer.figures[0].typical and built.start.result is None:
        star = timer.figures[0]
        c.find(
            "attention", "star_time_rule_of_thumb", f"{star.text} s in star is a rule of thumb: watch the speed and set it so that 80 % is reached.",
            "starter.star_time_s", device=STAR_DELTA_TIMER,
        )  # fmt: skip
    for check in built.coordination.checks:
        if check.state not in ("fine", "unknown"):
            c.find("attention", "coordination_check", check.message, "protection.device", device=MAIN_BREAKER)
    _phase_loss(c, plate, built)
    if built.start.reclosing_peak and built.start.drive:
        _doubt(c, built.start.drive.motor)
    if circuit is not None:
        _circuit(c, circuit)


def _phase_loss(c: Context, plate: Plate, built: Built) -> None:
    """A lost phase that burns the motor at its own load while the overload protection need not trip."""
    torque, relay = c.document.load.torque_pct, protecting(built.devices)
    if torque is None or relay is None or plate.phases == 1 or c.document.control.phase_monitor not in (None, "none"):
        return
    motor = motor_of(c.aside(), plate)
    if not isinstance(motor, MotorModel):
        return
    _doubt(c, motor)
    sensitive = sees_a_lost_line(relay)
    dial = (relay.dial_line_a or 0) / plate.design.number
    if burns_unseen(motor, torque / 100, delta=plate.connection == "delta", dial_ratio=dial, sensitive=sensitive):
        c.find(
            "attention", "phase_loss_unseen", f"With one line lost at {torque:g} % load the worst winding carries more than its rated current, and "
            f"{relay.designation} need not trip.", "control.phase_monitor", device=relay.designation,
        )  # fmt: skip


def _doubt(c: Context, motor: MotorModel) -> None:
    """The plate value that does not belong to the others, by the equivalent circuit."""
    found = fit(motor.plate) if motor.plate else None
    if found and found.doubted and found.circuit:
        name, field = VALUES[found.doubted]
        c.find("attention", "plate_value_doubted", f"{name} does not belong to the other values of the plate: no motor has all of them. "
               "The lost phase and the change-over are worked out without it.", field)  # fmt: skip


def _circuit(c: Context, circuit: Circuit) -> None:
    if "no_self_start" in circuit.declared and circuit.loads:
        c.find("attention", "restarts_by_itself", circuit.declared["no_self_start"], "control.scheme")
    if (
        circuit.source.alive_with_main_off
        or not circuit.overloads
        or circuit.overloads[0] != circuit.named("main_breaker")
    ):
        return
    asked = [
        *(x for x in c.document.control.lamps or [] if x == "tripped"),
        *(["buzzer"] if c.document.control.buzzer else []),
    ]
    if asked:
        c.find(
            "attention", "trip_lamp_dark", "The motor breaker takes the control voltage away as it trips: a lamp or buzzer for the trip stays dark and silent.",
            "control.tap",
        )  # fmt: skip
