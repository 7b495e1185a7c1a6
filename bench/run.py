"""./offsetter bench: the figures this version promises, as ratios of one run on this machine."""

import sys

from advice import bench_advice
from colour import bench_colour
from crowd import bench_crowd
from day import bench_day
from growth import bench_growth
from hands import bench_hands
from intake import bench_intake
from keeping import bench_keeping
from machines import bench_machines
from plates import bench_plates
from roll import bench_roll
from screen import bench_schools, bench_screen
from sheets import bench_sheets
from tries import bench_tries

BENCHES = {
    "machines": bench_machines,
    "sheets": bench_sheets,
    "day": bench_day,
    "plates": bench_plates,
    "roll": bench_roll,
    "screen": bench_screen,
    "schools": bench_schools,
    "advice": bench_advice,
    "intake": bench_intake,
    "colour": bench_colour,
    "hands": bench_hands,
    "tries": bench_tries,
    "crowd": bench_crowd,
    "keeping": bench_keeping,
    "growth": bench_growth,
}


def main() -> int:
    unknown = sorted(set(sys.argv[1:]) - BENCHES.keys())
    if unknown:
        print(f"There is no bench “{unknown[0]}”: {', '.join(BENCHES)}", file=sys.stderr)
        return 2
    for name, bench in BENCHES.items():
        if name in (sys.argv[1:] or BENCHES):
            bench()
    return 0


if __name__ == "__main__":
    sys.exit(main())
