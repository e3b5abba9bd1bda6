"""Who may what: every operation against every role, and all that a sign-in promises."""

import json
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from typing import Any

import pytest
from flask.testing import FlaskClient
from sqlalchemy.orm import Session

from databases import ON_FILES
from samples import engine_of
from volmek.core.document.errors import ProblemError
from volmek.store.engine import Database, writer
from volmek.store.meters import allowed_address, network_of
from volmek.store.models import SignInFailure, now
from volmek.store.people import add_person, failed, must_wait, person_of, take_off
from volmek.store.roles import ROLES
from volmek.web.access import NEEDS, Access
from volmek.web.app import Application, create_app

PASSWORD = "a long enough one"
WORKSHOP = Access(workshop=True, at="https://10.20.0.2:8443")
PEOPLE = {"Rita": "reads", "Walt": "works", "Dora": "designs", "Alma": "administers"}


@pytest.fixture(scope="session")
def hashed() -> dict[str, str]:
    """Hashing is slow on purpose: once for all tests."""
    from volmek.store.people import hash_of

    return {PASSWORD: hash_of(PASSWORD)}


@pytest.fixture
def shop(demo: Database, hashed: dict[str, str], monkeypatch: pytest.MonkeyPatch) -> Iterator[Application]:
    """A workshop with one person of each role."""
    app = create_app(demo, how=WORKSHOP)
    with monkeypatch.context() as m, Session(writer(app.extensions["engine"])) as session, session.begin():
        m.setattr("volmek.store.people.hash_of", hashed.__getitem__)
        for name, role in PEOPLE.items():
            add_person(session, name, role, PASSWORD)  # type: ignore[arg-type]
    yield app
    app.extensions["queue"].close()
    app.extensions["engine"].dispose()


def person(app: Application, name: str = "", password: str = PASSWORD) -> FlaskClient:
    """A browser of somebody who has signed in; of nobody without a name."""
    client = app.test_client()
    if name:
        answer = client.post("/api/sign-in", json={"name": name, "password": password})
        assert answer.status_code == 200, answer.get_json()
    return client


def problem(answer: Any) -> str:
    return str(answer.get_json()["problems"][0]["message"])


def requests_of(app: Application) -> list[tuple[str, str, str]]:
    """Every operation with its method and an address that names nothing that is there."""
    document = app.api_doc
    found = []
    for path, methods in document["paths"].items():
        for method, operation in methods.items():
            address = path
            for name in (
                "starter_id",
                "board_id",
                "catalogue_id",
                "seal_id",
                "preset_id",
                "number",
                "person_id",
                "address_id",
                "key",
            ):
                address = address.replace("{" + name + "}", "999999")
            found.append((operation["operationId"], method.upper(), address))
    return found


@ON_FILES
def test_every_operation_against_every_role(shop: Application) -> None:
    """Refused for the role, or let through to whatever the request itself deserves: there is nothing in between."""
    listed = requests_of(shop)
    assert {name for name, _, _ in listed} == NEEDS.keys()
    clients = {"": person(shop), **{role: person(shop, name) for name, role in PEOPLE.items()}}
    for role, client in clients.items():
        for name, method, address in listed:
            if name in ("sign_out", "sign_out_everywhere"):
                continue  # these end what the others need; below
            needed, answer = NEEDS[name], client.open(address, method=method, json={} if method in ("POST", "PUT") else None)  # fmt: skip
            expected = (
                None if needed is None or (role and ROLES.index(role) >= ROLES.index(needed)) else 403 if role else 401
            )  # type: ignore[arg-type]
            if expected is None:
                assert answer.status_code not in (401, 403), (role, name, answer.status_code)
            else:
                assert answer.status_code == expected, (role, name, answer.status_code)
            assert answer.status_code < 500, (role, name)


def test_nobody_sees_anything_before_signing_in(shop: Application) -> None:
    client = person(shop)
    assert client.get("/api/me").get_json() == {"workshop": True, "name": "", "role": None, "encrypted": False}
    refused = client.get("/api/boards")
    assert refused.status_code == 401 and "sign in first" in problem(refused)
    assert client.get("/api/words").status_code == 200  # names of fields, without anything of anybody
    wrong = client.post("/api/sign-in", json={"name": "Rita", "password": "not this one"})
    assert wrong.status_code == 422 and problem(wrong) == "name or password are wrong"
    nobody = client.post("/api/sign-in", json={"name": "Nobody", "password": "not this one"})
    assert problem(nobody) == problem(wrong), "which of the two is wrong is not said"


def test_the_cookie_is_for_this_page_alone(demo: Database, shop: Application) -> None:
    client = shop.test_client()
    set_cookie = client.post("/api/sign-in", json={"name": "rita ", "password": PASSWORD}).headers["Set-Cookie"]
    assert "HttpOnly" in set_cookie and "SameSite=Strict" in set_cookie and "Secure" not in set_cookie
    encrypted = create_app(demo, how=Access(workshop=True, tls=True)).test_client()
    assert "Secure" in encrypted.post("/api/sign-in", json={"name": "Rita", "password": PASSWORD}).headers["Set-Cookie"]


def test_failures_make_the_next_try_wait_in_every_process(demo: Database, shop: Application) -> None:
    client, other = shop.test_client(), create_app(demo, how=WORKSHOP).test_client()
    for n in range(5):
        assert (client, other)[n % 2].post(
            "/api/sign-in", json={"name": "Rita", "password": "wrong"}
        ).status_code == 422
    for c in (client, other):
        waits = c.post("/api/sign-in", json={"name": " RITA", "password": PASSWORD})
        assert (
            waits.status_code == 429
            and 1 <= int(waits.headers["Retry-After"]) <= 3
            and "try again in" in problem(waits)
        )
    assert client.post("/api/sign-in", json={"name": "Walt", "password": PASSWORD}).status_code == 200
    with Session(writer(shop.extensions["engine"])) as session, session.begin():
        for row in session.query(SignInFailure):
            row.last = now() - timedelta(seconds=5)
    assert client.post("/api/sign-in", json={"name": "Rita", "password": PASSWORD}).status_code == 200
    with Session(shop.extensions["engine"]) as session:
        assert must_wait(session, "Rita", "") == timedelta()


def test_many_tries_at_once_are_counted_as_many(shop: Application) -> None:
    def guess(_: int) -> int:
        return int(
            shop.test_client().post("/api/sign-in", json={"name": "Rita", "password": "a guess of many"}).status_code
        )

    with ThreadPoolExecutor(12) as pool:
        answers = list(pool.map(guess, range(24)))
    assert set(answers) == {422, 429} and answers.count(422) <= 8, answers


def test_many_names_from_one_address_wait_too(shop: Application) -> None:
    with Session(writer(shop.extensions["engine"])) as session, session.begin():
        for n in range(22):
            failed(session, f"name {n}", "10.0.0.9")
        assert must_wait(session, "Rita", "10.0.0.9") > timedelta(seconds=3)
        assert must_wait(session, "Rita", "10.0.0.8") <= timedelta()
        assert must_wait(session, "Rita", "10.0.0.9", now() + timedelta(hours=25)) <= timedelta()


def test_signed_out_everywhere(shop: Application) -> None:
    laptop, tablet = person(shop, "Dora"), person(shop, "Dora")
    assert laptop.post("/api/sign-in/everywhere").status_code == 200
    assert laptop.get("/api/boards").status_code == 200 and tablet.get("/api/boards").status_code == 401
    changed = laptop.put("/api/sign-in/password", json={"old": "wrong", "new": "x" * 12})
    assert changed.get_json()["problems"][0]["field"] == "old"
    short = laptop.put("/api/sign-in/password", json={"old": PASSWORD, "new": "short"})
    assert "at least 10" in problem(short)
    tablet = person(shop, "Dora")
    assert laptop.put("/api/sign-in/password", json={"old": PASSWORD, "new": "another long one"}).status_code == 200
    assert tablet.get("/api/me").get_json()["name"] == "" and laptop.get("/api/me").get_json()["name"] == "Dora"
    person(shop, "Dora", "another long one")
    assert laptop.delete("/api/sign-in").get_json()["name"] == "" and laptop.get("/api/boards").status_code == 401


def test_a_role_holds_from_the_next_request_on(shop: Application) -> None:
    alma, walt = person(shop, "Alma"), person(shop, "Walt")
    ids = {p["name"]: p["id"] for p in alma.get("/api/people").get_json()["people"]}
    assert "works at the panel" in problem(walt.post("/api/boards", json={"job": "J", "name": "B"}))
    alma.put(f"/api/people/{ids['Walt']}", json={"role": "designs"})
    assert walt.post("/api/boards", json={"job": "J", "name": "B"}).status_code == 201
    alma.put(f"/api/people/{ids['Walt']}", json={"sign_out": True})
    assert walt.get("/api/boards").status_code == 401
    refused = alma.put(f"/api/people/{ids['Alma']}", json={"role": "reads"})
    assert "last one who administers" in problem(refused)
    assert "last one who administers" in problem(alma.delete(f"/api/people/{ids['Alma']}"))
    alma.delete(f"/api/people/{ids['Rita']}")
    assert person(shop).post("/api/sign-in", json={"name": "Rita", "password": PASSWORD}).status_code == 422
    again = alma.post("/api/people", json={"name": "RITA", "role": "reads", "password": PASSWORD})
    assert "give another one" in problem(again), "the entries of the one before keep their name"


ENTRY = {"kind": "open", "body": {"text": "label missing"}, "said": "2026-11-28T10:00:00Z"}


def write(client: FlaskClient, key: str, **more: Any) -> Any:
    return client.post("/api/starters/7/journal", json={"entries": [ENTRY | {"key": f"key-of-{key}"} | more]}).get_json()["results"][0]  # fmt: skip


def test_who_wrote_it_is_who_has_signed_in(shop: Application) -> None:
    walt = person(shop, "Walt")
    assert write(walt, "one")["id"] and write(walt, "two", who="Walt")["id"]
    other = write(walt, "three", who="Dora")
    assert other["id"] is None and "Dora must sign in to send it" in other["problems"][0]["message"]
    second = walt.post("/api/sign-in/second", json={"name": "Dora", "password": PASSWORD}).get_json()
    signed = write(
        walt, "four", who="Dora", second=second["second"], kind="signature", body={"role": "tested", "name": "Dora"}
    )
    if signed["id"] is None:  # the body of a signature is the core's business; an open item shows the same
        signed = write(walt, "five", who="Dora", second=second["second"])
    assert signed["id"], signed
    forged = write(walt, "six", second=second["second"][:-2] + "xx")
    assert forged["id"] is None and forged["problems"][0]["field"] == "second"
    with Session(engine_of(walt)) as session:
        from volmek.store.records import chain_of, entries

        mine = {e.key: (e.who, e.signed) for e in entries(session, 7) if e.key.startswith("key-of-")}
        assert mine["key-of-one"] == ("Walt", True) and ("Dora", True) in mine.values()
        assert chain_of(session, 7).broken is None
    seal = walt.post("/api/starters/7/seals", json={}).get_json()["seals"][0]
    assert (seal["who"], seal["signed"], seal["unbroken"]) == ("Walt", True, True)
    assert walt.post("/api/starters/7/seals", json={"who": "Dora"}).status_code == 422


def test_without_sign_in_a_name_is_as_typed(client: FlaskClient) -> None:
    assert client.get("/api/me").get_json()["workshop"] is False
    assert write(client, "one", who="Ann")["id"]
    assert "say who writes" in write(client, "two")["problems"][0]["message"]
    seal = client.post("/api/starters/7/seals", json={"who": "Ann"}).get_json()["seals"][0]
    assert seal["signed"] is False
    assert "name as typed" in client.get("/api/starters/7/report.html").get_data(as_text=True)
    for method, url in (("POST", "/api/sign-in"), ("POST", "/api/pairing/use"), ("POST", "/api/sign-in/second")):
        refused = client.open(
            url, method=method, json={"name": "x", "password": "y"} if "use" not in url else {"code": "x"}
        )
        assert "alone" in problem(refused), url
    assert "alone" in problem(client.get("/api/people"))


def test_a_tablet_is_paired_once_and_soon(shop: Application, monkeypatch: pytest.MonkeyPatch) -> None:
    walt, tablet = person(shop, "Walt"), person(shop)
    made = walt.post("/api/pairing").get_json()
    address, code = made["address"].split("#")
    assert address == "https://10.20.0.2:8443/pair" and made["picture"].startswith("data:image/svg+xml")
    assert tablet.post("/api/pairing/use", json={"code": code}).get_json()["name"] == "Walt"
    assert tablet.get("/api/boards").status_code == 200
    assert "was used or has expired" in problem(person(shop).post("/api/pairing/use", json={"code": code}))
    late = walt.post("/api/pairing").get_json()["address"].split("#")[1]
    monkeypatch.setattr("volmek.store.people.now", lambda: now() + timedelta(minutes=6))
    assert "has expired" in problem(person(shop).post("/api/pairing/use", json={"code": late}))


def test_every_change_is_on_the_list(shop: Application) -> None:
    alma, dora = person(shop, "Alma"), person(shop, "Dora")
    starter = dora.get("/api/starters/7").get_json()
    document = {**starter["document"], "service": "=cmd()"}
    assert dora.put("/api/starters/7", json={"version": starter["version"], "document": document}).status_code == 200
    assert dora.put("/api/starters/7", json={"version": 1, "document": starter["document"]}).status_code == 409
    dora.post("/api/boards", json={"job": "=2+5", "name": "B9"})
    write(dora, "one")
    lines = alma.get("/api/changes").get_json()["changes"]
    assert [(c["who"], c["role"], c["operation"]) for c in lines][:3] == [
        ("Dora", "designs", "add_to_journal"),
        ("Dora", "designs", "add_board"),
        ("Dora", "designs", "save_starter"),
    ], "what was refused changed nothing and is not there"
    assert "KG-101" in lines[0]["subject"]
    text = alma.get("/api/changes.csv").get_data(as_text=True)
    assert "save_starter" in text and "\n=" not in text and ",=" not in text
    assert alma.get("/api/starters/7/history").get_json()["revisions"][0]["who"] == "Dora"


def test_meters_only_where_somebody_allowed_them(shop: Application) -> None:
    alma, walt = person(shop, "Alma"), person(shop, "Walt")
    settings = walt.get("/api/starters/7/meter").get_json()["settings"]
    for host in ("127.0.0.1", "localhost", "169.254.169.254", "0.0.0.0", "[::1]", "10.20.0.7", "not a name"):
        assert walt.put("/api/starters/7/meter", json={**settings, "host": host, "timeout_s": 0.1}).status_code == 200
        read = walt.post("/api/starters/7/meter/read", json={}).get_json()["readout"]
        assert "may not be read" in read["problem"] or "not known" in read["problem"], (host, read["problem"])
    assert walt.post("/api/meter-addresses", json={"host": "127.0.0.1"}).status_code == 403
    assert "too wide" in problem(alma.post("/api/meter-addresses", json={"host": "10.0.0.0/8"}))
    assert "no name" in problem(alma.post("/api/meter-addresses", json={"host": "a b"}))
    allowed = alma.post("/api/meter-addresses", json={"host": "127.0.0.1"}).get_json()["addresses"]
    assert [(a["host"], a["allowed_by"]) for a in allowed] == [("127.0.0.1", "Alma")]
    walt.put("/api/starters/7/meter", json={**settings, "host": "127.0.0.1", "port": 9, "timeout_s": 0.1})
    read = walt.post("/api/starters/7/meter/read", json={}).get_json()["readout"]
    assert "cannot be reached" in read["problem"]
    alma.delete(f"/api/meter-addresses/{allowed[0]['id']}")
    assert "may not" in walt.post("/api/starters/7/meter/read", json={}).get_json()["readout"]["problem"]
    stand_in = walt.post("/api/starters/7/meter/stand-in", json={"operations": []})
    assert stand_in.status_code == 200, stand_in.get_json()
    assert walt.post("/api/starters/7/meter/read", json={}).get_json()["readout"]["problem"] == ""
    walt.delete("/api/starters/7/meter/stand-in")


def test_a_name_that_points_here_is_not_a_way_round() -> None:
    from ipaddress import ip_address

    def here(_: str) -> list[Any]:
        return [ip_address("127.0.0.1")]

    assert allowed_address("meter-3", ["meter-3"], here)[0] == "", "a name may not stand for this machine"
    assert allowed_address("meter-3", ["meter-3"], lambda _: [ip_address("10.1.1.1")])[0] == "10.1.1.1"
    assert network_of("10.20.0.0/24") is not None


def test_hosts_of_a_workshop(shop: Application) -> None:
    client = person(shop, "Rita")
    for host, status in (("10.20.0.2:8443", 401), ("[fe80::1]:8443", 401), ("localhost", 200), ("evil.example", 403)):
        assert client.get("/api/boards", headers={"Host": host}).status_code == status, host
    origin = {"Host": "10.20.0.2:8443", "Origin": "https://evil.example"}
    assert client.post("/api/sign-in", json={"name": "Rita", "password": PASSWORD}, headers=origin).status_code == 403


def test_what_others_changed_is_told_in_a_word(shop: Application) -> None:
    dora, walt = person(shop, "Dora"), person(shop, "Walt")
    first = walt.get("/api/starters/7/state")
    tag = {"If-None-Match": first.headers["ETag"]}
    assert walt.get("/api/starters/7/state", headers=tag).status_code == 304
    lists = {"If-None-Match": walt.get("/api/boards/state").headers["ETag"]}
    assert walt.get("/api/boards/state", headers=lists).status_code == 304
    starter = dora.get("/api/starters/7").get_json()
    document = json.loads(json.dumps(starter["document"]))
    document["service"] = "Another"
    dora.put("/api/starters/7", json={"version": starter["version"], "document": document})
    after = walt.get("/api/starters/7/state", headers=tag)
    assert after.status_code == 200 and after.get_json() | {"saved": ""} == first.get_json() | {
        "version": starter["version"] + 1, "changed_by": "Dora", "change": "service", "saved": ""
    }  # fmt: skip
    assert walt.get("/api/boards/state", headers=lists).status_code == 200


def test_a_long_request_waits_in_the_queue(shop: Application) -> None:
    dora, walt = person(shop, "Dora"), person(shop, "Walt")
    asked = dora.get("/api/starters/7/sheet.html", headers={"X-Work": "long-1", "Prefer": "respond-async"})
    assert (asked.status_code, asked.get_json()) == (202, {"key": "long-1"})
    assert walt.get("/api/requests/long-1").status_code == 404, "another's is not seen"
    for _ in range(200):
        answer = dora.get("/api/requests/long-1/answer")
        if answer.status_code != 202:
            break
        time.sleep(0.05)
    assert answer.status_code == 200 and answer.data == dora.get("/api/starters/7/sheet.html").data
    assert answer.mimetype == "text/html" and dora.get("/api/requests/long-1/answer").status_code == 404
    refused = walt.delete("/api/starters/7", headers={"X-Work": "long-2", "Prefer": "respond-async"})
    assert refused.status_code == 403, "who may not is told at once"


def test_nobody_is_let_in_by_a_cookie_of_another_installation(shop: Application, demo: Database, monkeypatch: pytest.MonkeyPatch, tmp_path: Any) -> None:  # fmt: skip
    client = person(shop, "Dora")
    cookie = client.get_cookie("volmek")
    assert cookie is not None
    monkeypatch.setenv("VOLMEK_SECRET_FILE", str(tmp_path / "other"))
    other = create_app(demo, how=WORKSHOP).test_client()
    other.set_cookie("volmek", cookie.value)
    assert other.get("/api/boards").status_code == 401


def test_the_last_administrator_stays(shop: Application) -> None:
    with Session(writer(shop.extensions["engine"])) as session, pytest.raises(ProblemError, match="last one"):
        take_off(session, person_of(session, "Alma"))
