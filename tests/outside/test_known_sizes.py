"""Sizes of pictures that anybody can look up: paper sizes of ISO 216 at 300 ppi, and what common cameras' pictures print at."""

import numpy as np
import pytest

from offsetter.core import facts
from offsetter.core.compute.artwork import ArtworkFacts
from offsetter.core.decisions import ArtworkDoc
from offsetter.core.stations.artwork import Inputs, preflight

# ISO 216: A3 297 x 420, A4 210 x 297, A5 148 x 210 mm; at 300 ppi 3508 x 4961, 2480 x 3508, 1748 x 2480 pixels.
# A picture of 12 megapixels (4000 x 3000) is 338.7 x 254 mm at 300 ppi: 25.4 mm to the inch, by definition since 1959.
KNOWN = [
    (3508, 4961, 297.0),
    (2480, 3508, 210.0),
    (1748, 2480, 148.0),
    (4000, 3000, 338.7),
    (6000, 4000, 508.0),
    (1024, 768, 86.7),
]


def judged(wide: int, high: int, width_mm: float):
    counts = tuple(int(v) for v in np.bincount([255], minlength=256) * wide * high)
    measured = ArtworkFacts(file="f", name="f", pixels=(wide, high), mode="RGB", profile=None, content_px=(0, 0, wide, high), transparency="none",
                            alpha_counts=counts, colours=(), symmetric=False, strokes=(), gaps=(), notes=())  # fmt: skip
    return preflight(Inputs(doc=ArtworkDoc(), facts=measured, crop_px=(0, 0, wide, high), width_um=round(width_mm * 1000),
                            height_um=round(width_mm * 1000 * high / wide), method=facts.methods()["film"], cloth="#FFFFFF", colour_name="white"))  # fmt: skip


@pytest.mark.parametrize(("wide", "high", "at_300"), KNOWN)
def test_a_known_picture_reaches_its_known_size(wide, high, at_300):
    told = judged(wide, high, at_300)
    assert told.reachable_mm["300"] == pytest.approx(at_300, abs=0.1)
    assert told.reachable_mm["150"] == pytest.approx(2 * at_300, abs=0.2)
    assert told.effective_ppi == pytest.approx(300, abs=0.3)
    assert not {"coarse", "below-target"} & {f.code for f in told.findings}
    twice = judged(wide, high, 2.2 * at_300)
    assert "coarse" in {f.code for f in twice.findings}, "at 136 ppi its steps would show"
