"""The simulated panel meter over every method, its faults, and registers coded and read again."""

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pymodbus.client.mixin import ModbusClientMixin

from circuits import WITH_CONTROL
from samples import iec, single_phase
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.circuit.simulated import simulated
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import parse
from volmek.meters.registers import QUANTITIES, MeterSettings, Register, stand_in_map
from volmek.standin.meter import PanelMeter, panel_meter

DRIVE: dict[str, Any] = {
    "motor": {"rotor_inertia_kgm2": 0.05},
    "load": {"torque_pct": 60, "shape": "square", "inertia_kgm2": 1.0},
}


def meter(scheme: str, *faults: str, **parts: Any) -> PanelMeter:
    plain = (
        single_phase(starter={"type": scheme})
        if scheme.startswith("single")
        else iec(starter={"type": scheme}, protection={"device": "moulded_case_breaker"}, **DRIVE)
    )
    document = parse({**plain, **parts})
    return panel_meter(document, simulated(document, reference_catalogue(), list(faults)))


def started(scheme: str, *faults: str, seconds: float = 60, button: str = "S2") -> PanelMeter:
    m = meter(scheme, *faults)
    for operation in (f"press {button}", f"release {button}"):
        m.operate(operation)
        m.advance(0.4)
    m.advance(seconds)
    return m


@pytest.mark.parametrize(
    "scheme", [s for s in WITH_CONTROL if s not in ("star_delta_manual", "single_phase_reversing")]
)
def test_every_method_draws_a_running_current_after_its_start(scheme: str) -> None:
    m = started(scheme)
    seen = m.values()
    assert set(seen) == set(QUANTITIES)
    for name, value in seen.items():
        _, low, high = QUANTITIES[name]
        assert low <= value <= high, name
    assert 0.1 * m.rated_a < seen["current_l1"] < 1.35 * m.rated_a
    assert seen["start_current"] >= seen["current_l1"] / 1.35 and seen["start_time"] > 0
    one_phase = scheme.startswith("single")
    assert (seen["current_l2"] == 0) == one_phase
    assert seen["voltage_l1_n"] == pytest.approx(m.volts if one_phase else m.volts / 3**0.5, rel=0.06)


def test_a_reduced_start_draws_less_than_a_direct_one() -> None:
    direct = started("direct_on_line").peak_a
    for scheme, most in (
        ("star_delta", 0.45),
        ("autotransformer", 0.75),
        ("stator_resistance", 0.95),
        ("soft_starter", 0.6),
    ):
        assert started(scheme, seconds=1).peak_a < most * direct, scheme


def test_only_a_change_with_a_gap_has_a_star_time_and_a_pause() -> None:
    timed, closed, direct = (started(s).values() for s in ("star_delta", "star_delta_closed", "direct_on_line"))
    assert timed["star_time"] > 1 and timed["dwell_ms"] > 20
    assert closed["dwell_ms"] == direct["dwell_ms"] == direct["star_time"] == 0


def test_faults_show_in_what_is_measured() -> None:
    assert started("direct_on_line", "remove F3:2 F1:95").values()["current_l1"] == 0
    held = started("direct_on_line", "weld K1")
    held.operate("press S1")
    held.advance(1)
    assert held.values()["current_l1"] > 0, "a welded contactor goes on"
    blocked = started("star_delta", "swap K1:1 K1:3", seconds=40)
    assert blocked.values()["current_l1"] > 2 * blocked.rated_a or blocked.values()["current_l1"] == 0


def test_voltage_and_lines_go_and_come_back() -> None:
    m = started("direct_on_line")
    m.operate("voltage 90")
    m.advance(1)
    assert m.values()["voltage_l1_l2"] == pytest.approx(360, rel=0.03)
    m.operate("voltage 100")
    m.operate("lose L3")
    m.advance(0.5)
    lost = m.values()
    assert lost["current_l3"] == 0 and lost["voltage_l2_l3"] < 0.8 * 400 and lost["voltage_l1_l2"] > 380
    m.operate("restore L3")
    m.operate("press S1")
    m.advance(5)
    assert m.values()["current_l1"] == 0 and m.values()["voltage_l3_l1"] == pytest.approx(400)
    with pytest.raises(ProblemError, match="cannot be done here"):
        m.operate("press S77")


def test_a_second_start_is_measured_anew() -> None:
    m = started("star_delta")
    first = m.star_s
    m.operate("press S1")
    m.advance(8)
    m.operate("release S1")
    m.operate("press S2")
    m.advance(0.4)
    m.operate("release S2")
    assert m.star_s == 0 and m.peak_a > 0
    m.advance(60)
    assert m.star_s == pytest.approx(first, abs=0.1)


def test_the_map_of_the_stand_in_has_every_quantity_once_and_none_overlaps() -> None:
    registers = stand_in_map()
    assert [r.quantity for r in registers] == list(QUANTITIES)
    assert sorted(r.address for r in registers) == list(range(100, 100 + 2 * len(QUANTITIES), 2))


@given(
    st.sampled_from(["float32", "int16", "uint16", "int32", "uint32"]),
    st.sampled_from(["big", "little"]),
    st.integers(0, 32_000),
)
def test_every_coding_is_read_as_it_was_written(kind: str, order: Any, value: int) -> None:
    data_type = getattr(ModbusClientMixin.DATATYPE, kind.upper())
    words = ModbusClientMixin.convert_to_registers(
        float(value) if kind == "float32" else value, data_type, word_order=order
    )
    assert len(words) == data_type.value[1]
    assert ModbusClientMixin.convert_from_registers(words, data_type, word_order=order) == value


@given(st.integers(-10, 70_000), st.integers(-10, 70_000), st.floats(allow_nan=True, allow_infinity=True))
def test_settings_out_of_range_are_refused_and_others_kept(port: int, address: int, scale: float) -> None:
    good = 1 <= port <= 65_535 and 0 <= address <= 65_535 and 1e-9 <= scale <= 1e9
    try:
        made = MeterSettings(port=port, registers=[Register(quantity="frequency", address=address, scale=scale)])
    except ValueError:
        assert not good
    else:
        assert good and made.port == port and made.registers[0].scale == scale
