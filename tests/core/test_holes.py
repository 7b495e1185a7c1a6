"""Holes of a picture's own, against a labelling from another library and against worked shapes."""

import numpy as np
import pytest
from scipy import ndimage

from offsetter.core.compute.holes import hole_sizes, holes_under, own_holes
from tests.core.shapes import disc, square


def worn(seed: int, holes: int) -> np.ndarray:
    alpha = square(300, 400)[..., 3].copy()
    rng = np.random.default_rng(seed)
    for x, y, size in zip(*rng.integers(40, 350, (2, holes)), rng.integers(1, 9, holes), strict=True):
        alpha[y : y + size, x : x + size] = 0
    return alpha


@pytest.mark.parametrize("seed", range(6))
def test_holes_are_counted_as_another_library_counts_them(seed):
    """scipy.ndimage.label (4-neighbours): clear patches that do not reach the frame, by their area."""
    alpha = worn(seed, 120)
    labels, count = ndimage.label(np.pad(alpha < 128, 1, constant_values=True))
    areas = np.bincount(labels.ravel())[1 : count + 1]
    inside = np.array([a for n, a in enumerate(areas, 1) if n != labels[0, 0]])
    sizes = hole_sizes(alpha)
    assert sum(n for _, n in sizes) == len(inside)
    for limit in (1, 4, 16, 64):  # steps of the ladder: counted exactly
        assert holes_under(sizes, limit) == int((inside <= limit).sum())


def test_a_bay_is_no_hole_and_a_ring_has_one():
    bay = square(300, 400)[..., 3].copy()
    bay[100:120, :200] = 0
    assert hole_sizes(bay) == ()
    ring = disc(80, 400)[..., 3] - disc(20, 400)[..., 3]
    ((size, count),) = hole_sizes(ring)
    assert count == 1
    assert np.pi * 20**2 * 0.97 <= size <= np.pi * 20**2 * 1.25
    assert hole_sizes(np.full((50, 50), 255, np.uint8)) == ()
    assert hole_sizes(np.zeros((50, 50), np.uint8)) == ()


@pytest.mark.parametrize("limit", [4, 20, 64])
def test_the_mask_of_own_holes_holds_the_small_ones_whole(limit):
    alpha = worn(4, 90)
    labels, count = ndimage.label(np.pad(alpha < 128, 1, constant_values=True))
    areas = np.bincount(labels.ravel())
    small = [n for n in range(1, count + 1) if areas[n] <= limit and n != labels[0, 0]]
    assert small
    assert np.array_equal(own_holes(alpha, limit) > 0, np.isin(labels[1:-1, 1:-1], small))
