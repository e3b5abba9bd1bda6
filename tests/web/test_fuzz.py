"""Whatever the API's own document allows to be sent, and what it does not: an answer in words, never a fault of the server."""

import json
import shutil
from pathlib import Path
from typing import Any

import pytest
import schemathesis
from flask.testing import FlaskClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from volmek.web.app import Application, create_app

SCHEMA = schemathesis.openapi.from_dict(json.loads((Path(__file__).parents[2] / "openapi.json").read_text()))
OPERATIONS = {f"{o.method.upper()} {o.path}": o for o in (r.ok() for r in SCHEMA.get_all_operations())}
#: Operations that lay out pages, ask a meter or copy the whole database at each call.
SLOW = (
    ".pdf",
    "/meter/",
    "/backup",
    "/report",
    "/labels",
    "/find-out",
    "/ranges",
    "/jobs/",
    "/compare",
    "/methods",
    "/import",
)
#: What a person would not type and an attacker would.
NASTY: list[Any] = [
    2**64, -(2**70), 1e308, 5e-324, -0.0, "\ud800", "\x00", "A\nB", "=1+1", "é" * 5000, "9999-12-31", "0001-01-01", "2026-02-30", [], {}, None,
    "NaN", True, "../../etc/passwd", "<script>", [[[[]]]], {"a": {"b": {"c": {}}}}, "9" * 400, "2026-01-01T00:00:00+99:99",
]  # fmt: skip


@pytest.fixture(scope="module")
def served(demo_database: Path, tmp_path_factory: pytest.TempPathFactory) -> Application:
    """One application for all cases: what one leaves behind is there for the next."""
    return create_app(Path(shutil.copy(demo_database, tmp_path_factory.mktemp("fuzz") / "fuzz.db")))


def places(value: Any, at: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """Every place in a JSON value."""
    inner = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    return [at, *(p for k, v in inner for p in places(v, (*at, k)))]


def spoilt(value: Any, at: tuple[Any, ...], by: Any) -> Any:
    """A JSON value with another one at a place."""
    if not at:
        return by
    copy = dict(value) if isinstance(value, dict) else list(value)
    copy[at[0]] = spoilt(value[at[0]], at[1:], by)
    return copy


@pytest.mark.parametrize("name", OPERATIONS)
def test_no_request_is_a_fault_of_the_server(served: Application, name: str) -> None:
    operation = OPERATIONS[name]
    client: FlaskClient = served.test_client()

    @settings(max_examples=2 if any(s in name for s in SLOW) else 6, deadline=None, derandomize=True, database=None, suppress_health_check=list(HealthCheck))  # fmt: skip
    @given(st.data())
    def run(data: st.DataObject) -> None:
        case = data.draw(operation.as_strategy(generation_mode=schemathesis.GenerationMode.POSITIVE))
        path = dict(case.path_parameters or {})
        for key in path:
            path[key] = data.draw(st.sampled_from([1, 2, 7, 13, path[key], 2**64, -1]), label=key)
        address = operation.path
        for key, value in path.items():
            address = address.replace("{" + key + "}", str(value).replace("/", "%2F"))
        body = case.body if isinstance(case.body, dict | list) else None
        if body is not None and data.draw(st.booleans(), label="spoilt"):
            body = spoilt(body, data.draw(st.sampled_from(places(body))), data.draw(st.sampled_from(NASTY)))
        query = {k: v for k, v in (case.query or {}).items() if v is not None}
        media = case.media_type or "application/json"
        kind = {"json": body} if media.endswith("json") else {"data": {k: str(v) for k, v in (body or {}).items()}, "content_type": media}  # fmt: skip
        try:
            answer = client.open(
                address, method=operation.method.upper(), query_string=query, **(kind if body is not None else {})
            )
        except UnicodeEncodeError:
            return  # no such address or text can be sent at all
        assert answer.status_code < 500, (address, query, body, answer.get_data(as_text=True)[:300])
        if answer.status_code >= 400 and answer.is_json:
            assert all(p["message"] for p in answer.get_json()["problems"])

    run()
