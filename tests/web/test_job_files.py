"""A whole job out as a zip and in again: equal in the same shop and in an empty one; hostile zips are said and leave nothing."""

import io
import json
import zipfile

import jsonschema_rs
import pytest
from fastapi.testclient import TestClient

from tests.web.conftest import Counter, shop_of_its_own


@pytest.fixture(scope="module")
def client(database, shop_rows, tmp_path_factory):
    """Of a shop whose machines no other test measures: what comes out of it is up to date wherever it goes."""
    with shop_of_its_own(database, "left", shop_rows, tmp_path_factory) as own:
        yield own[1]


@pytest.fixture(scope="module")
def empty(database, tmp_path_factory):
    """Another shop, in which nothing stands yet."""
    with shop_of_its_own(database, "arrived", {}, tmp_path_factory) as own:
        yield Counter(own[1])


@pytest.fixture(scope="module")
def made(client: TestClient) -> tuple[str, bytes]:
    """A job with two prints' worth of history: released, printed, cured, some pressed, one spoiled, one taken back."""
    counter = Counter(client)
    job = counter.order({"S": 2, "M": 3}, title="Out and in")
    run = counter.printed(job)
    for stage in ("powder", "cure-oven"):
        assert counter.act(job, kind="prepared", run=run, stage=stage, count=5).status_code == 200
    counter.act(job, kind="pressed", run=run, size="S", press="gannet", stages=[])
    counter.act(job, kind="pressed", run=run, size="M", press="gannet", stages=[])
    counter.act(job, kind="good", size="S", count=1)
    counter.act(job, kind="spoiled", what="piece", size="M", count=1, stage="peel", cause="let go too early")
    counter.act(job, kind="good", size="M", count=1)
    return job, taken_out(counter, job)


def taken_out(counter: Counter, job: str) -> bytes:
    answer = counter.get(f"/api/jobs/{job}/file.zip")
    assert answer.status_code == 200, answer.text
    return answer.content


def look(counter: Counter, data: bytes, name: str = "job.zip"):
    return counter.client.post("/api/job-files", files={"file": (name, data)}, headers=counter.headers)


def take_in(counter: Counter, data: bytes, choose=lambda m: "bring") -> str:
    seen = look(counter, data)
    assert seen.status_code == 201, seen.text
    seen = seen.json()
    choices = {f"{m['sort']}/{m['id']}": choose(m) for m in seen["missing"]}
    answer = counter.post(f"/api/job-files/{seen['key']}", json={"choices": choices})
    assert answer.status_code == 201, answer.text
    return answer.json()["id"]


def told(data: bytes, *, whole: bool = True) -> dict:
    """The document without what is this shop's own to give: ids, numbers, the moment; whole: with what its things measure."""
    read = json.loads(zipfile.ZipFile(io.BytesIO(data)).read("job.json"))
    runs = {r["id"]: f"run {n}" for n, r in enumerate(read["runs"])}
    acts = {a["id"]: f"act {n}" for n, a in enumerate(read["acts"])}
    text = json.dumps({k: v for k, v in read.items() if k not in ("made_at", "shop")})
    for own, plain in {**runs, **acts}.items():
        text = text.replace(own, plain)
    plain = json.loads(text)
    for one in (*plain["runs"], *plain["acts"]):
        one["job"] = ""
    for run in plain["runs"]:
        run["number"] = 0
        run["plan"]["way"].pop("pins", None)  # each shop counts its own versions
    for document in plain["documents"]:
        document["body"].pop("pins", None)
    for sort in ("blanks", "printers", "presses", "ovens"):
        plain["facts"][sort] = {i: {k: v for k, v in f.items() if whole and k != "sources"} for i, f in plain["facts"][sort].items()}  # fmt: skip
    if not whole:  # what a printer was measured to print is its own shop's
        del plain["facts"]["conditions"]
    return plain


@pytest.mark.parametrize("where", ["here", "elsewhere"])
def test_a_job_comes_back_equal(counter: Counter, empty: Counter, made: tuple[str, bytes], where: str):
    job, data = made
    there = counter if where == "here" else empty
    shelves = {s["item"]: s["on_hand"] for s in counter.get("/api/stock").json()["shelves"]}
    new = take_in(there, data)
    # Another shop has its own machines and blanks of these names, and other tests change what they measure in this one.
    whole = where == "here"
    assert told(taken_out(there, new), whole=whole) == told(data, whole=whole)
    before, after = counter.job(job), there.job(new)
    assert after["ledger"]["pressed"] == before["ledger"]["pressed"] if "pressed" in before["ledger"] else True
    assert after["ledger"]["books"]["pieces"] == before["ledger"]["books"]["pieces"]
    assert [(s["station"], s["state"]) for s in after["line"]["stations"]] == [(s["station"], s["state"]) for s in before["line"]["stations"]]  # fmt: skip
    # What it took was taken elsewhere: no shelf moves.
    assert {s["item"]: s["on_hand"] for s in counter.get("/api/stock").json()["shelves"]} == shelves
    # It goes on like any other.
    run = after["runs"][-1]["id"]
    assert there.act(new, kind="pressed", run=run, size="S", press="gannet", stages=[]).status_code == 200


def test_acts_in_other_names_and_prices_are_brought_by_the_owner_alone(counter: Counter, made: tuple[str, bytes]):
    noor, key = counter.as_person("Noor"), look(counter, made[1]).json()["key"]
    assert look(noor, made[1]).json()["code"] == "may-not"
    assert noor.post(f"/api/job-files/{key}", json={"choices": {}}).json()["code"] == "may-not"


def test_what_another_shop_does_not_have_is_asked_for(
    empty: Counter, made: tuple[str, bytes], database, tmp_path_factory
):
    seen = look(empty, made[1]).json()
    key = seen["key"]
    own = {m["sort"] for m in seen["missing"]}
    assert own <= {"blanks", "printers", "presses", "ovens"}
    if own:
        assert empty.post(f"/api/job-files/{key}", json={"choices": {}}).json()["code"] == "still-missing"
        assert empty.post(f"/api/job-files/{key}", json={"choices": {f"{seen['missing'][0]['sort']}/{seen['missing'][0]['id']}": "no-such"}}).json()["code"] == "still-missing"  # fmt: skip
    assert empty.post("/api/job-files/" + "0" * 32, json={"choices": {}}).json()["code"] == "arrival-gone"


def test_the_document_is_what_its_schema_says(counter: Counter, made: tuple[str, bytes]):
    schema = counter.get("/api/job-files/schema.json").json()
    zipped = zipfile.ZipFile(io.BytesIO(made[1]))
    assert json.loads(zipped.read("job.schema.json")) == schema
    document = json.loads(zipped.read("job.json"))
    judge = jsonschema_rs.validator_for(schema)
    judge.validate(document)
    assert not judge.is_valid({**document, "acts": [{**document["acts"][0], "body": {"kind": "dreamt"}}]})


def changed(data: bytes, *, drop: str = "", add: dict[str, bytes] | None = None, document=None) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w") as new:
        for entry in old.infolist():
            body = old.read(entry)
            if entry.filename == "job.json" and document:
                read = json.loads(body)
                document(read)
                body = json.dumps(read).encode()
            if not drop or not entry.filename.startswith(drop):
                new.writestr(entry.filename, body)
        for name, body in (add or {}).items():
            new.writestr(name, body)
    return out.getvalue()


def spoil(key, value):
    def do(read: dict) -> None:
        read[key] = value(read[key]) if callable(value) else value

    return do


@pytest.mark.parametrize(
    ("how", "said"),
    [
        (lambda d: d[: len(d) // 2], "cannot be unpacked"), (lambda d: b"no zip", "cannot be unpacked"), (lambda d: b"", "is empty"),
        (lambda d: changed(d, add={"../../etc/passwd": b"x"}), "holds “../../etc/passwd”"), (lambda d: changed(d, drop="files/"), "is missing from it"),
        (lambda d: changed(d, drop="job.json"), "holds no job.json"), (lambda d: changed(d, document=spoil("version", 2)), "version"),
        (lambda d: changed(d, document=spoil("documents", [])), "documents"), (lambda d: changed(d, document=spoil("runs", lambda r: [{**r[0], "plan": {}}])), "runs"),
    ],
)  # fmt: skip
def test_a_zip_that_is_no_jobs_is_said_and_leaves_nothing(counter: Counter, made: tuple[str, bytes], how, said: str):
    answer = look(counter, how(made[1]))
    assert answer.status_code == 409
    assert answer.json()["code"] == "bad-job-file"
    assert said in answer.json()["happened"]


def test_a_file_that_was_changed_on_the_way_is_not_taken(counter: Counter, made: tuple[str, bytes]):
    name = next(n for n in zipfile.ZipFile(io.BytesIO(made[1])).namelist() if n.startswith("files/"))
    other = changed(changed(made[1], drop=name), add={name: b"something else"})
    assert "was changed on the way" in look(counter, other).json()["happened"]


def test_a_job_by_a_way_that_nobody_here_knows_is_not_taken_in(counter: Counter, made: tuple[str, bytes]):
    def by_another(read: dict) -> None:
        read["runs"][0]["plan"]["way"]["method"] = "moonlight"

    seen = look(counter, changed(made[1], document=by_another)).json()
    answer = counter.post(f"/api/job-files/{seen['key']}", json={"choices": {}}).json()
    assert (answer["code"], "moonlight" in answer["happened"]) == ("no-such-method", True)
