"""The control supply: its source, the worst step of the pull-in order, and its loads."""

from volmek.core.context import Context
from volmek.core.devices.coil import HIGHEST, PICK_UP
from volmek.core.devices.control_breaker import select_control_breaker
from volmek.core.devices.control_transformer import select_power_unit, select_primary_breaker, select_transformer
from volmek.core.devices.device import Device
from volmek.core.devices.phase_monitor import select_monitor
from volmek.core.installation.control import KINDS, ControlSource, greatest_earth_fault_share
from volmek.core.installation.supply import SupplySystem
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import Candidate, Figure, as_read

#: What a signal lamp takes where nothing else is typed [VA].
LAMP_VA = 2.0


def step_power_va(sealed_va: list[float], inrush_va: list[float], steady_va: float = 0.0) -> float:
    """Apparent power that a control transformer gives in one step of a pull-in order.

    Parameters
    ----------
    sealed_va : of each coil that holds already [VA]
    inrush_va : of each coil that pulls in at this step [VA]
    steady_va : timers, monitor and lamps that are on all the time [VA]

    Examples
    --------
    >>> step_power_va([16, 9.5], [180], 6)
    211.5

    References
    ----------
    IEC 61558-2-2: inrush of what closes and holding power of what is on, at power factor 0.5 with 95 % voltage.
    """
    return sum(sealed_va) + sum(inrush_va) + steady_va


def closing_steps(orders: tuple[str, ...], contactors: list[str]) -> list[tuple[list[str], list[str]]]:
    """Contactors that hold and that pull in at each step of a pull-in order.

    Parameters
    ----------
    orders : contactors that are on after each step, as ``K3 K1``; an empty one begins a new start from rest
    contactors : all of them, each pulled in alone where no order is given

    Examples
    --------
    >>> closing_steps(("K3", "K3 K1", "K1", "K1 K2"), ["K1", "K2", "K3"])
    [([], ['K3']), (['K3'], ['K1']), (['K1'], ['K2'])]
    """
    on: list[str] = []
    steps = []
    for after in orders or tuple(x for k in contactors for x in ("", k)):
        now = after.split()
        closing = [k for k in now if k not in on]
        if closing:
            steps.append(([k for k in now if k in on], closing))
        on = now
    return steps


def control_devices(c: Context, plate: Plate, sized: list[Device], orders: tuple[str, ...]) -> list[Device]:
    """Phase monitor, control transformer or power unit with its primary breaker, and control breaker, as the control source asks for them.

    Parameters
    ----------
    c : inputs and log of the sizing
    plate : what the plate and the supply come to
    sized : devices that carry power
    orders : contactors that are in after each step of a start

    Examples
    --------
    >>> from volmek.core.examples import example
    >>> [d.designation for d in example(control={"voltage_v": 24, "source": "transformer"}).design.devices if d.role.startswith(("control", "primary"))]
    ['T1', 'F6', 'F3']

    References
    ----------
    IEC 60204-1, 7.2.4, 7.2.7 and 9.1; NEC 430.72.
    """
    found = [*select_monitor(c, plate)]
    d = c.document.control
    contactors = {x.designation: x for x in sized if x.kind == "contactor"}
    if not contactors:
        return found
    source = plate.control
    _check_source(c, plate, source, sized)
    if d.voltage_v is None or source.kind == "unknown":
        return found
    worst, steady = _worst_step(c, contactors, [*sized, *found], orders)
    transformer = None
    if source.kind == "transformer":
        transformer = select_transformer(c, plate, worst, steady, d.voltage_v)
    elif source.kind == "power_unit":
        transformer = select_power_unit(c, plate, worst, d.voltage_v)
    if transformer:
        found += [transformer, select_primary_breaker(c, transformer)]
    found.append(select_control_breaker(c, source, worst, steady, d.voltage_v, transformer))
    return found


def _check_source(c: Context, plate: Plate, source: ControlSource, sized: list[Device]) -> None:
    """Findings on the control source: origin, what stays live, earthed side."""
    d, supply = c.document.control, plate.supply
    if source.missing:
        field, why = source.missing
        c.find("stop", "control_voltage_not_there", f"{why[0].upper()}{why[1:]}.", field)
    elif source.kind == "line_neutral" and supply.neutral is False:
        c.find(
            "stop",
            "control_needs_neutral",
            f"{as_read(d.voltage_v or 0)} V for the control circuit is available between line and neutral only, and the supply has no neutral.",
            "control.source",
        )
    elif source.reason and source.kind != "unknown":
        c.find(
            "info",
            "control_source_worked_out",
            f"The control source is not given; {KINDS[source.kind]} is assumed: {source.reason}.",
            "control.source",
        )
    if source.centre or (source.kind == "two_lines" and supply.earthed is not False):
        _two_live_rails(c, source, supply)
    _outlives(c, source)
    if source.from_lines and d.earthed is False and supply.earthed is not False:
        known = supply.earthed is True
        c.find(
            "stop" if known else "attention",
            "control_unearthed_network",
            f"The control circuit is taken from the motor's network, which {'is earthed' if known else 'may be earthed'}: choosing unearthed does not change that.",
            "control.earthed",
        )
    if not source.from_lines and source.earthed is None:
        c.find(
            "info",
            "control_earthing_unknown",
            f"It is not known whether one side of the {KINDS[source.kind]} is earthed: no link is fitted, the control breaker opens both sides, and faults are "
            "assessed as if it were earthed.",
            "control.earthed",
        )
    if source.earthed is not False and not source.centre and d.overload_contact == "return_side":
        c.find(
            "stop" if d.leaves_enclosure else "attention",
            "overload_contact_earthed_side",
            "The overload contact is on the earthed side of the coil: one earth fault on the wire between them bypasses it, "
            "and the motor runs on without protection.",
            "control.overload_contact",
            device=next((x.designation for x in sized if x.kind == "overload_relay"), None),
        )
    if source.earthed is False and not source.from_lines:
        c.find(
            "info",
            "control_unearthed",
            "Unearthed control: the first earth fault stays hidden, a second one can start or hold a contactor; insulation "
            "monitoring finds the first.",
            "control.earthed",
        )


def _two_live_rails(c: Context, source: ControlSource, supply: SupplySystem) -> None:
    """Finding on the coil voltage that one earth fault leaves between two live conductors."""
    share = greatest_earth_fault_share(source, supply)
    pulls = share * HIGHEST >= PICK_UP
    said = "enough to pull it in" if pulls else "enough to hold it"
    known = "" if source.centre or len(supply.earthings) == 1 else ", by the earthing, which is not known"
    c.find(
        "attention",
        "control_line_to_line",
        f"Both control conductors are live: one earth fault leaves up to {100 * share:.0f} % of the voltage on a coil{known}, {said}; "
        "the control breaker must open both sides.",
        "control.source",
    )


def _outlives(c: Context, source: ControlSource) -> None:
    """A control circuit that lives without the power circuit: the caution, and what must then be in its chain."""
    d = c.document.control
    if not source.alive_with_main_off:
        return
    c.find(
        "attention",
        "control_live_with_main_off",
        f"The control circuit ({source.words}) is live with the main breaker off: a second isolator, and a warning on door, drawing and label.",
        "control.tap" if source.before_main else "control.source",
    )
    if d.phase_monitor in (None, "none"):
        reason = d.restart_harmless
        c.find(
            "attention" if reason else "stop",
            "control_outlives_power",
            "With the control circuit alive and the power lost the contactors stay in: when power returns the motor starts by itself, direct on line."
            + (f" Restart harmless: {reason}" if reason else ""),
            "control.restart_harmless" if reason else "control.phase_monitor",
        )


def _worst_step(
    c: Context, contactors: dict[str, Device], others: list[Device], orders: tuple[str, ...]
) -> tuple[Figure, Figure]:
    """The step of the pull-in order that asks for most, and what is on all the time."""
    w, d = c.working, c.document
    lamps = len(d.control.lamps or []) + (1 if d.control.buzzer else 0)
    each = w.add("lamp_va", "Power of one lamp", "SP", d.assumptions.lamp_va or LAMP_VA, "VA", field="assumptions.lamp_va",
                 rule="as typed" if d.assumptions.lamp_va else "usual LED lamp", source="typed" if d.assumptions.lamp_va else "default")  # fmt: skip
    relays = sum(x.selected.supply_va or 0 for x in others if x.kind in ("timer", "phase_monitor"))
    steady = relays + lamps * each.number
    both = {name: _powers_va(k) for name, k in contactors.items()}
    # A DC coil takes the same to pull in as to hold.
    power = {name: (holds, pulls if d.control.kind == "ac" else holds) for name, (pulls, holds) in both.items()}
    figures = tuple(
        w.add(
            f"{k.role}.{name}",
            f"{words} of {designation}",
            f"{symbol}{designation}",
            va,
            "VA",
            rule="of the nearest contactor, since none fits" if k.none_fits else "from the catalogue",
            source=c.catalogue.source_of(k.type),
            typical=k.none_fits is not None,
        )
        for designation, k in contactors.items()
        for name, words, symbol, va in (
            ("inrush_va", "Pull-in power", "A", both[designation][0]),
            ("sealed_va", "Holding power", "H", both[designation][1]),
        )
    )
    steps = []
    for holding, closing in closing_steps(orders, list(contactors)):
        va = step_power_va([power[k][0] for k in holding], [power[k][1] for k in closing], steady)
        said = f"{' and '.join(holding)} hold{'s' if len(holding) == 1 else ''}, " if holding else ""
        pulls = f"{' and '.join(closing)} pull{'s' if len(closing) == 1 else ''} in"
        formula = " + ".join([*(f"H{k}" for k in holding), *(f"A{k}" for k in closing)])
        steps.append((va, said + pulls, formula))
    worst_va, words, formula = max(steps)
    resting = w.add(
        "control.steady_va",
        "Timers, monitor and lamps that are on all the time",
        "Son",
        steady,
        "VA",
        formula=f"{as_read(relays)} + {lamps}·SP",
        inputs=(each,),
        rule="own supply of timers and monitor, and every lamp",
        source="catalogue; IEC 61558-2-2",
    )
    worst = w.add(
        "control.worst_step_va",
        f"Maximum momentary load of the control circuit: {words}",
        "Smax",
        worst_va,
        "VA",
        formula=f"{formula} + Son" if steady else formula,
        inputs=(*figures, resting),
        rule="over the pull-in order of the simulated circuit: what holds with its holding power, what pulls in with its pull-in power",
        source="IEC 61558-2-2; IEC 60204-1, 9.1",
        candidates=tuple(Candidate(said, said == words, False, f"{as_read(va)} VA") for va, said, _ in steps),
    )
    most = max(sum(power[k][0] for k in after.split()) for after in orders or tuple(contactors))
    continuous = w.add(
        "control.continuous_va",
        "Maximum continuous load of the control circuit",
        "Scont",
        most + steady,
        "VA",
        inputs=(*figures, resting),
        rule="holding power of the contactors that are on together, and what is on all the time",
        source="IEC 61558-2-2",
    )
    return worst, continuous


def _powers_va(k: Device) -> tuple[float, float]:
    """Pull-in and holding power of a coil [VA]."""
    assert k.selected.inrush_va is not None and k.selected.sealed_va is not None
    return k.selected.inrush_va, k.selected.sealed_va
