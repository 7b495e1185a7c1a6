"""Pictures of a print at bench size, at addresses that hold the hash of what they show."""

from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from offsetter.core.compute.artwork import VANISHES_DELTA_E, ArtworkFacts
from offsetter.core.compute.bending import bent, on_the_cup
from offsetter.core.compute.cielab import delta_e_2000, lab_of_srgb, rgb_of_hex
from offsetter.core.compute.colour import (
    IN_GAMUT_DELTA_E,
    missed_by,
)
from offsetter.core.compute.edges import EdgeSpot, worst_edge
from offsetter.core.compute.holes import HOLE_MM2, own_holes
from offsetter.core.compute.looks import LOOKS, look_at
from offsetter.core.compute.plate_spec import PlateSpec
from offsetter.core.compute.plates import make_plates
from offsetter.core.compute.resample import resample
from offsetter.core.compute.strokes import rung_for
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal, digest
from offsetter.desk.bench_plates import KEPT, BenchPlates
from offsetter.desk.bounded import Bounded
from offsetter.desk.colours_told import ColoursTold
from offsetter.desk.scenes import PointView, Scene, point_view
from offsetter.intake.bench import BENCH_PX
from offsetter.store.files import FileStore

Bytes = NDArray[np.uint8]
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
SCENES = 2_000
"""What addresses of pictures stand for, kept in memory too: a full disk keeps nobody from looking."""


class Lens(Frozen):
    x_mm: float
    y_mm: float
    side_mm: float
    why: str


class Pictures:
    def __init__(self, files: FileStore) -> None:
        self._files, self.bench = files, BenchPlates(files)
        self.told = ColoursTold(self.bench)
        self._seen: Bounded[Scene] = Bounded(SCENES)
        self._lenses: Bounded[tuple[Bytes, Bytes]] = Bounded(KEPT)
        self._spots: Bounded[EdgeSpot] = Bounded(KEPT)

    def point(self, key: str, x: float, y: float) -> PointView:
        """One point's figures, from the wearer's side. Raises Refusal when nobody asked for these plates before."""
        scene = self._scene(key)
        spec, rgba = scene.spec, self.bench.rgba(scene.spec)
        at = (min(int(y * rgba.shape[0]), rgba.shape[0] - 1), min(int(x * rgba.shape[1]), rgba.shape[1] - 1))
        return point_view(
            self.bench.made(spec).planes[at],
            rgba[at],
            scene,
            self.bench.colours(spec),
            self.bench.driver(spec) if spec.colour.driver else None,
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
                "no-such-picture",
                say("This picture is not known any more."),
                say("The job is as it was."),
                say("Open the job again."),
            )
        return Scene.model_validate_json(stored.read_bytes())

    def _draw(self, scene: Scene, kind: Kind) -> bytes:
        spec, ground = scene.spec, scene.ground
        if kind.startswith("lens"):
            planes, alpha = self._lens_planes(spec)
            if kind == "lens-white":
                return _encode(_white_of(planes, has_white=spec.white is not None))
            return _encode(look_at("pressed", self.bench.colours(spec), planes, alpha, ground, spec=spec.colour))
        if kind == "asked":
            return _encode(self.bench.rgba(spec))
        if kind == "holes":
            return _encode(self._own_holes(spec))
        if kind == "gamut":
            rgba = self.bench.rgba(spec)
            missed = missed_by(self.bench.prints_with(spec), np.ascontiguousarray(rgba[::2, ::2, :3]), spec.colour)
            return _encode(np.where((missed > IN_GAMUT_DELTA_E) & (rgba[::2, ::2, 3] > 8), 255, 0).astype(np.uint8))
        if kind == "vanish":
            rgba = self.bench.rgba(spec)
            small = cv2.resize(rgba, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
            apart = delta_e_2000(lab_of_srgb(small[..., :3]), lab_of_srgb(rgb_of_hex(ground.cloth)))
            return _encode(np.where((apart < VANISHES_DELTA_E) & (small[..., 3] > 8), 255, 0).astype(np.uint8))
        if kind == "over":
            rgba = self.bench.rgba(spec)
            ink = self.bench.ink(spec).astype(np.uint32).sum(axis=2) * rgba[..., 3] // 255
            return _encode(np.where(ink > spec.colour.ink_limit_pct * 2.55, 255, 0).astype(np.uint8))
        planes = self.bench.made(spec).planes
        if kind == "white":
            return _encode(_white_of(planes, has_white=spec.white is not None))
        printed = self.bench.driven_picture(spec) if spec.colour.driver else None
        look = "cloth" if kind == "on-cup" else next(n for n in LOOKS if n == kind)
        alpha = self.bench.rgba(spec)[..., 3]
        seen = look_at(look, self.bench.colours(spec), planes, alpha, ground, printed=printed, spec=spec.colour)
        if kind == "on-cup":
            if scene.cup is None:
                raise Refusal(
                    "no-cup", say("This goes on nothing round."), say("The job is as it was."), say("Look at it flat.")
                )
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
        alpha = np.load(self.bench.folder(spec.artwork) / "full.npy", mmap_mode="r")[top:bottom, left:right, 3]
        px_per_mm = (right - left) / (spec.width_um / 1000)
        mask = own_holes(np.ascontiguousarray(alpha), HOLE_MM2 * px_per_mm**2)
        by = max(1, max(mask.shape) // (2 * BENCH_PX))
        # The whole of a block is marked when a hole lies in it.
        high, wide = (v - v % by for v in mask.shape)
        return np.ascontiguousarray(mask[:high, :wide].reshape(high // by, by, wide // by, by).max(axis=(1, 3)))

    def _spot(self, spec: PlateSpec, facts: ArtworkFacts) -> EdgeSpot:
        mm_per_px = spec.width_um / 1000 / (spec.crop_px[2] - spec.crop_px[0])
        reach = 1.0 if spec.white is None else spec.white.reach_um(spec.white.guard_um) / 1000
        thin = rung_for(facts.strokes, reach / mm_per_px).spots
        key = digest(spec.artwork, spec.crop_px, [s for s in thin if not s.is_dot][:1])
        found = self._spots.get(key)
        if found is None:
            found = self._spots[key] = worst_edge(self.bench.rgba(spec), thin, spec.crop_px)
        return found

    def _lens_planes(self, spec: PlateSpec) -> tuple[Bytes, Bytes]:
        found = self._lenses.get(spec.key)
        if found is None:
            found = self._lenses[spec.key] = self._made_lens(spec)
        return found

    def _made_lens(self, spec: PlateSpec) -> tuple[Bytes, Bytes]:
        folder = self.bench.folder(spec.artwork)
        spot = self._spot(spec, self.bench.facts_of(spec.artwork))
        left, top, right, bottom = spec.crop_px
        px_per_mm = (right - left) / (spec.width_um / 1000)
        # Two millimetres more all round, so that the choke sees the edges outside the glass.
        half = round((LENS_MM / 2 + 2) * px_per_mm)
        x, y = round(left + spot.x * (right - left)), round(top + spot.y * (bottom - top))
        full = np.load(folder / "full.npy", mmap_mode="r")
        side = 2 * half
        cut = _window(full[top:bottom, left:right], x - half - left, y - half - top, side, side)
        piece = spec.model_copy(update={"crop_px": (0, 0, side, side), "width_um": round(side / px_per_mm * 1000)})
        mask = self.bench.mask(spec)
        if mask is not None:
            across, down = mask.shape[1] / (right - left), mask.shape[0] / (bottom - top)
            mask = _window(mask, (x - half - left) * across, (y - half - top) * down, side * across, side * down)
        planes = make_plates(cut, piece, self.bench.colours(spec), mask=mask).planes
        alpha = resample(cut, planes.shape[1], planes.shape[0])[..., 3]
        inset = round(2 / (LENS_MM + 4) * planes.shape[0])
        inside = np.s_[inset:-inset, inset:-inset]
        return np.ascontiguousarray(planes[inside]), np.ascontiguousarray(alpha[inside])


def _white_of(planes: Bytes, *, has_white: bool) -> Bytes:
    """The white plate; nothing where there is none."""
    return planes[..., -1] if has_white else np.zeros(planes.shape[:2], np.uint8)


def _window(whole: Bytes, left: float, top: float, width: float, height: float) -> Bytes:
    """A part of the array that may reach beyond it, where there is nothing."""
    x, y, wide, high = round(left), round(top), max(1, round(width)), max(1, round(height))
    found = np.zeros((high, wide, *whole.shape[2:]), np.uint8)
    part = whole[max(0, y) : max(0, y + high), max(0, x) : max(0, x + wide)]
    found[max(0, -y) : max(0, -y) + part.shape[0], max(0, -x) : max(0, -x) + part.shape[1]] = part
    return found


def _encode(picture: Bytes) -> bytes:
    order = cv2.cvtColor(picture, cv2.COLOR_RGBA2BGRA) if picture.ndim == 3 else picture
    # Unfiltered: less than half the time, and drawn artwork packs as small.
    quick = [cv2.IMWRITE_PNG_COMPRESSION, 1, cv2.IMWRITE_PNG_FILTER, cv2.IMWRITE_PNG_FILTER_NONE]
    ok, data = cv2.imencode(".png", order, quick)
    if not ok:
        raise ValueError(say("a picture could not be encoded"))
    return bytes(data)
