"""Every format broken in five ways, and at random: read in the child process, refused in three parts, nothing left behind.

OFFSETTER_FUZZ multiplies how many are made at random (./offsetter soak).
"""

import io
import os
import subprocess
import sys

import numpy as np
import pytest
from PIL import Image

from offsetter.core.values import Refusal
from offsetter.intake import limits
from offsetter.intake.receive import receive
from tests.core.shapes import disc
from tests.outside.test_drawings import BAR, pdf, svg


def saved(kind: str, **options) -> bytes:
    picture, data = Image.fromarray(disc(80, 200, (40, 120, 200))), io.BytesIO()
    (picture.convert("RGB") if kind == "JPEG" else picture).save(data, kind, **options)
    return data.getvalue()


def middle(data: bytes, instead) -> bytes:
    n = len(data)
    return data[: n // 3] + instead(n // 3) + data[n // 3 * 2 :]


WHOLE = {
    "a.png": lambda: saved("PNG"),
    "a.jpg": lambda: saved("JPEG"),
    "a.tif": lambda: saved("TIFF", compression="tiff_lzw"),
    "a.webp": lambda: saved("WEBP"),
    "a.pdf": pdf,
    "a.svg": lambda: svg(BAR.format(wide=30)),
}
BROKEN = {
    "cut in half": lambda data: data[: len(data) // 2],
    "its beginning alone": lambda data: data[:20],
    "nothing in the middle": lambda data: middle(data, bytes),
    "noise in the middle": lambda data: middle(data, lambda n: np.random.default_rng(5).bytes(n)),
    "its end first": lambda data: data[::-1],
}


@pytest.mark.parametrize("name", WHOLE)
def test_it_is_refused_whichever_way_it_is_broken(tmp_path, name):
    whole = tmp_path / name
    whole.write_bytes(WHOLE[name]())
    assert receive(whole, name, "abc", tmp_path / "whole").pixels[0] > 50
    for what, broken in BROKEN.items():
        file, folder = tmp_path / f"broken-{name}", tmp_path / "out" / "abc"
        file.write_bytes(broken(WHOLE[name]()))
        with pytest.raises(Refusal) as refused:
            receive(file, name, "abc", folder)
        assert refused.value.code == ("not-a-picture" if what == "its end first" else "broken-file"), what
        assert all((refused.value.happened, refused.value.kept, refused.value.to_do))
        assert not list(tmp_path.glob("out/*"))


EACH = 3 * int(os.environ.get("OFFSETTER_FUZZ", "1"))
SEED = int(os.environ.get("OFFSETTER_SEED", "20"))


def gnawed(data: bytes, dice: np.random.Generator) -> bytes:
    """Some bytes other ones, and now and then a piece left out, doubled or put elsewhere."""
    found = bytearray(data)
    for _ in range(int(dice.integers(1, 40))):
        found[int(dice.integers(len(found)))] = int(dice.integers(256))
    start, long = int(dice.integers(len(found))), int(dice.integers(1, 400))
    piece = found[start : start + long]
    match int(dice.integers(4)):
        case 0:
            del found[start : start + long]
        case 1:
            found[start:start] = piece * 3
        case 2:
            found += piece
        case _:
            pass
    return bytes(found)


@pytest.mark.parametrize("name", WHOLE)
def test_what_is_gnawed_at_random_is_read_or_refused_and_leaves_nothing_half_made(tmp_path, name):
    dice = np.random.default_rng([SEED, len(name), ord(name[2])])
    for n in range(EACH):
        file, folder = tmp_path / f"{n}-{name}", tmp_path / "out" / str(n)
        file.write_bytes(gnawed(WHOLE[name](), dice))
        said = None
        try:
            read = receive(file, name, "abc", folder).pixels[0] > 0
        except Refusal as refused:
            read, said = False, refused
        assert read or (said is not None and said.happened and said.kept and said.to_do), n
        assert read or not folder.exists(), n
        assert not list(tmp_path.glob("out/*.part")), n


@pytest.mark.parametrize(("side", "fits"), [(64, False), (4_000, True)])
def test_a_picture_takes_no_more_memory_than_its_header_promises(tmp_path, side, fits):
    """A small picture's process cannot have what a large one's may: whatever in its data would ask for it."""
    Image.new("L", (side, side), 90).save(tmp_path / "a.png")
    code = f"""
from pathlib import Path
from offsetter.intake import child, limits
limits.confine()
child.hold_to_promise(Path({str(tmp_path / "a.png")!r}), "abc")
bytearray(3 * 1024**3 // 2)
"""
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert (done.returncode == 0) is fits, done.stderr
    assert fits or "MemoryError" in done.stderr
    # And it is enough for the picture itself, with what is measured on it.
    assert receive(tmp_path / "a.png", "a.png", "abc", tmp_path / "out").pixels == (side, side)


def test_what_takes_too_long_is_stopped_and_leaves_nothing(tmp_path, monkeypatch):
    Image.new("L", (64, 64), 90).save(tmp_path / "a.png")
    monkeypatch.setattr(limits, "WALL_SECONDS", 0.05)
    with pytest.raises(Refusal) as refused:
        receive(tmp_path / "a.png", "a.png", "abc", tmp_path / "out")
    assert refused.value.code == "too-much-work"
    assert all((refused.value.happened, refused.value.kept, refused.value.to_do))
    assert not (tmp_path / "out").exists()
