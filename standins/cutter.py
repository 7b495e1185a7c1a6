"""A simulated cutter: it is given a cut file and answers with a picture of what comes out of its test cut, a circle in a square."""

import io

import ezdxf
from ezdxf.document import Drawing
from ezdxf.path import make_path
from PIL import Image, ImageDraw, ImageFont

FAULTS = {"blunt": "blade blunt", "deep": "blade too deep", "offset": "blade's offset wrong"}
SAID = {
    "": "Both come out clean, and the carrier is whole.",
    "blunt": "Film hangs on in places: it is not cut through.",
    "deep": "Both come out, and the carrier is cut as well.",
    "offset": "The circle does not meet its end, and the square's corners are round.",
}
SIDE, PAD = 640, 60
LAYER = "TEST"
Points = list[tuple[float, float]]


def test_cut_of(data: bytes) -> list[Points]:
    """The test cut's outlines in a DXF, in mm. Raises ValueError where there is none."""
    try:
        drawing: Drawing = ezdxf.read(io.StringIO(data.decode()))  # type: ignore[attr-defined]
    except (ezdxf.DXFError, UnicodeDecodeError) as wrong:
        raise ValueError("this is no DXF") from wrong
    found = [[(p.x, p.y) for p in make_path(e).flattening(0.02)] for e in drawing.modelspace() if LAYER in e.dxf.layer.upper()]  # fmt: skip
    if not found:
        raise ValueError("there is no test cut in it")
    return found


def answer(data: bytes, fault: str) -> bytes:
    """PNG of what comes out, with a word below it."""
    lines = test_cut_of(data)
    xs, ys = [x for line in lines for x, _ in line], [y for line in lines for _, y in line]
    scale = (SIDE - 2 * PAD) / max(max(xs) - min(xs), max(ys) - min(ys))
    picture = Image.new("RGB", (SIDE, SIDE + 60), "#efe9d8")
    draw = ImageDraw.Draw(picture)
    draw.rectangle((PAD / 2, PAD / 2, SIDE - PAD / 2, SIDE - PAD / 2), fill="#30424a")
    for line in sorted(lines, key=len):
        at = [(PAD + (x - min(xs)) * scale, SIDE - PAD - (y - min(ys)) * scale) for x, y in line]
        if fault == "offset":
            # The tip trails behind its axis: the end does not meet the beginning.
            at = at[len(at) // 16 :]
        draw.polygon(at, fill="#efe9d8" if fault != "blunt" else "#4b5f68")
        draw.line([*at, at[0]] if fault != "offset" else at, fill="#8c2f1c" if fault == "deep" else "#10181b", width=4 if fault == "deep" else 2)  # fmt: skip
        if fault == "blunt":
            for n in range(0, len(at) - 1, max(2, len(at) // 9)):
                draw.line(at[n : n + 2], fill="#30424a", width=8)
    draw.text((PAD / 2, SIDE + 16), SAID[fault], fill="#10181b", font=ImageFont.load_default(18))
    out = io.BytesIO()
    picture.save(out, "PNG")
    return out.getvalue()
