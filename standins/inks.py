"""What invented inks look like: Neugebauer's sixteen primaries, Yule-Nielsen n = 1.8, and a dot gain a channel.

Source of the model: Yule, Nielsen (1951); Neugebauer (1937). Every value in it is invented; nothing was measured on any printer.
"""

from itertools import product

D50 = (96.42, 100.0, 82.49)  # ICC.1 profile connection space white, Y = 100
YULE_NIELSEN_N = 1.8
DOT_GAIN_AT_HALF = 0.15

# Invented: Lab (D50) of each solid overprint, seen over the white plate.
PRIMARIES = {
    "": (95.0, 0.0, -2.0), "C": (55.0, -37.0, -47.0), "M": (48.0, 73.0, -5.0), "Y": (88.0, -6.0, 91.0),
    "MY": (47.0, 66.0, 46.0), "CY": (49.0, -66.0, 27.0), "CM": (25.0, 22.0, -47.0), "CMY": (23.0, 1.0, 1.0),
    "K": (15.0, 0.0, 0.0), "CK": (12.0, -6.0, -8.0), "MK": (11.0, 10.0, -1.0), "YK": (14.0, -1.0, 9.0),
    "MYK": (10.0, 8.0, 5.0), "CYK": (10.0, -8.0, 3.0), "CMK": (8.0, 4.0, -8.0), "CMYK": (6.0, 0.0, 0.0),
}  # fmt: skip


def xyz_of(lab: tuple[float, float, float]) -> list[float]:
    """XYZ (Y = 100) of Lab under D50."""
    fy = (lab[0] + 16) / 116
    parts = (fy + lab[1] / 500, fy, fy - lab[2] / 200)
    return [w * (f**3 if f > 6 / 29 else 3 * (6 / 29) ** 2 * (f - 4 / 29)) for f, w in zip(parts, D50, strict=True)]


def lab_of(xyz: list[float]) -> tuple[float, float, float]:
    """Lab under D50 of XYZ (Y = 100)."""
    ratios = [v / w for v, w in zip(xyz, D50, strict=True)]
    x, y, z = (r ** (1 / 3) if r > (6 / 29) ** 3 else r / (3 * (6 / 29) ** 2) + 4 / 29 for r in ratios)
    return 116 * y - 16, 500 * (x - y), 200 * (y - z)


def printed_xyz(cmyk: list[float], gain: tuple[float, ...] = (DOT_GAIN_AT_HALF,) * 4) -> list[float]:
    """XYZ (Y = 100) of a patch given as four ink shares from 0 to 1; gain: dot gain at a half, a channel."""
    dots = [min(1.0, a + 4 * g * a * (1 - a)) for a, g in zip(cmyk, gain, strict=True)]
    mixed = [0.0, 0.0, 0.0]
    for on in product((0, 1), repeat=4):
        share = 1.0
        for dot, is_on in zip(dots, on, strict=True):
            share *= dot if is_on else 1 - dot
        solid = xyz_of(PRIMARIES["".join(n for n, is_on in zip("CMYK", on, strict=True) if is_on)])
        mixed = [m + share * max(s, 1e-6) ** (1 / YULE_NIELSEN_N) for m, s in zip(mixed, solid, strict=True)]
    return [m**YULE_NIELSEN_N for m in mixed]


def driven_by_rgb(rgb: list[float]) -> list[float]:
    """Ink shares that an invented driver makes of red, green and blue (0 to 1): it separates by itself."""
    c, m, y = (1 - v for v in rgb)
    k = min(c, m, y) ** 2.2
    return [0.94 * max(0.0, v - 0.8 * k) for v in (c, m, y)] + [0.96 * k]
