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


def in_a_disc(words: str, font: str) -> np.ndarray:
    """White words in a round badge, on nothing."""
    picture = Image.new("RGBA", (900, 900))
    pen = ImageDraw.Draw(picture)
    pen.ellipse((20, 20, 880, 880), fill=(190, 40, 50, 255))
    pen.multiline_text(
        (450, 450),
        words,
        font=ImageFont.truetype(HERE / font, 130),
        fill=(255, 255, 255, 255),
        anchor="mm",
        align="center",
    )
    return np.asarray(picture)


def cut_out_of_a_shape(words: str, font: str) -> np.ndarray:
    """Letters left clear in a bar: the cloth itself makes them."""
    rgba = np.zeros((420, 1300, 4), np.uint8)
    rgba[40:380, 40:1260] = (20, 90, 120, 255)
    mask = Image.new("L", (1300, 420))
    ImageDraw.Draw(mask).text((650, 210), words, font=ImageFont.truetype(HERE / font, 190), fill=255, anchor="mm")
    rgba[..., 3] = np.where(np.asarray(mask) > 127, 0, rgba[..., 3])
    return rgba


def along_an_arc(words: str, font: str) -> np.ndarray:
    """Letter by letter over the top of a circle with a disc in its middle."""
    side, radius, size = 1000, 400, 110
    picture = Image.new("RGBA", (side, side))
    ImageDraw.Draw(picture).ellipse((330, 330, 670, 670), fill=(230, 180, 40, 255))
    face = ImageFont.truetype(HERE / font, size)
    wide = [face.getlength(c) for c in words]
    at = -sum(wide) / 2
    for letter, w in zip(words, wide, strict=True):
        turn = (at + w / 2) / radius
        stamp = Image.new("RGBA", (side, side))
        ImageDraw.Draw(stamp).text(
            (side / 2, side / 2 - radius), letter, font=face, fill=(30, 40, 90, 255), anchor="mm"
        )
        picture.alpha_composite(stamp.rotate(-np.degrees(turn), center=(side / 2, side / 2), resample=Image.BICUBIC))
        at += w
    return np.asarray(picture)


@pytest.mark.parametrize("mirrored", [False, True], ids=["as worn", "mirrored"])
@pytest.mark.parametrize(
    ("drawn", "words"),
    [(in_a_disc, "HARBOUR\nNIGHT"), (cut_out_of_a_shape, "HARBOUR"), (along_an_arc, "HARBOUR LIGHTS")],
)
def test_words_in_shapes_and_along_arcs_are_found_and_their_way_round_is_told(drawn, words, mirrored):
    rgba = drawn(words, FONTS[0])
    found = read_lettering(np.ascontiguousarray(rgba[:, ::-1]) if mirrored else rgba, "en", ())
    assert "HARBOUR" in found.text.upper(), found
    assert found.mirrored is mirrored


@pytest.mark.parametrize("what", ["nothing at all", "grain"])
def test_no_words_are_made_up(what):
    rgba = np.zeros((300, 900, 4), np.uint8)
    if what == "grain":
        rgba[...] = np.random.default_rng(8).integers(0, 256, rgba.shape, np.uint8)
    assert read_lettering(rgba, "en", ()).text == ""
