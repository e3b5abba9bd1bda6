"""Circuits for the tests: every scheme with its options, scripts on them."""

import random
import re
from collections.abc import Iterator, Mapping
from dataclasses import fields, is_dataclass, replace
from typing import Any, get_args

from volmek.core.circuit.faults.injection import damage
from volmek.core.circuit.kernel.dynamics import usual
from volmek.core.circuit.kernel.report import run_script
from volmek.core.circuit.kernel.simulate import Simulator
from volmek.core.circuit.model.netlist import Circuit, Device
from volmek.core.circuit.model.notation import Node
from volmek.core.circuit.schemes import SCHEMES, circuit_of
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import Control, parse
from volmek.core.installation.connection import MotorConnection
from volmek.core.installation.control import ControlSource
from volmek.core.installation.supply import SupplySystem

EVERYTHING: dict[str, Any] = {
    "lamps": ["running", "stopped", "tripped", "phase_healthy", "phase_fault"], "phase_monitor": "three_wire",
    "emergency_stop": True, "buzzer": True, "heater": True,
}  # fmt: skip
LAMPS: dict[str, Any] = {"lamps": ["running", "stopped", "tripped"]}
WITH_CONTROL = [s for s in SCHEMES if s != "manual"]


def made(scheme: str = "direct_on_line", starter: dict[str, Any] | None = None, motor: dict[str, Any] | None = None, **options: Any) -> Circuit:  # fmt: skip
    """The circuit of a scheme with options."""
    control = options.pop("control", options)
    single = scheme.startswith("single")
    m = {"phases": 1, "single_phase_kind": "capacitor_start_run"} if single else {"rated_voltage_delta_v": 400}
    return circuit_of(
        parse(
            {
                "tag": "A", "motor": {**m, **(motor or {})}, "supply": {"line_voltage_v": 400},
                "starter": {"type": scheme, **(starter or {})}, "control": control,
            }
        )
    )  # fmt: skip


VARIANTS: dict[str, Circuit] = {
    **{s: made(s, **EVERYTHING) for s in WITH_CONTROL},
    "two-wire": circuit_of(parse({"tag": "A", "control": {**EVERYTHING, "scheme": "two_wire", "field_contact": "pressure"}})),
    "hand-off-auto": circuit_of(parse({"tag": "A", "control": {**EVERYTHING, "scheme": "hand_off_auto"}})),
    "jog by selector": made(jog="selector", **EVERYTHING),
    "jog by relay": made(jog="relay", **EVERYTHING),
    "together": made("star_delta", {"star_sequence": "together"}, **EVERYTHING),
    "star-delta relay": made("star_delta", star_delta_relay=True, **EVERYTHING),
    "star-delta relay, together": made("star_delta", {"star_sequence": "together"}, star_delta_relay=True, **EVERYTHING),
    "star-delta, common links": made("star_delta", {"delta_links": "common"}, **EVERYTHING),
    "star-delta, relay in the line": made("star_delta", {"overload_position": "line"}, **EVERYTHING),
    "star-delta, relay in the delta branch": made("star_delta", {"overload_position": "delta_branch"}, **EVERYTHING),
    "by hand, guarded": made("star_delta_manual", early_release_guard=True, **EVERYTHING),
    "reversing at once": made("reversing", reversing_sequence="direct", end_of_travel=True, **EVERYTHING),
    "reversing with rest": made("reversing", rest_time_s=2, end_of_travel=True, **EVERYTHING),
    "start winding turned": made("single_phase_reversing", reversed_winding="start", **EVERYTHING),
    "monitor behind": made(monitor_position="motor_side", **{**EVERYTHING, "lamps": ["running", "phase_fault", "tripped"]}),
    "before the coil": made(overload_contact="before_coil", **EVERYTHING),
    "several stations": made("star_delta", start_stations=3, stop_stations=3, **EVERYTHING),
    "controller signal": made(controller_signal=True, **EVERYTHING),
    "tapped": made("two_speed", motor={"speed_winding": "tapped"}, **EVERYTHING),
    "unearthed": made(earthed=False, source="transformer", voltage_v=230, overload_contact="return_side", **EVERYTHING),
    "from a transformer": made("star_delta", source="transformer", voltage_v=230, **EVERYTHING),
    "stopped lamp from the line": made(stopped_lamp_feed="line", **EVERYTHING),
    "command lamp": made(running_lamp_feed="command", **EVERYTHING),
}  # fmt: skip


#: The largest sets of options of the timed starters.
LARGEST: dict[str, Circuit] = {
    method: circuit_of(parse({
        "tag": "A", "motor": {"rated_voltage_delta_v": 400}, "supply": {"line_voltage_v": 400}, "starter": {"type": method},
        "control": {**EVERYTHING, "scheme": "hand_off_auto", "stop_stations": 3, "controller_signal": True},
    }))
    for method in ("star_delta", "autotransformer", "stator_resistance", "rotor_resistance", "part_winding")
} | {
    f"{method}, stand-by": made(method, standby=True, start_stations=3, stop_stations=3, controller_signal=True, **EVERYTHING)
    for method in ("star_delta", "autotransformer", "part_winding")
}  # fmt: skip


def drawn_sets(count: int, seed: int) -> Iterator[tuple[dict[str, Any], Circuit]]:
    """Options with their circuits: of a method with options of the page drawn at random, those that are refused left out."""
    draw = random.Random(seed)
    choices: dict[str, list[Any]] = {
        "lamps": [EVERYTHING["lamps"], []],
        "start_stations": [1, 3],
        "stop_stations": [1, 3],
    }
    for name, field in Control.model_fields.items():
        parts = [p for part in (get_args(field.annotation) or ()) for p in (get_args(part) or (part,))]
        choices |= {name: [p for p in parts if isinstance(p, str)]} if any(isinstance(p, str) for p in parts) else {}
        choices |= {name: [True, False]} if bool in parts else {}
    while count:
        control = {name: draw.choice(values) for name, values in choices.items() if draw.random() < 0.4}
        try:
            circuit = made(draw.choice(WITH_CONTROL), control=control)
        except ProblemError:
            continue
        count -= 1
        yield control, circuit


def renamed(x: Any, names: Mapping[str, Device], within: str = "") -> Any:
    """A circuit, or a part of one, in which a plus follows each designation; resistors are drawn three at once and keep theirs."""
    if isinstance(x, str):
        if within in ("a", "b") and ":" not in x:
            return x  # a terminal's own name
        return re.sub(r"(?<!:)\b[A-QS-Z]+\d+", lambda m: f"{m[0]}+" if m[0] in names else m[0], x)
    if isinstance(x, (tuple, list, frozenset)):
        return type(x)(renamed(y, names, within) for y in x)
    if isinstance(x, Mapping):
        return {renamed(k, names): renamed(v, names) for k, v in x.items()}
    if is_dataclass(x) and not isinstance(x, (ControlSource, SupplySystem, MotorConnection, Node)):
        record: Any = x
        own = {f.name: getattr(x, f.name) for f in fields(x) if f.name != "number"}
        return replace(record, **{k: renamed(v, names, k) for k, v in own.items()})
    return x


def script(circuit: Circuit, text: str, *faults: str) -> list[dict[str, Any]]:
    d = damage(circuit, list(faults))
    return run_script(Simulator(d.circuit, usual(1.5), d.engine()), text)


def coils(entry: dict[str, Any]) -> set[str]:
    return {k for k, live in entry["coils"].items() if live}


def lit(entry: dict[str, Any]) -> set[str]:
    return {k for k, on in entry["lamps"].items() if on}
