"""What one colour becomes in print, as the command line says it."""

import numpy as np

from offsetter.core.compute.cielab import delta_e_2000, lab_of_srgb
from offsetter.core.compute.colour import IN_GAMUT_DELTA_E, transforms_of
from offsetter.core.compute.plate_spec import ColourSpec, Intent
from offsetter.core.compute.reach import nearest_reachable
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal


class ColourAnswer(Frozen):
    cmyk_pct: tuple[float, float, float, float] | None
    """None with a profile of a driver that separates by itself."""
    lab: tuple[float, float, float]
    rgb: tuple[int, int, int]
    """On a screen."""
    device_rgb: tuple[int, int, int] | None = None
    """What the driver is sent."""
    delta_e_2000: float
    """Between what was asked and what the inks give."""
    in_gamut: bool
    """Some mixture of the inks comes within CIEDE2000 2 of it, whatever this intent makes of it."""


def answer_for(
    profile: bytes,
    spec: ColourSpec,
    *,
    rgb: tuple[int, int, int] | None = None,
    cmyk_pct: tuple[float, float, float, float] | None = None,
    lab: tuple[float, float, float] | None = None,
) -> ColourAnswer:
    """What one colour becomes in print; give exactly one of rgb (sRGB, 0..255), cmyk_pct (0..100) or lab (D50)."""
    colours = transforms_of(profile)
    asked = None
    if rgb is not None:
        asked = lab_of_srgb(rgb).reshape(-1)
        device = colours.of_lab(asked.reshape(1, 1, 3), spec)
    elif lab is not None:
        asked = np.array(lab, dtype=np.float64)
        device = colours.of_lab(asked.reshape(1, 1, 3), spec)
    else:
        if colours.space != "CMYK":
            raise Refusal("wrong-profile", say("The profile is for RGB; ink shares say nothing to it."), say("Nothing was changed."),
                          say("Ask with --rgb or --lab, or give a profile for CMYK."))  # fmt: skip
        device = np.array([[cmyk_pct]], dtype=np.float64) / 100
    absolute: Intent = "absolute" if spec.intent == "absolute" else "relative"
    got = colours.lab_of(device, absolute)[0, 0]
    apart = 0.0 if asked is None else float(delta_e_2000(asked, got))
    sent = np.rint(device * 255).astype(np.uint8)
    seen = colours.to_screen(sent)[0, 0]
    shares = [round(float(v) * 100, 2) for v in device[0, 0]]
    return ColourAnswer(
        cmyk_pct=(shares[0], shares[1], shares[2], shares[3]) if len(shares) == 4 else None,
        device_rgb=None if len(shares) == 4 else (int(sent[0, 0, 0]), int(sent[0, 0, 1]), int(sent[0, 0, 2])),
        lab=(round(float(got[0]), 2), round(float(got[1]), 2), round(float(got[2]), 2)),
        rgb=(int(seen[0]), int(seen[1]), int(seen[2])),
        delta_e_2000=round(apart, 3),
        in_gamut=asked is None
        or nearest_reachable(colours, (float(asked[0]), float(asked[1]), float(asked[2])), spec).delta_e
        <= IN_GAMUT_DELTA_E,
    )
