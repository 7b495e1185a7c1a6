"""What is looked at: plates on their ground, one point of them, a customer's colours in them."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from offsetter.core.compute.artwork import ColourShare
from offsetter.core.compute.cielab import delta_e_2000, hex_of_lab, lab_of_srgb
from offsetter.core.compute.colour import Colours, DriverColours
from offsetter.core.compute.looks import Ground, asked_ink, look_at
from offsetter.core.compute.plate_spec import ColourSpec, PlateSpec
from offsetter.core.compute.reach import Reached
from offsetter.core.compute.wrap import Cup
from offsetter.core.facts import BrandColour, Lab, Shop
from offsetter.core.results import BrandStep
from offsetter.core.values import Frozen, digest

SAME_DELTA_E = 8.0
"""A colour of the artwork this near to a customer's is meant to be it: from memory."""
SEEN_SHARE = 0.002
"""Of the picture: less is no colour that anybody would compare."""


class Scene(Frozen):
    """Plates, and what they end up on: all that a picture shows."""

    spec: PlateSpec
    ground: Ground = Ground()
    cup: Cup | None = None
    """What it is wrapped round."""

    @property
    def key(self) -> str:
        return digest("scene", self.spec.key, self.ground, *((self.cup,) if self.cup else ()))


class PointView(Frozen):
    """One point of a print: what was asked, what is printed for it, and what is seen."""

    is_printed: bool
    asked_rgb: tuple[int, int, int]
    asked_lab: Lab
    ink_pct: dict[str, float]
    """Its inks and, with a white plate, W; of a driver that separates by itself R, G and B in 255ths."""
    printed_lab: Lab
    """On full white."""
    on_cloth: str
    on_cloth_lab: Lab
    delta_e: float
    """Between asked and printed on full white."""


def point_view(
    planes: NDArray[np.uint8], rgba: NDArray[np.uint8], scene: Scene, colours: Colours, driver: DriverColours | None
) -> PointView:
    """planes: the channels of one dot; rgba: the artwork there."""
    spec = scene.spec.colour
    one, dot = rgba.reshape(1, 1, 4), np.ascontiguousarray(planes.reshape(1, 1, -1))
    alpha = np.ascontiguousarray(one[..., 3])
    full = np.minimum(255, dot.astype(np.uint16) * 255 // max(1, int(alpha[0, 0]))).astype(np.uint8)
    driven = driver.to_rgb(one, spec) if driver else None
    lab = driver.to_lab(driven)[0, 0] if driver and driven is not None else colours.to_lab(asked_ink(full, spec))[0, 0]
    seen = look_at("cloth", colours, dot, alpha, scene.ground, spec=spec,
                   printed=driver.to_screen(driven) if driver and driven is not None else None)[0, 0]  # fmt: skip
    asked = lab_of_srgb(one[0, 0, :3])
    if driven is not None:
        ink = {n: float(v) for n, v in zip("RGB", driven[0, 0], strict=True)}
    else:
        ink = {n: round(float(v) / 2.55, 1) for n, v in zip(scene.spec.channels, planes, strict=True)}
    printed = bool(planes.any())
    cloth = tuple(int(v) for v in seen[:3]) if printed else _rgb(scene.ground.cloth)
    return PointView(
        is_printed=printed, asked_rgb=(int(rgba[0]), int(rgba[1]), int(rgba[2])), asked_lab=_lab(asked), ink_pct=ink, printed_lab=_lab(lab),
        on_cloth="#" + "".join(f"{v:02X}" for v in cloth), on_cloth_lab=_lab(lab_of_srgb(cloth)), delta_e=round(float(delta_e_2000(asked, lab)), 2),
    )  # fmt: skip


def brands_of(shop: Shop, customer: str) -> tuple[BrandColour, ...]:
    """A customer's own colours, by name."""
    named = customer.strip().casefold()
    return tuple(
        sorted((b for b in shop.brand_colours.values() if b.customer.strip().casefold() == named), key=lambda b: b.name)
    )


def brand_steps(
    colours: Colours | DriverColours, spec: ColourSpec, shares: tuple[ColourShare, ...], brands: tuple[BrandColour, ...],
    reach: Callable[[Lab], tuple[Reached, tuple[Lab, float]]],
) -> tuple[BrandStep, ...]:  # fmt: skip
    """Each brand colour that the artwork holds: the artwork's nearest colour to it, what that prints as, and the nearest print. reach:
    gives a colour's nearest print and what to ask for to come near it."""
    seen = [c for c in shares if c.share >= SEEN_SHARE]
    if not seen:
        return ()
    labs = lab_of_srgb(np.array([c.rgb for c in seen]))
    found = []
    for brand in brands:
        apart = delta_e_2000(labs, brand.lab)
        at = int(apart.argmin())
        if apart[at] > SAME_DELTA_E:
            continue
        pixel = np.array([[[*seen[at].rgb, 255]]], np.uint8)
        device = colours.to_rgb(pixel, spec) if isinstance(colours, DriverColours) else colours.to_ink(pixel, spec)
        printed = colours.to_lab(device)[0, 0]
        nearest, (ask, ask_off) = reach(brand.lab)
        off = float(delta_e_2000(printed, brand.lab))
        found.append(BrandStep(
            name=brand.name, lab=brand.lab, shown=hex_of_lab(brand.lab), in_artwork="#" + "".join(f"{v:02X}" for v in seen[at].rgb),
            artwork_delta_e=round(float(apart[at]), 2), share=round(float(sum(c.share for c, d in zip(seen, apart, strict=True) if d <= SAME_DELTA_E)), 4),
            printed_lab=_lab(printed), printed=hex_of_lab(printed), delta_e=round(off, 2), within_delta_e=brand.within_delta_e,
            nearest_lab=nearest.lab, nearest=hex_of_lab(nearest.lab), nearest_delta_e=nearest.delta_e, nearest_pct=nearest.device_pct,
            ask_lab=ask, ask_delta_e=ask_off,
        ))  # fmt: skip
    return tuple(found)


def _rgb(colour: str) -> tuple[int, ...]:
    return tuple(int(colour[i : i + 2], 16) for i in (1, 3, 5))


def _lab(values: NDArray[np.float64]) -> Lab:
    return round(float(values[0]), 1), round(float(values[1]), 1), round(float(values[2]), 1)
