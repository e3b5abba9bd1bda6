"""The control transformer: the next size that gives the worst step, and the rest for long."""

from math import inf

from volmek.core.catalogue.device_types import ControlTransformer, ShortCircuitDevice
from volmek.core.context import Context
from volmek.core.devices.device import Check, Device, Objection, Required, Selected, override_marks, pick_spare
from volmek.core.devices.settings import Settings
from volmek.core.document.model import ProtectionDevice
from volmek.core.installation.designations import CONTROL_TRANSFORMER, PRIMARY_BREAKER
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import Figure, as_read

#: Share of a transformer's primary current from which a breaker of curve C rides through its inrush.
INRUSH_MULTIPLE = 4.0
#: Power of a transformer from which its primary is limited [VA].
LEAST_PROTECTED_VA = 50.0
#: What a power unit takes on its primary side over what it gives.
POWER_UNIT_TAKES = 1.4


def primary_voltage_v(c: Context, plate: Plate) -> float:
    """Voltage between the two conductors that feed the primary side [V].

    Parameters
    ----------
    c : inputs and log of the sizing
    plate : what the plate and the supply come to

    Examples
    --------
    >>> from volmek.core.examples import example_plate
    >>> primary_voltage_v(*example_plate(control={"voltage_v": 24, "source": "transformer"}))
    400.0
    """
    feeds = plate.control.feeds
    between = plate.supply.between_v(*feeds) if len(feeds) == 2 else None
    return between or plate.line_voltage_v


def select_power_unit(c: Context, plate: Plate, worst: Figure, volts: float) -> Device:
    """The DC power unit: what it must give; the catalogue has no such devices.

    Parameters
    ----------
    c : inputs and log of the sizing
    plate : what the plate and the supply come to
    worst : most that the control circuit takes at once [VA]
    volts : control voltage [V]

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> example_device("T1", control={"voltage_v": 24, "kind": "dc", "source": "power_unit"}).kind
    'power_unit'

    References
    ----------
    IEC 61204-7.
    """
    role, designation = "control_transformer", CONTROL_TRANSFORMER
    primary_v = primary_voltage_v(c, plate)
    needed = c.working.add(
        f"{role}.rated_va", "Required power of the DC power unit", "PT", worst.number, "W", inputs=(worst,), typical=True,
        rule="coils and what is on all the time; coil powers of the AC range, since the catalogue has none for DC", source="IEC 61204-7; catalogue",
    )  # fmt: skip
    c.find("attention", "part_not_in_catalogue", f"{c.catalogue.name} has no DC power unit: {needed.text} W at {as_read(volts)} V are needed",
           "control.source", device=designation)  # fmt: skip
    required = Required(continuous_va=worst.number, primary_v=primary_v, secondary_v=volts)
    selected = Selected(type=None, rated_va=None, primary_v=primary_v, secondary_v=volts)
    return Device(
        designation, role, "power_unit", "DC power unit", required, selected, Settings(), (needed,), needed, branch=True
    )


def select_primary_breaker(c: Context, transformer: Device) -> Device:
    """The two-pole breaker, or fuses, in front of a transformer's primary: carries it and rides through its inrush.

    Parameters
    ----------
    c : inputs and log of the sizing
    transformer : the transformer or power unit behind it

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> example_device("F6", control={"voltage_v": 24, "source": "transformer"}).required.poles
    2

    References
    ----------
    IEC 60204-1, 7.2.7; NEC 450.3(B), 430.72(C).
    """
    role, designation = "primary_breaker", PRIMARY_BREAKER
    rated = transformer.selected.rated_va or (transformer.required.continuous_va or 0) * POWER_UNIT_TAKES
    primary_v = transformer.required.primary_v
    assert primary_v is not None
    amps = c.working.add(f"{role}.current_a", f"Primary current of {transformer.designation}", "I1", rated / primary_v, "A",
                         formula="ST / U1", inputs=(transformer.figures[0],), rule="rated power over the primary voltage",
                         source="arithmetic")  # fmt: skip
    kind: ProtectionDevice = "time_delay_fuse" if c.nec else "miniature_breaker_c"

    def carries(x: ShortCircuitDevice) -> Objection | None:
        if x.rated_current_a >= amps.number * (1 if c.nec else INRUSH_MULTIPLE / 2) * (1 - 1e-6):
            return None
        return Objection("control_breaker_small", f"{x.type} carries {as_read(x.rated_current_a)} A; the inrush of {transformer.designation} on "
                         f"{amps.text} A trips it", f"overrides.{role}")  # fmt: skip

    # With the secondary protected 250 %, below 2 A 500 %; below 50 VA other means will do.
    limit_a = (5.0 if amps.number < 2 else 2.5) * amps.number if c.nec and rated >= LEAST_PROTECTED_VA else inf

    def protects(x: ShortCircuitDevice) -> Objection | None:
        if x.rated_current_a <= limit_a * (1 + 1e-6):
            return None
        return Objection(
            "primary_above_limit",
            f"{x.type} is more than the {as_read(limit_a)} A that protect {transformer.designation}",
            f"overrides.{role}",
        )

    x, candidates = pick_spare(
        c, role, designation, c.catalogue.short_circuit_devices[kind], [carries, protects], what="primary fuse" if c.nec else "primary breaker",
        field="control.source",
    )  # fmt: skip
    chosen = c.working.add(
        f"{role}.rated_current_a", f"Rated current of {x.type}" if x else "Rated current needed", "IF6", x.rated_current_a if x else amps.number, "A",
        inputs=(amps,), rule="smallest rating that carries the primary and rides through its inrush", candidates=candidates,
        source="NEC 450.3(B)" if c.nec else "IEC 60204-1, 7.2.7",
    )  # fmt: skip
    reason, marks = override_marks(c.document.override(role))
    label = "Primary fuses" if c.nec else "Primary breaker"
    return Device(
        designation, role, "control_fuse" if c.nec else "control_breaker", label, Required(current_a=amps.number, limit_a=None if limit_a == inf else limit_a, poles=2),
        Selected(x.type if x else None, rated_current_a=x.rated_current_a if x else None, poles=2), Settings(), (chosen, amps), chosen,
        reason, marks, branch=True,
    )  # fmt: skip


def select_transformer(c: Context, plate: Plate, worst: Figure, continuous: Figure, volts: float) -> Device | None:
    """Pick it by what the control circuit takes at its worst step and for long.

    Parameters
    ----------
    c : inputs and log of the sizing
    plate : what the plate and the supply come to
    worst : most that the control circuit takes at once [VA]
    continuous : most that it takes for long [VA]
    volts : control voltage [V]

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> example_device("T1", control={"voltage_v": 24, "source": "transformer"}).selected.secondary_v
    24.0

    References
    ----------
    IEC 61558-2-2; IEC 60204-1, 9.1.
    """
    role, designation = "control_transformer", CONTROL_TRANSFORMER
    line_v = primary_voltage_v(c, plate)

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
            f"{t.type} gives {as_read(t.rated_va)} VA continuously; {continuous.text} VA is needed",
            f"overrides.{role}",
        )

    def momentary(t: ControlTransformer) -> Objection | None:
        if t.short_time_va >= worst.number * (1 - 1e-6):
            return None
        return Objection(
            "transformer_step",
            f"{t.type} gives {as_read(t.short_time_va)} VA momentarily; {worst.text} VA is needed at the worst step",
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
        candidates=candidates,
    )
    if plate.control.centre:
        said = f"{t.type}: the catalogue does not say" if t else "Find out"
        c.find("attention", "transformer_centre_tap", f"{said} whether the secondary has its middle brought out, 2 × {as_read(volts / 2)} V: order it so.",
               "control.earthed_point", device=designation)  # fmt: skip
    reason, marks = override_marks(c.document.override(role))
    selected = Selected(
        type=t.type if t else None,
        rated_va=t.rated_va if t else None,
        short_time_va=t.short_time_va if t else None,
        primary_v=line_v,
        secondary_v=volts,
    )
    required = Required(
        short_time_va=worst.number, continuous_va=continuous.number, primary_v=line_v, secondary_v=volts
    )
    figures = (size, worst, continuous)
    return Device(
        designation, role, "control_transformer", "Control transformer", required, selected, Settings(), figures, size, reason, marks,
        branch=True,
    )  # fmt: skip
