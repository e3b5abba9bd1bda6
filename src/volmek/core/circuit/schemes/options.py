"""Options of a circuit that contradict each other."""

from volmek.core.document.errors import Problem
from volmek.core.document.model import StarterDocument, method_of

#: Methods with several coils side by side, each of which would need an overload contact of its own.
SEVERAL_COILS = ("reversing", "two_speed", "single_phase_reversing", "soft_starter", "star_delta_manual")
OWN_START = (
    "reversing",
    "two_speed",
    "single_phase_reversing",
    "soft_starter",
    "star_delta_manual",
    "star_delta_closed",
)


def contradictions(document: StarterDocument) -> list[Problem]:
    """Options that contradict each other, each with the field and the reason.

    Examples
    --------
    >>> from volmek.core.document.model import parse
    >>> d = parse({"tag": "A", "control": {"scheme": "two_wire", "standby": True}})
    >>> [p.field for p in contradictions(d)]
    ['control.standby']

    References
    ----------
    IEC 60204-1, 9.4 (earth faults in control circuits) and 7.3 (restart after an overload).
    """
    c, method = document.control, method_of(document)
    found: list[Problem] = []
    if c.overload_contact in ("return_side", "before_coil") and (c.standby or method == "soft_starter"):
        found.append(
            Problem(
                "control.overload_contact",
                "relays and electronics are in parallel with the coils here: it belongs on the line side, ahead of all of them",
            )
        )
    if c.overload_contact == "before_coil" and method in SEVERAL_COILS:
        found.append(
            Problem(
                "control.overload_contact",
                "one contact cannot be in series with several coils; it belongs ahead of them all",
            )
        )
    if c.scheme != "three_wire" and c.standby:
        found.append(
            Problem(
                "control.standby",
                "a stand-by set has its own selectors; it cannot be combined with two-wire control or hand-off-auto",
            )
        )
    if c.scheme != "three_wire" and document.protection.reset == "automatic":
        found.append(
            Problem(
                "protection.reset",
                "with a maintained contact an automatic reset starts the motor again and again on a fault",
            )
        )
    if c.scheme != "three_wire" and method in OWN_START:
        found.append(
            Problem(
                "control.scheme", "this method is started by its own buttons; a maintained contact does not suit it"
            )
        )
    if c.standby and method in (*OWN_START, "rotor_resistance"):
        found.append(
            Problem(
                "control.standby",
                "a stand-by set starts direct on line, star-delta or another method with one start command",
            )
        )
    if c.jog and (c.scheme != "three_wire" or c.standby or method != "direct_on_line"):
        found.append(Problem("control.jog", "jogging needs a direct-on-line starter with push-buttons"))
    if c.jog == "relay" and c.overload_contact in ("before_coil", "return_side"):
        found.append(
            Problem(
                "control.overload_contact",
                "at the coil alone it leaves the run relay in: with start held through the trip, reset starts the motor",
            )
        )
    if c.controller_signal and c.controller_signal_form == "fail_safe" and c.overload_contact == "return_side":
        found.append(
            Problem(
                "control.controller_signal_form",
                "on the return side the overload contact cannot take the trip relay out: the signal has to be one on trip",
            )
        )
    if c.monitor_position == "motor_side" and c.standby:
        found.append(
            Problem(
                "control.monitor_position",
                "on the load side of the contactor a monitor never lets a set that starts by itself start the motor",
            )
        )
    if c.monitor_position == "motor_side" and method != "direct_on_line":
        found.append(
            Problem(
                "control.monitor_position",
                "on the load side of the contactor a monitor is fitted to a direct-on-line starter",
            )
        )
    if c.monitor_position == "motor_side" and c.scheme != "three_wire":
        found.append(
            Problem(
                "control.monitor_position",
                "on the load side of the contactor a monitor never lets a maintained contact start the motor",
            )
        )
    if c.monitor_position == "motor_side" and "phase_healthy" in (c.lamps or []):
        found.append(
            Problem(
                "control.lamps",
                "on the load side of the contactor the start button would light a lamp for healthy phases",
            )
        )
    if c.hold == "power_pole" and (
        method != "direct_on_line" or c.scheme != "three_wire" or c.jog or c.overload_contact
    ):
        found.append(
            Problem("control.hold", "seal-in from a power pole is possible for a plain direct-on-line starter only")
        )
    if c.hold == "power_pole" and c.source not in (None, "common"):
        found.append(
            Problem(
                "control.hold", "a power pole cannot seal in a coil that is fed from a transformer or another source"
            )
        )
    kind, single = document.motor.single_phase_kind, document.motor.phases == 1
    switched = kind in ("split_phase", "capacitor_start", "capacitor_start_run")
    if c.start_capacitor_switch and not (single and switched):
        found.append(
            Problem(
                "control.start_capacitor_switch",
                "only a motor with a start winding that is taken out has a switch for it",
            )
        )
    if method == "single_phase_reversing" and c.start_capacitor_switch in ("button", "timer"):
        found.append(
            Problem(
                "control.start_capacitor_switch", "with two directions the switch goes by speed, current or voltage"
            )
        )
    found += _as_often_built(document)
    often_built = c.variant == "as_often_built" and method == "single_phase_direct"
    if often_built and c.start_capacitor_switch == "timer":
        found.append(Problem("control.start_capacitor_switch", "the circuit as often built has no time relay"))
    if method == "single_phase_reversing" and kind == "shaded_pole":
        found.append(Problem("motor.single_phase_kind", "a shaded-pole motor has one direction"))
    if c.hold == "power_pole" and c.tap == "before_main":
        found.append(
            Problem(
                "control.tap", "a power pole on the load side of Q1 cannot seal in a coil that is tapped ahead of it"
            )
        )
    if often_built and (c.tap == "before_main" or c.source in ("separate", "transformer", "power_unit")):
        found.append(Problem("control.source", "the circuit as often built seals in from a pole of the power circuit"))
    if c.tap == "before_main" and c.source == "separate":
        found.append(Problem("control.tap", "a supply of its own is not tapped from the motor's lines"))
    if c.earthed_point == "centre" and (c.source != "transformer" or c.earthed is not True):
        found.append(
            Problem(
                "control.earthed_point", "only the secondary of an earthed control transformer is earthed in its middle"
            )
        )
    if document.motor.phases == 1 and c.control_phase not in (None, "L1"):
        found.append(Problem("control.control_phase", "a single-phase starter has one line, L1"))
    if c.phase_monitor in (None, "none"):
        found += [
            Problem("control.lamps", f"a lamp for {name.replace('_', ' ')} needs a phase monitor")
            for name in c.lamps or []
            if name in ("phase_healthy", "phase_fault")
        ]
    return found


def _as_often_built(document: StarterDocument) -> list[Problem]:
    """What the circuits that are often built have no place for."""
    c, method = document.control, method_of(document)
    if c.variant != "as_often_built":
        return []
    if method == "star_delta_manual" and c.overload_contact == "return_side":
        return [
            Problem(
                "control.overload_contact",
                "in the circuit as often built the return of the star contactor is not behind it",
            )
        ]
    if method != "single_phase_direct":
        return []
    chosen = {
        "scheme": c.scheme != "three_wire", "overload_contact": c.overload_contact, "phase_monitor": c.phase_monitor not in (None, "none"),
        "emergency_stop": c.emergency_stop, "buzzer": c.buzzer, "controller_signal": c.controller_signal,
        "start_stations": (c.start_stations or 1) > 1, "stop_stations": (c.stop_stations or 1) > 1,
        "lamps": set(c.lamps or []) - {"running"},
    }  # fmt: skip
    return [
        Problem(
            f"control.{name}",
            "the circuit as often built has a start, a stop, a coil and a running lamp, and no place for this",
        )
        for name, given in chosen.items()
        if given
    ]
