"""Pictures of a print at bench size, at addresses that hold the hash of what they show."""

import threading
from pathlib import Path
from typing import Literal, TypeVar

import cv2
import numpy as np
from numpy.typing import NDArray

from offsetter.core.compute.artwork import VANISHES_DELTA_E, ArtworkFacts
from offsetter.core.compute.bending import bent, on_the_cup
from offsetter.core.compute.cielab import delta_e_2000, lab_of_srgb, rgb_of_hex
from offsetter.core.compute.colour import (
    IN_GAMUT_DELTA_E,
    Colours,
    DriverColours,
    missed_by,
    out_of_gamut_share,
    print_difference,
)
from offsetter.core.compute.edges import EdgeSpot, worst_edge
from offsetter.core.compute.fixes import ArtRef
from offsetter.core.compute.holes import HOLE_MM2, own_holes
from offsetter.core.compute.looks import LOOKS, asked_ink, look_at
from offsetter.core.compute.plate_spec import PlateMeasure, PlateSpec, WhiteSpec
from offsetter.core.compute.plates import Plates, make_plates
from offsetter.core.compute.resample import resample
from offsetter.core.compute.strokes import rung_for
from offsetter.core.compute.white import mask_of, part_of
from offsetter.core.facts import BrandColour
from offsetter.core.results import BrandStep, ColourStep
from offsetter.core.values import Frozen, Refusal, digest
from offsetter.desk.bounded import Bounded
from offsetter.desk.scenes import PointView, Scene, brand_steps, point_view
from offsetter.intake.bench import BENCH_PX, OWN_WHITE
from offsetter.intake.receive import receive
from offsetter.store.files import FileStore

Bytes = NDArray[np.uint8]
Either = TypeVar("Either", Colours, DriverColours)
Kind = Literal[
    "asked",
    "cloth",
    "pressed",
    "carrier",
    "white",
    "over",
    "vanish",
    "gamut",
    "holes",
    "lens-colour",
    "lens-white",
    "on-cup",
]
LENS_MM = 4.0
"""Side of the square under the magnifier."""
MAIN_COLOURS = 7
SHADE_DELTA_E = 12  # nearer colours are shades of one: from memory
SCENES = 2_000
"""What addresses of pictures stand for, kept in memory too: a full disk keeps nobody from looking."""
KEPT = 24
MASKS = 4
ALMOST_ONE = 0.999999
"""A picture no larger than the bench is still only a preview: its plates have another number of dots."""


class Lens(Frozen):
    x_mm: float
    y_mm: float
    side_mm: float
    why: str


class Pictures:
    def __init__(self, files: FileStore) -> None:
        self._files = files
        self._seen: Bounded[Scene] = Bounded(SCENES)
        self._known: Bounded[Colours] = Bounded(12)
        self._drivers: Bounded[DriverColours] = Bounded(12)
        self._driven: Bounded[Bytes] = Bounded(KEPT)
        self._brands: Bounded[tuple[BrandStep, ...]] = Bounded(KEPT)
        self._masks: Bounded[Bytes] = Bounded(MASKS)
        self._plates: Bounded[Plates] = Bounded(KEPT)
        self._bench: Bounded[Bytes] = Bounded(KEPT)
        self._inks: Bounded[Bytes] = Bounded(KEPT)
        self._main: Bounded[tuple[list[tuple[int, int, int]], list[float]]] = Bounded(KEPT)
        self._facts: Bounded[ArtworkFacts] = Bounded(KEPT)
        self._lenses: Bounded[tuple[Bytes, Bytes]] = Bounded(KEPT)
        self._spots: Bounded[EdgeSpot] = Bounded(KEPT)
        self._steps: Bounded[tuple[ColourStep, ...]] = Bounded(KEPT)
        self._misses: Bounded[float] = Bounded(KEPT)

    def folder(self, file_hash: str) -> Path:
        return self._files.derived("art", file_hash)

    def preview(self, spec: PlateSpec) -> PlateMeasure:
        """The plates measured at bench size."""
        return self._made(spec).measure

    def alpha(self, spec: PlateSpec) -> Bytes:
        """Where something is printed, at bench size, as it is worn."""
        return np.ascontiguousarray(self._rgba(spec)[..., 3])

    def inked(self, spec: PlateSpec) -> Bytes:
        """Where any ink or white is laid, at bench size, as it is worn."""
        return np.asarray(self._made(spec).planes.max(axis=2))

    def device(self, spec: PlateSpec) -> PlateMeasure | None:
        """The plates measured at full size, once they have been made."""
        found = self._files.derived("plates", spec.key) / "measure.json"
        return PlateMeasure.model_validate_json(found.read_text()) if found.exists() else None

    def steps(self, scene: Scene, facts: ArtworkFacts) -> tuple[ColourStep, ...]:
        """The artwork's main colours and what becomes of each in print and on the cloth."""
        key = digest("steps", scene.spec.colour, scene.ground, facts.file)
        if key not in self._steps:
            self._steps[key] = self._colour_steps(scene, facts)
        return self._steps[key]

    def misses(self, scene: Scene, facts: ArtworkFacts) -> float:
        """Share of the picture whose colours this print misses by more than CIEDE2000 2."""
        if scene.spec.colour.composite_black:
            return 0.0  # the coloured sheet gives the colour
        key = digest("misses", scene.spec.colour.model_copy(update={"ink_limit_pct": 400.0}), facts.file)
        found = self._misses.get(key)
        if found is None:
            found = self._misses[key] = out_of_gamut_share(
                self.prints_with(scene.spec), facts.colours, scene.spec.colour
            )
        return found

    def brands(self, scene: Scene, facts: ArtworkFacts, brands: tuple[BrandColour, ...]) -> tuple[BrandStep, ...]:
        """The customer's own colours that the artwork holds, and what becomes of them."""
        if not brands:
            return ()
        key = digest("brands", scene.spec.colour, facts.file, brands)
        found = self._brands.get(key)
        if found is None:
            found = self._brands[key] = brand_steps(
                self.prints_with(scene.spec), scene.spec.colour, facts.colours, brands
            )
        return found

    def point(self, key: str, x: float, y: float) -> PointView:
        """One point's figures, from the wearer's side. Raises Refusal when nobody asked for these plates before."""
        scene = self._scene(key)
        spec, rgba = scene.spec, self._rgba(scene.spec)
        at = (min(int(y * rgba.shape[0]), rgba.shape[0] - 1), min(int(x * rgba.shape[1]), rgba.shape[1] - 1))
        return point_view(
            self._made(spec).planes[at],
            rgba[at],
            scene,
            self._colours(spec),
            self._driver(spec) if spec.colour.driver else None,
        )

    def lens(self, spec: PlateSpec, facts: ArtworkFacts) -> Lens:
        """Where the magnifier looks, in mm on the print."""
        spot = self._spot(spec, facts)
        width, height = spec.width_um / 1000, spec.height_um / 1000
        return Lens(x_mm=round(spot.x * width, 2), y_mm=round(spot.y * height, 2), side_mm=LENS_MM, why=spot.why)

    def remember(self, scene: Scene) -> str:
        """Keep what a picture's address stands for; gives the address's key."""
        key = scene.key
        path = self._files.derived("scenes", key)
        if not path.exists():
            self._seen[key] = scene
            self._files.write_if_room(path, scene.model_dump_json().encode())
        return key

    def png(self, key: str, kind: Kind) -> bytes:
        """The picture as PNG. Raises Refusal when nobody asked for these plates before."""
        path = self._files.derived("pictures", f"{key}-{kind}")
        if path.exists():
            return path.read_bytes()
        data = self._draw(self._scene(key), kind)
        self._files.write_if_room(path, data)
        return data

    def _scene(self, key: str) -> Scene:
        if (seen := self._seen.get(key)) is not None:
            return seen
        stored = self._files.derived("scenes", key)
        if not stored.exists():
            raise Refusal(
                "no-such-picture", "This picture is not known any more.", "The job is as it was.", "Open the job again."
            )
        return Scene.model_validate_json(stored.read_bytes())

    def _draw(self, scene: Scene, kind: Kind) -> bytes:
        spec, ground = scene.spec, scene.ground
        if kind.startswith("lens"):
            planes, alpha = self._lens_planes(spec)
            if kind == "lens-white":
                return _encode(_white_of(planes))
            return _encode(look_at("pressed", self._colours(spec), planes, alpha, ground, curves=spec.colour.curves))
        if kind == "asked":
            return _encode(self._rgba(spec))
        if kind == "holes":
            return _encode(self._own_holes(spec))
        if kind == "gamut":
            rgba = self._rgba(spec)
            missed = missed_by(self.prints_with(spec), np.ascontiguousarray(rgba[::2, ::2, :3]), spec.colour)
            return _encode(np.where((missed > IN_GAMUT_DELTA_E) & (rgba[::2, ::2, 3] > 8), 255, 0).astype(np.uint8))
        if kind == "vanish":
            rgba = self._rgba(spec)
            small = cv2.resize(rgba, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
            apart = delta_e_2000(lab_of_srgb(small[..., :3]), lab_of_srgb(rgb_of_hex(ground.cloth)))
            return _encode(np.where((apart < VANISHES_DELTA_E) & (small[..., 3] > 8), 255, 0).astype(np.uint8))
        if kind == "over":
            rgba = self._rgba(spec)
            ink = self._ink(spec).astype(np.uint32).sum(axis=2) * rgba[..., 3] // 255
            return _encode(np.where(ink > spec.colour.ink_limit_pct * 2.55, 255, 0).astype(np.uint8))
        planes = self._made(spec).planes
        if kind == "white":
            return _encode(_white_of(planes))
        printed = self._driven_picture(spec) if spec.colour.driver else None
        look = "cloth" if kind == "on-cup" else next(n for n in LOOKS if n == kind)
        alpha = self._rgba(spec)[..., 3]
        seen = look_at(look, self._colours(spec), planes, alpha, ground, printed=printed, curves=spec.colour.curves)
        if kind == "on-cup":
            if scene.cup is None:
                raise Refusal("no-cup", "This goes on nothing round.", "The job is as it was.", "Look at it flat.")
            return _encode(
                on_the_cup(seen, scene.cup, spec.width_um / 1000, spec.height_um / 1000, rgb_of_hex(ground.cloth))
            )
        if kind != "carrier":
            return _encode(seen)
        lies = bent(seen, spec.bend, spec.width_um / 1000, spec.height_um / 1000) if spec.bend else seen
        return _encode(np.ascontiguousarray(lies[:, ::-1]) if spec.mirrored else lies)

    def _own_holes(self, spec: PlateSpec) -> Bytes:
        """The picture's own small holes at twice the bench's size: none of them gets lost on the way down."""
        left, top, right, bottom = spec.crop_px
        alpha = np.load(self.folder(spec.artwork) / "full.npy", mmap_mode="r")[top:bottom, left:right, 3]
        px_per_mm = (right - left) / (spec.width_um / 1000)
        mask = own_holes(np.ascontiguousarray(alpha), HOLE_MM2 * px_per_mm**2)
        by = max(1, max(mask.shape) // (2 * BENCH_PX))
        # The whole of a block is marked when a hole lies in it.
        high, wide = (v - v % by for v in mask.shape)
        return np.ascontiguousarray(mask[:high, :wide].reshape(high // by, by, wide // by, by).max(axis=(1, 3)))

    def _made(self, spec: PlateSpec) -> Plates:
        key = spec.key
        found = self._plates.get(key)
        if found is None:
            rgba = self._rgba(spec)
            scale = rgba.shape[1] / spec.width_px
            found = make_plates(
                rgba,
                spec,
                self._colours(spec),
                scale=min(scale, ALMOST_ONE),
                ink=self._ink(spec),
                mask=self._mask(spec),
            )
            self._plates[key] = found
        return found

    def _mask(self, spec: PlateSpec) -> Bytes | None:
        """Where white lies by a picture of its own, at that picture's size; None where there is none."""
        white = spec.white
        if white is None or white.by not in ("mask", "file"):
            return None
        source = white.mask or spec.artwork
        key = digest("mask", source, white.own, white.mask_dark, white.mask_part)
        found = self._masks.get(key)
        if found is None:
            self._facts_of(source)  # taken apart, where it was not looked at yet
            whole = np.load(self.folder(source) / (OWN_WHITE if white.own else "full.npy"), mmap_mode="r")
            part = white.mask_part
            found = self._masks[key] = (
                part_of(whole, part) if white.own else mask_of(whole, part, is_dark=white.mask_dark)
            )
        return found

    def pixels(self, file: str) -> tuple[int, int]:
        """Of a picture in the store. Raises Refusal where it is none."""
        return self._facts_of(file).pixels

    def _ink(self, spec: PlateSpec) -> Bytes:
        """The bench picture's CMYK: no slider of White or Order changes it."""
        key = digest(
            spec.artwork,
            spec.crop_px,
            spec.colour.profile,
            spec.colour.shifts,
            spec.colour.intent,
            spec.colour.black_point,
            spec.colour.composite_black and spec.colour.ink_limit_pct,
        )
        found = self._inks.get(key)
        if found is None:
            found = self._inks[key] = self._colours(spec).to_ink(self._rgba(spec), spec.colour)
        return found

    def _driven_picture(self, spec: PlateSpec) -> Bytes:
        """How the bench picture looks on white from a printer that separates by itself."""
        key = digest(spec.artwork, spec.crop_px, spec.colour.model_copy(update={"ink_limit_pct": 400.0}))
        found = self._driven.get(key)
        if found is None:
            driver = self._driver(spec)
            found = self._driven[key] = driver.to_screen(driver.to_rgb(self._rgba(spec), spec.colour))
        return found

    def _colours(self, spec: PlateSpec) -> Colours:
        """The transforms of the spec's ink profile."""
        found = self._known.get(spec.colour.profile)
        if found is None:
            found = self._known[spec.colour.profile] = _warming(Colours(self._profile(spec.colour.profile)))
        return found

    def _driver(self, spec: PlateSpec) -> DriverColours:
        found = self._drivers.get(spec.colour.driver)
        if found is None:
            found = self._drivers[spec.colour.driver] = _warming(DriverColours(self._profile(spec.colour.driver)))
        return found

    def prints_with(self, spec: PlateSpec) -> Colours | DriverColours:
        """The transforms that say what this print's colours come out as."""
        return self._driver(spec) if spec.colour.driver else self._colours(spec)

    def _profile(self, profile: str) -> bytes:
        path = self._files.original(profile)
        if not path.exists():
            raise Refusal("profile-lost", "The colour profile of these plates is not in the store any more.", "Nothing else was put in its place.",
                          "Choose the way again at Method, or bring the profile back at Colour.")  # fmt: skip
        return path.read_bytes()

    def has_profiles(self, spec: PlateSpec) -> bool:
        """Whether the store still holds what these plates are worked out with."""
        wanted = [p for p in (spec.colour.profile, spec.colour.driver) if p]
        return all(self._files.original(p).exists() for p in wanted)

    def _rgba(self, spec: PlateSpec) -> Bytes:
        key = f"{spec.artwork}{spec.crop_px}"
        found = self._bench.get(key)
        if found is None:
            folder = self.folder(spec.artwork)
            content = self._facts_of(spec.artwork).content_px
            found = np.load(folder / f"bench-{'content' if spec.crop_px == content else 'none'}.npy")
            self._bench[key] = found
        return found

    def _facts_of(self, file_hash: str) -> ArtworkFacts:
        found = self._facts.get(file_hash)
        if found is None or not self.folder(file_hash).exists():
            original = self._files.original(ArtRef.read(file_hash).file)
            if not original.exists():
                raise Refusal(
                    "no-such-picture",
                    "The picture's file is not here any more.",
                    "The job is as it was.",
                    "Drop the customer's file again.",
                )
            # A name is drawn when its list is read and measured when it is first looked at.
            found = self._facts[file_hash] = receive(original, file_hash, file_hash, self.folder(file_hash))
        return found

    def _spot(self, spec: PlateSpec, facts: ArtworkFacts) -> EdgeSpot:
        mm_per_px = spec.width_um / 1000 / (spec.crop_px[2] - spec.crop_px[0])
        reach = 1.0 if spec.white is None else spec.white.reach_um(spec.white.guard_um) / 1000
        thin = rung_for(facts.strokes, reach / mm_per_px).spots
        key = digest(spec.artwork, spec.crop_px, [s for s in thin if not s.is_dot][:1])
        found = self._spots.get(key)
        if found is None:
            found = self._spots[key] = worst_edge(self._rgba(spec), thin, spec.crop_px)
        return found

    def _lens_planes(self, spec: PlateSpec) -> tuple[Bytes, Bytes]:
        found = self._lenses.get(spec.key)
        if found is None:
            found = self._lenses[spec.key] = self._made_lens(spec)
        return found

    def _made_lens(self, spec: PlateSpec) -> tuple[Bytes, Bytes]:
        folder = self.folder(spec.artwork)
        spot = self._spot(spec, self._facts_of(spec.artwork))
        left, top, right, bottom = spec.crop_px
        px_per_mm = (right - left) / (spec.width_um / 1000)
        # Two millimetres more all round, so that the choke sees the edges outside the glass.
        half = round((LENS_MM / 2 + 2) * px_per_mm)
        x, y = round(left + spot.x * (right - left)), round(top + spot.y * (bottom - top))
        full = np.load(folder / "full.npy", mmap_mode="r")
        side = 2 * half
        cut = _window(full[top:bottom, left:right], x - half - left, y - half - top, side, side)
        piece = spec.model_copy(update={"crop_px": (0, 0, side, side), "width_um": round(side / px_per_mm * 1000)})
        mask = self._mask(spec)
        if mask is not None:
            across, down = mask.shape[1] / (right - left), mask.shape[0] / (bottom - top)
            mask = _window(mask, (x - half - left) * across, (y - half - top) * down, side * across, side * down)
        planes = make_plates(cut, piece, self._colours(spec), mask=mask).planes
        alpha = resample(cut, planes.shape[1], planes.shape[0])[..., 3]
        inset = round(2 / (LENS_MM + 4) * planes.shape[0])
        inside = np.s_[inset:-inset, inset:-inset]
        return np.ascontiguousarray(planes[inside]), np.ascontiguousarray(alpha[inside])

    def _main_colours(self, facts: ArtworkFacts) -> tuple[list[tuple[int, int, int]], list[float]]:
        """The few colours that a person would name, each with its share; shades join the nearest named before."""
        found = self._main.get(facts.file)
        if found is None:
            labs = lab_of_srgb(np.array([c.rgb for c in facts.colours]).reshape(-1, 3))
            chosen: list[int] = []
            shares: list[float] = []
            for i, colour in enumerate(facts.colours):
                apart = delta_e_2000(labs[chosen], labs[i]) if chosen else np.array([99.0])
                if float(apart.min()) < SHADE_DELTA_E:
                    shares[int(apart.argmin())] += colour.share
                elif len(chosen) < MAIN_COLOURS:
                    chosen.append(i)
                    shares.append(colour.share)
            found = self._main[facts.file] = ([facts.colours[i].rgb for i in chosen], shares)
        return found

    def _colour_steps(self, scene: Scene, facts: ArtworkFacts) -> tuple[ColourStep, ...]:
        spec = scene.spec
        chosen, shares = self._main_colours(facts)
        if not chosen:
            return ()
        rgb = np.array([chosen], np.uint8)
        apart = print_difference(self.prints_with(spec), rgb, spec.colour)[0]
        row = np.dstack([rgb, np.full(rgb.shape[:2], 255, np.uint8)])
        planes = make_plates(row, spec.model_copy(update={"crop_px": (0, 0, len(chosen), 1), "white": _flat(spec)}),
                             self._colours(spec), scale=0.5).planes  # fmt: skip
        colours, curves = self._colours(spec), spec.colour.curves
        driver = self._driver(spec) if spec.colour.driver else None
        driven = driver.to_screen(driver.to_rgb(row, spec.colour)) if driver else None
        printed = (driven if driven is not None else colours.to_screen(asked_ink(planes, curves)))[0]
        seen = look_at("cloth", colours, planes, row[..., 3], scene.ground, printed=driven, curves=curves)[0]
        return tuple(
            ColourStep(asked=_hex(rgb[0, i]), printed=_hex(printed[i]), on_cloth=_hex(seen[i]),
                       cmyk_pct=tuple(round(float(v) / 2.55, 1) for v in planes[0, i, :4]),
                       delta_e_2000=round(float(apart[i]), 2), share=round(shares[i], 4))
            for i in range(len(chosen))
        )  # fmt: skip


def _warming(colours: Either) -> Either:
    """The first change of intent is not kept waiting: its transform is made beside the first picture."""
    threading.Thread(target=colours.warm, daemon=True, name="colour transforms").start()
    return colours


def _white_of(planes: Bytes) -> Bytes:
    """The white plate; nothing where there is none."""
    return planes[..., 4] if planes.shape[2] > 4 else np.zeros(planes.shape[:2], np.uint8)


def _window(whole: Bytes, left: float, top: float, width: float, height: float) -> Bytes:
    """A part of the array that may reach beyond it, where there is nothing."""
    x, y, wide, high = round(left), round(top), max(1, round(width)), max(1, round(height))
    found = np.zeros((high, wide, *whole.shape[2:]), np.uint8)
    part = whole[max(0, y) : max(0, y + high), max(0, x) : max(0, x + wide)]
    found[max(0, -y) : max(0, -y) + part.shape[0], max(0, -x) : max(0, -x) + part.shape[1]] = part
    return found


def _flat(spec: PlateSpec) -> WhiteSpec | None:
    """The white of a flat patch: no edge to choke."""
    return (
        spec.white.model_copy(update={"choke_um": 0, "guard_um": 0, "knock_out_delta_e": None}) if spec.white else None
    )


def _hex(rgb: NDArray[np.uint8]) -> str:
    return "#" + "".join(f"{int(v):02X}" for v in rgb[:3])


def _encode(picture: Bytes) -> bytes:
    order = cv2.cvtColor(picture, cv2.COLOR_RGBA2BGRA) if picture.ndim == 3 else picture
    # Unfiltered: less than half the time, and drawn artwork packs as small.
    quick = [cv2.IMWRITE_PNG_COMPRESSION, 1, cv2.IMWRITE_PNG_FILTER, cv2.IMWRITE_PNG_FILTER_NONE]
    ok, data = cv2.imencode(".png", order, quick)
    if not ok:
        raise ValueError("a picture could not be encoded")
    return bytes(data)
