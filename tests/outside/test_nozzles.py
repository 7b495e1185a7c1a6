"""Nozzle sheets read back from synthetic scans whose dropouts are known: none missed and none invented down to a contrast of 0.3."""

import json
import subprocess
import sys

import cv2
import numpy as np
import pytest
from standins.scanner import scanned

from offsetter.core.compute.nozzles import draw_sheet, read_sheet, sheet_for
from offsetter.core.values import Refusal

SHEET = sheet_for(("C", "M", "Y", "K", "W", "O", "c"), 96, "petrel")
SEEDS = {600: (1, 2), 300: (0, 3), 200: (0, 1, 2, 3)}
"""Sheets read at each resolution: a fine scan takes ten times as long as a coarse one, and is the easier to read."""
CHANNELS = [r.channel for r in SHEET.rows]


def dropouts(seed: int, most: int = 7) -> dict[str, tuple[int, ...]]:
    chance = np.random.default_rng(seed)
    return {
        c: tuple(sorted((chance.choice(96, chance.integers(0, most), replace=False) + 1).tolist())) for c in CHANNELS
    }


@pytest.mark.parametrize("dpi", [600, 300, 200])
@pytest.mark.parametrize("contrast", [1.0, 0.5, 0.3])
def test_known_dropouts_are_all_found_and_none_is_invented(contrast, dpi):
    """Conditions of the references: turned up to 2 degrees, bent, blur 1.2 and noise 8 at 600 dpi."""
    for seed in SEEDS[dpi]:
        chance, out = np.random.default_rng(100 + seed), dropouts(seed)
        scan = scanned(
            draw_sheet(SHEET, 600, out), 600, dpi, seed, contrast=contrast, skew_deg=chance.uniform(-2, 2), bent_mm=0.3,
            blur_px=1.2 * dpi / 600, noise=8 * min(1, contrast * 2), upside_down=seed % 2 == 1, mirrored=seed == 2,
        )  # fmt: skip
        read = read_sheet(scan, SHEET)
        assert read.missing == out
        assert (read.was_turned, read.was_mirrored) == (seed % 2 == 1, seed == 2)
        assert read.dpi == pytest.approx(dpi, rel=0.02)
        assert read.lines == 96 * 7


def test_a_channel_that_is_out_wholly_and_a_missing_line_is_where_it_is_said():
    out = {"C": tuple(range(1, 97)), "M": (1, 2, 3, *range(40, 90)), "K": (5,)}
    printed = draw_sheet(SHEET, 600, out)
    read = read_sheet(scanned(printed, 600, 600, 1), SHEET)
    assert {c: n for c, n in read.missing.items() if n} == out
    (spot,) = read.missing_px["K"]
    whole = scanned(draw_sheet(SHEET, 600), 600, 600, 1)
    x, y = round(spot[0]), round(spot[1])
    assert int(whole[y - 3 : y + 4, x].min()) < 100 < int(scanned(printed, 600, 600, 1)[y - 3 : y + 4, x].min())


def test_another_sheet_a_weak_scan_and_no_sheet_are_refused_never_read():
    other = sheet_for(tuple(CHANNELS), 96, "shearwater")
    scan = scanned(draw_sheet(other, 600), 600, 300, 1)
    with pytest.raises(Refusal, match="another sheet"):
        read_sheet(scan, SHEET)
    assert read_sheet(scan, other).missing == dict.fromkeys(CHANNELS, ())
    smaller = sheet_for(("C", "M"), 96)
    with pytest.raises(Refusal, match="not where this sheet"):
        read_sheet(scan, smaller)
    for strange in (np.full((900, 900, 3), 255, np.uint8), np.random.default_rng(1).integers(0, 255, (700, 700, 3), np.uint8)):  # fmt: skip
        with pytest.raises(Refusal, match="not where this sheet"):
            read_sheet(strange, SHEET)
    with pytest.raises(Refusal, match=r"dots an inch|not where"):
        read_sheet(scanned(draw_sheet(SHEET, 600), 600, 100, 1), SHEET)
    faint = scanned(draw_sheet(SHEET, 600), 600, 300, 1, contrast=0.12, noise=14, blur_px=2)
    with pytest.raises(Refusal):
        read_sheet(faint, SHEET)


def test_the_command_makes_a_sheet_and_reads_it_back(tmp_path):
    def offsetter(*told: object) -> subprocess.CompletedProcess:
        return subprocess.run([sys.executable, "-m", "offsetter.cli", *map(str, told)], capture_output=True, text=True, check=False, stdin=subprocess.DEVNULL)  # fmt: skip

    out = tmp_path / "check.png"
    made = json.loads(offsetter("nozzle-sheet", "--channels", "C,M,Y,K,W", "--out", out, "--json").stdout)
    assert made["lines"] == 480
    sheet = tmp_path / "check.json"
    printed = cv2.imread(str(out))[:, :, ::-1]
    rows = {r["channel"]: r["lines_mm"] for r in json.loads(sheet.read_text())["rows"]}
    for channel, number in (("M", 7), ("W", 90)):
        x, y = (round(v / 25.4 * 600) for v in rows[channel][number - 1])
        printed[y - 2 : y + 4, x - 2 : x + 76] = printed[y - 6, x]
    cv2.imwrite(str(tmp_path / "scan.jpg"), scanned(printed, 600, 300, 3, skew_deg=1)[:, :, ::-1], [cv2.IMWRITE_JPEG_QUALITY, 92])  # fmt: skip
    read = json.loads(offsetter("nozzles", tmp_path / "scan.jpg", "--sheet", sheet, "--json").stdout)
    assert read["missing"] == {"C": [], "M": [7], "Y": [], "K": [], "W": [90]}
    assert read["lines"] == 480
    for told, said in (
        (("nozzles", out, "--sheet", out), "no description"),
        (("nozzles", sheet, "--sheet", sheet), "check.json"),
        (("nozzle-sheet", "--channels", "C,C", "--out", out), "no channels"),
        (("nozzle-sheet", "--lines", 9000, "--out", out), "do not go on a sheet"),
    ):
        refused = offsetter(*told, "--json")
        assert (refused.returncode, refused.stdout) == (2, "")
        assert said in refused.stderr
        assert "Traceback" not in refused.stderr
