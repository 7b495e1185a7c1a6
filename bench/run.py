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
from screen import bench_schools, bench_screen
from sheets import bench_sheets


def main() -> int:
    wanted = set(sys.argv[1:]) or {
        "plates",
        "screen",
        "schools",
        "hands",
        "advice",
        "intake",
        "colour",
        "growth",
        "day",
        "sheets",
        "machines",
        "crowd",
        "keeping",
    }
    if "machines" in wanted:
        bench_machines()
    if "sheets" in wanted:
        bench_sheets()
    if "day" in wanted:
        bench_day()
    if "plates" in wanted:
        bench_plates()
    if "screen" in wanted:
        bench_screen()
    if "schools" in wanted:
        bench_schools()
    if "advice" in wanted:
        bench_advice()
    if "intake" in wanted:
        bench_intake()
    if "colour" in wanted:
        bench_colour()
    if "hands" in wanted:
        bench_hands()
    if "crowd" in wanted:
        bench_crowd()
    if "keeping" in wanted:
        bench_keeping()
    if "growth" in wanted:
        bench_growth()
    return 0


if __name__ == "__main__":
    sys.exit(main())
