"""Prints for cups that taper: the flat cone's own geometry (a developable surface: lengths on it stay), and bent back again."""

import math

import numpy as np
import pytest

from offsetter.core.compute.bending import bent, on_the_cup, straight_at
from offsetter.core.compute.wrap import Bend, bend_of, cup_of, rim_radius_mm, slant_mm
from offsetter.core.facts import MugSize

LATTE = MugSize(diameter_mm=88, base_diameter_mm=60, height_mm=105, handle_mm=40)
NARROW = MugSize(diameter_mm=60, base_diameter_mm=88, height_mm=105, handle_mm=40)


def on_the_cone(size: MugSize, around: float, down: float) -> np.ndarray:
    """A point of the wall in space: around in radians, down along the wall in mm. From solid geometry alone."""
    foot = size.base_diameter_mm or size.diameter_mm
    share = down / math.hypot(size.height_mm, (size.diameter_mm - foot) / 2)
    radius = (size.diameter_mm + (foot - size.diameter_mm) * share) / 2
    return np.array([radius * math.sin(around), radius * math.cos(around), -size.height_mm * share])


@pytest.mark.parametrize("size", [LATTE, NARROW])
def test_the_flat_sector_has_the_lengths_of_the_cone(size):
    # The closed form of a frustum rolled out: its rim's circle unrolls to its own length, its foot's likewise.
    radius, slant = rim_radius_mm(size), slant_mm(size)
    angle = math.pi * size.diameter_mm / abs(radius)
    assert abs(radius - slant) * angle == pytest.approx(math.pi * size.base_diameter_mm, rel=1e-12)
    # A point and its neighbours: as far apart on paper as on the cup.
    bend, wide, high, below = bend_of(size, 20.0), 120.0, 60.0, 20.0
    middle = below + high / 2
    mean = (size.diameter_mm + (size.base_diameter_mm - size.diameter_mm) * middle / slant) / 2
    box = bend.box_mm(wide, high)
    chance = np.random.default_rng(5)
    x, y = chance.uniform(0, box[0], 4000), chance.uniform(0, box[1], 4000)
    u, v = straight_at(x, y, bend, wide, high)
    near = 0.05
    for dx, dy in ((near, 0.0), (0.0, near), (near, near)):
        u2, v2 = straight_at(x + dx, y + dy, bend, wide, high)
        inside = (u > 0) & (u < wide) & (v > 0) & (v < high)
        for i in np.flatnonzero(inside)[:300]:
            one = on_the_cone(size, (u[i] / wide - 0.5) * wide / mean, below + v[i])
            two = on_the_cone(size, (u2[i] / wide - 0.5) * wide / mean, below + v2[i])
            assert np.linalg.norm(two - one) == pytest.approx(math.hypot(dx, dy), rel=2e-3)


@pytest.mark.parametrize("size", [LATTE, NARROW])
def test_a_bent_picture_bent_back_is_the_picture(size):
    wide, high, per_mm = 120.0, 60.0, 8
    rows, columns = int(high * per_mm), int(wide * per_mm)
    y, x = np.mgrid[0:rows, 0:columns]
    picture = np.dstack(
        [(x * 255 // columns), (y * 255 // rows), ((x // 40 + y // 40) % 2 * 200), np.full_like(x, 255)]
    ).astype(np.uint8)
    bend = bend_of(size, 20.0)
    made = bent(picture, bend, wide, high)
    assert made.shape[1] / per_mm == pytest.approx(bend.box_mm(wide, high)[0], abs=1.5 / per_mm)
    # Back by the forward map, worked out here from the circle alone.
    top, angle = bend.radius_um / 1000, bend.angle(wide, high)
    u, v = (x + 0.5) / per_mm, (y + 0.5) / per_mm
    around = (u / wide - 0.5) * angle
    radius = abs(top) - v if top > 0 else abs(top) + v
    box = bend.box_mm(wide, high)
    back_x = box[0] / 2 + radius * np.sin(around)
    back_y = top - radius * np.cos(around) if top > 0 else box[1] - (abs(top) + high) + radius * np.cos(around)
    at = made[
        np.clip((back_y * per_mm).astype(int), 0, made.shape[0] - 1),
        np.clip((back_x * per_mm).astype(int), 0, made.shape[1] - 1),
    ]
    smooth = np.abs(at[..., :2].astype(int) - picture[..., :2])
    assert np.median(smooth) <= 1
    assert np.quantile(smooth, 0.99) <= 3
    # As much of it is covered as before, to half a per cent: area stays too.
    assert (made[..., 3] / 255).sum() == pytest.approx(picture.shape[0] * picture.shape[1], rel=0.005)


def test_a_print_is_seen_where_it_lies_round_the_cup():
    mug = MugSize(diameter_mm=80, height_mm=100, handle_mm=40)
    cup = cup_of(mug, 10.0, 0.0)
    picture = np.zeros((200, 400, 4), np.uint8)
    picture[..., 0], picture[..., 3] = 255, 255
    quarter = math.pi * 80 / 4
    seen = on_the_cup(picture, cup, quarter, 50.0, (240, 240, 240))
    third = (seen.shape[1] + seen.shape[1] // 28) // 3
    left, front, right = seen[:, :220], seen[:, third : third + 220], seen[:, -220:]
    red = [(np.asarray(view[..., 0], int) - view[..., 1] > 80).sum() for view in (left, front, right)]
    # A quarter round, opposite the handle: whole from the front, and half a quarter from either side, which is seen aslant.
    assert red[0] == pytest.approx(red[2], rel=0.02)
    wide = math.sin(math.pi / 4) * 220 / (80 / 80)
    assert red[1] == pytest.approx(wide * 220 / 80 * 50, rel=0.03)
    assert red[0] == pytest.approx((1 - math.sin(math.pi / 4)) / 2 * 220 * 220 / 80 * 50, rel=0.06)


def test_too_steep_a_cup_and_one_whose_foot_is_its_rim():
    with pytest.raises(ValueError, match="tapers by more than its height"):
        MugSize(diameter_mm=300, base_diameter_mm=60, height_mm=90, handle_mm=20)
    assert bend_of(MugSize(diameter_mm=80, base_diameter_mm=80, height_mm=95, handle_mm=40), 10) is None
    assert Bend(radius_um=1_000_000).box_mm(1.0, 1.0) == pytest.approx((1.0, 1.0), rel=1e-3)
