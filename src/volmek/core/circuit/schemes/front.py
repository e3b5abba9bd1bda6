"""From the live side to the node ``r`` behind which a method has its coils: how it is started, held and stopped."""

from volmek.core.circuit.model.notation import parallel, series
from volmek.core.circuit.schemes.builder import Builder

STAYS_OFF = "Stays off after a supply failure, a trip, a phase fault or a stop until start is pressed."
BY_ITSELF = "Restarts by itself when the supply comes back, the phases are healthy again or the overload is reset: a maintained contact starts it."
FIELD = {
    "float_fill": "Float, closed while the level is low",
    "float_drain": "Float, closed while the level is high",
    "pressure": "Pressure switch, closed on demand",
    "thermostat": "Thermostat, closed on demand",
    "limit": "Limit switch, closed on demand",
}


def front(b: Builder, hold: str, condition: str = "") -> None:
    """The way to ``r``.

    Parameters
    ----------
    hold : contact that keeps ``r`` live after start is released
    condition : contact that must be closed for a start
    """
    c = b.document.control
    if c.standby:
        _standby(b)
    elif c.scheme == "three_wire":
        _three_wire(b, hold, condition)
    else:
        _maintained(b)


def _three_wire(b: Builder, hold: str, condition: str) -> None:
    c = b.document.control
    b.restart = STAYS_OFF
    b.head()
    start = b.start_buttons(condition)
    if b.monitor_behind and b.monitored:
        hold = series(hold, "fed", "F2:11-14")
        b.declared["phase_monitor_drops_all"] = (
            "While start is held the monitor on the load side of the contactor is bypassed; it must have pulled in before start is released."
        )
    before = b.before_coil()
    if c.jog == "relay":
        b.device("S4", "button", "Jog", role="jog")
        b.device("K6", "relay", "Run relay")
        b.starts.append("S4")
        b.line("bus", "S4:1-2", parallel(start, "K6:13-14"), "K6:A1")
        b.line("bus", parallel("S4:3-4", "K6:23-24"), before, "r")
    elif c.jog and c.variant == "as_often_built":
        b.device("S4", "button", "Jog", role="jog")
        b.starts.append("S4")
        b.line("bus", parallel(start, "S4:3-4", series("S4:1-2", hold)), before, "r")
    elif c.jog:
        b.device(
            "S4", "selector", "Jog / run", role="jog_selector", positions=("jog", "run"), closed_in={"13-14": (1,)}
        )
        b.line("bus", parallel(start, series("S4:13-14", hold)), before, "r")
    else:
        b.line("bus", parallel(start, hold), before, "r")


def _latched(b: Builder, overload: str, *, reset: str, relay: tuple[str, str]) -> None:
    """Feed of a maintained contact through a reset relay: the emergency stop drops it until somebody resets."""
    name, text = relay
    b.device(reset, "button", "Reset after emergency stop", role="reset")
    b.device(name, "relay", text)
    b.starts.append(reset)
    b.line(b.after_monitor(), overload, "o" if overload else "", "S0:1-2", "g")
    b.line("g", parallel(f"{reset}:3-4", f"{name}:13-14"), f"{name}:A1")
    b.line("g", f"{name}:23-24", "e")


def _maintained(b: Builder) -> None:
    c = b.document.control
    b.armed = "e"
    overload = b.overload_contacts() if c.overload_contact in (None, "line_side") else ""
    if c.emergency_stop:
        _latched(b, overload, reset="S4", relay=("K6", "Latch"))
        b.restart = "Stays off after a supply failure, a trip or the emergency stop until reset is pressed; then a maintained contact starts it."
    else:
        b.after_overload = "e"
        b.line(b.after_monitor(), overload, "e")
        b.restart = BY_ITSELF
        b.declared["no_self_start"] = b.restart
    if c.scheme == "hand_off_auto" or not c.field_contact:
        auto = c.scheme == "hand_off_auto"
        b.device(
            "S5", "selector", "Hand / off / auto" if auto else "Off / on", positions=("off", "hand", "auto") if auto else ("off", "on"),
            closed_in={"13-14": (1,), "23-24": (2,)},
        )  # fmt: skip
        b.stops.append("S5")
    if c.field_contact or c.scheme == "hand_off_auto":
        what = c.field_contact or "limit"
        b.device("B1", "field", FIELD[what], form=what)
    if c.scheme == "hand_off_auto":
        b.line("e", parallel("S5:13-14", series("S5:23-24", "B1:11-14")), b.before_coil(), "r")
    elif c.field_contact:
        b.line("e", "B1:11-14", b.before_coil(), "r")
    else:
        b.line("e", "S5:13-14", b.before_coil(), "r")


def _standby(b: Builder) -> None:
    """One pump of a pair: runs, or stands by until the pressure stays away."""
    c = b.document.control
    b.armed = "e"
    b.device("S5", "selector", "Off / ready", positions=("off", "ready"), closed_in={"13-14": (1,)})
    b.device(
        "S6",
        "selector",
        "Run / off / stand-by",
        role="duty",
        positions=("off", "run", "stand-by"),
        closed_in={"13-14": (1,), "23-24": (2,)},
    )
    b.device("S4", "button", "Reset stand-by")
    b.device("B2", "field", "Pressure low", role="standby_pressure", form="pressure")
    b.device("K6", "relay", "Latch of the stand-by")
    b.device("K7", "relay", "Alarm relay")
    b.stops += ["S5", "S6"]
    overload = b.overload_contacts()
    if c.emergency_stop:
        _latched(b, overload, reset="S9", relay=("K8", "Permission"))
    else:
        b.after_overload = "e"
        b.line(b.after_monitor(), overload, "e")
    b.line("e", "S5:13-14", "w")
    b.line("w", "KT2:A1")
    b.line("w", "KT2:15-18", "v")
    b.line("v", "S6:13-14", "r")
    b.line("v", "S6:23-24", "y")
    b.line("y", "KT3:A1")
    b.line("y", "S4:1-2", parallel(series("KT3:15-18", "B2:11-14"), "K6:13-14"), "K6:A1")
    b.line("y", "KT3:25-28", "P6")
    b.line("v", "K6:23-24", "r")
    b.meanings["P6"] = "armed"
    # The autotransformer has its late-break contact in the sixth place.
    b.line("r", "K1:71-72" if b.document.starter.type == "autotransformer" else "K1:61-62", "KT4:A1")
    b.line("e", "KT4:15-16", "K6:31-32", "K7:A1")
    b.restart = "The duty pump restarts by itself after its delay; the stand-by loses its call when the supply fails."
    b.declared["no_self_start"] = b.restart
