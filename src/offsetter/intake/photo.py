"""Runs as a process of its own: a photograph made small, upright and bare of where and when it was taken.

python -m offsetter.intake.photo SOURCE NAME OUT
Prints one line of JSON: {"ok": true} or the three parts of a refusal.
"""

import json
import sys
from pathlib import Path

from offsetter.core.sentences import say
from offsetter.intake import limits

LONGEST_PX = 2_000
KEPT = say("Nothing was attached.")


def main(source: Path, name: str, out: Path) -> int:
    limits.confine()
    from PIL import Image, ImageOps, UnidentifiedImageError

    Image.MAX_IMAGE_PIXELS = limits.MAX_PIXELS
    try:
        with Image.open(source, formats=("JPEG", "PNG", "WEBP")) as photo:
            photo.draft("RGB", (LONGEST_PX * 2, LONGEST_PX * 2))
            upright = ImageOps.exif_transpose(photo).convert("RGB")
            upright.thumbnail((LONGEST_PX, LONGEST_PX))
            # A new picture of the pixels alone: no location, camera or comment goes with it.
            bare = Image.frombytes("RGB", upright.size, upright.tobytes())
            bare.save(out, "JPEG", quality=88)
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        print(json.dumps({"code": "not-a-photo", "happened": f"“{name}” is not a photograph that can be read.", "kept": KEPT,
                          "to_do": "Take it again as JPEG, PNG or WebP."}))  # fmt: skip
        return 0
    print(json.dumps({"ok": True}))
    return 0


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1]), sys.argv[2], Path(sys.argv[3])))
