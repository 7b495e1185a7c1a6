"""Turn a chart (CTI1) into measurements (CTI3) by an invented ink formula; the profiles made from them are ours.

Film, four inks:
    targen -d4 -f 800 -l 300 film && python invented_film_inks.py film.ti1 film.ti3
    colprof -v -ql -bl -kr -l300 -D"Invented film print condition" -C"CC0 invented data" \
      -S sRGB.icm -cmt -dpp -O film.icc film
Dye sheets, by a driver that takes RGB:
    targen -d2 -f 500 dye && python invented_film_inks.py dye.ti1 dye.ti3
    colprof -v -ql -bl -D"Invented dye print condition" -C"CC0 invented data" -S sRGB.icm -cmt -dpp -O dye.icc dye

The formula is in standins/inks.py. Nothing in it was measured on any printer. The .ti3 files, the scripts and the profiles are CC0.
"""

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[2]))
from standins.inks import driven_by_rgb, printed_xyz


def main(chart: Path, measured: Path) -> None:
    lines = chart.read_text().splitlines()
    # The chart's own patches come first; the tables after them are for its tool alone.
    fields = lines[lines.index("BEGIN_DATA_FORMAT") + 1].split()
    rows = [line.split() for line in lines[lines.index("BEGIN_DATA") + 1 : lines.index("END_DATA")]]
    space = "CMYK" if "CMYK_C" in fields else "RGB"
    names = [f"{space}_{n}" for n in space]
    at = [fields.index(n) for n in names]
    limit = ['TOTAL_INK_LIMIT "300"'] if space == "CMYK" else []
    out = [
        "CTI3", "", f'DESCRIPTOR "Invented {"film inks" if space == "CMYK" else "dye driver"}"', 'ORIGINATOR "Offsetter, invented data, CC0"',
        'DEVICE_CLASS "OUTPUT"', f'COLOR_REP "{"iRGB" if "iRGB" in chart.read_text() else space}_XYZ"', *limit, "", f"NUMBER_OF_FIELDS {len(names) + 4}",
        "BEGIN_DATA_FORMAT", f"SAMPLE_ID {' '.join(names)} XYZ_X XYZ_Y XYZ_Z", "END_DATA_FORMAT", "",
        f"NUMBER_OF_SETS {len(rows)}", "BEGIN_DATA",
    ]  # fmt: skip
    for number, row in enumerate(rows, 1):
        device = [float(row[i]) for i in at]
        shares = [v / 100 for v in device]
        xyz = printed_xyz(shares if space == "CMYK" else driven_by_rgb(shares))
        out.append(" ".join([str(number), *(f"{v:.5f}" for v in device + xyz)]))
    measured.write_text("\n".join([*out, "END_DATA", ""]))


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]))
