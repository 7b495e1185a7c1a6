"""Draws the demo shop's artwork: python demo/artwork/draw.py FONT.woff2 [NAME ...]

The font is Atkinson Hyperlegible Next (SIL Open Font License 1.1), as the front end ships it. The pictures are CC0.
"""

import sys
from io import BytesIO
from pathlib import Path

import numpy as np
from fontTools.ttLib import TTFont
from fontTools.varLib.instancer import instantiateVariableFont
from PIL import Image, ImageChops, ImageDraw, ImageFilter, ImageFont

HERE = Path(__file__).parent
ENLARGE = 2
PPI = 310


def px(mm: float) -> int:
    return round(mm / 25.4 * PPI * ENLARGE)


def font(source: Path, weight: int, size_mm: float) -> ImageFont.FreeTypeFont:
    face = instantiateVariableFont(TTFont(source), {"wght": weight})
    face.flavor = None
    data = BytesIO()
    face.save(data)
    data.seek(0)
    return ImageFont.truetype(data, px(size_mm))


def shade(size: tuple[int, int], top: tuple[int, int, int], bottom: tuple[int, int, int], tilt: float) -> Image.Image:
    """A picture that goes from one colour to another along a tilted axis."""
    y, x = np.mgrid[0 : size[1] // 8, 0 : size[0] // 8]
    t = np.clip((1 - tilt) * y / (size[1] / 8) + tilt * (1 - x / (size[0] / 8)), 0, 1)[..., None]
    mixed = np.array(top) * (1 - t) + np.array(bottom) * t
    return Image.fromarray(mixed.astype(np.uint8)).resize(size, Image.Resampling.BICUBIC)


def lay(art: Image.Image, colour: Image.Image, mask: Image.Image) -> None:
    """Lay a colour over the picture where the mask is; clear ground takes on no black."""
    layer = colour.convert("RGBA")
    layer.putalpha(mask)
    art.alpha_composite(layer)


def shrunk(art: Image.Image) -> Image.Image:
    """At print size, premultiplied meanwhile, so that edges keep their colour."""
    half = art.size[0] // ENLARGE, art.size[1] // ENLARGE
    return art.convert("RGBa").resize(half, Image.Resampling.LANCZOS).convert("RGBA")


def comet(face: Path) -> Image.Image:
    """210 x 250 mm: a comet with a soft tail over stars, and two words."""
    size = px(210), px(250)
    tail = Image.new("L", size)
    pen = ImageDraw.Draw(tail)
    head = (px(52), px(150))
    for half_mm, strength in ((31, 90), (26, 165), (19, 225), (11, 255)):
        across = px(half_mm * 0.69), px(half_mm * 0.73)
        pen.polygon([(head[0] - across[0], head[1] - across[1]), (px(204), px(7)), (head[0] + across[0], head[1] + across[1])],
                    fill=strength)  # fmt: skip
    tail = tail.filter(ImageFilter.GaussianBlur(px(2.4)))
    # A tail fades along its length: the far end is soft, the near end solid.
    y, x = np.mgrid[0 : size[1] // 8, 0 : size[0] // 8]
    along = np.clip(1.45 - np.hypot(x * 8 - head[0], y * 8 - head[1]) / px(215), 0, 1) ** 0.8
    fade = Image.fromarray((along * 255).astype(np.uint8)).resize(size, Image.Resampling.BICUBIC)
    tail = ImageChops.multiply(tail, fade)
    art = shade(size, (58, 178, 214), (38, 70, 168), 0.55).convert("RGBA")
    art.putalpha(tail)
    streak = Image.new("L", size)
    pen = ImageDraw.Draw(streak)
    for start, width in (((69, 128), 2.6), ((80, 139), 1.7), ((57, 119), 1.1)):
        pen.line(
            [
                (px(start[0]), px(start[1])),
                (px(start[0] + 0.66 * (204 - start[0])), px(start[1] - 0.66 * (start[1] - 7))),
            ],
            fill=235,
            width=px(width),
        )
    lay(art, Image.new("RGB", size, (214, 240, 246)), streak)
    core = Image.new("L", size)
    pen = ImageDraw.Draw(core)
    pen.ellipse([head[0] - px(27), head[1] - px(27), head[0] + px(27), head[1] + px(27)], fill=255)
    lay(art, shade(size, (255, 206, 92), (236, 112, 44), 0.3), core)
    inner = Image.new("L", size)
    ImageDraw.Draw(inner).ellipse([head[0] - px(17), head[1] - px(19), head[0] + px(15), head[1] + px(13)], fill=255)
    lay(art, Image.new("RGB", size, (255, 241, 205)), inner.filter(ImageFilter.GaussianBlur(px(1.2))))
    stars = Image.new("L", size)
    pen = ImageDraw.Draw(stars)
    rng = np.random.default_rng(1986)
    for _ in range(64):
        at, wide = (
            (rng.uniform(6, 204), rng.uniform(6, 186)),
            rng.choice([0.35, 0.42, 0.7, 1.0, 1.4, 2.1], p=[0.1, 0.14, 0.2, 0.24, 0.2, 0.12]),
        )
        if abs((at[0] - 52) * 0.69 + (at[1] - 150) * 0.73) < 33 and at[0] > 18:
            continue  # not on the comet itself
        pen.ellipse([px(at[0] - wide / 2), px(at[1] - wide / 2), px(at[0] + wide / 2), px(at[1] + wide / 2)], fill=255)
    lay(art, Image.new("RGB", size, (246, 244, 232)), stars)
    words = Image.new("L", size)
    pen = ImageDraw.Draw(words)
    pen.text((size[0] / 2, px(222)), "COMET WEEK", font=font(face, 800, 31.5), fill=255, anchor="mm")
    lay(art, Image.new("RGB", size, (250, 246, 236)), words)
    rule = Image.new("L", size)
    ImageDraw.Draw(rule).rectangle([px(14), px(246.2), px(196), px(248.4)], fill=255)
    lay(art, Image.new("RGB", size, (236, 112, 44)), rule)
    return shrunk(art)


def dome(face: Path) -> Image.Image:
    """240 x 150 mm: an observatory's dome with its slit open, and a line of lettering. Hard edges."""
    size = px(240), px(150)
    art = Image.new("RGBA", size)
    pen = ImageDraw.Draw(art)
    pen.pieslice([px(50), px(8), px(190), px(148)], 180, 360, fill=(205, 214, 220, 255))
    pen.polygon([(px(112), px(9)), (px(135), px(11)), (px(131), px(78)), (px(112), px(78))], fill=(0, 0, 0, 0))
    pen.line([(px(124), px(70)), (px(150), px(18))], fill=(242, 190, 74, 255), width=px(9))
    pen.rectangle([px(42), px(78), px(198), px(104)], fill=(168, 70, 52, 255))
    for at in range(51, 190, 18):
        pen.rectangle([px(at), px(86), px(at + 8), px(98)], fill=(242, 190, 74, 255))
    pen.text(
        (size[0] / 2, px(127)),
        "Kestrel Point, open late",
        font=font(face, 700, 21),
        fill=(236, 240, 242, 255),
        anchor="mm",
    )
    return shrunk(art)


def orbit(face: Path) -> Image.Image:
    """110 x 110 mm: a planet with rings, the same left and right but for nothing: a wrong mirror would not show."""
    size = px(110), px(110)
    art = Image.new("RGBA", size)
    pen = ImageDraw.Draw(art)
    pen.ellipse([px(5), px(5), px(105), px(105)], outline=(242, 190, 74, 255), width=px(2.4))
    pen.ellipse([px(33), px(33), px(77), px(77)], fill=(96, 168, 160, 255))
    pen.ellipse([px(16), px(46), px(94), px(64)], outline=(236, 240, 242, 255), width=px(2.6))
    pen.pieslice([px(33), px(33), px(77), px(77)], 180, 360, fill=(96, 168, 160, 255))
    return shrunk(art)


def starmap(face: Path) -> Image.Image:
    """180 x 225 mm, printed larger: a sky's circle with its grid, constellations and their names. Flat dark blue on clear."""
    size = px(180), px(225)
    art = Image.new("RGBA", size)
    pen = ImageDraw.Draw(art)
    middle, ink, pale = (90.0, 92.0), (24, 52, 110, 255), (70, 110, 180, 255)
    for ring, wide in ((86, 1.4), (62, 0.5), (38, 0.5)):
        pen.ellipse(
            [px(middle[0] - ring), px(middle[1] - ring), px(middle[0] + ring), px(middle[1] + ring)],
            outline=ink,
            width=px(wide),
        )
    for hour in range(12):
        turn = np.pi * hour / 6
        x, y = np.cos(turn), np.sin(turn)
        pen.line(
            [(px(middle[0] + 10 * x), px(middle[1] + 10 * y)), (px(middle[0] + 86 * x), px(middle[1] + 86 * y))],
            fill=pale,
            width=px(0.45),
        )
    rng = np.random.default_rng(2027)
    for name in ("Heron", "Lantern", "Anchor", "Kite", "Bell"):
        turn, far = rng.uniform(0, 2 * np.pi), rng.uniform(24, 60)
        at = np.array([middle[0] + far * np.cos(turn), middle[1] + far * np.sin(turn)])
        points = [tuple(at + rng.uniform(-15, 15, 2)) for _ in range(5)]
        pen.line([(px(x), px(y)) for x, y in points], fill=ink, width=px(0.6))
        for x, y in points:
            wide = rng.uniform(0.9, 1.9)
            pen.ellipse([px(x - wide), px(y - wide), px(x + wide), px(y + wide)], fill=(214, 138, 30, 255))
        pen.text((px(points[0][0]), px(points[0][1] + 4)), name, font=font(face, 500, 5.5), fill=ink, anchor="mt")
    pen.text((size[0] / 2, px(199)), "Comet Week", font=font(face, 800, 22), fill=ink, anchor="mm")
    pen.text((size[0] / 2, px(217)), "the sky over Kestrel Point", font=font(face, 500, 9), fill=ink, anchor="mm")
    return shrunk(art)


def lab(face: Path) -> Image.Image:
    """220 x 84 mm: two lines of lettering in two colours, hard edges."""
    size = px(220), px(84)
    art = Image.new("RGBA", size)
    pen = ImageDraw.Draw(art)
    pen.text((size[0] / 2, px(26)), "KESTREL POINT", font=font(face, 800, 29), fill=(244, 240, 230, 255), anchor="mm")
    pen.text(
        (size[0] / 2, px(66)), "Night Sky Laboratory", font=font(face, 700, 21), fill=(232, 185, 35, 255), anchor="mm"
    )
    return shrunk(art)


def moon(face: Path) -> Image.Image:
    """102 x 102 mm, to the edge: a moon over a night sky, in shades."""
    size = px(102), px(102)
    art = shade(size, (20, 30, 66), (64, 92, 150), 0.35).convert("RGBA")
    disc = Image.new("L", size)
    ImageDraw.Draw(disc).ellipse([px(22), px(20), px(84), px(82)], fill=255)
    lay(art, shade(size, (250, 244, 224), (196, 188, 172), 0.5), disc.filter(ImageFilter.GaussianBlur(px(0.4))))
    spots = Image.new("L", size)
    pen = ImageDraw.Draw(spots)
    rng = np.random.default_rng(31)
    for _ in range(22):
        turn, far, wide = rng.uniform(0, 2 * np.pi), 27 * rng.uniform(0, 1) ** 0.6, rng.uniform(1, 5)
        x, y = 53 + far * np.cos(turn), 51 + far * np.sin(turn)
        pen.ellipse([px(x - wide), px(y - wide), px(x + wide), px(y + wide)], fill=int(rng.uniform(50, 120)))
    lay(art, Image.new("RGB", size, (150, 142, 130)), spots.filter(ImageFilter.GaussianBlur(px(0.9))))
    return shrunk(art.convert("RGBA"))


def watch(face: Path) -> Image.Image:
    """260 x 62 mm: one word across the chest, over a line."""
    size = px(260), px(62)
    art = Image.new("RGBA", size)
    pen = ImageDraw.Draw(art)
    pen.text((size[0] / 2, px(27)), "NIGHT WATCH", font=font(face, 800, 35), fill=(240, 236, 226, 255), anchor="mm")
    pen.rectangle([px(6), px(53), px(254), px(57)], fill=(236, 112, 44, 255))
    return shrunk(art)


DRAWN = (
    ("comet", comet),
    ("dome", dome),
    ("orbit", orbit),
    ("starmap", starmap),
    ("lab", lab),
    ("moon", moon),
    ("watch", watch),
)

if __name__ == "__main__":
    wanted = sys.argv[2:]
    for name, draw in ((n, d) for n, d in DRAWN if not wanted or n in wanted):
        draw(Path(sys.argv[1])).save(HERE / f"{name}.png", dpi=(PPI, PPI), optimize=True)
