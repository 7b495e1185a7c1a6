"""Runs as a process of its own: parse one ICC profile from outside, say what it is for, or why it is unfit.

python -m offsetter.intake.icc SOURCE NAME OUT
Leaves the profile's facts as JSON at OUT; prints one line of JSON: {"ok": true} or the three parts of a refusal.
Layout of header and tag table: ICC.1:2010, 7.2 and 7.3; of the names of its inks: 10.5 (colorantTableType).
"""

import json
import struct
import sys
from pathlib import Path
from typing import get_args

from offsetter.core.facts import Space
from offsetter.core.facts.inks import BY_NAME
from offsetter.core.sentences import listed, say
from offsetter.core.values import Refusal
from offsetter.intake import limits

MOST_BYTES = 20 * 2**20
HEADER, ENTRY, MOST_TAGS = 128, 12, 200
CLASSES = {"prtr": say("a printer"), "mntr": say("a screen"), "scnr": say("a scanner or camera"), "link": say("a fixed pair of devices"), "spac": say("a colour space"),
           "abst": say("an effect"), "nmcl": say("named colours")}  # fmt: skip


def main(source: Path, name: str, out: Path) -> int:
    limits.confine()
    try:
        facts = read_profile(source.read_bytes(), name)
    except Refusal as said:
        print(json.dumps({"code": said.code, "happened": said.happened, "kept": said.kept, "to_do": said.to_do}))
        return 0
    out.parent.mkdir(parents=True, exist_ok=True)
    out.write_text(json.dumps(facts))
    print(json.dumps({"ok": True}))
    return 0


def read_profile(data: bytes, name: str) -> dict[str, object]:
    """Facts of a profile that prints can be made with. Raises Refusal for any other."""
    device_class, space, tags, places = _told(data, name)
    if device_class != "prtr":
        what = CLASSES.get(device_class, f"“{device_class}”")
        raise _unfit(
            "wrong-class",
            say("“{name}” describes {what}, not a printer", name=name, what=what),
            say("Choose the profile that was made for this printer and medium"),
        )
    if space not in get_args(Space):
        raise _unfit("wrong-space", say("“{name}” is for {space}; prints here are made of four to eight inks or of a driver's RGB", name=name, space=space),
                     say("Make a profile of the printer for one of these"))  # fmt: skip
    missing = [t for t in ("A2B0", "B2A0", "wtpt") if t not in tags]
    if missing:
        raise _unfit(
            "tags-missing",
            say("“{name}” lacks {missing}", name=name, missing=listed(missing)),
            say("Make the profile as an output profile with both directions"),
        )
    return _opened(data, name, device_class, space, tags) | {"inks": _inks(data, name, space, places.get("clrt", 0))}


def _inks(data: bytes, name: str, space: str, at: int) -> list[str]:
    """Channels of more than four inks in the profile's order; none where it does not name them."""
    if space in ("CMYK", "RGB") or not at:
        return []
    count = struct.unpack(">I", data[at + 8 : at + 12])[0] if at + 12 <= len(data) else 0
    if count != int(space[0]):
        raise _unfit(
            "broken-profile",
            say("“{name}” is broken: it is for {space} inks and names {count}", name=name, space=space[0], count=count),
            say("Export it again from where it came"),
        )
    rows = [data[at + 12 + i * 38 : at + 44 + i * 38].split(b"\0")[0].decode("latin-1") for i in range(count)]
    inks = [BY_NAME.get(" ".join(r.casefold().split()), "") for r in rows]
    if unknown := [r for r, ink in zip(rows, inks, strict=True) if not ink]:
        raise _unfit(
            "unknown-ink",
            say(
                "“{name}” has an ink called “{unknown}”; known are {by_name}",
                name=name,
                unknown=unknown[0][:32],
                by_name=", ".join(BY_NAME),
            ),
            say("Name its inks so where the profile was made"),
        )
    if len(set(inks)) < count:
        raise _unfit(
            "broken-profile",
            say("“{name}” is broken: it names an ink twice", name=name),
            say("Export it again from where it came"),
        )
    return inks


def _told(data: bytes, name: str) -> tuple[str, str, dict[str, int], dict[str, int]]:
    """Device class, colour space, tag sizes and where they lie, every offset checked."""
    if not data:
        raise _unfit("empty-file", say("“{name}” is empty", name=name), say("Export the profile again"))
    if len(data) > MOST_BYTES:
        raise _unfit(
            "too-large",
            say("“{name}” is larger than {most_bytes} MB", name=name, most_bytes=MOST_BYTES // 2**20),
            say("Make the profile with smaller tables"),
        )
    if len(data) < HEADER + 4 or data[36:40] != b"acsp":
        raise _unfit(
            "no-profile", say("“{name}” is no ICC profile", name=name), say("Choose a file that ends in .icc or .icm")
        )
    told, count = struct.unpack(">I", data[:4])[0], struct.unpack(">I", data[HEADER : HEADER + 4])[0]
    broken = _unfit(
        "broken-profile",
        say("“{name}” is broken: its tags reach beyond its end", name=name),
        say("Export it again from where it came"),
    )
    if told > len(data) or count > MOST_TAGS or HEADER + 4 + count * ENTRY > len(data):
        raise broken
    tags: dict[str, int] = {}
    places: dict[str, int] = {}
    for i in range(count):
        signature, offset, size = struct.unpack(">4sII", data[HEADER + 4 + i * ENTRY : HEADER + 4 + (i + 1) * ENTRY])
        if offset < HEADER or offset + size > len(data):
            raise broken
        tags[signature.decode("latin-1").strip()] = size
        places[signature.decode("latin-1").strip()] = offset
    return data[12:16].decode("latin-1").strip(), data[16:20].decode("latin-1").strip(), tags, places


def _opened(data: bytes, name: str, device_class: str, space: str, tags: dict[str, int]) -> dict[str, object]:
    """What littleCMS reads in it; both directions are tried, so that a broken table is found here and not at a print."""
    import numpy as np
    from PIL import ImageCms

    from offsetter.core.compute.cielab import lab_of_xyz
    from offsetter.core.compute.colour import open_profile, transforms_of
    from offsetter.core.compute.plate_spec import ColourSpec

    try:
        profile = open_profile(data, must_be=space).profile
        colours = transforms_of(data)
        ground = np.ones((1, 1, 3)) if space == "RGB" else np.zeros((1, 1, colours.channels))
        white = colours.lab_of(ground, "absolute")[0, 0]
        back = colours.of_lab(np.array([[[50.0, 0.0, 0.0]]]), ColourSpec(profile=""))
        colours.to_screen(np.rint(back * 255).astype(np.uint8))
        said_white = lab_of_xyz(profile.media_white_point[0]) if profile.media_white_point else white
    except (Refusal, ImageCms.PyCMSError, RuntimeError, OSError, ValueError) as wrong:
        raise _unfit(
            "broken-profile",
            say("“{name}” is broken: a table in it cannot be used", name=name),
            say("Export it again from where it came"),
        ) from wrong
    supported = {0: "perceptual", 1: "relative", 2: "saturation", 3: "absolute"}
    intents = [word for at, word in supported.items() if profile.is_intent_supported(at, ImageCms.Direction.OUTPUT)]
    return {
        "name": (profile.profile_description or name)[:120].strip(), "file_name": name, "device_class": device_class, "space": space,
        "connection": str(profile.connection_space).strip(), "version": f"{profile.version:.1f}", "white_lab": [round(float(v), 2) for v in said_white],
        "size_bytes": len(data), "tags": [{"signature": s, "size_bytes": n} for s, n in tags.items()], "intents": intents,
        "copyright": (profile.copyright or "")[:200],
    }  # fmt: skip


def _unfit(code: str, happened: str, to_do: str) -> Refusal:
    return Refusal(code, f"{happened}.", say("The shop's profiles are as they were."), f"{to_do}.")


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1]), sys.argv[2], Path(sys.argv[3])))
