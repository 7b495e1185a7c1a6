"""Lists as tables: every one out, read back by a reader; customers, counts and blanks in, each row seen before it is written."""

import csv
import io
import uuid

import pytest

from tests.web.conftest import Counter

LISTS = ("jobs", "logbook", "customers", "blanks", "stock", "leftovers", "machines")


def table(counter: Counter, name: str) -> list[dict[str, str]]:
    answer = counter.get(f"/api/lists/{name}.csv")
    assert answer.status_code == 200, answer.text
    assert f'filename="{name}.csv"' in answer.headers["content-disposition"]
    return list(csv.DictReader(io.StringIO(answer.text)))


def bring(counter: Counter, name: str, text: str | bytes, path: str = ""):
    data = text if isinstance(text, bytes) else text.encode()
    return counter.client.post(f"/api/lists/{name}{path}", files={"file": ("t.csv", data)}, headers=counter.headers)


def test_every_list_comes_out_whole_and_no_cell_is_a_formula(counter: Counter):
    name = f"=HYPERLINK {uuid.uuid4().hex[:6]}"
    counter.order({"S": 1}, title=name, customer='Someone; with, all "kinds"')
    for listed in LISTS:
        rows = table(counter, listed)
        assert not any(c[:1] in "=+@" for row in rows for c in row.values() if c)
    mine = [r for r in table(counter, "jobs") if r["title"] == f"'{name}"]
    assert [(r["customer"], r["pieces"], r["stands"]) for r in mine] == [('Someone; with, all "kinds"', "1", "open")]
    assert len(table(counter, "blanks")) == len(counter.get("/api/shop").json()["blanks"])
    assert counter.get("/api/lists/secrets.csv").status_code == 422


def test_customers_come_in_once_and_are_seen_before_they_are_written(counter: Counter):
    mark = uuid.uuid4().hex[:6]
    text = f"Name;Contact;Notes\nHarbour {mark};0123;likes matte\nharbour  {mark};x;\n;nobody;\nQuay {mark};;\n"
    seen = bring(counter, "customers", text, "/preview").json()
    assert [bool(r["wrong"]) for r in seen["rows"]] == [False, True, True, False]
    assert (seen["ready"], seen["wrong"], seen["written"]) == (2, 2, 0)
    assert "stands in the table already" in seen["rows"][1]["wrong"]
    assert not [r for r in table(counter, "customers") if mark in r["name"]]
    assert bring(counter, "customers", text).json()["written"] == 2
    assert bring(counter, "customers", text).json()["written"] == 0
    mine = [r for r in table(counter, "customers") if mark in r["name"]]
    assert [(r["name"], r["contact"], r["notes"]) for r in mine] == [(f"Harbour {mark}", "0123", "likes matte"), (f"Quay {mark}", "", "")]  # fmt: skip


def test_counts_come_in_by_name_or_item_and_what_was_not_counted_stays(counter: Counter):
    name = next(r["name"] for r in table(counter, "stock") if r["item"] == "blank/pennant/one")
    text = f'item,count,lot\n"{name}",41,P-7\nblank/no-such/one,3,\nink/petrel/C,minus,\n'
    seen = bring(counter, "stock", text, "/preview").json()
    assert seen["rows"][0]["said"].endswith("then 41")
    assert "counts nothing called" in seen["rows"][1]["wrong"]
    assert "no amount" in seen["rows"][2]["wrong"]
    assert bring(counter, "stock", text).json()["written"] == 1
    assert next(r["on hand"] for r in table(counter, "stock") if r["item"] == "blank/pennant/one") == "41.0"
    assert bring(counter, "stock", text).json()["written"] == 0
    # A whole table of ours brought in again changes nothing.
    own = counter.get("/api/lists/stock.csv").text
    counted = [r for r in table(counter, "stock") if r["counted"] == "yes"]
    again = bring(counter, "stock", own, "/preview").json()
    assert again["ready"] == 0
    assert len([r for r in again["rows"] if r["said"]]) == len(counted)


def test_blanks_come_in_by_their_general_kind(counter: Counter):
    mark = uuid.uuid4().hex[:4]
    kind = counter.get("/api/kinds").json()["blanks"][0]
    text = f"like,colour name,colour,name,price\n{kind['name']},moss {mark},#5A6B3C,Moss tee {mark},4.10\n{kind['name']},moss {mark},#5A6B3C,Moss tee {mark},4.10\nDream coat,red,#AA0000,,\n{kind['name']},bad {mark},green,,\n"
    seen = bring(counter, "blanks", text, "/preview").json()
    assert [bool(r["wrong"]) for r in seen["rows"]] == [False, True, True, True]
    noor = counter.as_person("Noor")
    assert "the owner's to say" in bring(noor, "blanks", text).json()["rows"][0]["wrong"]
    assert bring(counter, "blanks", text).json()["written"] == 1
    made = [r for r in table(counter, "blanks") if r["name"] == f"Moss tee {mark}"]
    assert [(r["colour name"], r["colour"], r["price"]) for r in made] == [(f"moss {mark}", "#5A6B3C", "4.10")]
    assert bring(counter.as_person("Visitor"), "blanks", text).status_code == 403


def test_a_table_of_orders_becomes_held_jobs_each_once(counter: Counter):
    mark = uuid.uuid4().hex[:6]
    text = (
        f"reference,title,customer,due,blank,colour,size,count\n{mark}-1,Choir {mark},Quayside Choir,2031-05-02,Crew tee,black,M,4\n"
        f"{mark}-1,Choir {mark},Quayside Choir,2031-05-02,Crew tee,black,L,2\n{mark}-2,Mugs {mark},Tide Club,2031-05-03 12:00,mug,,one,6\n"
        f"{mark}-3,Old {mark},Tide Club,2021-05-03,mug,,one,6\n{mark}-4,None {mark},Tide Club,2031-05-03,dream coat,,one,6\n"
        f"{mark}-5,Mixed {mark},Tide Club,2031-05-03,mug,,one,6\n{mark}-5,Other {mark},Tide Club,2031-05-03,mug,,one,6\n"
    )
    seen = bring(counter, "orders", text, "/preview").json()
    assert [bool(r["wrong"]) for r in seen["rows"]] == [False, False, True, True, True]
    assert not [r for r in table(counter, "jobs") if mark in r["title"]]
    assert bring(counter, "orders", text).json()["written"] == 2
    assert bring(counter, "orders", text).json()["written"] == 0
    mine = {r["title"]: (r["stands"], r["pieces"]) for r in table(counter, "jobs") if mark in r["title"]}
    assert mine == {f"Choir {mark}": ("held", "6"), f"Mugs {mark}": ("held", "6")}


@pytest.mark.parametrize(
    ("data", "code"),
    [
        (b"name\n" + b"Orla\n" * 5_001, "table-too-many"), (b"name\nT\xff\xfemas\n", "table-broken-text"), (b"who\nOrla\n", "table-no-head"), (b"", "table-no-head"),
        (b"name\n" + b"x" * 2_000_001, "table-too-large"), (b"name\na\0b\n", "table-broken-text"),
    ],
)  # fmt: skip
def test_a_file_that_is_no_such_table_is_said_and_nothing_is_written(counter: Counter, data: bytes, code: str):
    assert bring(counter, "customers", data, "/preview").json()["code"] == code
    assert bring(counter, "customers", data).json()["code"] == code
