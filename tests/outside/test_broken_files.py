"""Every format broken in five ways: read in the child process, each refused in three parts, nothing left behind."""

import io

import numpy as np
import pytest
from PIL import Image

from offsetter.core.values import Refusal
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
