"""The file of a long roll, and one print as large as a roll: memory and time against a sixth of the length, and against the bound.
Of the roll noisy pictures, each another one: nothing packs worse."""

import json
import subprocess
import sys
import tempfile
from pathlib import Path

WIDE_MM, HIGH_MM, DPI = 280, 160, 300
A_CUT, CUT_UM = 4, 345_000
LENGTHS, MOST_MB = (1, 6), 700
ONE_MM, ONE_PX = (600, 333, 2000), 3000
"""Of the one print: its width, a sixth of its length, its length; and the pixels of the picture across."""


def bench_roll() -> None:
    with tempfile.TemporaryDirectory(prefix="offsetter-bench-") as folder:
        subprocess.run([sys.executable, __file__, folder, "0"], check=True)
        short, long = (
            json.loads(subprocess.run([sys.executable, __file__, folder, str(n)], check=True, capture_output=True, text=True).stdout)
            for n in LENGTHS
        )  # fmt: skip
        small, large = (
            json.loads(subprocess.run([sys.executable, __file__, folder, f"print-{mm}"], check=True, capture_output=True, text=True).stdout)
            for mm in ONE_MM[1:]
        )  # fmt: skip
        print(
            f"one print of {ONE_MM[0]} x {ONE_MM[2]} mm, enlarged, {large['dots'] / 1e6:.0f} million dots, against {ONE_MM[1]} mm"
        )
        print(f"  processor time a metre   {large['cpu_s'] / small['cpu_s'] / (ONE_MM[2] / ONE_MM[1]):.2f}")
        print(f"  most memory {large['mb']:.0f} MB, {large['mb'] / small['mb']:.2f} of the short one's, of bound {large['mb'] / MOST_MB:.2f}")  # fmt: skip
        print(f"roll of 0.6 m, {LENGTHS[1] * CUT_UM / 1e6:.1f} m long, against {LENGTHS[0] * CUT_UM / 1e6:.2f} m")
        print(f"  processor time a metre   {long['cpu_s'] / short['cpu_s'] / (LENGTHS[1] / LENGTHS[0]):.2f}")
        print(f"  most memory {long['mb']:.0f} MB, {long['mb'] / short['mb']:.2f} of the short one's, of bound {long['mb'] / MOST_MB:.2f}")  # fmt: skip


def draw(folder: Path) -> None:
    import cv2
    import numpy as np

    from offsetter.core.facts import profile_bytes
    from offsetter.formats.plates_tiff import write_tiff

    rng, size = np.random.default_rng(1), (round(WIDE_MM / 25.4 * DPI), round(HIGH_MM / 25.4 * DPI))
    for n in range(A_CUT * LENGTHS[1]):
        small = rng.integers(0, 256, (60, 100, 5), np.uint8)
        planes = np.dstack([cv2.resize(small[..., k], size, interpolation=cv2.INTER_CUBIC) for k in range(5)])
        noisy = np.clip(planes + rng.normal(0, 3, planes.shape), 0, 255).astype(np.uint8)
        write_tiff(folder / f"{n}.tif", noisy, DPI, ("C", "M", "Y", "K", "W"), profile_bytes())


def write(folder: Path, cuts: int) -> dict:
    import resource
    import time

    from offsetter.core.compute.sheet import Place, RunLayout, Sort
    from offsetter.formats.plates_pdf import RunLabels, SortLabel
    from offsetter.work.runner import run_sheet

    count = A_CUT * cuts
    places = tuple(
        Place(number=n + 1, cut=n // A_CUT + 1, x_um=10_000 + n % 2 * 290_000, y_um=10_000 + n // 2 % 2 * 170_000, turned=False, sort=n)
        for n in range(count)
    )  # fmt: skip
    layout = RunLayout(
        media_um=600_000, printable_um=590_000, sorts=(Sort(width_um=WIDE_MM * 1000, height_um=HIGH_MM * 1000),) * count, across=2, rows_per_cut=2,
        cut_lengths_um=(CUT_UM,) * cuts, places=places, label_um=6_000, gap_um=8_000, length_um=CUT_UM * cuts, sheet_um=0, grid_length_um=0, waste_share=0.1,
    )  # fmt: skip
    labels = RunLabels(title="Roll", run="R1", mirrored=True, sorts=tuple(SortLabel(name=f"{n}", placing="") for n in range(count)))  # fmt: skip
    began = time.process_time()
    run_sheet(
        {"out": str(folder / "run.pdf"), "layout": layout.model_dump_json(), "labels": labels.model_dump_json(),
         "plates": json.dumps([str(folder / f"{n}.tif") for n in range(count)])},
        lambda done, whole, unit, found=(): None,
    )  # fmt: skip
    most = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    return {"cpu_s": time.process_time() - began, "mb": most}


def one_print(folder: Path, high_mm: int) -> dict:
    import os
    import resource
    import time

    from offsetter.core.compute.plate_spec import ColourSpec, PlateSpec, WhiteSpec
    from offsetter.core.facts import profile_bytes
    from offsetter.work.runner import full_plates

    rows = round(ONE_PX * high_mm / ONE_MM[0])
    art, profile, out = folder / f"{high_mm}.png", folder / "p.icc", folder / f"plates-{high_mm}"
    profile.write_bytes(profile_bytes())
    drawer = os.fork()  # its memory is not the plates'
    if not drawer:
        _picture(art, rows)
        os._exit(0)
    os.waitpid(drawer, 0)
    spec = PlateSpec(
        artwork="a", crop_px=(0, 0, ONE_PX, rows), width_um=ONE_MM[0] * 1000, dpi=DPI, mirrored=True, colour=ColourSpec(profile="p"),
        white=WhiteSpec(cloth="#17181B", choke_um=250, knock_out_delta_e=9, faint_floor=0.1, guard_um=500),
    )  # fmt: skip
    wanted = {"spec": spec.model_dump_json(), "profile": str(profile), "original": str(art), "name": art.name, "out": str(out)}  # fmt: skip
    began = time.process_time()
    full_plates({"wanted": json.dumps([wanted])}, lambda *_, **__: None)
    most = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    return {"cpu_s": time.process_time() - began, "mb": most, "dots": spec.width_px * spec.height_px}


def _picture(path: Path, rows: int) -> None:
    import cv2
    import numpy as np

    small = np.random.default_rng(1).integers(0, 255, (rows // 40, ONE_PX // 40, 3)).astype(np.uint8)
    colour = cv2.resize(small, (ONE_PX, rows), interpolation=cv2.INTER_CUBIC)
    y, x = np.mgrid[0:rows, 0:ONE_PX].astype(np.float32)
    alpha = (np.clip(190 - np.hypot(x % 420 - 210, y % 420 - 210) + 0.5, 0, 1) * 255).astype(np.uint8)
    cv2.imwrite(str(path), np.dstack([colour, alpha]))


if __name__ == "__main__":
    where, asked = Path(sys.argv[1]), sys.argv[2]
    if asked.startswith("print-"):
        print(json.dumps(one_print(where, int(asked.removeprefix("print-")))))
    elif cuts_wanted := int(asked):
        print(json.dumps(write(where, cuts_wanted)))
    else:
        draw(where)
