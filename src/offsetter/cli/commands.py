"""What each command answers: keys as the contract fixes them."""

import csv
import hashlib
import json
import math
import time
from argparse import Namespace
from pathlib import Path
from typing import Any

from offsetter.core import facts
from offsetter.core.compute.heat import HIGHEST_C
from offsetter.core.units import px_of, um_of
from offsetter.core.values import Finding, Refusal

CONTOUR_DPI = 300
NEST_SECONDS = 5.0
MOST_READINGS, MOST_TEXT_BYTES = 5_000, 1_000_000


def methods(_: Namespace) -> dict[str, Any]:
    return {"methods": [m.model_dump(mode="json") for m in facts.methods().values()]}


def preflight(asked: Namespace) -> dict[str, Any]:
    from offsetter.core.compute.colour import Colours, out_of_gamut_share
    from offsetter.core.compute.plate_spec import ColourSpec
    from offsetter.core.decisions import ArtworkDoc
    from offsetter.core.stations import artwork
    from offsetter.core.units import UM_PER_MM

    method = _method(asked.method)
    if asked.min_stroke_mm is not None:
        method = method.model_copy(
            update={"min_stroke_mm": asked.min_stroke_mm, "sources": {**method.sources, "min_stroke_mm": "given here"}}
        )
    measured = _measure(Path(asked.art), asked.page)
    width, height = measured.pixels
    read = _lettering(Path(asked.art), asked.page)
    judged = artwork.preflight(artwork.Inputs(
        doc=ArtworkDoc(crop="none"), facts=measured, lettering=read, crop_px=(0, 0, width, height), width_um=um_of(asked.width_mm),
        height_um=round(asked.width_mm * height / width * UM_PER_MM), method=method, cloth=asked.cloth, colour_name="this",
    ))  # fmt: skip

    def spots(rung: Any) -> list[dict[str, float]]:
        scale = judged.mm_per_px
        return [
            {
                "x_mm": round(s.x_px * scale, 2),
                "y_mm": round(s.y_px * scale, 2),
                "width_mm": round(s.width_px * scale, 3),
            }
            for s in rung.spots
        ]

    strokes, gaps = spots(judged.strokes), spots(judged.gaps)
    return {
        "pixels": measured.pixels, "mode": measured.mode, "profile": measured.profile,
        "effective_ppi": judged.effective_ppi, "reachable_mm": judged.reachable_mm, "content_px": measured.content_px,
        "transparency": measured.transparency, "faint_share": judged.faint_share,
        "thinnest_stroke_mm": thinnest(measured.strokes, judged.mm_per_px), "thinnest_gap_mm": thinnest(measured.gaps, judged.mm_per_px),
        "thin_strokes": strokes, "narrow_gaps": gaps, "vanishing_share": judged.vanishing_share,
        "out_of_gamut_share": out_of_gamut_share(Colours(facts.profile_bytes()), measured.colours, ColourSpec(profile="")),
        "out_of_gamut_profile": "our own film condition" if method.is_profiled else "our own film condition, standing in",
        "symmetric": measured.symmetric, "reading": read.model_dump(mode="json") if read else None, "findings": _findings(judged.findings),
    }  # fmt: skip


def plates(asked: Namespace) -> dict[str, Any]:
    from offsetter.core.compute.cost import ink_ml
    from offsetter.core.compute.plate_spec import ColourSpec, PlateSpec
    from offsetter.core.compute.plates import make_plates
    from offsetter.core.derive import usual_white
    from offsetter.formats.plates_pdf import write_pdf
    from offsetter.formats.plates_tiff import write_tiff
    from offsetter.intake.decode import decode

    method, out = _method(asked.method), Path(asked.out)
    if method.dpi is None or method.ink_limit_pct is None:
        raise Refusal(
            "values-missing",
            f"No resolution or ink values are known for {method.id}.",
            "",
            "Give the method's file these values.",
        )
    if out.suffix.lower() not in (".tif", ".tiff", ".pdf"):
        raise Refusal("unknown-format", f"“{out.name}” is neither .tif nor .pdf.", "", "Name the file so.")
    if not out.parent.is_dir():
        raise Refusal("no-folder", f"There is no folder {out.parent}.", "", "Make it first.")
    profile = _profile(asked.profile)
    art = Path(asked.art)
    picture = decode(art, art.name)
    if picture.is_vector:
        # Drawn again at the dots that are printed.
        picture = decode(art, art.name, scale=px_of(asked.width_mm, asked.dpi or method.dpi) / picture.rgba.shape[1])
    height, width = picture.rgba.shape[:2]
    white = usual_white(
        method, asked.cloth, asked.white_level, None if asked.choke_mm is None else um_of(asked.choke_mm)
    )
    spec = PlateSpec(
        artwork=art.name, crop_px=(0, 0, width, height), width_um=um_of(asked.width_mm), dpi=asked.dpi or method.dpi,
        mirrored=method.mirror and not asked.no_mirror,
        colour=ColourSpec(profile=hashlib.sha256(profile).hexdigest(), intent=asked.intent, black_point=not asked.no_bpc,
                          ink_limit_pct=asked.ink_limit or method.ink_limit_pct, composite_black=method.composite_black),
        white=white if method.white == "plate" else None, white_first=method.plate_order[0] == "white",
    )  # fmt: skip
    made = make_plates(picture.rgba, spec, profile, as_printed=True)
    size_mm = (spec.width_um / 1000, spec.height_um / 1000)
    if out.suffix.lower() == ".pdf":
        write_pdf(out, made.planes, *size_mm)
    else:
        write_tiff(out, made.planes, spec.dpi, profile)
    measure = made.measure
    laydown = {str(c): v for c, v in method.laydown_ml_m2.items()}
    findings = list(picture.notes)
    if method.mirror and asked.no_mirror:
        findings.append(Finding(code="not-mirrored", severity="caution", message="The plates are not mirrored",
                                why=f"Mirroring is usual here: {method.why_mirror}.", fix_text="Let exactly one program mirror."))  # fmt: skip
    return {
        "size_px": [spec.width_px, spec.height_px], "size_mm": size_mm, "dpi": spec.dpi, "mirrored": spec.mirrored,
        "channels": list(measure.coverage_pct), "coverage_pct": measure.coverage_pct, "area_mm2": measure.area_mm2,
        "total_coverage_max_pct": min(measure.total_max_pct, spec.colour.ink_limit_pct), "total_before_limit_pct": measure.total_max_pct,
        "ink_limit_pct": spec.colour.ink_limit_pct, "ink_ml": ink_ml(measure.coverage_pct, *size_mm, laydown),
        "choke_mm": white.choke_um / 1000 if spec.white else 0.0, "files": [str(out)], "findings": _findings(tuple(findings)),
    }  # fmt: skip


def contour(asked: Namespace) -> dict[str, Any]:
    from offsetter.core.compute.contour import contour_of
    from offsetter.formats.cut_files import write_cut
    from offsetter.intake.decode import decode

    art, out = Path(asked.art), Path(asked.out)
    if not out.parent.is_dir():
        raise Refusal("no-folder", f"There is no folder {out.parent}.", "", "Make it first.")
    picture = decode(art, art.name)
    if picture.is_vector:
        # Drawn again so finely that its dots do not show in the line.
        picture = decode(art, art.name, scale=px_of(asked.width_mm, CONTOUR_DPI) / picture.rgba.shape[1])
    height, width = picture.rgba.shape[:2]
    scale = asked.width_mm / width
    made = contour_of(
        picture.rgba[:, :, 3], scale, asked.offset_mm, max_error_mm=asked.max_error_mm, least_radius_mm=asked.least_radius_mm,
        keeps_holes=not asked.no_holes,
    )  # fmt: skip
    write_cut(out, made.paths, asked.width_mm, height * scale)
    return {
        "rings": made.rings, "holes": made.holes, "nodes": made.nodes, "area_mm2": made.area_mm2, "max_error_mm": made.max_error_mm,
        "bounds_mm": [round(v, 3) for v in made.bounds_mm], "files": [str(out)], "findings": _findings(picture.notes),
    }  # fmt: skip


def nest(asked: Namespace) -> dict[str, Any]:
    from offsetter.core.compute import nest as search
    from offsetter.core.compute.nest_shapes import nest_shapes
    from offsetter.formats.nest_svg import write_nest

    told = _json_file(Path(asked.pieces))
    rows = told.get("pieces") if isinstance(told, dict) else None
    if not isinstance(rows, list) or not rows:
        raise Refusal(
            "no-pieces", f"“{Path(asked.pieces).name}” holds no list “pieces”.", "", "Give at least one piece."
        )
    pieces = tuple(search.Piece.model_validate(row) for row in rows)
    if len({p.id for p in pieces}) < len(pieces):
        raise Refusal("twice", "Two pieces have one id.", "", "Give each its own, and a count where they are alike.")
    out = Path(asked.out) if asked.out else None
    if out is not None and (out.suffix.lower() != ".svg" or not out.parent.is_dir()):
        raise Refusal("unknown-format", f"“{asked.out}” is no .svg in a folder that exists.", "", "Name the file so.")
    began = time.monotonic()
    has_shapes = any(p.outline_mm for p in pieces) and asked.roll is not None
    seconds = asked.seconds if asked.seconds is not None else NEST_SECONDS

    def share(tries: int) -> float:
        if asked.iterations is not None:
            return tries / max(1, int(asked.iterations))
        # Shapes are laid as boxes first, and that is the floor.
        return float((time.monotonic() - began) / (min(1.0, seconds / 4) if has_shapes else seconds or 1e-9))

    made = search.nest(
        pieces,
        gap_mm=asked.gap_mm,
        margin_mm=asked.margin_mm,
        roll_mm=asked.roll,
        sheet_mm=asked.sheet,
        seed=asked.seed,
        share=share,
    )
    if has_shapes:
        left = max(1, round(seconds - (time.monotonic() - began)))
        made = nest_shapes(
            pieces,
            roll_mm=asked.roll,
            gap_mm=asked.gap_mm,
            margin_mm=asked.margin_mm,
            seconds=left,
            seed=asked.seed,
            boxes=made,
        )
    if out is not None:
        write_nest(out, made, pieces, asked.roll or asked.sheet[0], made.length_mm or asked.sheet[1])
    size = {"length_mm": made.length_mm, "bound_mm": made.bound, "grid_length_mm": made.grid} if asked.roll is not None else {
        "sheets": made.sheets, "bound_sheets": round(made.bound), "grid_sheets": round(made.grid)}  # fmt: skip
    return {
        **size,
        "waste_pct": made.waste_pct,
        "places": [p.model_dump() for p in made.places],
        "seconds": round(time.monotonic() - began, 3),
    }


def ink(asked: Namespace) -> dict[str, Any]:
    from offsetter.core.compute.ink_fit import fit_ink

    rows = _columns(Path(asked.readings))
    channels = [c.removeprefix("expected_ml_") for c in rows[0] if c.startswith("expected_ml_")]
    if not channels or any(f"level_pct_{c}" not in rows[0] for c in channels):
        raise Refusal(
            "wrong-columns",
            f"“{Path(asked.readings).name}” lacks expected_ml_… or level_pct_… of a channel.",
            "",
            "Give both for each.",
        )
    found = {}
    for c in channels:
        expected, levels = [_number(r[f"expected_ml_{c}"]) for r in rows], [_number(r[f"level_pct_{c}"]) for r in rows]
        if any(not 0 <= e <= 100_000 for e in expected) or any(not -3 <= v <= 100 for v in levels):
            raise Refusal(
                "no-reading",
                f"A value of {c} can be none: use is 0 or more, a level 0 to 100 (or -1 to -3: not told).",
                "",
                "Put it right.",
            )
        found[c] = fit_ink(tuple(expected), tuple(levels), asked.tank_ml, asked.cleaning_ml)
    return {
        "factor": {c: f.factor for c, f in found.items()}, "error_pct": {c: f.error_pct for c, f in found.items()},
        "verdict": {c: f.verdict for c, f in found.items()}, "steps": {c: f.steps for c, f in found.items()},
        "fills": {c: f.fills for c, f in found.items()},
    }  # fmt: skip


def colour(asked: Namespace) -> dict[str, Any]:
    from offsetter.core.compute.plate_spec import ColourSpec
    from offsetter.core.compute.printed_colour import answer_for

    spec = ColourSpec(profile="", intent=asked.intent, black_point=not asked.no_bpc, ink_limit_pct=400)
    for values, low, high, what in (
        (asked.rgb, 0, 255, "--rgb"),
        (asked.cmyk, 0, 100, "--cmyk"),
        (asked.lab, -128, 127, "--lab"),
    ):
        if values and not all(low <= v <= high for v in values):
            raise Refusal("out-of-range", f"{what} takes values from {low} to {high}.", "", "Give others.")
    rgb = None if asked.rgb is None else (round(asked.rgb[0]), round(asked.rgb[1]), round(asked.rgb[2]))
    return answer_for(_profile(asked.profile), spec, rgb=rgb, cmyk_pct=asked.cmyk, lab=asked.lab).model_dump(
        mode="json"
    )


def delta_e(asked: Namespace) -> dict[str, Any]:
    from offsetter.core.compute.cielab import delta_e_2000

    return {"delta_e_2000": round(float(delta_e_2000(asked.lab_1, asked.lab_2)), 6)}


def advise(asked: Namespace) -> dict[str, Any]:
    from offsetter.core.compute.advice import AdviceJob
    from offsetter.core.compute.advice import advise as ranked_for

    job = AdviceJob.model_validate(_json_file(Path(asked.job)))
    advice = ranked_for(job, facts.methods(), facts.recipes(), facts.advice_facts())
    return {
        "ranked": [
            {
                "method": a.method, "name": a.name, "verdict": a.verdict, "reasons": [r.said for r in a.reasons],
                "cost_per_piece": None if a.cost_per_piece is None else float(a.cost_per_piece), "minutes_per_piece": a.minutes_per_piece,
                "wash_life": a.wash_life, "hand_feel": a.hand_feel,
            }
            for a in advice.ranked
        ],
        "recommended": advice.recommended, "runner_up": advice.runner_up, "would_change": list(advice.would_change),
        "prices": "from memory, without the blank",
    }  # fmt: skip


def press(asked: Namespace) -> dict[str, Any]:
    from offsetter.core.compute.cost import press_minutes
    from offsetter.core.compute.stack import stage_findings

    method = _method(asked.method)
    recipe = next((r for r in facts.recipes().values() if r.method == method.id), None)
    if recipe is None:
        raise Refusal("no-recipe", f"There is no recipe for {method.id}.", "", "Add one as a data file of its own.")
    if not 1 <= asked.pieces <= 100_000:
        raise Refusal("no-pieces", f"{asked.pieces} pieces cannot be pressed.", "", "Give 1 to 100000.")
    pairs = [s.partition("=") for s in asked.school]
    stages = recipe.stages_for({question: choice for question, _, choice in pairs})
    findings = stage_findings(stages, is_face_down=method.mirror)
    return {
        "recipe": recipe.name, "version": recipe.version, "findings": _findings(findings),
        # What nobody gave has no length yet: the minutes would be a guess.
        "minutes": None if any(s.missing for s in stages) else press_minutes(stages, asked.pieces),
        "stages": [
            {**s.model_dump(mode="json"), "stack": [layer.model_dump(mode="json") for layer in s.stack]} for s in stages
        ],
    }  # fmt: skip


def press_fit(asked: Namespace) -> dict[str, Any]:
    from offsetter.core.compute.heat import fit_press

    fitted = fit_press(_readings(Path(asked.heating)), _readings(Path(asked.cooling)), asked.room_c)
    minutes = {f"{a:g}-{b:g}": fitted.minutes(a, b) for a, b in asked.between}
    return {
        "q_c_per_min": round(fitted.q_c_per_min, 4), "k_per_min": round(fitted.k_per_min, 6), "room_c": fitted.room_c,
        "ceiling_c": round(fitted.ceiling_c, 2),
        # JSON has no infinity: a temperature that this press never reaches takes no number of minutes.
        "minutes": {k: round(m, 3) if math.isfinite(m) else None for k, m in minutes.items()},
    }  # fmt: skip


def temperatures(asked: Namespace) -> dict[str, Any]:
    from offsetter.core.compute.heat import PressHeat, TwoPresses, batch_minutes

    if not 1 <= asked.pieces <= 100_000:
        raise Refusal("no-pieces", f"{asked.pieces} pieces cannot be pressed.", "", "Give 1 to 100000.")
    if min(asked.load_s, asked.cool_s) < 0:
        raise Refusal("bad-times", "Loading and cooling take no negative time.", "", "Give seconds from 0.")
    fitted = _json_file(Path(asked.press))
    try:
        heat = PressHeat.model_validate({k: fitted[k] for k in ("q_c_per_min", "k_per_min", "room_c")})
    except (KeyError, TypeError, ValueError):
        raise Refusal("no-fit", f"“{asked.press}” is not what press-fit answers.", "",
                      "Give a JSON object with q_c_per_min, k_per_min and room_c.") from None  # fmt: skip
    answer: dict[str, Any] = {}
    for whose in ("maker", "house"):
        (first_c, first_s), (second_c, second_s) = getattr(asked, whose)
        for celsius, seconds in getattr(asked, whose):
            if not heat.room_c < celsius <= min(HIGHEST_C, heat.ceiling_c - 1) or not 0 < seconds <= 3600:
                raise Refusal("bad-press", f"{celsius:g} °C for {seconds:g} s is no pressing on this press.", "",
                              f"Give {heat.room_c:.0f} to {min(HIGHEST_C, heat.ceiling_c - 1):.0f} °C and 1 to 3600 s.")  # fmt: skip
        work = TwoPresses(first_c=first_c, first_min=(asked.load_s + first_s) / 60, second_c=second_c,
                          second_min=(asked.load_s + second_s) / 60, cool_min=asked.cool_s / 60)  # fmt: skip
        answer[whose] = {k: round(m, 3) for k, m in batch_minutes(work, asked.pieces, heat).model_dump().items()}
    return answer


def _readings(path: Path) -> tuple[tuple[float, float], ...]:
    """Rows of minute,celsius. Raises Refusal that names the row."""
    rows = list(csv.DictReader(_text(path).splitlines()))
    if len(rows) > MOST_READINGS:
        raise Refusal(
            "too-many-readings", f"“{path.name}” has {len(rows)} readings.", "", f"Give at most {MOST_READINGS}."
        )
    found = []
    for number, row in enumerate(rows, 2):
        try:
            found.append((float(row["minute"]), float(row["celsius"])))
        except (KeyError, TypeError, ValueError):
            raise Refusal("bad-readings", f"Row {number} of “{path.name}” is not a minute and a temperature.", "",
                          "Give a first row minute,celsius and numbers below it.") from None  # fmt: skip
    return tuple(found)


def _json_file(path: Path) -> Any:
    try:
        return json.loads(_text(path))
    except ValueError:
        raise Refusal(
            "not-json", f"“{path.name}” is not JSON.", "", "Give a JSON file such as the contract describes."
        ) from None


def _columns(path: Path) -> list[dict[str, str]]:
    """A table's rows by its first row's names. Raises Refusal."""
    rows = list(csv.DictReader(_text(path).splitlines()))
    if not 1 <= len(rows) <= MOST_READINGS:
        raise Refusal("no-rows", f"“{path.name}” has {len(rows)} rows.", "", f"Give 1 to {MOST_READINGS}.")
    if any(None in r or None in r.values() for r in rows):
        raise Refusal(
            "ragged", f"A row of “{path.name}” has more or fewer values than its first.", "", "Give one value a column."
        )
    return rows


def _number(text: str) -> float:
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise Refusal("no-number", f"“{text[:40]}” is no number.", "", "Put a number there.")
    return value


def _text(path: Path) -> str:
    try:
        if path.stat().st_size > MOST_TEXT_BYTES:
            raise Refusal(
                "too-large", f"“{path.name}” is larger than {MOST_TEXT_BYTES // 1000} kB.", "", "Give a smaller file."
            )
        return path.read_text("utf-8-sig")
    except OSError as missing:
        raise Refusal(
            "no-file", f"“{path.name}” cannot be read: {missing.strerror}.", "", "Give the path of a file."
        ) from missing
    except UnicodeDecodeError as broken:
        raise Refusal("not-text", f"“{path.name}” is not text.", "", "Save it as text in UTF-8.") from broken


def in_words(answer: dict[str, Any]) -> str:
    """The answer for a person: a line a key; findings as sentences."""
    lines = []
    for key, value in answer.items():
        if key == "findings":
            lines += [f"{f['severity']}: {f['message']}. {f['why']} {f['fix']}".rstrip() for f in value]
        elif isinstance(value, list) and value and isinstance(value[0], dict):
            lines += [f"{key}:"] + [
                "  " + ", ".join(f"{k} {v}" for k, v in row.items() if not isinstance(v, list | dict)) for row in value
            ]
        else:
            lines.append(f"{key.replace('_', ' ')}: {value}")
    return "\n".join(lines)


def thinnest(ladder: Any, mm_per_px: float) -> float | None:
    """The thinnest place that the ladder saw, in mm; None when nothing is narrower than its widest rung."""
    seen = [s.width_px for rung in ladder for s in rung.spots]
    return round(min(seen) * mm_per_px, 3) if seen else None


def _method(method_id: str) -> facts.Method:
    known = facts.methods()
    if method_id not in known:
        raise Refusal("unknown-method", f"“{method_id}” is no method.", "", f"Choose one of {', '.join(known)}.")
    return known[method_id]


def _measure(art: Path, page: int) -> Any:
    from offsetter.core.compute.artwork import measure_artwork
    from offsetter.intake.decode import decode

    picture = decode(art, art.name, page=page)
    if page > picture.pages:
        raise Refusal("one-page", f"There is no page {page}: pictures have one.", "", "Leave --page out.")
    return measure_artwork(
        picture.rgba, file=art.name, name=art.name, mode=picture.mode, profile=picture.profile, notes=picture.notes, is_vector=picture.is_vector,
        real_mm=picture.real_mm, pages=picture.pages, raster_ppi=picture.raster_ppi,
    )  # fmt: skip


def _lettering(art: Path, page: int) -> Any:
    """What the picture says; nothing where the reader is not installed."""
    import shutil

    from offsetter.intake.decode import decode
    from offsetter.intake.lettering import read_lettering

    if shutil.which("tesseract") is None:
        return None
    return read_lettering(decode(art, art.name, page=page).rgba, "en", ())


def _profile(path: str | None) -> bytes:
    if path is None:
        return facts.profile_bytes()
    try:
        return Path(path).read_bytes()
    except OSError:
        raise Refusal("no-profile", f"The profile {path} cannot be read.", "", "Check its name.") from None


def _findings(found: tuple[Finding, ...]) -> list[dict[str, str]]:
    return [
        {"code": f.code, "severity": f.severity, "message": f.message, "why": f.why, "fix": f.fix_text} for f in found
    ]
