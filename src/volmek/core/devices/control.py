"""The control supply: where it comes from, the worst step of the pull-in order, and what hangs on it."""

from math import sqrt

from volmek.core.context import Context
from volmek.core.devices.control_breaker import select_control_breaker
from volmek.core.devices.control_transformer import select_transformer
from volmek.core.devices.device import Device
from volmek.core.devices.phase_monitor import select_monitor
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
    """What holds and what pulls in at each step of a pull-in order.

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
    """Phase monitor, control transformer and control breaker, as far as the document asks for them."""
    found = [*select_monitor(c, plate)]
    d = c.document.control
    _check_source(c, plate, sized)
    if d.voltage_v is None or d.kind != "ac" or d.source not in ("transformer", "common"):
        return found
    contactors = {x.designation: x for x in sized if x.kind == "contactor"}
    if not contactors:
        return found
    worst, steady = _worst_step(c, contactors, [*sized, *found], orders)
    transformer = select_transformer(c, plate, worst, steady, d.voltage_v) if d.source == "transformer" else None
    if transformer:
        found.append(transformer)
    found.append(select_control_breaker(c, plate, worst, steady, d.voltage_v, transformer))
    return found


def _check_source(c: Context, plate: Plate, sized: list[Device]) -> None:
    """Where the control voltage comes from, and which side of it is earthed."""
    d, supply = c.document.control, c.document.supply
    volts = d.voltage_v
    line_v = supply.line_voltage_v or plate.line_voltage_v
    if d.source == "common" and volts is not None:
        to_neutral = abs(volts / (line_v / sqrt(3)) - 1) <= 0.10 + 1e-9
        if d.kind == "dc" or not (to_neutral or abs(volts / line_v - 1) <= 0.10 + 1e-9):
            kind = f"{d.kind.upper()} " if d.kind == "dc" else ""
            c.find(
                "stop",
                "control_voltage_not_there",
                f"A supply of {as_read(line_v)} V gives {as_read(line_v)} V between lines and {as_read(line_v / sqrt(3))} V to "
                f"neutral, not {as_read(volts)} V {kind}for the control circuit.",
                "control.source",
            )
        elif to_neutral and supply.neutral is False:
            c.find(
                "stop",
                "control_needs_neutral",
                f"{as_read(volts)} V for the control circuit is there between line and neutral only, and the supply has no neutral.",
                "control.source",
            )
        elif not to_neutral and supply.system in (None, "tn", "tt"):
            c.find(
                "attention",
                "control_line_to_line",
                "Between two lines of an earthed supply one earth fault leaves 58 % of the voltage on a coil, enough to hold it: the control "
                "breaker must open both sides.",
                "control.source",
            )
    if d.earthed and d.overload_contact == "return_side":
        c.find(
            "stop" if d.leaves_enclosure else "attention",
            "overload_contact_earthed_side",
            "The overload contact lies on the earthed side of the coil: one earth fault on the wire between them bypasses it, "
            "and the motor runs on without protection.",
            "control.overload_contact",
            device=next((x.designation for x in sized if x.kind == "overload_relay"), None),
        )
    if d.earthed is False and d.source in ("transformer", "separate"):
        c.find(
            "info",
            "control_unearthed",
            "Unearthed control: the first earth fault stays hidden, a second one can start or hold a contactor; insulation "
            "monitoring finds the first.",
            "control.earthed",
        )


def _worst_step(
    c: Context, contactors: dict[str, Device], others: list[Device], orders: tuple[str, ...]
) -> tuple[Figure, Figure]:
    """The step of the pull-in order that asks for most, and what is on all the time."""
    w, d = c.working, c.document
    lamps = len(d.control.lamps or []) + (1 if d.control.buzzer else 0)
    each = w.add("lamp_va", "Power of one lamp", "SP", d.assumptions.lamp_va or LAMP_VA, "VA", field="assumptions.lamp_va",
                 rule="as typed" if d.assumptions.lamp_va else "usual LED lamp", source="typed" if d.assumptions.lamp_va else "default")  # fmt: skip
    relays = sum(float(x.selected.get("supply_va") or 0) for x in others if x.kind in ("timer", "phase_monitor"))
    steady = relays + lamps * each.number
    power = {name: (_va(k, "sealed_va"), _va(k, "inrush_va")) for name, k in contactors.items()}
    figures = tuple(
        w.add(
            f"{k.role}.{name}",
            f"{words} of {designation}",
            f"{symbol}{designation}",
            _va(k, name),
            "VA",
            rule="from the catalogue",
            source=c.catalogue.source_of(str(k.selected["type"])),
        )
        for designation, k in contactors.items()
        for name, words, symbol in (("inrush_va", "Pull-in power", "A"), ("sealed_va", "Holding power", "H"))
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
        f"Most that the control circuit takes at once: {words}",
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
        "Most that the control circuit takes for long",
        "Scont",
        most + steady,
        "VA",
        inputs=(*figures, resting),
        rule="holding power of the contactors that are on together, and what is on all the time",
        source="IEC 61558-2-2",
    )
    return worst, continuous


def _va(k: Device, name: str) -> float:
    value = k.selected[name]
    assert isinstance(value, float)
    return value
