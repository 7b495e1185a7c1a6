"""The entry of a worker process: tasks by name. Imports no web and no database."""

import errno
import json
import math
import os
import shutil
import signal
from collections.abc import Callable
from multiprocessing.connection import Connection
from pathlib import Path
from typing import TYPE_CHECKING, Any, Protocol

from offsetter.core.sentences import say
from offsetter.core.values import Refusal
from offsetter.intake.limits import CPU_SECONDS, allow, confine, end_with_parent

if TYPE_CHECKING:
    from offsetter.core.compute.contour import CutPath
    from offsetter.core.compute.plate_spec import PlateSpec
    from offsetter.core.compute.plates import Bytes, Plates
    from offsetter.core.compute.sheet import RunLayout


ROOM, LARGE_BYTES = "planes.raw", 250_000_000
"""The file that planes of more bytes than that are made in."""
SECONDS_A_DOT = 1e-6
"""Of processor time that plates may take besides: twice what was measured."""
EDGE = "edge.png"
"""Beside a print's plates: where it is, at their size."""


SO_FAR = ".so-far"
"""Of a plan's file: the best that the search has found while it goes on."""
PLAN_STEPS, PLAN_WORK, PLAN_WINDOWS = 40_000, 0.15, 4
"""About two seconds of laying, and the solver's share of a few seconds."""


class Report(Protocol):
    """How far the work is, in its own units, and what it found meanwhile."""

    def __call__(self, done: int, whole: int, unit: str, found: tuple[str, ...] = ()) -> None: ...


DISK_FULL = {
    "code": "disk-full", "happened": say("The disk of the shop's computer is full."), "kept": say("The job is as it was; what was half made is thrown away."),
    "to_do": say("Make room on it, then try again."),
}  # fmt: skip


def run(task: str, arguments: dict[str, str], pipe: Connection) -> None:
    """Run one task in this process; the pipe carries (stage, done, whole, unit, problem)."""
    end_with_parent()
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    last = -1

    def report(done: int, whole: int, unit: str, found: tuple[str, ...] = ()) -> None:
        nonlocal last
        step = done * 50 // max(1, whole)
        if step != last or found:
            last = step
            pipe.send(("running", done, whole, unit, None, found))

    if task in GIVES_WAY:
        os.nice(10)
    if task in OPENS_FILES:
        _confine()
    try:
        TASKS[task](arguments, report)
        pipe.send(("done", 1, 1, "", None, ()))
    except Refusal as refusal:
        problem = {"code": refusal.code, "happened": refusal.happened, "kept": refusal.kept, "to_do": refusal.to_do}
        pipe.send(("failed", 0, 0, "", problem, ()))
    except OSError as error:
        if error.errno not in (errno.ENOSPC, errno.EDQUOT):
            raise
        pipe.send(("failed", 0, 0, "", DISK_FULL, ()))
    finally:
        pipe.close()


def _confine() -> None:
    """For good, so only where the process is the task's own."""
    import cv2

    confine()
    cv2.setNumThreads(1)


def full_plates(arguments: dict[str, str], report: Report) -> None:
    """Full-size plates of each print wanted, as TIFF and PDF with their measurement, each in its own folder `out`."""
    wanted: list[dict[str, str]] = json.loads(arguments["wanted"])
    for at, one in enumerate(wanted):
        of = say(" of print {at} of {wanted}", at=at + 1, wanted=len(wanted)) if len(wanted) > 1 else ""
        _plates(one, lambda done, whole, unit, found=(), of=of: report(done, whole, unit + of, found))


def _plates(wanted: dict[str, str], report: Report) -> None:
    from offsetter.core.compute.art_ref import ArtRef
    from offsetter.core.compute.fixes import apply_fixes
    from offsetter.core.compute.plate_spec import PlateSpec
    from offsetter.core.compute.plates import make_plates
    from offsetter.core.compute.white import mask_of, part_of
    from offsetter.formats.plates_tiff import let_go
    from offsetter.intake.decode import decode
    from offsetter.intake.vector import kind_of

    spec = PlateSpec.model_validate_json(wanted["spec"])
    profile = Path(wanted["profile"]).read_bytes()
    # A drawing is drawn at the size it is printed at; a picture has the pixels that it has.
    original, ref = Path(wanted["original"]), ArtRef.read(spec.artwork)
    left, top, right, bottom = spec.crop_px
    scale = spec.width_px / (right - left) if kind_of(original) else 1.0
    picture = decode(original, wanted["name"], page=ref.page, scale=scale, negative=ref.fixes.negative)
    scale = picture.scale
    left, top, right, bottom = (round(v * scale) for v in (left, top, right, bottom))
    rgba = apply_fixes(picture.rgba, ref.fixes, scale)[top:bottom, left:right]
    allow(CPU_SECONDS + spec.width_px * spec.height_px * SECONDS_A_DOT)
    mask = None
    if wanted.get("mask") and spec.white:
        whole = decode(Path(wanted["mask"]), say("white of {wanted}", wanted=wanted["name"])).rgba
        mask = mask_of(whole, spec.white.mask_part, is_dark=spec.white.mask_dark)
    elif spec.white and spec.white.own and picture.white is not None:
        mask = part_of(picture.white, spec.white.mask_part)
    out = Path(wanted["out"])
    half_made = out.with_name(f"{out.name}.{os.getpid()}.part")
    half_made.mkdir(parents=True)
    try:
        room = _room(half_made, spec)

        def rows(done: int, whole: int) -> None:
            report(done, whole, say("rows of dots"))
            if room is not None:
                let_go(room)

        made = make_plates(rgba, spec, profile, mask=mask, as_printed=True, into=room, report=rows)
        _write_plates(half_made, wanted, spec, made, rgba, profile, report)
        (half_made / ROOM).unlink(missing_ok=True)
        half_made.rename(out)
    except OSError:
        # Another task made the same plates meanwhile, and they are the same dots; or the disk is full.
        if out.exists() and not (out / EDGE).exists():
            (half_made / EDGE).replace(out / EDGE)
        shutil.rmtree(half_made, ignore_errors=True)
        if not out.exists():
            raise


def _room(folder: Path, spec: "PlateSpec", inks: int = 0) -> "Bytes | None":
    """Where large planes are made: in a file, of which little is in memory at a time. None: in memory."""
    import numpy as np

    from offsetter.core.compute.plates import planes_shape

    rows, columns, all_inks = planes_shape(spec)
    shape = (rows, columns, inks or all_inks)
    if not spec.lies_upright or math.prod(shape) < LARGE_BYTES:
        return None
    return np.memmap(folder / ROOM, np.uint8, "w+", shape=shape)


def _write_plates(
    half_made: Path, wanted: dict[str, str], spec: "PlateSpec", made: "Plates", rgba: "Bytes", profile: bytes, report: Report
) -> None:  # fmt: skip
    import cv2

    from offsetter.core.compute.colour import DriverColours
    from offsetter.core.compute.plates import driver_picture
    from offsetter.formats.plates_pdf import write_pdf
    from offsetter.formats.plates_tiff import write_tiff

    report(0, 2, "files")
    planes, channels = made.planes, spec.channels
    if wanted.get("driver"):
        # What a driver that separates by itself is sent; the ink shares above were an estimate of what it lays.
        profile = Path(wanted["driver"]).read_bytes()
        channels = ()
        planes = driver_picture(rgba, spec, DriverColours(profile), into=_room(half_made, spec, 3))
    write_tiff(half_made / "print.tif", planes, spec.dpi, channels, profile)
    report(1, 2, "files")
    wide_um, high_um = spec.printed_um
    write_pdf(half_made / "print.pdf", planes, wide_um / 1000, high_um / 1000, channels, profile)
    # What a cutter's line is drawn from, as it is worn.
    cv2.imwrite(str(half_made / EDGE), rgba[:, :, 3])
    (half_made / "measure.json").write_text(made.measure.model_dump_json())


def take_in(arguments: dict[str, str], report: Report) -> None:
    """A file's pixels and facts, and what they mean for the print it is meant for, finding by finding."""
    from offsetter.core.compute.artwork import LOOKS
    from offsetter.core.stations import artwork
    from offsetter.intake.child import hold_to_promise, take_in

    asked = json.loads(arguments["asked"])
    said: set[str] = set()

    def on(facts: Any, done: int, what: str) -> None:
        left, top, right, bottom = facts.content_px
        height_um = round(asked["width_um"] * (bottom - top) / max(1, right - left))
        inputs = artwork.Inputs.model_validate(
            {
                **asked,
                "facts": facts,
                "crop_px": facts.content_px,
                "height_um": height_um,
            }
        )
        new = [f for f in artwork.preflight(inputs).findings if f.code not in said]
        said.update(f.code for f in new)
        report(done, LOOKS + 1, f"looks: {what}", tuple(f.message for f in new))

    report(0, LOOKS + 1, say("looks: reading it"))
    hold_to_promise(Path(arguments["source"]), arguments["file"])
    take_in(Path(arguments["source"]), arguments["name"], arguments["file"], Path(arguments["folder"]), on)


def lettering(arguments: dict[str, str], report: Report) -> None:
    """What a picture says, beside its facts."""
    from offsetter.intake.bench import whole_picture
    from offsetter.intake.lettering import read_lettering, words_of

    report(0, 2, "readings")
    folder = Path(arguments["folder"])
    found = read_lettering(whole_picture(folder), arguments["language"], words_of(arguments["known"]))
    part = folder / f"{arguments['file']}.{os.getpid()}.part"
    part.write_text(found.model_dump_json())
    part.rename(folder / arguments["file"])


def run_sheet(arguments: dict[str, str], report: Report) -> None:
    """The run's sheet as PDF, a page a cut length, from the plates of its prints."""
    from tempfile import TemporaryDirectory

    import tifffile

    from offsetter.core.compute.sheet import RunLayout
    from offsetter.formats.plates_pdf import RunLabels, write_run_pdf
    from offsetter.formats.plates_tiff import read_plates

    out = Path(arguments["out"])
    layout = RunLayout.model_validate_json(arguments["layout"])
    report(0, len(layout.cut_lengths_um), say("cut lengths"))
    out.parent.mkdir(parents=True, exist_ok=True)
    part = out.with_suffix(f".{os.getpid()}.part")
    paths = json.loads(arguments["plates"])
    with tifffile.TiffFile(paths[0]) as first:
        profile = first.pages.first.iccprofile
    cuts = _cuts(json.loads(arguments["cut"]), paths, layout, out) if arguments.get("cut") else ()
    with TemporaryDirectory(dir=out.parent) as beside:
        plates = read_plates(paths, Path(beside) / ROOM, LARGE_BYTES)
        write_run_pdf(part, plates, layout, RunLabels.model_validate_json(arguments["labels"]), profile, cuts)
    part.rename(out)


def _cuts(
    told: list[dict[str, Any]], plates: list[str], layout: "RunLayout", out: Path
) -> "tuple[tuple[CutPath, ...], ...]":
    """The cutter's lines of each cut length, written beside the run as SVG and DXF; told: of each sort its spec, width and mirror."""
    import cv2
    import numpy as np

    from offsetter.core.compute.cut_spec import CutSpec
    from offsetter.core.compute.cutting import line_round, lines_of, mirrored
    from offsetter.formats.cut_files import write_cut

    contours = []
    for one, plate in zip(told, plates, strict=True):
        spec, width_mm = CutSpec.model_validate(one["spec"]), one["width_um"] / 1000
        edge = cv2.imread(str(Path(plate).with_name(EDGE)), cv2.IMREAD_GRAYSCALE)
        if edge is None:
            raise Refusal(
                "no-edge",
                say("These plates were made before cut lines were."),
                say("The run is as it was."),
                say("Make the print files once more."),
            )
        found = line_round(edge.astype(np.uint8), width_mm / edge.shape[1], spec)
        contours.append(
            found.model_copy(update={"paths": mirrored(found.paths, width_mm)}) if one["mirrored"] else found
        )
    spec = CutSpec.model_validate(told[0]["spec"])
    made = []
    for cut, length_um in enumerate(layout.cut_lengths_um, 1):
        lines = lines_of(layout, tuple(contours), spec, cut)
        for suffix in ("svg", "dxf"):
            write_cut(out.with_name(f"{out.stem}-cut-{cut}.{suffix}"), lines, layout.media_um / 1000, length_um / 1000)
        made.append(lines if spec.in_print else tuple(line for line in lines if line.role == "mark"))
    return tuple(made)


def plan(arguments: dict[str, str], report: Report) -> None:
    """A day's plan made better, with the solver's own count of work for a limit: the same day gives the same plan."""
    from offsetter.core.compute.day import Day, Plan, plan_day
    from offsetter.core.compute.day.chances import finishes
    from offsetter.core.compute.day.solver import Effort, improve

    day, first = Day.model_validate_json(arguments["day"]), Plan.model_validate_json(arguments["plan"])
    out = Path(arguments["out"])
    out.parent.mkdir(parents=True, exist_ok=True)
    tries = max(20, PLAN_STEPS // max(1, day.steps))
    best = plan_day(day, begin=first.order, share=lambda done: done / tries)
    best = best if best.cost < first.cost else first
    # What is best so far is shown while the search goes on.
    _put(out.with_suffix(SO_FAR), best.model_dump_json())
    report(1, 2, "searches")
    best = improve(day, best, effort=Effort(work=PLAN_WORK, windows=PLAN_WINDOWS))
    likely = finishes(day, best, spread=json.loads(arguments["spread"]))
    _put(out, best.model_copy(update={"likely": likely}).model_dump_json())


def gang(arguments: dict[str, str], report: Report) -> None:
    """A sheet that several jobs share, laid better and better: the same prints and pins give the same layout."""
    from pydantic import TypeAdapter

    from offsetter.core.compute.gang import GangPiece, Laid, Room, lay_gang

    pieces = TypeAdapter(tuple[GangPiece, ...]).validate_json(arguments["pieces"])
    pinned = TypeAdapter(tuple[Laid, ...]).validate_json(arguments["pinned"])
    as_text = TypeAdapter(tuple[Laid, ...]).dump_json
    out = Path(arguments["out"])
    out.parent.mkdir(parents=True, exist_ok=True)

    def found(share: float, best: tuple[Laid, ...]) -> None:
        _put(out.with_suffix(SO_FAR), as_text(best).decode())
        report(round(100 * share), 100, say("% of the search"))

    room = Room.model_validate_json(arguments["room"])
    tries, seconds = int(arguments["tries"]), int(arguments["seconds"])
    best = lay_gang(pieces, room, pinned, tries=tries, seconds=seconds, found=found)
    _put(out, as_text(best).decode())


def _put(path: Path, text: str) -> None:
    part = path.with_name(f"{path.name}.{os.getpid()}.part")
    part.write_text(text)
    part.rename(path)


TASKS: dict[str, Callable[[dict[str, str], Report], Any]] = {
    "full_plates": full_plates,
    "run_sheet": run_sheet,
    "lettering": lettering,
    "take_in": take_in,
    "plan": plan,
    "gang": gang,
}
GIVES_WAY = {"plan", "gang"}
"""Searches that nobody stands and waits for: they stand back behind all else, and keep no plates and no picture waiting."""
OPENS_FILES = {"full_plates", "lettering", "take_in"}
"""Tasks that read what came from outside."""
