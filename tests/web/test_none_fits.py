"""A role without a device, and a choice that motor or supply forbid, empty no page, paper or list."""

import json
from typing import Any

import pytest
from flask.testing import FlaskClient

from samples import iec, nec, single_phase

LARGE = {
    "rated_power_kw": 900,
    "rated_current_delta_a": 1550,
    "power_factor": 0.9,
    "efficiency_pct": 96,
    "rated_speed_rpm": 1490,
}
TINY = {
    "rated_power_kw": 0.02,
    "rated_current_delta_a": 0.05,
    "power_factor": None,
    "efficiency_pct": None,
    "rated_speed_rpm": None,
}
PAGES = (
    "build", "circuit", "diagrams", "diagrams.html", "compare?method=autotransformer", "figures", "labels.html", "markers.csv", "methods", "phase-failure", "progress",
    "readings", "record", "report.html", "sheet.html", "start", "strip.csv", "time-current", "time-current.csv", "time-current.svg", "wires.csv",
)  # fmt: skip
CASES = {
    "no breaker, contactor": iec(motor=LARGE),
    "no relay, no contactors, no fuse": iec(motor=LARGE, starter={"type": "star_delta"}, protection={"device": "fuse_gg"}, supply={"cable_length_m": 50}),
    "no relay": iec(motor=TINY, protection={"device": "fuse_gg"}),
    "no breaking capacity": iec(supply={"prospective_current_ka": 180}),
    "no NEMA size": nec(motor={"rated_power_hp": 400, "rated_current_a": 470}, supply={"prospective_current_ka": 200}),
    "no hand-operated one": iec(motor={**LARGE, "rated_power_kw": 160, "rated_current_delta_a": 280}, starter={"type": "manual"}),
    "three leads in star-delta": iec(motor={"leads": 3}, starter={"type": "star_delta"}),
    "a three-phase method for one phase": single_phase(starter={"type": "star_delta"}),
    "no plate voltage": iec(supply={"line_voltage_v": 500}),
    "a soft starter of that size": iec(motor=LARGE, starter={"type": "soft_starter"}, protection={"device": "fuse_gg"}),
}  # fmt: skip


@pytest.mark.parametrize("case", CASES)
def test_everything_that_does_not_depend_on_it_is_there(client: FlaskClient, case: str) -> None:
    board = client.get("/api/boards").get_json()["boards"][0]["id"]
    made = client.post(f"/api/boards/{board}/starters", json={"document": CASES[case]})
    assert made.status_code == 201, made.get_json()
    at = f"/api/starters/{made.get_json()['id']}"
    design: dict[str, Any] = client.get(at).get_json()["design"]
    stops = [f for f in design["findings"] if f["severity"] == "stop"]
    assert stops, case
    lacking = [d for d in design["devices"] if d["none_fits"]]
    assert {d["designation"] for d in lacking} == {f["device"] for f in stops if f["code"] == "no_device_fits"}
    assert bool(lacking) == case.startswith(("no ", "a soft")) or case == "no plate voltage"
    for d in lacking:
        assert "type" not in d["selected"]
        assert d["none_fits"]["reason"] and d["none_fits"]["remedy"]
    for page in PAGES:
        answer = client.get(f"{at}/{page}")
        assert answer.status_code == 200, (page, answer.get_data(as_text=True)[:400])
        text = answer.get_data(as_text=True)
        assert "None" not in text.replace("None noted", ""), page
        for d in lacking:  # what is nearest is never listed as if it were chosen
            if page.endswith(".csv"):
                assert d["none_fits"]["nearest"] not in text
    assert json.loads(client.get(f"{at}/document.json").get_data())["motor"] == CASES[case]["motor"]
