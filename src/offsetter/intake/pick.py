"""Runs as a process of its own: the colour of one spot of a photograph, judged against a white that stands in the same light.

python -m offsetter.intake.pick SOURCE NAME OUT X Y WHITE_X WHITE_Y (shares of width and height)
Leaves Lab (D50) as JSON at OUT. The white spot is taken for paper of L* 95 without hue: a photograph is no measurement.
"""

import json
import sys
from pathlib import Path

from offsetter.core.sentences import say
from offsetter.core.values import Refusal
from offsetter.intake import limits

WHITE_L = 95.0
SPOT_SHARE = 0.006
"""Half the side of the square that is averaged, of the picture's width."""


def main(source: Path, name: str, out: Path, spots: list[float]) -> int:
    limits.confine()
    import numpy as np

    from offsetter.core.compute.cielab import SRGB_TO_XYZ_D50 as TO_XYZ
    from offsetter.core.compute.cielab import lab_of_xyz, linear_of_srgb, xyz_of_lab
    from offsetter.intake.decode import decode

    try:
        rgb = decode(source, name).rgba[..., :3]
        rows, columns = rgb.shape[:2]
        half = max(2, round(columns * SPOT_SHARE))

        def light(x: float, y: float) -> np.ndarray:
            at_x, at_y = min(int(x * columns), columns - 1), min(int(y * rows), rows - 1)
            square = rgb[max(0, at_y - half) : at_y + half + 1, max(0, at_x - half) : at_x + half + 1]
            return np.asarray(linear_of_srgb(square.reshape(-1, 3) / 255).mean(axis=0))

        spot, white = light(*spots[:2]), light(*spots[2:])
        if white.min() < 0.05 or white.max() > 0.995:
            how = say("too dark") if white.min() < 0.05 else say("burnt out")
            raise Refusal("no-white", say("The white spot is {how}.", how=how), say("Nothing was taken from the photograph."),
                          say("Lay a white sheet beside the piece, photograph both in even light, and touch the sheet."))  # fmt: skip
        share = xyz_of_lab([WHITE_L, 0.0, 0.0])[1]
        lab = lab_of_xyz(np.clip(spot / white, 0, 1.2) * share @ TO_XYZ.T)
        out.parent.mkdir(parents=True, exist_ok=True)
        out.write_text(json.dumps([round(float(v), 1) for v in lab]))
    except Refusal as said:
        print(json.dumps({"code": said.code, "happened": said.happened, "kept": said.kept, "to_do": said.to_do}))
        return 0
    print(json.dumps({"ok": True}))
    return 0


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1]), sys.argv[2], Path(sys.argv[3]), [float(v) for v in sys.argv[4:8]]))
