"""Turn a chart (CTI1) into measurements (CTI3) by an invented ink formula; the profile made from it is ours.

    targen -d4 -f 800 -l 300 film && python invented_film_inks.py film.ti1 film.ti3
    colprof -v -ql -bl -kr -l300 -D"Invented film print condition" -C"CC0 invented data" \
      -S sRGB.icm -cmt -dpp -O film.icc film

Neugebauer's sixteen primaries with invented Lab values, Yule-Nielsen n = 1.8, dot gain 15 % at 50 %.
Nothing in it was measured on any printer. The .ti3, the script and the profile are CC0.
"""

import sys
from itertools import product
from pathlib import Path

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
    fy = (lab[0] + 16) / 116
    parts = (fy + lab[1] / 500, fy, fy - lab[2] / 200)
    return [w * (f**3 if f > 6 / 29 else 3 * (6 / 29) ** 2 * (f - 4 / 29)) for f, w in zip(parts, D50, strict=True)]


def printed_xyz(cmyk: list[float]) -> list[float]:
    """XYZ (Y = 100) of a patch given as four ink shares from 0 to 1."""
    dots = [a + 4 * DOT_GAIN_AT_HALF * a * (1 - a) for a in cmyk]
    mixed = [0.0, 0.0, 0.0]
    for on in product((0, 1), repeat=4):
        share = 1.0
        for dot, is_on in zip(dots, on, strict=True):
            share *= dot if is_on else 1 - dot
        solid = xyz_of(PRIMARIES["".join(n for n, is_on in zip("CMYK", on, strict=True) if is_on)])
        mixed = [m + share * max(s, 1e-6) ** (1 / YULE_NIELSEN_N) for m, s in zip(mixed, solid, strict=True)]
    return [m**YULE_NIELSEN_N for m in mixed]


def main(chart: Path, measured: Path) -> None:
    lines = chart.read_text().splitlines()
    fields = lines[lines.index("BEGIN_DATA_FORMAT") + 1].split()
    rows = [line.split() for line in lines[lines.index("BEGIN_DATA") + 1 : lines.index("END_DATA")]]
    at = [fields.index(f"CMYK_{n}") for n in "CMYK"]
    out = [
        "CTI3", "", 'DESCRIPTOR "Invented film inks"', 'ORIGINATOR "Offsetter, invented data, CC0"',
        'DEVICE_CLASS "OUTPUT"', 'COLOR_REP "CMYK_XYZ"', 'TOTAL_INK_LIMIT "300"', "", "NUMBER_OF_FIELDS 8",
        "BEGIN_DATA_FORMAT", "SAMPLE_ID CMYK_C CMYK_M CMYK_Y CMYK_K XYZ_X XYZ_Y XYZ_Z", "END_DATA_FORMAT", "",
        f"NUMBER_OF_SETS {len(rows)}", "BEGIN_DATA",
    ]  # fmt: skip
    for number, row in enumerate(rows, 1):
        inks = [float(row[i]) for i in at]
        values = inks + printed_xyz([v / 100 for v in inks])
        out.append(" ".join([str(number), *(f"{v:.5f}" for v in values)]))
    measured.write_text("\n".join([*out, "END_DATA", ""]))


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]))
