"""The control supply: transformer by the worst step of the pull-in order, its breaker, earthing; the phase monitor."""

from math import sqrt

from volmek.core.context import Context
from volmek.core.device_types import ControlTransformer, PhaseMonitor, ShortCircuitDevice
from volmek.core.devices.device import Check, Device, Fact, Objection, override_marks, pick_spare
from volmek.core.document import ProtectionDevice
from volmek.core.figures import Candidate, Figure, as_read
from volmek.core.plate import Plate

#: What a signal lamp takes where nothing else is typed [VA].
LAMP_VA = 2.0
#: Largest breaker in front of control conductors of 1 mm² copper [A].
CONTROL_CONDUCTOR_A = 10.0
#: Lower multiple of curve C, below which its magnetic part does not act.
CURVE_C_LOW = 5.0
#: Share of a transformer's rated secondary current that a fuse behind it may have (NEC Table 450.3(B), below 9 A).
NEC_SECONDARY_SHARE = 1.67


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
    found = [*_monitor(c, plate)]
    d = c.document.control
    _check_source(c, plate, sized)
    if d.voltage_v is None or d.kind != "ac" or d.source not in ("transformer", "common"):
        return found
    contactors = {x.designation: x for x in sized if x.kind == "contactor"}
    if not contactors:
        return found
    worst, steady = _worst_step(c, contactors, [*sized, *found], orders)
    transformer = _transformer(c, plate, worst, steady, d.voltage_v) if d.source == "transformer" else None
    if transformer:
        found.append(transformer)
    found.append(_breaker(c, plate, worst, steady, d.voltage_v, transformer))
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
        rule="over the known pull-in order: what holds with its holding power, what pulls in with its pull-in power",
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


def _transformer(c: Context, plate: Plate, worst: Figure, continuous: Figure, volts: float) -> Device | None:
    role, designation = "control_transformer", "T1"
    line_v = c.document.supply.line_voltage_v or plate.line_voltage_v

    def primary(t: ControlTransformer) -> Objection | None:
        if any(span.voltage_min_v * 0.95 <= line_v <= span.voltage_max_v * 1.05 for span in t.primary_v):
            return None
        return Objection(
            "transformer_primary",
            f"{t.type} has no primary for {as_read(line_v)} V ({', '.join(map(str, t.primary_v))})",
            "supply.line_voltage_v",
        )

    def secondary(t: ControlTransformer) -> Objection | None:
        if any(span.voltage_min_v * 0.95 <= volts <= span.voltage_max_v * 1.05 for span in t.secondary_v):
            return None
        return Objection(
            "transformer_secondary",
            f"{t.type} does not give {as_read(volts)} V ({', '.join(map(str, t.secondary_v))})",
            "control.voltage_v",
        )

    def lasting(t: ControlTransformer) -> Objection | None:
        if t.rated_va >= continuous.number * (1 - 1e-6):
            return None
        return Objection(
            "transformer_continuous",
            f"{t.type} gives {as_read(t.rated_va)} VA for long; {continuous.text} VA is taken",
            f"overrides.{role}",
        )

    def momentary(t: ControlTransformer) -> Objection | None:
        if t.short_time_va >= worst.number * (1 - 1e-6):
            return None
        return Objection(
            "transformer_step",
            f"{t.type} gives {as_read(t.short_time_va)} VA for a moment; {worst.text} VA is taken at the worst step",
            f"overrides.{role}",
        )

    checks: list[Check[ControlTransformer]] = [primary, secondary, lasting, momentary]
    t, candidates = pick_spare(
        c,
        role,
        designation,
        c.catalogue.control_transformers,
        checks,
        what="control transformer",
        field="control.source",
    )
    size = c.working.add(
        f"{role}.rated_va",
        f"Size of {t.type}" if t else "Size needed",
        "ST",
        t.rated_va if t else worst.number,
        "VA",
        inputs=(worst, continuous),
        rule="the next standard size that gives the worst step at power factor 0.5 with 95 % voltage, and the rest for long",
        source="IEC 61558-2-2; standard sizes",
        note="Refined once the circuit itself is simulated.",
        candidates=candidates,
    )
    reason, marks = override_marks(c.document.override(role))
    selected: dict[str, Fact] = {
        "type": t.type if t else None,
        "rated_va": t.rated_va if t else None,
        "short_time_va": t.short_time_va if t else None,
        "primary_v": line_v,
        "secondary_v": volts,
    }
    required: dict[str, Fact] = {
        "short_time_va": worst.number,
        "continuous_va": continuous.number,
        "primary_v": line_v,
        "secondary_v": volts,
    }
    figures = (size.id, worst.id, continuous.id)
    return Device(
        designation, role, "control_transformer", "Control transformer", required, selected, {}, figures, size.id, reason, marks,
        branch=True,
    )  # fmt: skip


def _breaker(
    c: Context, plate: Plate, worst: Figure, continuous: Figure, volts: float, transformer: Device | None
) -> Device:
    """The breaker or fuse of the control circuit: carries it, does not see the pull-in, protects what is behind it."""
    w, role, designation = c.working, "control_breaker", "F3"
    rated_va = transformer.selected["rated_va"] if transformer else None
    secondary_a = float(rated_va) / volts if isinstance(rated_va, float) else None
    lasting = w.add(f"{role}.current_a", "Current of the control circuit for long", "Ic", continuous.number / volts, "A",
                    formula="Scont / Uc", inputs=(continuous,), rule="apparent power over the control voltage", source="arithmetic")  # fmt: skip
    inrush = w.add(f"{role}.inrush_a", "Current at the worst step", "Ip", worst.number / volts, "A",
                   formula="Smax / Uc", inputs=(worst,), rule="apparent power over the control voltage", source="arithmetic")  # fmt: skip
    kind: ProtectionDevice = "time_delay_fuse" if c.nec else "miniature_breaker_c"
    devices = c.catalogue.short_circuit_devices[kind]
    ratings = sorted({x.rated_current_a for x in devices})
    if secondary_a is None:
        limit_a, why = CONTROL_CONDUCTOR_A, "control conductors of 1 mm²"
    elif c.nec:
        limit_a, why = (
            max(NEC_SECONDARY_SHARE * secondary_a, min(ratings, default=0)),
            "1.67 times the secondary current of T1",
        )
    else:
        limit_a = next((r for r in ratings if r >= secondary_a), CONTROL_CONDUCTOR_A)
        limit_a, why = min(limit_a, CONTROL_CONDUCTOR_A), "the standard rating next above the secondary current of T1"
    limit = w.add(f"{role}.limit_a", "Largest rating allowed", "Imax", limit_a, "A", inputs=(lasting,), rule=why,
                  source="NEC 430.72, Table 450.3(B)" if c.nec else "IEC 60204-1, 7.2.4 and 7.2.7")  # fmt: skip

    def carries(x: ShortCircuitDevice) -> Objection | None:
        if x.rated_current_a >= lasting.number * (1 - 1e-6):
            return None
        return Objection(
            "control_breaker_small",
            f"{x.type} carries {as_read(x.rated_current_a)} A; {lasting.text} A flows",
            f"overrides.{role}",
        )

    def rides(x: ShortCircuitDevice) -> Objection | None:
        if c.nec or CURVE_C_LOW * x.rated_current_a >= inrush.number * (1 - 1e-6):
            return None
        return Objection(
            "control_breaker_inrush",
            f"{x.type} may trip at once from {as_read(CURVE_C_LOW * x.rated_current_a)} A; the pull-in takes {inrush.text} A",
            f"overrides.{role}",
        )

    def protects(x: ShortCircuitDevice) -> Objection | None:
        if x.rated_current_a <= limit.number * (1 + 1e-6):
            return None
        return Objection(
            "control_breaker_large",
            f"{x.type} is larger than the {limit.text} A that protects: {why}",
            f"overrides.{role}",
        )

    x, candidates = pick_spare(
        c, role, designation, devices, [carries, rides, protects], what="control fuse" if c.nec else "control breaker",
        field="control.source",
    )  # fmt: skip
    rated = w.add(
        f"{role}.rated_current_a",
        f"Rated current of {x.type}" if x else "Rated current needed",
        "IF3",
        x.rated_current_a if x else lasting.number,
        "A",
        inputs=(lasting, inrush, limit),
        rule="smallest rating that carries the circuit and does not see the pull-in, not above the limit",
        source="IEC 60204-1, 7.2.4" if not c.nec else "NEC 430.72",
        candidates=candidates,
    )
    reason, marks = override_marks(c.document.override(role))
    return Device(
        designation,
        role,
        "control_fuse" if c.nec else "control_breaker",
        "Control fuse" if c.nec else "Control breaker",
        {"current_a": lasting.number, "inrush_a": inrush.number, "limit_a": limit.number},
        {"type": x.type if x else None, "rated_current_a": x.rated_current_a if x else None},
        {},
        (rated.id, lasting.id, inrush.id, limit.id),
        rated.id,
        reason,
        marks,
        branch=True,
    )


def _monitor(c: Context, plate: Plate) -> list[Device]:
    """The phase monitor asked for, with the settings to begin with."""
    wires = c.document.control.phase_monitor
    if wires in (None, "none"):
        return []
    role, designation, line_v = "phase_monitor", "F2", plate.line_voltage_v
    if plate.phases == 1:
        c.find("attention", "monitor_single_phase", "A phase monitor has nothing to watch on a single-phase starter.",
               "control.phase_monitor")  # fmt: skip
        return []
    if wires == "four_wire" and c.document.supply.neutral is False:
        c.find("stop", "monitor_needs_neutral", "A four-wire monitor needs the neutral, and the supply has none.",
               "control.phase_monitor", device=designation)  # fmt: skip

    def of_kind(m: PhaseMonitor) -> Objection | None:
        if m.kind == wires:
            return None
        return Objection("monitor_kind", f"{m.type} is a {m.kind.replace('_', '-')} monitor", "control.phase_monitor")

    def voltage(m: PhaseMonitor) -> Objection | None:
        if m.voltage_min_v * 0.95 <= line_v <= m.voltage_max_v * 1.05:
            return None
        return Objection(
            "monitor_voltage",
            f"{m.type} is made for {m.voltage_min_v:g} to {m.voltage_max_v:g} V; the supply has {as_read(line_v)} V",
            "supply.line_voltage_v",
        )

    m, candidates = pick_spare(
        c,
        role,
        designation,
        c.catalogue.phase_monitors,
        [of_kind, voltage],
        what="phase monitor",
        field="control.phase_monitor",
    )
    chosen = c.working.add(f"{role}.type", "Phase monitor", "", m.type if m else "none in the catalogue",
                           rule="three- or four-wire as chosen, made for the line voltage", source=c.catalogue.name,
                           field="control.phase_monitor", candidates=candidates)  # fmt: skip
    reason, marks = override_marks(c.document.override(role))
    selected: dict[str, Fact] = {"type": m.type if m else None, "wires": wires, "supply_va": m.supply_va if m else None}
    return [
        Device(
            designation, role, "phase_monitor", "Phase monitor", {"voltage_v": line_v, "wires": wires}, selected, {}, (chosen.id,),
            chosen.id, reason, marks, branch=True,
        )
    ]  # fmt: skip
