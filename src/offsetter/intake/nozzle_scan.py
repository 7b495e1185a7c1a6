"""Runs as a process of its own: a scan of a nozzle sheet read, and a small picture of it with what is missing ringed.

python -m offsetter.intake.nozzle_scan SOURCE NAME SHEET OUT PICTURE
Prints one line of JSON: {"ok": true} or the three parts of a refusal.
"""

import json
import sys
from pathlib import Path

from offsetter.core.values import Refusal
from offsetter.intake import limits

LONGEST_PX = 2_000
RING_PX = 14


def main(source: Path, name: str, described: Path, out: Path, picture: Path) -> int:
    limits.confine()
    import cv2
    import numpy as np

    from offsetter.core.compute.nozzles import NozzleSheet, read_sheet
    from offsetter.intake.decode import decode

    try:
        rgba = decode(source, name).rgba
        alpha = rgba[:, :, 3:].astype(np.float32) / 255
        rgb = (rgba[:, :, :3] * alpha + 255 * (1 - alpha)).round().astype(np.uint8)
        read = read_sheet(rgb, NozzleSheet.model_validate_json(described.read_bytes()))
    except Refusal as no:
        print(
            json.dumps({"code": no.code, "happened": no.happened, "kept": "Nothing was kept of it.", "to_do": no.to_do})
        )
        return 0
    scale = min(1.0, LONGEST_PX / max(rgb.shape[:2]))
    seen = cv2.resize(rgb, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    for spots in read.missing_px.values():
        for x, y in spots:
            cv2.circle(seen, (round(x * scale), round(y * scale)), RING_PX, (200, 0, 60), 2, cv2.LINE_AA)
    cv2.imwrite(str(picture), seen[:, :, ::-1], [cv2.IMWRITE_JPEG_QUALITY, 88])
    out.write_text(read.model_dump_json())
    print(json.dumps({"ok": True}))
    return 0


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1]), sys.argv[2], *map(Path, sys.argv[3:6])))
