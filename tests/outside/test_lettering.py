"""Lettering read back: words rendered in the three typefaces that ship, as worn and mirrored, and their spelling."""

from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageDraw, ImageFont

from offsetter.intake.lettering import read_lettering

HERE = Path(__file__).parents[2]
TYPE = "frontend/node_modules/@fontsource-variable/atkinson-hyperlegible-{0}/files/atkinson-hyperlegible-{0}-latin-wght-normal.woff2"
FONTS = ["src/offsetter/intake/fonts/names.ttf", TYPE.format("mono"), TYPE.format("next")]
INKS = {"dark": (20, 60, 90, 255), "white, for dark cloth": (255, 255, 255, 255)}


def rendered(words: str, font: str, ink: tuple[int, int, int, int], mirrored: bool) -> np.ndarray:
    picture = Image.new("RGBA", (1700, 460))
    ImageDraw.Draw(picture).multiline_text((60, 30), words, font=ImageFont.truetype(HERE / font, 160), fill=ink)
    rgba = np.asarray(picture)
    return np.ascontiguousarray(rgba[:, ::-1]) if mirrored else rgba


@pytest.mark.parametrize("mirrored", [False, True], ids=["as worn", "mirrored"])
@pytest.mark.parametrize("font", FONTS, ids=["names", "mono", "next"])
def test_words_are_read_and_the_way_round_is_told(font, mirrored):
    for ink, words in zip(INKS.values(), ("Harbour lights\nopen at night", "Quiet harbuor"), strict=True):
        found = read_lettering(rendered(words, font, ink, mirrored), "en", ())
        # A typeface's small and capital l differ by a hair: the words are compared without their case.
        assert found.text.casefold() == words.casefold()
        assert found.mirrored is mirrored
        assert found.misspelt == (("harbuor",) if "harbuor" in words else ())


def test_a_name_of_this_job_is_right_and_another_language_has_other_words():
    picture = rendered("Nacht harbuor", FONTS[0], INKS["dark"], mirrored=False)
    assert set(read_lettering(picture, "en", ()).misspelt) == {"Nacht", "harbuor"}
    assert set(read_lettering(picture, "de", ()).misspelt) == {"harbuor"}
    assert read_lettering(picture, "de", ("Harbuor",)).misspelt == ()


@pytest.mark.parametrize("what", ["nothing at all", "grain"])
def test_no_words_are_made_up(what):
    rgba = np.zeros((300, 900, 4), np.uint8)
    if what == "grain":
        rgba[...] = np.random.default_rng(8).integers(0, 256, rgba.shape, np.uint8)
    assert read_lettering(rgba, "en", ()).text == ""
