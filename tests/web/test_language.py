"""A shop that works in another language: its catalogue lies beside its files, and no sentence of the program escapes it."""

import re
import uuid
from datetime import date

import pytest
from babel.messages.catalog import Catalog
from babel.messages.pofile import write_po

from offsetter.core.facts import methods, recipes
from offsetter.core.values import Refusal
from offsetter.formats.catalogue import SHIPPED, catalogues_in, read_catalogue
from tests.abroad import lay_catalogue, without_said
from tests.conftest import ROOT
from tests.web.conftest import Counter, shop_of_its_own
from tests.web.test_true_figures import words_in as paper_of

SENTENCES = {
    "message",
    "why",
    "fix_text",
    "verdict",
    "sub",
    "telling",
    "said",
    "happened",
    "kept",
    "to_do",
    "waits_for",
}
"""Fields that hold what the program says."""
WORD = re.compile(r"[A-Za-z]{3,}")
UNITS = {"ppi", "dpi", "min", "cmyk", "srgb", "png", "svg", "rgb"}
OF_THE_FILE = {"bit", "with", "alpha", "profile", "read", "soft", "hard", "edges", "transparency"}
"""What was read of the customer's file is kept with it."""
STATIONS = {"order", "method", "artwork", "colour", "white", "sheet", "print", "prepare", "press", "inspect"}
CHOICES = {"good", "caution", "ruled", "out", "needed", "not", "ready", "open", "blocked"}
SCHOOLS = {"relative", "perceptual", "saturation", "absolute", "memory", "practice", "unknown"}


@pytest.fixture(scope="module")
def counter(database, shop_rows, tmp_path_factory):
    data = tmp_path_factory.mktemp("abroad")
    lay_catalogue(data / "texts")
    (data / "texts" / "fr.po").write_text("msgid no catalogue")
    with shop_of_its_own(database, "abroad", shop_rows, tmp_path_factory, data=data) as (_, client):
        yield Counter(client)


@pytest.fixture
def abroad(counter):
    yield reading(counter, "mm-C-eo")
    reading(counter, "mm-C")


def reading(counter: Counter, units: str) -> Counter:
    counter.headers = {"cookie": f"offsetter={counter.cookie}; offsetter-units={units}"}
    return counter


def words_in(value) -> set[str]:
    if isinstance(value, dict):
        return set().union(*map(words_in, value.values()))
    if isinstance(value, list):
        return set().union(*map(words_in, value))
    return {w.lower() for w in WORD.findall(value)} if isinstance(value, str) else set()


def sentences_in(value, field: str = ""):
    if isinstance(value, dict):
        for name, inner in value.items():
            yield from sentences_in(inner, name)
    elif isinstance(value, list):
        for inner in value:
            yield from sentences_in(inner, field)
    elif isinstance(value, str) and field in SENTENCES:
        yield value


def escaped(answer, known: set[str]) -> list[str]:
    """Sentences with words that stand in no catalogue, and are no data of the shop."""
    found = []
    for said in sentences_in(answer):
        left = {w.lower() for w in WORD.findall(without_said(said))} - known
        if left:
            found.append(f"{said}: {left}")
    return found


WAYS = [
    # blank, size, method of its own
    ("tee-black", {"S": 2, "M": 3}, ""),
    ("tee-black", {"M": 2}, "toner-two-sheet"),
    ("scarf", {"one": 2}, ""),
    ("mug", {"one": 2}, ""),
    ("coaster", {"one": 3}, ""),
    ("tee-navy", {"M": 2}, "direct"),
    ("pennant", {"one": 2}, "print-cut"),
]


def test_no_sentence_escapes_the_catalogue(abroad: Counter):
    data = [m.model_dump(mode="json") for m in (*methods().values(), *recipes().values())]
    known = words_in(data) | words_in(abroad.get("/api/shop").json()) | words_in(abroad.get("/api/kinds").json())
    known |= (
        STATIONS
        | UNITS
        | OF_THE_FILE
        | CHOICES
        | SCHOOLS
        | {"test", "tees", "someone", "viscose", "art", "invented", "film", "condition", "front", "side", "one", "two"}
    )
    known |= {f"{w}s" for w in words_in(abroad.get("/api/shop").json()["blanks"])}
    said, left = 0, []
    for blank, counts, way in WAYS:
        job = abroad.order(lines=[{"blank": blank, "counts": counts}])
        abroad.place(job)
        if way:
            abroad.decide(job, "method", **abroad.get(f"/api/jobs/{job}/advice").json()["ways"][way])
        for changes in ({"width_um": 20_000}, {"width_um": 460_000}):
            place = abroad.job(job)["line"]["decisions"]["place"]
            tried = abroad.post(f"/api/jobs/{job}/try", json={"station": "place", "body": {**place, **changes}}).json()
            left += escaped(tried, known)
        for path in ("", "/advice", "/promise"):
            answer = abroad.get(f"/api/jobs/{job}{path}").json()
            left += escaped(answer, known)
            said += sum("«" in s for s in sentences_in(answer))
    assert sorted(set(left)) == []
    assert said > 300
    refused = [
        abroad.get("/api/jobs/nobody12"), abroad.post("/api/jobs", json={}), abroad.post("/api/jobs/nobody12/undo"),
        abroad.post("/api/stock/acts", json={"id": uuid.uuid4().hex, "item": "cover/parchment", "kind": "taken", "amount": 99_999}),
        abroad.post("/api/machines/presses", json={"kind": "dream", "name": "Auk"}), abroad.get("/api/runs/nobody12/run.pdf"),
    ]  # fmt: skip
    for answer in refused:
        assert answer.status_code >= 400
        assert "«" in answer.json()["happened"], answer.text
        assert not escaped(answer.json(), known | {"amount", "dream", "nobody12", "lots", "nobody"}), answer.text


def test_papers_and_what_recipes_came_with_are_said_too_and_a_recipe_taken_along_stays_as_written(abroad: Counter):
    shown = abroad.get("/api/recipes/film-house").json()
    assert all(s["caution"].startswith("«") for s in shown["stages"] if s["caution"])
    assert "«" not in abroad.get("/api/recipes/film-house/recipe.json").text
    card = paper_of(abroad.get("/api/recipes/film-house/card.pdf").content)
    assert "«Then: »" in card
    assert "«Print face DOWN»" in card
    assert re.search("[0-9] +«Transfer»", card)
    job = abroad.order(lines=[{"blank": "tee-black", "counts": {"M": 2}}])
    abroad.place(job)
    for paper in ("ticket", "proof"):
        said = paper_of(abroad.get(f"/api/jobs/{job}/{paper}.pdf").content)
        assert said.count("«") > 5
        assert not re.search(r"\b(due|ordered|mirror|caution|please|agreed|medium)\b", without_said(said), re.I)
    # What a page acts by is no text: the counted sheets of a stage.
    abroad.printed(job)
    stages = abroad.get(f"/api/jobs/{job}/press-card").json()["stages"]
    assert {c for s in stages for c in s["covers"]} >= {"parchment"}


def test_who_chose_no_language_reads_english_and_a_broken_catalogue_is_left_out(counter: Counter):
    assert counter.get("/api/welcome").json()["languages"] == [["eo", "Esperanto"]]
    for units in ("mm-C", "in-F-xx"):
        assert "«" not in reading(counter, units).get("/api/jobs/nobody12").text


def test_a_language_counts_in_its_own_forms_and_a_text_that_lost_its_value_is_not_taken(tmp_path):
    told = Catalog(locale="pl")
    told.add(("{count} print", "{count} prints"), ("{count} wydruk", "{count} wydruki", "{count} wydruków"))
    told.add("{name} waits", "czeka")
    told.add('Say “"yes"”.', 'Powiedz „"tak"”.')
    with (tmp_path / "pl.po").open("wb") as file:
        write_po(file, told)
    polish = read_catalogue(tmp_path / "pl.po")
    forms = [polish.counted("{count} print", "{count} prints", n) for n in (1, 2, 5, 22)]
    assert forms == ["{count} wydruk", "{count} wydruki", "{count} wydruków", "{count} wydruki"]
    assert polish.text("{name} waits") == "{name} waits"
    assert polish.text('Say “"yes"”.') == 'Powiedz „"tak"”.'
    assert polish.counted("{count} sheet", "{count} sheets", 1) == "{count} sheet"
    # As browsers name them (Unicode CLDR), and as CLDR has Polish months.
    assert {polish.for_pages()[f"{{count}} print_{w}"] for w in ("one", "few", "many")} == {
        "{count} wydruk",
        "{count} wydruki",
        "{count} wydruków",
    }
    assert polish.day(date(2026, 12, 3), "long") == "3 grudnia"


def test_the_catalogue_of_texts_is_fresh(monkeypatch):
    monkeypatch.syspath_prepend(str(ROOT / "tools"))
    from texts import document

    assert (SHIPPED / "offsetter.pot").read_bytes() == document(), "run tools/texts.py"


def test_a_catalogue_that_cannot_be_read_is_left_out_and_the_others_stay(tmp_path):
    lay_catalogue(tmp_path)
    whole = (tmp_path / "eo.po").read_bytes()
    (tmp_path / "words.po").write_bytes(whole)
    (tmp_path / "de.po").write_bytes(whole[: len(whole) // 2] + b'\nmsgid "never closed\n')
    for name in ("words.po", "de.po"):
        with pytest.raises(Refusal) as refused:
            read_catalogue(tmp_path / name)
        assert refused.value.code == "bad-texts"
        assert name in refused.value.happened
    assert set(catalogues_in(tmp_path)) == {"eo"}
