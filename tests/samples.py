"""Documents that the tests begin with, and the short way to a design."""

from typing import Any

from flask.testing import FlaskClient
from sqlalchemy import Engine

from volmek.core.catalogue.catalogue import Catalogue, reference_catalogue
from volmek.core.design import Design
from volmek.core.devices.device import Device
from volmek.core.document.model import StarterDocument, parse
from volmek.core.sizing import size


def iec(**parts: Any) -> dict[str, Any]:
    """A complete 7.5 kW motor on 400 V; each part given replaces or extends the one here."""
    base: dict[str, Any] = {
        "tag": "A-1",
        "practice": "iec",
        "motor": {
            "rated_power_kw": 7.5,
            "frequency_hz": 50,
            "rated_voltage_delta_v": 400,
            "rated_voltage_star_v": 690,
            "rated_current_delta_a": 14.4,
            "power_factor": 0.83,
            "efficiency_pct": 90.4,
            "rated_speed_rpm": 1465,
            "efficiency_class": "IE3",
            "locked_rotor_current_ratio": 7.2,
        },
        "supply": {"line_voltage_v": 400, "frequency_hz": 50, "prospective_current_ka": 10},
        "load": {"start_time_s": 2.0},
        "protection": {"device": "motor_breaker"},
        "control": {"voltage_v": 230},
    }
    return merged(base, parts)


def nec(**parts: Any) -> dict[str, Any]:
    """A complete 25 hp motor on 480 V under North American practice."""
    base: dict[str, Any] = {
        "tag": "B-1",
        "practice": "nec",
        "motor": {
            "rated_power_hp": 25,
            "frequency_hz": 60,
            "rated_voltage_v": 460,
            "rated_current_a": 31.5,
            "rated_speed_rpm": 1775,
            "service_factor": 1.15,
            "code_letter": "G",
        },
        "supply": {"line_voltage_v": 480, "frequency_hz": 60, "prospective_current_ka": 14},
        "load": {"start_time_s": 2.0},
        "protection": {"device": "inverse_time_breaker"},
        "control": {"voltage_v": 120},
    }
    return merged(base, parts)


def merged(base: dict[str, Any], parts: dict[str, Any]) -> dict[str, Any]:
    """A document with parts replaced; None takes a field out."""
    for name, part in parts.items():
        if isinstance(part, dict):
            fields = {**base.get(name, {}), **part}
            base[name] = {k: v for k, v in fields.items() if v is not None}
        else:
            base[name] = part
    return base


def design(document: StarterDocument, catalogue: Catalogue) -> Design:
    """The results of a sized starter."""
    return size(document, catalogue).design


def run(document: dict[str, Any]) -> Design:
    """The design of plain data with the shipped catalogue."""
    return design(parse(document), reference_catalogue())


def device(d: Design, role: str) -> Device:
    """The device of a role."""
    return next(x for x in d.devices if x.role == role)


def codes(d: Design) -> dict[str, str]:
    """Severity of each finding, by code."""
    return {f.code: f.severity for f in d.findings}


def stops(d: Design) -> dict[str, str]:
    """What stops a design, by the field that mends it."""
    return {f.field: f.message for f in d.findings if f.severity == "stop"}


def single_phase(**parts: Any) -> dict[str, Any]:
    """A 1.1 kW borehole pump with start and run capacitor between line and neutral."""
    base: dict[str, Any] = {
        "tag": "C-1",
        "motor": {
            "phases": 1,
            "rated_power_kw": 1.1,
            "frequency_hz": 50,
            "rated_voltage_v": 230,
            "rated_current_a": 7.2,
            "single_phase_kind": "capacitor_start_run",
        },
        "supply": {"line_voltage_v": 400, "frequency_hz": 50, "prospective_current_ka": 4, "neutral": True},
        "load": {"start_time_s": 1},
        "starter": {"type": "single_phase_direct"},
        "protection": {"device": "magnetic_breaker"},
        "control": {"voltage_v": 230},
    }
    return merged(base, parts)


def engine_of(client: FlaskClient) -> Engine:
    """The database behind a client."""
    engine = client.application.extensions["engine"]
    assert isinstance(engine, Engine)
    return engine
