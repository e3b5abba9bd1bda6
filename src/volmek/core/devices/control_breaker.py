"""The breaker, or in North American practice the fuse, of the control circuit."""

from volmek.core.catalogue.device_types import ShortCircuitDevice
from volmek.core.context import Context
from volmek.core.devices.device import Device, Objection, Required, Selected, override_marks, pick_spare
from volmek.core.devices.settings import Settings
from volmek.core.document.model import ProtectionDevice
from volmek.core.installation.control import ControlSource
from volmek.core.installation.designations import CONTROL_BREAKER
from volmek.core.results.figures import Figure, as_read
from volmek.core.standards.tables import iec_standard_ratings_a

#: Largest breaker in front of control conductors of 1 mm² copper [A].
CONTROL_CONDUCTOR_A = 10.0
#: Lower multiple of curve C, below which its magnetic part does not act.
CURVE_C_LOW = 5.0
#: Share of a transformer's rated secondary current that a fuse behind it may have (NEC Table 450.3(B), below 9 A).
NEC_SECONDARY_SHARE = 1.67


def select_control_breaker(
    c: Context, source: ControlSource, worst: Figure, continuous: Figure, volts: float, transformer: Device | None
) -> Device:
    """The breaker or fuse of the control circuit: carries it, does not trip on the inrush of pulling in, protects what is behind it.

    Parameters
    ----------
    c : inputs and log of the sizing
    source : of the control circuit
    worst : most that it takes at once [VA]
    continuous : most that it takes for long [VA]
    volts : control voltage [V]
    transformer : in front of it; None without one

    Examples
    --------
    >>> from volmek.core.examples import example_device
    >>> example_device("F3", control={"voltage_v": 24, "source": "transformer"}).required.poles
    2

    References
    ----------
    IEC 60204-1, 7.2.4 and 7.2.7; NEC 430.72, Table 450.3(B).
    """
    w, role, designation = c.working, "control_breaker", CONTROL_BREAKER
    rated_va = transformer.selected.rated_va if transformer else None
    secondary_a = rated_va / volts if rated_va is not None else None
    lasting = w.add(f"{role}.current_a", "Continuous current of the control circuit", "Ic", continuous.number / volts, "A",
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
            "1.67 times the secondary current of the transformer",
        )
    else:
        limit_a = next((r for r in iec_standard_ratings_a(kind) or () if r >= secondary_a), CONTROL_CONDUCTOR_A)
        limit_a, why = (
            min(limit_a, CONTROL_CONDUCTOR_A),
            "the standard rating next above the secondary current of the transformer",
        )
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
        rule="smallest rating that carries the circuit and does not trip on the inrush of pulling in, not above the limit",
        source="IEC 60204-1, 7.2.4" if not c.nec else "NEC 430.72",
        candidates=candidates,
    )
    reason, marks = override_marks(c.document.override(role))
    return Device(
        designation,
        role,
        "control_fuse" if c.nec else "control_breaker",
        "Control fuse" if c.nec else "Control breaker",
        Required(current_a=lasting.number, inrush_a=inrush.number, limit_a=limit.number, poles=source.breaker_poles),
        Selected(x.type if x else None, rated_current_a=x.rated_current_a if x else None, poles=source.breaker_poles),
        Settings(),
        (rated, lasting, inrush, limit),
        rated,
        reason,
        marks,
        branch=True,
    )
