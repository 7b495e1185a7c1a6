"""A print in parts: the parts cover it, and laid together again they are the print, as Ghostscript reads their pages."""

from itertools import pairwise

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from offsetter.core.compute.sheet import LayoutAsk, Want, lay_out
from offsetter.core.compute.tiles import parted
from offsetter.formats.plates_pdf import RunLabels, SortLabel, write_run_pdf
from tests.outside.test_plates_read_back import DPI, FILM, PX, separations

SIDE_UM = round(PX / DPI * 25_400)


@given(st.integers(1, 3_000_000), st.integers(20_000, 900_000), st.integers(0, 60_000))
@settings(max_examples=300, deadline=None)
def test_parts_cover_the_whole_and_overlap_by_what_was_asked(whole, most, overlap):
    parts = parted(whole, most, overlap)
    if not parts:
        assert most <= 2 * overlap
        return
    assert parts[0][0] == 0
    assert parts[-1][0] + parts[-1][1] == whole
    for (begin, length), (after, _) in pairwise(parts):
        assert begin + length - after == overlap
    assert all(0 < length <= most + 1 for _, length in parts)
    # One part less could not reach.
    assert len(parts) == 1 or (len(parts) - 1) * (most - overlap) + overlap < whole + 1
    lengths = [length for _, length in parts]
    assert max(lengths) - min(lengths) <= 2


def test_the_pages_of_a_print_in_parts_are_the_print_when_they_are_laid_together(tmp_path):
    y, x = np.mgrid[0:PX, 0:PX]
    planes = np.stack([x * 255 // PX, y * 255 // PX, (x + y) * 255 // (2 * PX), x // 60 * 40 % 256, y // 60 * 30 % 256], axis=2).astype(np.uint8)  # fmt: skip
    asked = LayoutAsk(
        wants=(Want(width_um=SIDE_UM, height_um=SIDE_UM, copies=2),), gap_um=4_000, margin_um=3_000, media_um=24_000, printable_um=20_000,
        longest_cut_um=26_000, widest_cut_um=24_000,
    )  # fmt: skip
    assert lay_out(asked) is None
    layout = lay_out(asked.model_copy(update={"overlap_um": 2_000}))
    assert (layout.parts, len(layout.places), len(layout.cut_lengths_um)) == (6, 2, 12)
    assert layout.lengths_of(0, 1) == 6
    assert [p.cut for p in layout.places] == [6, 12], "a print is there with its last part"
    assert layout.length_um == sum(layout.cut_lengths_um)
    labels = RunLabels(title="Wall", run="R1", mirrored=False, sorts=(SortLabel(name="M", placing=""),))
    write_run_pdf(tmp_path / "run.pdf", [(planes, FILM)], layout, labels)
    whole = np.zeros((PX, PX, 5), int)
    told = np.zeros((PX, PX), bool)
    dot = DPI / 25_400
    for page, tile in enumerate(layout.tiles[:6], 1):
        folder = tmp_path / str(page)
        folder.mkdir()
        plates = separations(tmp_path / "run.pdf", folder, page)
        high = layout.cut_lengths_um[page - 1] * dot
        # Two dots in from each side: where a clip cuts a dot, it is shared.
        left, low = tile.left_um * dot, tile.low_um * dot
        wide, tall = tile.width_um * dot, tile.height_um * dot
        for up in range(int(low) + 2, int(low + tall) - 2):
            row = PX - 1 - up
            at = round(high - tile.y_um * dot - (up - low)) - 1
            across = np.arange(int(left) + 2, int(left + wide) - 2)
            on_page = np.round(tile.x_um * dot + across - left).astype(int)
            for i, name in enumerate(("Cyan", "Magenta", "Yellow", "Black", "White")):
                whole[row, across, i] = plates[name][at, on_page]
            told[row, across] = True
        outside = plates["Cyan"][: round(high - (tile.y_um + tile.height_um) * dot) - 2]
        assert not outside.any(), "nothing of its neighbours is printed"
    assert told[3:-3, 3:-3].all()
    off = np.abs(whole - planes.astype(int))[told]
    # A page begins between two dots: a step of the picture may be read one dot further.
    assert np.median(off) <= 1
    assert (off > 3).mean() < 0.08
