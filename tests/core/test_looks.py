"""The three looks: ink filters light, white covers, the cloth shows through what is left."""

import threading

import numpy as np
import pytest

from offsetter.core.compute.cielab import linear_of_srgb, rgb_of_hex, srgb_of_linear
from offsetter.core.compute.colour import Colours, open_profile
from offsetter.core.compute.looks import Ground, look_at
from offsetter.core.compute.plate_spec import ColourSpec
from offsetter.core.facts import profile_bytes
from offsetter.core.values import Refusal

BLACK = "#101214"


@pytest.fixture(scope="module")
def colours():
    return Colours(profile_bytes())


def flat(c=0, m=0, y=0, k=0, w=0, size=8):
    return np.full((size, size, 5), (c, m, y, k, w), np.uint8)


def whole(alpha=255, size=8):
    return np.full((size, size), alpha, np.uint8)


def seen(colours, look, planes, alpha=255, cloth=BLACK, opacity=1.0):
    return look_at(look, colours, planes, whole(alpha), Ground(cloth=cloth, opacity=opacity))[4, 4].astype(int)


def test_full_white_hides_the_cloth_and_none_lets_it_swallow_the_ink(colours):
    on_white = seen(colours, "pressed", flat(c=200))
    covered = seen(colours, "cloth", flat(c=200, w=255))
    bare = seen(colours, "cloth", flat(c=200))
    assert np.abs(covered[:3] - on_white[:3]).max() <= 2
    assert bare[:3].max() < 30, "colour alone vanishes on black"


def test_ink_on_half_white_is_half_the_light(colours):
    ink = linear_of_srgb(seen(colours, "pressed", flat(m=180))[:3] / 255)
    base = linear_of_srgb(np.array(rgb_of_hex(BLACK)) / 255)
    ground = base + 128 / 255 * (1 - base)
    expected = srgb_of_linear(ink * ground) * 255
    assert seen(colours, "cloth", flat(m=180, w=128))[:3] == pytest.approx(expected, abs=2)


def test_a_fade_is_dots_apart_not_thinner_colour(colours):
    """At half, every second dot is whole: light is the mean of print and cloth, in linear light."""
    half = flat(c=100, w=127)
    half[..., 0] = 100 * 128 // 255
    faded = linear_of_srgb(seen(colours, "cloth", half, alpha=128)[:3] / 255)
    print_light = linear_of_srgb(seen(colours, "cloth", flat(c=100, w=253))[:3] / 255)
    base = linear_of_srgb(np.array(rgb_of_hex(BLACK)) / 255)
    assert faded == pytest.approx((print_light + base) / 2, abs=0.02)


def test_on_the_film_white_lies_over_the_colour(colours):
    carrier = seen(colours, "carrier", flat(k=255, w=255))
    assert carrier[:3].min() > 200
    assert seen(colours, "carrier", flat(k=255))[:3].max() < 80


def test_pure_white_takes_no_ink_and_black_takes_black(colours):
    spec = ColourSpec(profile="p")
    white = colours.to_ink(np.full((1, 1, 4), 255, np.uint8), spec)
    black = colours.to_ink(np.array([[[0, 0, 0, 255]]], np.uint8), spec)
    assert white.max() <= 3
    assert black[0, 0, 3] > 150


def test_intents_differ_where_colours_cannot_be_reached(colours):
    green = np.array([[[0, 255, 60, 255]]], np.uint8)
    kept, drawn = (colours.to_ink(green, ColourSpec(profile="p", intent=i)) for i in ("relative", "perceptual"))
    assert not np.array_equal(kept, drawn)


def test_transforms_are_lent_to_one_thread_at_a_time(colours):
    rng = np.random.default_rng(1)
    picture = rng.integers(0, 255, (400, 400, 4)).astype(np.uint8)
    alone, spec = colours.to_ink(picture, ColourSpec(profile="p")), ColourSpec(profile="p")
    results: list[np.ndarray] = []
    threads = [threading.Thread(target=lambda: results.append(colours.to_ink(picture, spec))) for _ in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert len(results) == 8
    assert all(np.array_equal(r, alone) for r in results)


def test_a_profile_of_another_kind_is_refused_in_three_parts():
    from PIL import ImageCms

    for data, code in (
        (b"no profile", "broken-profile"),
        (ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes(), "wrong-profile"),
    ):
        with pytest.raises(Refusal) as refused:
            open_profile(data)
        assert refused.value.code == code
        assert refused.value.to_do
