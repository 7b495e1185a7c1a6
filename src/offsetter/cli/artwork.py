"""Artwork and its colour: judged, made into plates, looked up."""

import hashlib
from argparse import Namespace
from pathlib import Path
from typing import Any

from offsetter.cli.reading import findings_told, method_called
from offsetter.core import facts
from offsetter.core.units import px_of, um_of
from offsetter.core.values import Finding, Refusal


def preflight(asked: Namespace) -> dict[str, Any]:
    from offsetter.core.compute.colour import Colours, out_of_gamut_share
    from offsetter.core.compute.plate_spec import ColourSpec
    from offsetter.core.decisions import ArtworkDoc
    from offsetter.core.stations import artwork
    from offsetter.core.units import UM_PER_MM

    method = method_called(asked.method)
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
        "effective_ppi": round(judged.effective_ppi, 1), "reachable_mm": judged.reachable_mm, "content_px": measured.content_px,
        "transparency": measured.transparency, "faint_share": judged.faint_share,
        "thinnest_stroke_mm": thinnest(measured.strokes, judged.mm_per_px), "thinnest_gap_mm": thinnest(measured.gaps, judged.mm_per_px),
        "thin_strokes": strokes, "narrow_gaps": gaps, "vanishing_share": judged.vanishing_share,
        "out_of_gamut_share": out_of_gamut_share(Colours(facts.profile_bytes()), measured.colours, ColourSpec(profile="")),
        "out_of_gamut_profile": "our own film condition" if method.is_profiled else "our own film condition, standing in",
        "symmetric": measured.symmetric, "reading": read.model_dump(mode="json") if read else None, "findings": findings_told(judged.findings),
    }  # fmt: skip


def plates(asked: Namespace) -> dict[str, Any]:
    from offsetter.core.compute.cost import ink_ml
    from offsetter.core.compute.plate_spec import ColourSpec, PlateSpec
    from offsetter.core.compute.plates import make_plates
    from offsetter.core.derive import usual_white
    from offsetter.formats.plates_pdf import write_pdf
    from offsetter.formats.plates_tiff import write_tiff
    from offsetter.intake.decode import decode

    method, out = method_called(asked.method), Path(asked.out)
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
    # The white that the file itself brings is where white lies, unless another level was asked for.
    own = picture.white if spec.white and asked.white_level is None else None
    if own is not None and spec.white:
        spec = spec.model_copy(update={"white": spec.white.model_copy(update={"own": True, "level_pct": 100.0})})
    made = make_plates(picture.rgba, spec, profile, mask=own, as_printed=True)
    size_mm = (spec.width_um / 1000, spec.height_um / 1000)
    if out.suffix.lower() == ".pdf":
        write_pdf(out, made.planes, *size_mm, spec.channels)
    else:
        write_tiff(out, made.planes, spec.dpi, spec.channels, profile)
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
        "choke_mm": white.choke_um / 1000 if spec.white else 0.0, "files": [str(out)], "findings": findings_told(tuple(findings)),
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


def thinnest(ladder: Any, mm_per_px: float) -> float | None:
    """The thinnest place that the ladder saw, in mm; None when nothing is narrower than its widest rung."""
    seen = [s.width_px for rung in ladder for s in rung.spots]
    return round(min(seen) * mm_per_px, 3) if seen else None


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
