"""The control transformer: the next size that gives the worst step, and the rest for long."""

from volmek.core.catalogue.device_types import ControlTransformer
from volmek.core.context import Context
from volmek.core.devices.device import Check, Device, Fact, Objection, override_marks, pick_spare
from volmek.core.plate.plate import Plate
from volmek.core.results.figures import Figure, as_read


def select_transformer(c: Context, plate: Plate, worst: Figure, continuous: Figure, volts: float) -> Device | None:
    """Pick it by what the control circuit takes at its worst step and for long."""
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
