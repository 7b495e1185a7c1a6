"""What the core and the command line refuse, each by its own code and with something to do about it."""

import json
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import mock

import pytest
from PIL import Image
from reportlab.pdfgen.canvas import Canvas

from offsetter.cli.__main__ import _parser
from offsetter.core.compute import gang, ink_engine, nest
from offsetter.core.compute.chart import lay_chart, size_chart
from offsetter.core.compute.colour import Colours
from offsetter.core.compute.correction import correction_of
from offsetter.core.compute.gang import GangPiece, Room
from offsetter.core.compute.heat import fit_press
from offsetter.core.compute.heat_log import Logged, runs_of
from offsetter.core.compute.nest import Piece
from offsetter.core.compute.nest_shapes import outline_of
from offsetter.core.compute.nozzles import sheet_for
from offsetter.core.compute.tone import report_of
from offsetter.core.facts import Feed, profile_bytes
from offsetter.core.values import Refusal
from offsetter.formats.nozzle_sheet import plates_in
from offsetter.formats.pwg_raster import write_jpeg
from offsetter.web.settings import Settings
from tests.conftest import ROOT
from tests.core.shapes import disc

ROLL = Room(media_um=460_000, printable_um=450_000, usable_um=420_000, longest_um=820_000, margin_um=10_000, gap_um=8_000, label_um=7_000)  # fmt: skip
SQUARE = Piece(id="square", width_mm=50, height_mm=50)
BOW = Piece(id="bow", outline_mm=((0, 0), (100, 100), (100, 0), (0, 100)))
HEATS = ("--maker", "150/12,120/8", "--house", "150/12,150/8")


def boxes(*pieces: Piece, gap_mm: float = 3, margin_mm: float = 0):
    return nest.boxes_of(pieces, gap_mm, margin_mm, 300, None)


def logged(*celsius: float) -> tuple[Logged, ...]:
    return tuple(Logged(minute=float(m), celsius=c) for m, c in enumerate(celsius))


def settings(**changed) -> Settings:
    return Settings(database_url="mariadb://", **{"data_folder": Path("/nowhere"), **changed})


def strip():
    """A chart of one patch: no ramp of any ink."""
    feed = Feed(method="film", media="m", media_mm=210, length_mm=297, printable_mm=202, margin_mm=4, load_card=())
    return lay_chart([("mixed", (10.0, 0.0, 0.0, 0.0), None)], feed, (), kind="strip", title="", space="CMYK", condition="c", condition_version=1,
                     profile="p", mirrored=False, white=False)  # fmt: skip


def long_picture():
    with TemporaryDirectory() as folder:
        page = Canvas(f"{folder}/run.pdf", pagesize=(100, 14_000))
        page.showPage()
        page.save()
        write_jpeg(Path(folder) / "run.pdf", Path(folder) / "run.jpg", 600)


def without_engine():
    with mock.patch.object(ink_engine, "LIBRARY", "libnone.so.9"):
        ink_engine._library.__wrapped__()


IN_CORE = {
    "negative-gap": lambda: boxes(SQUARE, gap_mm=-1),
    "no-room": lambda: boxes(SQUARE, margin_mm=150),
    "too-many-pieces": lambda: boxes(*[SQUARE.model_copy(update={"count": nest.MOST_PIECES})] * 2),
    "too-large": lambda: boxes(Piece(id="long", width_mm=400, height_mm=400)),
    "crossing-outline": lambda: outline_of(BOW),
    "too-many-prints": lambda: gang.lay_gang(tuple(GangPiece(id=f"p~{n}", width_um=10_000, height_um=10_000) for n in range(gang.MOST_PRINTS + 1)), ROLL),
    "no-log": lambda: runs_of(()),
    "half-a-log": lambda: runs_of(logged(22, 60, 120, 170, 171, 170)),
    "readings-do-not-fit": lambda: fit_press(tuple((m, 20 + 3.0 * m) for m in range(0, 60, 5)), tuple((m, 22 + 170 * 0.5**m) for m in range(12)), 22),
    "too-long": long_picture,
    "no-patches": lambda: report_of({"A1": (50.0, 0.0, 0.0)}, {"B1": (50.0, 0.0, 0.0)}),
    "sheet-too-small": lambda: size_chart(400, 60, 60),
    "no-ramps": lambda: correction_of(strip(), Colours(profile_bytes()), {}),
    "no-such-plate": lambda: plates_in(sheet_for(("C", "c"))),
    "no-ink-engine": without_engine,
    "data-inside": lambda: settings(data_folder=ROOT / "shop").refuse_data_inside(ROOT),
    "demo-in-the-open": lambda: settings(address="192.168.1.5", demo=True).refuse_open_address(),
    "no-tls": lambda: settings(address="192.168.1.5").refuse_open_address(),
}  # fmt: skip


@pytest.mark.parametrize("code", IN_CORE)
def test_the_core_refuses_it(code):
    with pytest.raises(Refusal) as told:
        IN_CORE[code]()
    assert told.value.code == code
    assert told.value.happened
    assert told.value.to_do


ON_THE_LINE = [
    ("one-page", ("preflight", "art.png", "--method", "film", "--width-mm", "50", "--page", "2")),
    ("no-such-file", ("preflight", "none.png", "--method", "film", "--width-mm", "50")),
    ("unknown-method", ("preflight", "art.png", "--method", "dream", "--width-mm", "50")),
    ("unknown-format", ("plates", "art.png", "--method", "film", "--width-mm", "50", "--out", "plates.psd")),
    ("no-folder", ("plates", "art.png", "--method", "film", "--width-mm", "50", "--out", "none/plates.tif")),
    ("out-of-range", ("colour", "--profile", "p.icc", "--rgb", "1,2,300")),
    ("unknown-format", ("contour", "art.png", "--width-mm", "50", "--offset-mm", "1", "--out", "line.eps")),
    ("no-folder", ("contour", "art.png", "--width-mm", "50", "--offset-mm", "1", "--out", "none/line.svg")),
    ("no-pieces", ("nest", "empty.json", "--roll", "300", "--iterations", "10")),
    ("not-json", ("nest", "rows.csv", "--roll", "300", "--iterations", "10")),
    ("no-sheet", ("nozzles", "art.png", "--sheet", "none.json")),
    ("no-pieces", ("press", "film", "--pieces", "0")),
    ("no-file", ("press-fit", "none.csv", "none.csv", "--room-c", "22", "--between", "120-150")),
    ("bad-readings", ("press-fit", "words.csv", "words.csv", "--room-c", "22", "--between", "120-150")),
    ("too-many-readings", ("press-fit", "many.csv", "many.csv", "--room-c", "22", "--between", "120-150")),
    ("bad-times", ("temperatures", *HEATS, "--pieces", "10", "--load-s", "-5", "--press", "fit.json")),
    ("no-fit", ("temperatures", *HEATS, "--pieces", "10", "--press", "empty.json")),
    ("bad-press", ("temperatures", "--maker", "900/12,120/8", "--house", "150/12,150/8", "--pieces", "10", "--press", "fit.json")),
    ("no-rows", ("ink", "head.csv")),
    ("ragged", ("ink", "ragged.csv")),
    ("wrong-columns", ("ink", "words.csv")),
    ("no-number", ("ink", "numbers.csv")),
    ("no-reading", ("ink", "levels.csv")),
]  # fmt: skip


@pytest.mark.parametrize(("code", "words"), ON_THE_LINE, ids=[f"{n} {c}" for n, (c, _) in enumerate(ON_THE_LINE)])
def test_the_command_line_refuses_it(tmp_path, monkeypatch, code, words):
    monkeypatch.chdir(tmp_path)
    Image.fromarray(disc(40, 120)).save("art.png")
    Path("p.icc").write_bytes(profile_bytes())
    files = {
        "empty.json": "[]", "fit.json": json.dumps({"q_c_per_min": 20.0, "k_per_min": 0.05, "room_c": 22.0}), "rows.csv": "a,b\n1,2\n",
        "words.csv": "minute,celsius\nsoon,warm\n", "many.csv": "minute,celsius\n" + "1,20\n" * 20_000, "head.csv": "job,expected_ml_C,level_pct_C\n",
        "ragged.csv": "job,expected_ml_C,level_pct_C\nj,1\n", "numbers.csv": "job,expected_ml_C,level_pct_C\nj,much,90\n",
        "levels.csv": "job,expected_ml_C,level_pct_C\nj,10,140\n",
    }  # fmt: skip
    for name, text in files.items():
        Path(name).write_text(text)
    there = set(tmp_path.iterdir())
    asked = _parser().parse_args(words)
    with pytest.raises(Refusal) as told:
        asked.run(asked)
    assert told.value.code == code, told.value.happened
    assert told.value.to_do
    assert set(tmp_path.iterdir()) == there, "nothing half made is left"
