"""A3 at 300 dpi, PNG with alpha to CMYK and White TIFF, against its four bare steps measured in the same run.

Bare steps: decode by OpenCV, littleCMS transform, one exact distance transform, deflate level 1 of the five planes.
Each side runs in a process of its own; processor seconds are the operating system's.
"""

import json
import subprocess
import sys
import tempfile
from pathlib import Path
from statistics import median

WIDTH, HEIGHT, DPI = 4961, 3508, 300
RUNS = 9
PLATES_MB = WIDTH * HEIGHT * 5 / 1e6


def bench_plates() -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        art = folder / "a3.png"
        _one("draw", art, folder)
        _one("whole", art, folder)  # warm: the compiled kernel is kept on disk
        bare, whole = [], []
        for _ in range(RUNS):
            bare.append(_one("bare", art, folder))
            whole.append(_one("whole", art, folder))
    cpu = [w["cpu_s"] / b["cpu_s"] for b, w in zip(bare, whole, strict=True)]
    wall = [w["wall_s"] / b["cpu_s"] for b, w in zip(bare, whole, strict=True)]
    memory = [w["peak_mb"] / PLATES_MB for w in whole]
    print(f"A3 at {DPI} dpi, {RUNS} pairs; bare steps {median(b['cpu_s'] for b in bare):.2f} processor seconds: "
          + ", ".join(f"{k} {v:.2f}" for k, v in bare[-1]["steps"].items()))  # fmt: skip
    # A machine that is shared runs now faster, now slower: the least of each side is what neither was held up in.
    least = min(b["cpu_s"] for b in bare)
    _row("processor time / bare steps", cpu, 1.2, min(w["cpu_s"] for w in whole) / least)
    _row("wall / bare steps' processor time", wall, 0.75, min(w["wall_s"] for w in whole) / least)
    _row("peak memory / plates", memory, 4.5)


def _row(what: str, values: list[float], bound: float, of_least: float | None = None) -> None:
    told = f"  least to least {of_least:.2f}" if of_least else ""
    print(f"  {what:36} median {median(values):5.2f}  ({min(values):.2f} to {max(values):.2f})  bound {bound}{told}")


def _one(side: str, art: Path, folder: Path) -> dict:
    run = subprocess.run(
        [sys.executable, __file__, side, str(art), str(folder)],
        capture_output=True,
        check=True,
        stdin=subprocess.DEVNULL,
    )
    return json.loads(run.stdout or "{}")


def draw(art: Path) -> None:
    """Photograph-like colour, anti-aliased discs and bars, clear ground."""
    import cv2
    import numpy as np

    rng = np.random.default_rng(5)
    small = rng.integers(0, 255, (HEIGHT // 40, WIDTH // 40, 3)).astype(np.uint8)
    colour = cv2.resize(small, (WIDTH, HEIGHT), interpolation=cv2.INTER_CUBIC)
    colour = np.clip(colour.astype(np.int16) + rng.normal(0, 3, colour.shape), 0, 255).astype(np.uint8)
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH].astype(np.float32)
    discs = np.clip(190 - np.hypot(x % 420 - 210, y % 420 - 210) + 0.5, 0, 1)
    bars = np.clip(3.5 - np.abs((x + y) % 140 - 70) + 0.5, 0, 1)
    alpha = (np.maximum(discs, bars) * 255).astype(np.uint8)
    cv2.imwrite(str(art), np.dstack([colour, alpha]), [cv2.IMWRITE_PNG_COMPRESSION, 3])


def bare(art: Path) -> dict:
    import time

    import cv2
    import imagecodecs
    import numpy as np
    from PIL import Image, ImageCms

    from offsetter.core.facts import profile_bytes

    cv2.setNumThreads(1)
    steps, began = {}, time.perf_counter()

    def timed(name, work):
        start = time.process_time()
        made = work()
        steps[name] = time.process_time() - start
        return made

    read = timed("decode", lambda: cv2.imread(str(art), cv2.IMREAD_UNCHANGED))
    from io import BytesIO

    printer = ImageCms.ImageCmsProfile(BytesIO(profile_bytes()))
    transform = ImageCms.buildTransform(ImageCms.createProfile("sRGB"), printer, "RGBA", "CMYK",
                                        ImageCms.Intent.RELATIVE_COLORIMETRIC, ImageCms.Flags.BLACKPOINTCOMPENSATION)  # fmt: skip
    image = Image.frombuffer("RGBA", (WIDTH, HEIGHT), read, "raw", "RGBA", 0, 1)
    inks = timed("littleCMS", lambda: ImageCms.applyTransform(image, transform))
    mask = (read[..., 3] > 127).astype(np.uint8)
    timed("distance", lambda: cv2.distanceTransform(mask, cv2.DIST_L2, cv2.DIST_MASK_PRECISE))
    five = np.dstack([np.asarray(inks) * (mask[..., None]), read[..., 3]])
    rows = [np.ascontiguousarray(five[i : i + 256]) for i in range(0, HEIGHT, 256)]
    timed("deflate", lambda: [imagecodecs.deflate_encode(r, level=1) for r in rows])
    return {"cpu_s": sum(steps.values()), "wall_s": time.perf_counter() - began, "steps": steps}


def whole(art: Path, folder: Path) -> dict:
    import resource
    import time

    began, start = time.perf_counter(), time.process_time()
    import cv2

    from offsetter.core.compute.plate_spec import ColourSpec, PlateSpec, WhiteSpec
    from offsetter.core.compute.plates import make_plates
    from offsetter.core.facts import profile_bytes
    from offsetter.formats.plates_tiff import write_tiff
    from offsetter.intake.decode import decode

    cv2.setNumThreads(1)
    profile = profile_bytes()
    spec = PlateSpec(
        artwork="a", crop_px=(0, 0, WIDTH, HEIGHT), width_um=round(WIDTH / DPI * 25400), dpi=DPI, mirrored=True,
        colour=ColourSpec(profile="p"),
        white=WhiteSpec(cloth="#17181B", choke_um=250, knock_out_delta_e=9, faint_floor=0.1, guard_um=500),
    )  # fmt: skip
    # Loading the program is not the pipeline's work; it is told apart.
    loaded = time.process_time() - start
    import numba  # noqa: F401

    small = spec.model_copy(update={"crop_px": (0, 0, 32, 32), "width_um": 2709})
    import numpy as np

    make_plates(np.full((32, 32, 4), 255, np.uint8), small, profile)
    began, start = time.perf_counter(), time.process_time()
    made = make_plates(decode(art, "a3.png").rgba, spec, profile, as_printed=True)
    write_tiff(folder / "plates.tif", made.planes, DPI, spec.channels, profile)
    return {
        "cpu_s": time.process_time() - start, "wall_s": time.perf_counter() - began, "loading_s": loaded,
        "peak_mb": resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000,
    }  # fmt: skip


if __name__ == "__main__":
    side, art_path, folder_path = sys.argv[1], Path(sys.argv[2]), Path(sys.argv[3])
    if side == "draw":
        draw(art_path)
    else:
        print(json.dumps(bare(art_path) if side == "bare" else whole(art_path, folder_path)))
