"""Star-delta: a third of the current and of the torque, for motors with six free ends that run in delta."""

from collections.abc import Callable
from math import sqrt

from volmek.core.devices.part import ContactorPart, RelayPart
from volmek.core.devices.timer import star_delta_timer
from volmek.core.document.errors import Problem
from volmek.core.document.model import StarterDocument
from volmek.core.installation.connection import accepts, frequencies_hz
from volmek.core.installation.timers import DEFAULT_PAUSE_S, pause_s
from volmek.core.methods.method import Extra, Layout, Method, always, three_phase_only
from volmek.core.physics.run_up import Stage

BRANCH = 1 / sqrt(3)
#: Share of the line current in each of the six leads, as NEC 430.22(C) rounds it (72 % = 0.58 × 1.25).
LEAD_SHARE = 0.576
LINE = ContactorPart(
    "line_contactor",
    "K1",
    "Line contactor",
    BRANCH,
    "0.577",
    "it lies in series with one winding end, inside the delta loop",
    start_share=1 / 3,
    stage_shares=(1.0, BRANCH),
)
DELTA = ContactorPart(
    "delta_contactor",
    "K2",
    "Delta contactor",
    BRANCH,
    "0.577",
    "it carries the other winding end",
    branch=True,
    start_share=0.0,
    stage_shares=(0.0, BRANCH),
)
STAR = ContactorPart(
    "star_contactor",
    "K3",
    "Star contactor",
    1 / 3,
    "0.333",
    "the line current in star is a third",
    branch=True,
    start_share=1 / 3,
    stage_shares=(1.0, 0.0),
    heavy_factor=BRANCH,
)
IN_STAR = "in star it lets 1.73 times the winding's rated current pass"
RELAYS = {
    "winding": RelayPart(factor=BRANCH, formula="0.577", why="after the line contactor the winding current flows", start_share=BRANCH,
                         stage_shares=(1.0, BRANCH), without=IN_STAR),
    "line": RelayPart(factor=1.0, formula="1", start_share=1 / 3, weakness="overload_in_line_star",
                      why="in star a relay in the supply line lets 1.73 times the winding's rated current pass", without=IN_STAR),
    "delta_branch": RelayPart(factor=BRANCH, formula="0.577", start_share=0.0, stage_shares=(0.0, BRANCH), weakness="overload_in_delta_branch", without=IN_STAR,
                              why="in the delta branch the relay carries no current while the motor is in star"),
}  # fmt: skip


def refuses(document: StarterDocument) -> list[Problem]:
    """Six free ends, and a winding made for the line voltage."""
    m, s = document.motor, document.supply
    problems = three_phase_only(document)
    if m.leads is not None and m.leads not in (6, 12):
        problems.append(Problem("motor.leads", f"star-delta needs six free ends; this motor has {m.leads} leads"))
    if m.lead_connection == "star" and (m.rated_voltage_low_v or m.rated_voltage_high_v):
        problems.append(
            Problem(
                "motor.lead_connection",
                "its leads are wound for star; in delta the line voltage would be across windings made for less",
            )
        )
    delta = m.rated_voltage_delta_v or (
        m.rated_voltage_star_v / sqrt(3) if m.rated_voltage_star_v else m.rated_voltage_v
    )
    line_hz, plate_hz = frequencies_hz(document)
    if delta and s.line_voltage_v and not accepts(delta, plate_hz, s.line_voltage_v, line_hz)[0]:
        problems.append(
            Problem(
                "motor.rated_voltage_delta_v",
                f"in delta {s.line_voltage_v:g} V {line_hz:g} Hz would be across windings made for {delta:.0f} V {plate_hz:g} Hz; star-delta needs a "
                "motor whose delta voltage is the line voltage (within ±10 % at the same volts per hertz)",
            )
        )
    return problems


# Through six leads: in star the line current goes out and comes back, in delta the winding current does.
STAGES = (Stage("in star", 1 / 3, 1 / 3, cable_share=2.0), Stage("in delta", cable_share=2 / 3))


def parts(*extra: ContactorPart, timed: bool = True) -> Callable[[StarterDocument], Layout]:
    """Its parts, with the relay where the document wants it; the closed transition adds one."""

    def layout(document: StarterDocument) -> Layout:
        relay = RELAYS[document.starter.overload_position or "winding"]
        timer = (Extra("branch", lambda c, plate, front, start: star_delta_timer(c, plate, start)),) if timed else ()
        return Layout(
            (LINE, DELTA, STAR, *extra),
            (relay,),
            timer,
            interlock="K2 and K3",
            lead_share=LEAD_SHARE,
            stages=lambda plate: STAGES,
            timed=("starter.star_time_s",),
            dwell_s=0.0 if extra else pause_s(document) if timed else DEFAULT_PAUSE_S,
        )

    return layout


ROLES = ("line_contactor", "delta_contactor", "star_contactor")
METHOD = Method(
    label="Star-delta, timed",
    cost="A third of current and torque; three contactors, a current break at the change-over.",
    leads=6,
    roles=(*ROLES, "star_delta_timer"),
    refuses=refuses,
    layout=parts(),
    line_current_share=always(1 / 3),
    torque_share=always(1 / 3),
)
