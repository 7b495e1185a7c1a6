"""A print at bench size: its picture, its inks, its plates, and the colour transforms that make them; each kept for a while."""

import threading
from pathlib import Path
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from offsetter.core.compute.art_ref import ArtRef
from offsetter.core.compute.artwork import ArtworkFacts
from offsetter.core.compute.colour import Colours, DriverColours, ink_colours
from offsetter.core.compute.plate_spec import PlateMeasure, PlateSpec
from offsetter.core.compute.plates import Inked, Plates, ink_picture, make_plates
from offsetter.core.compute.white import mask_of, part_of
from offsetter.core.sentences import say
from offsetter.core.values import Refusal, digest
from offsetter.desk.bounded import Bounded
from offsetter.intake.bench import OWN_WHITE
from offsetter.intake.receive import receive
from offsetter.store.files import FileStore

Bytes = NDArray[np.uint8]
Either = TypeVar("Either", Colours, DriverColours)
KEPT, INKED, PROFILES, MASKS = 24, 8, 12, 4
ALMOST_ONE = 0.999999
"""A picture no larger than the bench is still only a preview: its plates have another number of dots."""


class BenchPlates:
    def __init__(self, files: FileStore) -> None:
        self._files = files
        self._profiles: Bounded[Colours] = Bounded(PROFILES)
        self._drivers: Bounded[DriverColours] = Bounded(PROFILES)
        self._driven: Bounded[Bytes] = Bounded(KEPT)
        self._masks: Bounded[Bytes] = Bounded(MASKS)
        self._plates: Bounded[Plates] = Bounded(KEPT)
        self._pictures: Bounded[Bytes] = Bounded(KEPT)
        self._inks: Bounded[Bytes] = Bounded(KEPT)
        self._inked: Bounded[Inked] = Bounded(INKED)
        self._facts: Bounded[ArtworkFacts] = Bounded(KEPT)

    def folder(self, file_hash: str) -> Path:
        return self._files.derived("art", file_hash)

    def preview(self, spec: PlateSpec) -> PlateMeasure:
        """The plates measured at bench size."""
        return self.made(spec).measure

    def alpha(self, spec: PlateSpec) -> Bytes:
        """Where something is printed, at bench size, as it is worn."""
        return np.ascontiguousarray(self.rgba(spec)[..., 3])

    def inked(self, spec: PlateSpec) -> Bytes:
        """Where any ink or white is laid, at bench size, as it is worn."""
        return np.asarray(self.made(spec).planes.max(axis=2))

    def device(self, spec: PlateSpec) -> PlateMeasure | None:
        """The plates measured at full size, once they have been made."""
        found = self._files.derived("plates", spec.key) / "measure.json"
        return PlateMeasure.model_validate_json(found.read_text()) if found.exists() else None

    def pixels(self, file: str) -> tuple[int, int]:
        """Of a picture in the store. Raises Refusal where it is none."""
        return self.facts_of(file).pixels

    def prints_with(self, spec: PlateSpec) -> Colours | DriverColours:
        """The transforms that say what this print's colours come out as."""
        return self.driver(spec) if spec.colour.driver else self.colours(spec)

    def has_profiles(self, spec: PlateSpec) -> bool:
        """Whether the store still holds what these plates are worked out with."""
        wanted = [p for p in (spec.colour.profile, spec.colour.driver) if p]
        return all(self._files.original(p).exists() for p in wanted)

    def made(self, spec: PlateSpec) -> Plates:
        """The plates at bench size."""
        key = spec.key
        found = self._plates.get(key)
        if found is None:
            rgba = self.rgba(spec)
            scale = rgba.shape[1] / spec.width_px
            found = make_plates(
                rgba,
                spec,
                self.colours(spec),
                scale=min(scale, ALMOST_ONE),
                inked=self._inked_of(spec, rgba),
                mask=self.mask(spec),
            )
            self._plates[key] = found
        return found

    def _inked_of(self, spec: PlateSpec, rgba: Bytes) -> Inked:
        """What of the plates a hand that draws the print wider, or the white in, does not change."""
        key = spec.inked_key
        found = self._inked.get(key)
        if found is None:
            found = self._inked[key] = ink_picture(rgba, spec, self.colours(spec), self.ink(spec))
        return found

    def mask(self, spec: PlateSpec) -> Bytes | None:
        """Where white lies by a picture of its own, at that picture's size; None where there is none."""
        white = spec.white
        if white is None or white.by not in ("mask", "file"):
            return None
        source = white.mask or spec.artwork
        key = digest("mask", source, white.own, white.mask_dark, white.mask_part)
        found = self._masks.get(key)
        if found is None:
            self.facts_of(source)  # taken apart, where it was not looked at yet
            whole = np.load(self.folder(source) / (OWN_WHITE if white.own else "full.npy"), mmap_mode="r")
            part = white.mask_part
            found = self._masks[key] = (
                part_of(whole, part) if white.own else mask_of(whole, part, is_dark=white.mask_dark)
            )
        return found

    def ink(self, spec: PlateSpec) -> Bytes:
        """The bench picture's inks: no slider of White or Order changes it."""
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
            found = self._inks[key] = self.colours(spec).to_ink(self.rgba(spec), spec.colour)
        return found

    def driven_picture(self, spec: PlateSpec) -> Bytes:
        """How the bench picture looks on white from a printer that separates by itself."""
        key = digest(spec.artwork, spec.crop_px, spec.colour.model_copy(update={"ink_limit_pct": 400.0}))
        found = self._driven.get(key)
        if found is None:
            driver = self.driver(spec)
            found = self._driven[key] = driver.to_screen(driver.to_rgb(self.rgba(spec), spec.colour))
        return found

    def colours(self, spec: PlateSpec) -> Colours:
        """The transforms of the spec's ink profile."""
        found = self._profiles.get(spec.colour.profile)
        if found is None:
            found = self._profiles[spec.colour.profile] = _warming(ink_colours(self._profile(spec.colour.profile)))
        return found

    def driver(self, spec: PlateSpec) -> DriverColours:
        """The transforms of the profile of a printer that separates by itself."""
        found = self._drivers.get(spec.colour.driver)
        if found is None:
            found = self._drivers[spec.colour.driver] = _warming(DriverColours(self._profile(spec.colour.driver)))
        return found

    def _profile(self, profile: str) -> bytes:
        path = self._files.original(profile)
        if not path.exists():
            raise Refusal("profile-lost", say("The colour profile of these plates is not in the store any more."), say("Nothing else was put in its place."),
                          say("Choose the way again at Method, or bring the profile back at Colour."))  # fmt: skip
        return path.read_bytes()

    def rgba(self, spec: PlateSpec) -> Bytes:
        """The picture at bench size, cropped (rows, columns, 4; straight alpha)."""
        key = f"{spec.artwork}{spec.crop_px}"
        found = self._pictures.get(key)
        if found is None:
            folder = self.folder(spec.artwork)
            content = self.facts_of(spec.artwork).content_px
            found = np.load(folder / f"bench-{'content' if spec.crop_px == content else 'none'}.npy")
            self._pictures[key] = found
        return found

    def facts_of(self, file_hash: str) -> ArtworkFacts:
        """What a file holds. Raises Refusal where it is not here any more."""
        found = self._facts.get(file_hash)
        if found is None or not self.folder(file_hash).exists():
            original = self._files.original(ArtRef.read(file_hash).file)
            if not original.exists():
                raise Refusal(
                    "no-such-picture",
                    say("The picture's file is not here any more."),
                    say("The job is as it was."),
                    say("Drop the customer's file again."),
                )
            # A name is drawn when its list is read and measured when it is first looked at.
            found = self._facts[file_hash] = receive(original, file_hash, file_hash, self.folder(file_hash))
        return found


def _warming(colours: Either) -> Either:
    """The first change of intent is not kept waiting: its transform is made beside the first picture."""
    threading.Thread(target=colours.warm, daemon=True, name="colour transforms").start()
    return colours
