"""Two speeds: a contactor and a relay for each, two windings or one tapped."""

from volmek.core.devices.part import ContactorPart, RelayPart
from volmek.core.document import StarterDocument
from volmek.core.errors import Problem
from volmek.core.starters.method import Layout, Method, always, three_phase_only

LOW_CURRENT = "motor.low_speed_current_a"


def _refuses(document: StarterDocument) -> list[Problem]:
    m = document.motor
    problems = three_phase_only(document)
    if m.low_speed_current_a is None:
        problems.append(Problem(LOW_CURRENT, "each speed has its own current and relay; type the low speed's", True))
    if m.low_speed_rpm is not None and m.rated_speed_rpm is not None and m.low_speed_rpm >= m.rated_speed_rpm:
        problems.append(
            Problem(
                "motor.low_speed_rpm", f"{m.low_speed_rpm:g} rpm is not below the high speed, {m.rated_speed_rpm:g} rpm"
            )
        )
    return problems


def _layout(document: StarterDocument) -> Layout:
    low = ContactorPart("low_speed_contactor", "K1", "Low-speed contactor", current_field=LOW_CURRENT,
                        why="it carries the low speed's current")  # fmt: skip
    high = ContactorPart(
        "high_speed_contactor", "K2", "High-speed contactor", why="it carries the high speed's current", branch=True
    )
    star = ContactorPart("high_speed_star_contactor", "K3", "High-speed star contactor", 0.5, "0.5",
                         "it joins the two parallel halves of the winding", branch=True)  # fmt: skip
    relays = (
        RelayPart(
            "low_speed_overload_relay", "F1", why="the low speed's current flows through it", current_field=LOW_CURRENT
        ),
        RelayPart("overload_relay", "F4", why="the high speed's current flows through it"),
    )
    tapped = document.motor.speed_winding == "tapped"
    return Layout(
        (low, high, star) if tapped else (low, high),
        relays,
        interlock="K1 and K2" + (", K1 and K3" if tapped else ""),
        pull_in=("K1", "", "K3", "K3 K2") if tapped else (),
    )


METHOD = Method(
    label="Two speeds",
    cost="A contactor and a relay for each speed; two windings, or one tapped.",
    leads=6,
    roles=("low_speed_contactor", "high_speed_contactor", "high_speed_star_contactor", "low_speed_overload_relay"),
    refuses=_refuses,
    layout=_layout,
    line_current_share=always(1.0),
    torque_share=always(1.0),
    care="Only for a motor wound for two speeds; from high to low through stop.",
)
