"""The equivalent circuit from the plate against thirty sampled motors, solved by code of their own in ``tests/machines.py``."""

import json
from dataclasses import replace
from functools import lru_cache
from math import sqrt
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from machines import CHANGE_OVERS, FAMILIES, FILE, sampled, truth
from samples import codes, iec, run
from volmek.core.catalogue.catalogue import reference_catalogue
from volmek.core.document.model import parse
from volmek.core.phase_loss.open_phase import open_phase, open_phases
from volmek.core.physics.motor_circuit import GIVEN, Fit, MotorCircuit, PlateValues, fit
from volmek.core.physics.motor_model import MotorModel
from volmek.core.sizing import size
from volmek.core.start.start import motor_of

KNOWN = MotorCircuit(0.02, 0.09, 3.2, 0.022, 0.13, 0.11, 0.05, 0.3, 0.015, 0.016, 0.8, 0.02)


@lru_cache(maxsize=1)
def rows() -> list[dict[str, Any]]:
    return list(json.loads(FILE.read_text()))


def model(plate: dict[str, float]) -> MotorModel:
    """The motor as the application reads it from a plate."""
    s = size(parse(iec(motor=plate, protection={"device": "fuse_gg"})), reference_catalogue())
    motor = motor_of(s.context, s.plate)
    assert isinstance(motor, MotorModel)
    return motor


@lru_cache(maxsize=1)
def models() -> list[MotorModel]:
    return [model(row["plate"]) for row in rows()]


def test_the_sample_is_what_the_machines_give() -> None:
    """Three families of ten; the plates are those of the seed, and one motor's truth is solved anew."""
    assert [row["family"] for row in rows()] == [f for f in FAMILIES for _ in range(10)]
    assert [row["plate"] for row in rows()] == [plate for _, plate in sampled()]
    again = truth(sampled()[17][0])
    assert len(again["peaks"]) == len(CHANGE_OVERS)
    for one, kept in zip(again["peaks"], rows()[17]["truth"]["peaks"], strict=True):
        assert one == pytest.approx(kept, rel=1e-3)
    assert again["lost_phase"]["0.9"] == pytest.approx(rows()[17]["truth"]["lost_phase"]["0.9"], rel=1e-6)


def test_line_current_on_two_phases_within_ten_per_cent_for_nine_motors_in_ten() -> None:
    off = []
    for row, motor in zip(rows(), models(), strict=True):
        for share in (0.6, 0.9, 1.0):
            true = row["truth"]["lost_phase"][str(share)]
            o = open_phase(motor, share)
            if "line" in true and not o.stalls:
                off.append((share, abs(o.line_ratio * o.before_ratio / true["line"] - 1)))
                assert min(o.line_voltages_pct) / 100 == pytest.approx(true["lowest_line_voltage"], rel=0.15)
    at_full = [x for share, x in off if share == 1.0]
    assert len(at_full) > 20
    assert float(np.mean(np.array(at_full) <= 0.10)) >= 0.9
    assert float(np.median([x for _, x in off])) < 0.05


def test_the_load_at_which_it_stalls_on_two_phases() -> None:
    off = [
        abs(motor.circuit.stalls_on_two_phases_at / row["truth"]["lost_phase"]["0.6"]["stalls_at"] - 1)
        for row, motor in zip(rows(), models(), strict=True)
        if motor.circuit
    ]
    assert len(off) == 30
    assert float(np.median(off)) < 0.06 and float(np.quantile(off, 0.9)) < 0.13


def test_peak_after_the_pause_and_the_ranking_of_the_links() -> None:
    right, off = 0, []
    for row, motor in zip(rows(), models(), strict=True):
        circuit, good = motor.circuit, True
        assert circuit
        for q in row["truth"]["peaks"]:
            got = {
                name: circuit.reclosing_peak(angle, q["slip"], q["after"], q["pause_s"], 50)[0]
                for name, angle in (("common", 30), ("favourable", -30))
            }
            off += [abs(got[name] / q[name] - 1) for name in got]
            alike = abs(q["common"] / q["favourable"] - 1) < 0.05
            good &= alike or (got["common"] > got["favourable"]) == (q["common"] > q["favourable"])
        right += good
    assert right >= 28
    assert float(np.median(off)) < 0.05 and float(np.quantile(off, 0.9)) < 0.09


def test_a_circuit_comes_back_from_its_own_rounded_plate() -> None:
    at_rest, torque = KNOWN.at(1.0)
    i, m = (x[0] for x in KNOWN.at(np.array([KNOWN.sn])))
    known = replace(KNOWN, mn=KNOWN.mn * float(m))  # its rated torque is what it gives at rated slip
    scale = 1 / float(abs(i))
    most = float(np.max(known.at(np.geomspace(0.03, 0.8, 400))[1]))
    cos = float(i.real / abs(i))
    eta = known.mn * (1 - known.sn) / float(i.real)
    plate = PlateValues(
        round(cos, 2), round(eta, 3), round(KNOWN.sn, 4), 0.0003, round(float(abs(at_rest)) * scale, 1),
        round(float(torque) / float(m), 1), round(most, 1), frozenset(GIVEN),
    )  # fmt: skip
    found = fit(plate)
    assert found.circuit and found.doubted is None
    for pause, slip in ((0.05, 0.05), (0.3, 0.1)):
        for angle in (30, -30):
            wanted, _ = known.reclosing_peak(angle, slip, slip + 0.03, pause, 50)
            assert found.circuit.reclosing_peak(angle, slip, slip + 0.03, pause, 50)[0] == pytest.approx(
                wanted * scale, rel=0.08
            )
    assert found.circuit.stalls_on_two_phases_at == pytest.approx(known.stalls_on_two_phases_at, rel=0.1)


def test_a_misread_value_is_named_and_left_out() -> None:
    plate = rows()[3]["plate"]
    document = iec(
        motor={**plate, "breakdown_torque_ratio": 2 * plate["breakdown_torque_ratio"]},
        load={"torque_pct": 80},
        protection={"device": "fuse_gg"},
    )
    assert codes(run(document))["plate_value_doubted"] == "attention"
    said = next(f for f in run(document).findings if f.code == "plate_value_doubted")
    assert said.field == "motor.breakdown_torque_ratio"
    right = iec(motor=plate, load={"torque_pct": 80}, protection={"device": "fuse_gg"})
    assert "plate_value_doubted" not in codes(run(right))


def test_small_and_slip_ring_motors_have_no_circuit() -> None:
    assert (
        model(
            {"rated_power_kw": 0.55, "rated_current_delta_a": 1.4, "power_factor": 0.75, "efficiency_pct": 75}
        ).circuit
        is None
    )
    assert model({"rotor_voltage_v": 260, "rotor_current_a": 20}).circuit is None


@settings(max_examples=40)
@given(st.integers(0, 29), st.floats(0.1, 1.4), st.floats(0.01, 0.4))
def test_more_load_on_two_phases_never_draws_less(which: int, share: float, more: float) -> None:
    motor = models()[which]
    light, heavy = open_phases(motor, [share, share + more])
    assert heavy.line_current_a >= light.line_current_a * (1 - 1e-6)
    assert heavy.stalls >= light.stalls
    assert light.line_current_a <= sqrt(3) / 2 * motor.inrush_ratio * motor.rated_current_a * 1.06


def test_the_same_volts_per_hertz_leave_the_reactances_and_lessen_the_resistances() -> None:
    circuit = fit(PlateValues(0.86, 0.939, 0.0133, 0.0003, 7.2, 2.3, 2.7, frozenset(GIVEN))).circuit
    assert circuit
    faster = circuit.at_frequency(1.2)
    # At the same slip frequency (rev/min) the rotor looks alike; torque and current stay.
    (i, m), (i60, m60) = circuit.at(circuit.sn), faster.at(circuit.sn / 1.2)
    assert float(abs(i60)) == pytest.approx(float(abs(i)), rel=0.02)
    assert float(m60) == pytest.approx(float(m), rel=0.03)


def test_nothing_closes_for_a_plate_of_no_motor() -> None:
    odd = PlateValues(0.6, 0.99, 0.15, 0.001, 3.0, 3.0, 3.05, frozenset(GIVEN))
    assert isinstance(fit(odd), Fit) and (fit(odd).circuit is None or fit(odd).doubted is not None)
