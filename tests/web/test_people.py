"""Attacks on the door: guessed PINs, other sites, old cookies, writes by those who may only look."""

import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor

import pytest
from fastapi.routing import APIRoute
from fastapi.testclient import TestClient
from sqlalchemy import text

from offsetter.desk.people import BY_PIN
from offsetter.store.engine import engine_for
from offsetter.web.app import create_app
from tests.conftest import stocked
from tests.web.conftest import PASSWORD, Counter

OPEN = {
    "/api/welcome",
    "/api/welcome/texts/R1",
    "/api/welcome/authority.crt",
    "/api/welcome/owner",
    "/api/welcome/sign-in",
    "/api/welcome/demo",
}
OWN_AFFAIRS = {*OPEN, "/api/welcome/switch", "/api/welcome/sign-out", "/api/me/liking"}
ANYTHING = {"job_id": "x", "recipe_id": "x", "station": "white", "user_id": "x", "session_id": "x", "press": "gannet", "probe": "whimbrel", "holder": "x" * 8, "key": "x",
            "run_id": "x", "name": "run.pdf", "file_hash": "x", "kind": "cloth", "code": "R1", "file": "x", "blank_id": "xy", "printer": "dunlin", "method": "x", "profile": "x", "chart": "x", "measurement": "x", "brand": "x", "sort": "ovens", "machine": "fulmar", "customer": "x", "send_id": "x", "sheet_id": "x", "list_name": "jobs", "table": "stock", "reference": "x", "token_id": "x", "task": "stir-white", "face": "print"}  # fmt: skip


def routes(app) -> list[tuple[str, str]]:
    """Method and a filled-in address of every API route."""
    found = [(m, r.path) for r in _all(app.routes) if r.path.startswith("/api") for m in r.methods]
    assert len(found) > 35
    return [(m, p.format(**ANYTHING)) for m, p in found]


def _all(these):
    for route in these:
        if isinstance(route, APIRoute):
            yield route
        yield from _all(
            getattr(route, "routes", None) or getattr(getattr(route, "original_router", None), "routes", ())
        )


def guess(client: TestClient, cookie: str, name: str, pin: str):
    return client.post(
        "/api/welcome/switch", json={"name": name, "pin": pin}, headers={"cookie": f"offsetter={cookie}"}
    )


def is_in(client: TestClient, cookie: str) -> bool:
    answer = client.get("/api/jobs", headers={"cookie": f"offsetter={cookie}"})
    client.cookies.clear()
    return answer.status_code == 200


@pytest.fixture
def somebody(app, request):
    """A technician of this test alone."""
    name = request.node.name[:50]
    app.state.services.people.add(name, "technician", PASSWORD, "8642")
    return name


def test_after_five_wrong_pins_not_even_the_right_one_opens(client, counter, somebody):
    told = [guess(client, counter.cookie, somebody, f"00{n:02}").json()["code"] for n in range(6)]
    assert told == ["wrong-sign-in"] * 5 + ["too-many-tries"]
    right = guess(client, counter.cookie, somebody, "8642")
    assert (right.status_code, right.json()["code"]) == (429, "too-many-tries")
    assert all(right.json()[part] for part in ("happened", "kept", "to_do"))
    # The guesses cost nobody their session, and the password still opens.
    assert is_in(client, counter.cookie)
    assert client.post("/api/welcome/sign-in", json={"name": somebody, "password": PASSWORD}).status_code == 200
    client.cookies.clear()


def password(client, name: str, word: str, device: str = "") -> dict:
    headers = {"cookie": f"offsetter-device={device}"} if device else {}
    answer = client.post("/api/welcome/sign-in", json={"name": name, "password": word}, headers=headers)
    given = answer.cookies.get("offsetter-device", "")
    client.cookies.clear()
    return {**answer.json(), "device": given}


def test_a_stranger_slows_down_himself_and_not_a_device_that_is_known(client, somebody):
    device = password(client, somebody, PASSWORD)["device"]
    assert device
    told = [password(client, somebody, f"guess {n} of many").get("code") for n in range(7)]
    assert told == ["wrong-sign-in"] * 5 + ["too-many-tries"] * 2
    assert "Wait" in password(client, somebody, PASSWORD)["to_do"]
    # From the device that they signed in at before the door is open, and a wrong word there is counted there.
    assert "code" not in password(client, somebody, PASSWORD, device)
    told = [password(client, somebody, f"slip {n} of many", device).get("code") for n in range(6)]
    assert told == ["wrong-sign-in"] * 5 + ["too-many-tries"]


def test_waits_grow_and_end():
    waits = [BY_PIN.after(n).total_seconds() for n in range(4, 20)]
    assert waits[:4] == [0, 30, 60, 120]
    assert waits[-1] == BY_PIN.longest.total_seconds()
    # All ten thousand PINs of four digits take longer than any shop lasts.
    assert sum(BY_PIN.after(n).total_seconds() for n in range(10_000)) / 86_400 > 9_000


def test_a_burst_of_guesses_is_counted_one_by_one(client, counter, somebody):
    with ThreadPoolExecutor(12) as hands:
        told = list(hands.map(lambda n: guess(client, counter.cookie, somebody, f"1{n:03}").json()["code"], range(24)))
    assert told.count("wrong-sign-in") == 5
    assert told.count("too-many-tries") == 19


def test_a_name_that_does_not_exist_is_told_nothing_else(client, somebody):
    words = [
        client.post("/api/welcome/sign-in", json={"name": n, "password": "not this one"}).json()
        for n in (somebody, "Nobody at all")
    ]
    assert words[0] == words[1]


@pytest.mark.parametrize(
    "sent",
    [
        {"origin": "http://elsewhere.example"},
        {"sec-fetch-site": "cross-site"},
        {"origin": "null"},
        {"sec-fetch-site": "same-site"},
    ],
)
def test_another_sites_page_changes_nothing(client, counter, sent):
    job = counter.order()
    before = counter.job(job)["acts"]
    told = client.post("/api/acts", json={}, headers={**counter.headers, **sent})
    assert (told.status_code, told.json()["code"]) == (403, "other-site")
    assert counter.job(job)["acts"] == before


def test_a_name_pointed_at_the_demos_address_gets_no_further(client):
    told = client.post(
        "/api/welcome/demo",
        json={"name": "Ada"},
        headers={"host": "elsewhere.example", "origin": "http://elsewhere.example"},
    )
    assert told.status_code == 400
    assert "set-cookie" not in told.headers


def test_an_old_cookie_opens_nothing(client, app, counter, somebody):
    mine = Counter(client, somebody)
    assert is_in(client, mine.cookie)
    switched = guess(client, mine.cookie, "Noor", "2468")
    assert switched.json()["me"]["name"] == "Noor"
    assert not is_in(client, mine.cookie), "the session before the switch is over"
    noor = switched.cookies["offsetter"]
    client.cookies.clear()
    assert client.post("/api/welcome/sign-out", headers={"cookie": f"offsetter={noor}"}).status_code == 204
    assert not is_in(client, noor), "signed out"

    mine = Counter(client, somebody)
    person = next(p for p in counter.get("/api/people").json() if p["name"] == somebody)
    changed = client.patch(
        f"/api/people/{person['id']}", json={"password": "other words here"}, headers=counter.headers
    )
    assert changed.status_code == 200
    assert not is_in(client, mine.cookie), "a new password ends the sessions of the old one"

    mine = Counter(client, somebody)
    (session,) = [s["id"] for s in counter.get("/api/sessions").json() if s["name"] == somebody]
    client.delete(f"/api/sessions/{session}", headers=counter.headers)
    assert not is_in(client, mine.cookie), "ended by the owner"


def test_somebody_shut_out_does_not_come_back_in(client, counter, somebody):
    mine = Counter(client, somebody)
    person = next(p for p in counter.get("/api/people").json() if p["name"] == somebody)
    assert (
        client.patch(f"/api/people/{person['id']}", json={"is_active": False}, headers=counter.headers).status_code
        == 200
    )
    assert not is_in(client, mine.cookie)
    assert guess(client, counter.cookie, somebody, "8642").json()["code"] == "wrong-sign-in"
    for door, body in (("sign-in", {"name": somebody, "password": PASSWORD}), ("demo", {"name": somebody})):
        answer = client.post(f"/api/welcome/{door}", json=body)
        assert answer.status_code in (401, 409), door
        assert "set-cookie" not in answer.headers


def test_nobody_reads_or_writes_without_signing_in(client, app):
    client.cookies.clear()
    for method, path in routes(app):
        if path not in OPEN:
            assert client.request(method, path).status_code == 401, (method, path)


def test_a_viewer_writes_nothing(client, app, counter):
    visitor = Counter(client, "Visitor")
    assert visitor.get("/api/jobs").status_code == 200
    for method, path in routes(app):
        # A try is worked out and forgotten: looking, not writing.
        if path.startswith("/api/elsewhere/"):
            # Programs come here, by a token: a person's session opens it to nobody.
            assert client.request(method, path, json={}, headers=visitor.headers).json()["code"] == "no-token"
        elif method != "GET" and path not in OWN_AFFAIRS and not path.endswith("/try"):
            told = client.request(method, path, json={}, headers=visitor.headers)
            assert (told.status_code, told.json()["code"]) == (403, "may-not"), (method, path, told.text)


def test_an_owner_gives_a_technician_the_right_to_price_and_takes_it_back(client, counter):
    noor = counter.as_person("Noor")
    known = next(p["id"] for p in counter.get("/api/people").json() if p["name"] == "Noor")
    margin = counter.get("/api/prices").json()["prices"]["margin_share"]
    feed = next(p for p in counter.get("/api/shop").json()["printers"] if p["id"] == "petrel")["feeds"][0]

    def priced(feed_price: str = "3.35") -> list[int]:
        return [
            noor.client.put("/api/prices", json={"margin_share": margin}, headers=noor.headers).status_code,
            noor.client.put("/api/printers/petrel/feeds", json={**feed, "price": feed_price}, headers=noor.headers).status_code,
            noor.client.delete("/api/colour/brands/nobodys", headers=noor.headers).status_code,
        ]  # fmt: skip

    def given(**changed) -> None:
        answer = client.patch(f"/api/people/{known}", json=changed, headers=counter.headers)
        assert answer.status_code == 200, answer.text

    assert priced() == [403, 409, 403]
    given(rights=["prices"])
    assert noor.get("/api/welcome").json()["me"]["rights"] == ["prices"]
    assert priced() == [200, 200, 403]
    given(rights=["prices", "colours"])
    assert priced()[2] != 403
    given(role="viewer")
    assert priced()[0] == 403, "who only looks prices nothing, whatever was given before"
    given(role="technician", rights=[])
    assert priced("3.36") == [403, 409, 403]
    assert (
        client.patch(f"/api/people/{known}", json={"rights": ["everything"]}, headers=counter.headers).status_code
        == 422
    )
    counter.client.put("/api/printers/petrel/feeds", json=feed, headers=counter.headers)


def test_a_technician_lets_nobody_in(client, counter):
    noor = counter.as_person("Noor")
    told = noor.post("/api/people", json={"name": "A friend", "role": "owner", "password": PASSWORD})
    assert told.status_code == 403
    assert noor.get("/api/sessions").status_code == 403


def test_the_shop_keeps_an_owner(client, app, counter):
    for person in counter.get("/api/people").json():
        if person["role"] == "owner":
            told = client.patch(f"/api/people/{person['id']}", json={"is_active": False}, headers=counter.headers)
            assert (told.status_code, told.json()["code"]) == (409, "last-owner")


def test_the_first_run_makes_one_owner_and_keeps_no_secret_readable(database, shop_rows, tmp_path):
    url = stocked(database, "first_run", shop_rows)
    (tmp_path / "index.html").write_text("")
    app = create_app(url, tmp_path / "data", tmp_path)
    with TestClient(app, "https://shop.example") as client:
        assert client.get("/api/welcome").json()["needs_owner"]
        assert client.post("/api/welcome/demo", json={"name": "Ada"}).status_code == 403, "this is no demo"
        weak = client.post("/api/welcome/owner", json={"name": "Ada", "password": "short"})
        assert weak.status_code == 409
        with ThreadPoolExecutor(4) as hands:
            send = lambda n: client.post("/api/welcome/owner", json={"name": f"Owner {n}", "password": PASSWORD})  # noqa: E731
            answers = list(hands.map(send, range(4)))
        assert sorted(a.status_code for a in answers) == [200, 409, 409, 409]
        cookie = next(a.headers["set-cookie"] for a in answers if a.status_code == 200).lower()
        assert all(flag in cookie for flag in ("httponly", "secure", "samesite=strict"))
        token = next(a.cookies["offsetter"] for a in answers if a.status_code == 200)
    engine = engine_for(url)
    with engine.connect() as rows:
        (person,) = rows.execute(text("SELECT * FROM users")).mappings()
        (session,) = rows.execute(text("SELECT * FROM sessions")).mappings()
    engine.dispose()
    assert person["password_hash"].startswith("$argon2id$")
    assert PASSWORD not in str(dict(person))
    assert token not in str(dict(session))


def test_what_a_shop_keeps_of_a_password_is_slow_to_guess():
    """RFC 9106, section 4: the second recommended option, 64 MiB and three passes."""
    with_ours = "import offsetter.desk.people as p; print(p._HASHER.hash('three words do'))"
    made = subprocess.run([sys.executable, "-c", with_ours], capture_output=True, text=True, check=True).stdout
    assert made.startswith("$argon2id$v=19$m=65536,t=3,p=4$")
