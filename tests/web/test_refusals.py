"""What the desk refuses: each by its own code and in three parts, with the job, the shop and the people as they were."""

import json
import uuid

import pytest

from offsetter.core.facts import Printer, recipes
from tests.conftest import ROOT
from tests.core.shapes import disc
from tests.web.conftest import PASSWORD, Counter, png, shop_of_its_own

MARK = uuid.uuid4().hex
POST, PUT, GET, DELETE, PATCH = "POST", "PUT", "GET", "DELETE", "PATCH"
WHERE = {"printer": "petrel", "media": "film-460-matte", "mode": "fine"}
HERE = {"cut": 1, "x_um": 0, "y_um": 0}
NOBODY = {"id": "0" * 12}
VALUES = {"base": 3, "source": "trial", "why": "A trial.", "values": {}}
STATE = {"dial_c": 160, "pieces": [], "started_at": 1.0, "done": 1}
MACHINE_ACT = {"id": MARK, "body": {"kind": "filled", "channel": "C", "amount_ml": 10}}


def recipe_with(**changes) -> bytes:
    """A recipe's file that was changed by hand."""
    return json.dumps({**recipes()["film-house"].model_dump(mode="json"), **changes}).encode()


def upside_down() -> bytes:
    body = recipes()["film-house"].model_dump(mode="json")
    for stage in body["stages"]:
        stage["stack"] = stage.get("stack", [])[::-1]
    return json.dumps(body).encode()


REFUSED = [
    # What it is refused as, how it is asked, what with.
    ("no-such-job", GET, "/api/jobs/nobody12", None),
    ("no-such-print", "decide", "order", {"prints": ["front", "back"]}),
    ("no-such-station", POST, "/api/jobs/{job}/try", {"station": "dream", "body": {}}),
    ("no-such-file", PUT, "/api/jobs/{job}/decisions/place", {"base": 0, "body": {"file": "f" * 32}, "print": "front"}),
    ("no-such-mode", "decide", "method", {"mode": "dream"}),
    ("wrong-recipe", "decide", "method", {"recipe": "dye-cloth-house", "recipe_version": 1}),
    ("wrong-printer", "decide", "method", {"printer": "shearwater", "mode": "photo"}),
    ("no-such-language", GET, "/api/welcome/texts/xx", None),
    ("no-demo", POST, "/api/welcome/demo", {"name": "Ada"}),
    ("nothing-heated", GET, "/api/jobs/{scarf}/press-card?part=prepare&print=front", None),
    ("no-artwork", POST, "/api/jobs/{bare}/plates", {}),
    ("nothing-left", POST, "/api/jobs/{job}/redo", {}),
    ("nothing-stale", POST, "/api/jobs/{job}/resolve", {"id": MARK, "old": "0" * 32, "way": "use", "reason": "It is fine."}),
    ("names-count", POST, "/api/jobs/{named}/agreed", {"pieces": 9, "price": 9.0, "by": "Someone"}),
    ("own-door", "act", "{job}", {"kind": "signed", "by": "Someone", "signatures": {}}),
    ("no-such-run", GET, "/api/runs/nobody12/run.pdf", None),
    ("no-such-file-made", GET, "/api/runs/{run}/dream.pdf", None),
    ("not-shared", DELETE, "/api/shared-runs/{run}", None),
    ("no-such-send", POST, "/api/sends/nobody12/cancel", {}),
    ("no-such-code", GET, "/api/codes/R99999-1", None),
    ("no-such-picture", GET, "/api/pictures/0123456789abcdef0123456789abcdef/cloth.png", None),
    ("no-cup", GET, "{picture}/on-cup.png", None),
    ("no-lots", POST, "/api/sheets", {"lots": [{"job": "{job}", "print": "front", "slot": "a/S", "copies": 1}] * 2}),
    ("nothing-to-print", POST, "/api/sheets", {"lots": [{"job": "{printed}", "print": "front", "slot": "a/S", "copies": 1}]}),
    ("no-such-sheet", POST, "/api/sheets/nobody12/pins", {"piece": "a~1", "base": 0}),
    ("no-such-machine", POST, "/api/at-work/nobody/acts", MACHINE_ACT),
    ("no-ink-here", POST, "/api/at-work/gannet/acts", MACHINE_ACT),
    ("no-such-ink", POST, "/api/at-work/petrel/acts", {**MACHINE_ACT, "body": {"kind": "filled", "channel": "Orange", "amount_ml": 10}}),
    ("no-such-kind", POST, "/api/machines/presses", {"kind": "dream", "name": "Auk"}),
    ("name-taken", POST, "/api/machines/presses", {"kind": "{press kind}", "name": "gannet"}),
    ("in-use", "machine", "petrel", [0]),
    ("twice", "machine", "petrel", [0, 0, *range(9)]),
    ("no-such-press", PUT, "/api/presses/nobody/session", {"job": "{job}", "print": "front", "holder": "one-screen", "seq": 1, "state": STATE}),
    ("no-such-press", POST, "/api/today/pace", {"press": "nobody"}),
    ("no-such-recipe", GET, "/api/recipes/dream", None),
    ("no-such-version", GET, "/api/recipes/film-house?version=99", None),
    ("impossible-heat", POST, "/api/recipes/film-house/versions", {**VALUES, "values": {"transfer": {"temperature_c": 900}}}),
    ("impossible-time", POST, "/api/recipes/film-house/versions", {**VALUES, "values": {"transfer": {"time_s": 9000}}}),
    ("nothing-changed", POST, "/api/recipes/film-house/versions", {**VALUES, "values": {"transfer": "{as it is}"}}),
    ("bad-recipe", "file", "/api/recipes", recipe_with(stages=[])),
    ("unknown-method", "file", "/api/recipes", recipe_with(id="new-one", method="dream")),
    ("other-method", "file", "/api/recipes", recipe_with(method="direct")),
    ("wrong-stack", "file", "/api/recipes", upside_down()),
    ("not-json", "file", "/api/recipes", b"\xff\xfe nothing"),
    ("bad-method-file", "file", "/api/methods", b"[method]\nid = 3\n"),
    ("method-known", "file", "/api/methods", (ROOT / "src/offsetter/core/facts/data/methods/film.toml")),
    ("no-such-chart", GET, "/api/colour/charts/dream", None),
    ("no-such-measurement", GET, "/api/colour/measurements/dream", None),
    ("no-such-profile", PUT, "/api/colour/conditions", {**WHERE, "profile": "0" * 32}),
    ("no-profile-yet", POST, "/api/colour/charts", WHERE),
    ("not-ours-to-take", DELETE, "/api/colour/profiles/{our profile}", None),
    ("below-nothing", POST, "/api/stock/acts", {"id": MARK, "item": "cover/parchment", "kind": "taken", "amount": 999_999}),
    ("shop-name", PUT, "/api/shop/name", {"name": " x "}),
    ("shop-has-owner", POST, "/api/welcome/owner", {"name": "Thief", "password": PASSWORD}),
    ("no-such-person", POST, "/api/welcome/demo", {"name": "Nobody"}),
    ("no-such-person", PATCH, "/api/people/nobody12", {"role": "viewer"}),
    ("name-taken", POST, "/api/people", {"name": "Noor", "role": "viewer", "password": PASSWORD}),
    ("bad-name", POST, "/api/people", {"name": "   ", "role": "viewer", "password": PASSWORD}),
    ("bad-password", POST, "/api/people", {"name": "Ines", "role": "viewer", "password": "short"}),
    ("bad-pin", POST, "/api/people", {"name": "Ines", "role": "viewer", "password": PASSWORD, "pin": "12a4"}),
    ("no-such-token", DELETE, "/api/tokens/nobody12", None),
    ("folder-closed", PUT, "/api/links/petrel", {"folder": "{closed}"}),
    ("no-such-host", PUT, "/api/links/petrel", {"address": "ipp://no-such-name.invalid/print"}),
    ("outline-crossed", POST, "/api/blanks", {"name": "Bow tie", "kind": "hard", "coated": True, "colour": "#FFFFFF", "colour_name": "white", "thickness_mm": 3, "scorch_c": 240,
     "price": "1", "sizes": {"one": {"width_mm": 100, "height_mm": 100, "outline": [[0, 0], [1, 0], [1, 1], [0, 1], [0.5, 0.2], [0.2, 0.9]]}}}),
    ("not-a-photo", "photo", "/api/jobs/{job}/photos", b"nothing of a picture"),
    ("bad-photo", "photo", "/api/jobs/{job}/photos", b""),
    ("no-such-lot", "act", "{job}", {"kind": "fetched", "stored": MARK, "count": 1}),
    ("no-such-load", "act", "{printed}", {"kind": "pressed", "run": "{run}", "press": "gannet", "size": "S", "count": 2, "together": 1, "stages": []}),
    ("nothing-good", POST, "/api/shop/mend", {"kind": "printers", "id": "petrel"}),
]  # fmt: skip


@pytest.fixture(scope="module")
def desk(database, shop_rows, tmp_path_factory):
    """A shop with a job that has a print, one that is printed, one with names, one with nothing."""
    with shop_of_its_own(database, "refusals", shop_rows, tmp_path_factory) as (services, client):
        counter = Counter(client)
        job, bare, printed = counter.order(), counter.order(), counter.order({"S": 1})
        counter.place(job)
        run = counter.printed(printed)
        named = counter.order(
            {"S": 2}, names=[{"number": n, "text": f"N{n}", "size": "S", "line": "a"} for n in (1, 2)]
        )
        scarf = counter.order(lines=[{"blank": "scarf", "counts": {"one": 1}}])
        counter.place(scarf)
        closed = tmp_path_factory.mktemp("closed")
        known = {
            "job": job, "bare": bare, "printed": printed, "named": named, "scarf": scarf, "run": run, "closed": str(closed), "our profile": services.jobs.profile,
            "picture": counter.job(job)["line"]["pictures"]["cloth"].rsplit("/", 1)[0], "press kind": next(iter(services.machines.kinds().machines["presses"])),
        }  # fmt: skip
        yield counter, known, services


def filled(given, known):
    """The same with what is only known now in the place of its name."""
    if isinstance(given, str):
        for name, value in known.items():
            given = given.replace(f"{{{name}}}", value)
        return given
    if isinstance(given, dict) and given.get("transfer") == "{as it is}":
        stage = next(s for s in recipes()["film-house"].stages if s.id == "transfer")
        return {"transfer": {"temperature_c": stage.temperature_c, "time_s": stage.time_s}}
    if isinstance(given, dict):
        return {k: filled(v, known) for k, v in given.items()}
    return [filled(v, known) for v in given] if isinstance(given, list | tuple) else given


def asked(desk, how: str, path: str, body):
    counter, known, services = desk
    path, body = filled(path, known), filled(body, known)
    if how == "decide":
        return counter.decide(known["job"], path, **body)
    if how == "act":
        return counter.act(path, **body)
    if how == "machine":
        printer: Printer = services.jobs.shop()[0].printers[path]
        modes = [m.model_dump(mode="json") for m in printer.modes]
        changed = {**printer.model_dump(mode="json"), "modes": [modes[at] for at in body if at < len(modes)]}
        return counter.client.put(f"/api/machines/printers/{path}", json=changed, headers=counter.headers)
    if how in ("file", "photo"):
        data = body if isinstance(body, bytes) else body.read_bytes()
        more = {"data": {"act_id": uuid.uuid4().hex}} if how == "photo" else {}
        return counter.post(path, files={"file": ("given", data)}, **more)
    return counter.client.request(how, path, json=body, headers=counter.headers)


@pytest.mark.parametrize(("code", "how", "path", "body"), REFUSED, ids=[f"{n} {c[0]}" for n, c in enumerate(REFUSED)])
def test_it_is_refused_by_its_code_and_nothing_is_changed(desk, monkeypatch, code, how, path, body):
    counter, known, services = desk
    if code == "no-demo":
        monkeypatch.setattr(services, "is_demo", False)
    if code == "folder-closed":  # the tests run as one who may write anywhere
        monkeypatch.setattr("offsetter.desk.links.os.access", lambda *_: False)

    def standing() -> list:
        jobs = [counter.job(known[j]) for j in ("job", "bare", "printed", "named")]
        kept = [(j["line"]["decisions"], j["revisions"], j["acts"], len(j["runs"]), j["ledger"]) for j in jobs]
        machines = {k: v for k, v in counter.get("/api/shop").json().items() if k not in ("levels", "now")}
        return [
            *kept,
            machines,
            *(counter.get(f"/api/{what}").json() for what in ("people", "stock", "links", "sheets")),
        ]

    before = standing()
    answer = asked(desk, how, path, body)
    assert 400 <= answer.status_code < 500, answer.text[:300]
    told = answer.json()
    assert told["code"] == code, told
    assert all(told[part].strip() for part in ("happened", "kept", "to_do"))
    for was, now in zip(before, standing(), strict=True):
        assert now == was


def test_a_picture_is_still_taken_where_so_much_was_refused(desk):
    counter = desk[0]
    assert counter.upload(png(disc(40, 100))).status_code == 201
