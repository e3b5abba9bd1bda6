"""Part winding: half of a winding made for it starts, the other half follows."""

from volmek.core.devices.part import ContactorPart, RelayPart
from volmek.core.document.errors import Problem
from volmek.core.document.model import StarterDocument
from volmek.core.methods.method import ONE_CHANGE, Layout, Method, always, three_phase_only
from volmek.core.physics.run_up import Stage

CURRENT_SHARE, TORQUE_SHARE = 0.65, 0.45


def _half(role: str, designation: str, label: str, *, branch: bool) -> ContactorPart:
    return ContactorPart(
        role,
        designation,
        label,
        0.5,
        "0.5",
        "each half of the winding carries half the current",
        branch,
        0.0 if branch else 1.0,
        stage_shares=(0.0, 0.5) if branch else (1.0, 0.5),
    )


def _layout(document: StarterDocument) -> Layout:
    halves = (
        _half("winding_contactor_1", "K1", "First winding contactor", branch=False),
        _half("winding_contactor_2", "K2", "Second winding contactor", branch=True),
    )
    relays = tuple(
        RelayPart(
            designation=d,
            factor=0.5,
            formula="0.5",
            why="one relay for each half of the winding",
            without="it sees both halves together, so that one half can be overloaded alone",
            start_share=CURRENT_SHARE / 0.5,
            stage_shares=(1.0, 0.5) if d == "F1" else (0.0, 0.5),
        )
        for d in ("F1", "F4")
    )
    return Layout(
        halves,
        relays,
        lead_share=0.5,
        timed=ONE_CHANGE,
        stages=lambda plate: (
            Stage("on half the winding", CURRENT_SHARE, TORQUE_SHARE),
            Stage("direct on line", cable_share=0.5),
        ),
    )


def _refuses(document: StarterDocument) -> list[Problem]:
    problems = three_phase_only(document)
    if document.motor.leads is not None and document.motor.leads not in (6, 9, 12):
        problems.append(
            Problem(
                "motor.leads",
                f"part winding needs both halves brought out; this motor has {document.motor.leads} leads",
            )
        )
    m, volts = document.motor, document.supply.line_voltage_v
    if m.rated_voltage_high_v and volts and abs(volts / m.rated_voltage_high_v - 1) <= 0.10 and m.leads != 12:
        problems.append(
            Problem(
                "supply.line_voltage_v",
                f"at {volts:g} V the two halves of this winding lie in series; part winding needs them in parallel, at the low voltage",
            )
        )
    return problems


METHOD = Method(
    label="Part winding",
    cost="About two thirds of the current and less than half the torque; a motor made for it.",
    leads=6,
    roles=("winding_contactor_1", "winding_contactor_2"),
    refuses=_refuses,
    layout=_layout,
    line_current_share=always(CURRENT_SHARE),
    torque_share=always(TORQUE_SHARE),
    care="Only for a motor that its maker built for part-winding start.",
)
