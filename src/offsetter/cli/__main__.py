"""The command line: the same core as the browser, without a database or a server."""

import argparse
import json
import sys
from collections.abc import Callable, Sequence
from typing import Any, NoReturn

from pydantic import ValidationError

from offsetter.cli import artwork, bench, reading, sheets
from offsetter.cli.nozzles import nozzle_sheet, nozzles
from offsetter.cli.plan import plan
from offsetter.core.quantities import METRIC, told
from offsetter.core.values import Refusal
from offsetter.intake.limits import confine

DONE, BLOCKED, BAD_INPUT = 0, 1, 2


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        print(f"offsetter: {message}; see ./offsetter {self.prog.split()[-1]} --help.", file=sys.stderr)
        raise SystemExit(BAD_INPUT)


def _within(low: float, high: float, unit: str, what: str) -> Callable[[str], float]:
    """Reads a number that has to lie between two; what: what one outside them is not."""

    def read(text: str) -> float:
        value = float(text)
        if not low <= value <= high:
            raise argparse.ArgumentTypeError(f"{text} {unit} is no {what}: give {low:g} to {high:g}")
        return value

    return read


_length = _within(1, 3000, "mm", "print width")
_room = _within(1, 20_000, "mm", "width")
_gap = _within(0, 1000, "mm", "gap or margin")
_seconds = _within(0, 3600, "s", "time to search")
_volume = _within(0.1, 100_000, "mL", "tank")
_cleaning = _within(0, 10_000, "mL", "cleaning")
_error = _within(0.005, 2, "mm", "error to hold")


def main(arguments: Sequence[str] | None = None) -> int:
    confine()
    asked = _parser().parse_args(arguments)
    try:
        answer: dict[str, Any] = asked.run(asked)
    except Refusal as refusal:
        print(told(f"offsetter: {refusal.happened} {refusal.to_do}", METRIC), file=sys.stderr)
        return BAD_INPUT
    except ValidationError as wrong:
        first = wrong.errors()[0]
        print(
            f"offsetter: {'.'.join(str(p) for p in first['loc'])}: {first['msg']}; give another value.", file=sys.stderr
        )
        return BAD_INPUT
    print(told(json.dumps(answer, ensure_ascii=False) if asked.json else reading.in_words(answer), METRIC))
    blocks = any(f["severity"] == "blocker" for f in answer.get("findings", []))
    return BLOCKED if blocks else DONE


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(prog="offsetter", description=__doc__)
    commands_of = parser.add_subparsers(required=True, metavar="COMMAND", parser_class=_Parser)

    def command(name: str, run: Any, text: str) -> argparse.ArgumentParser:
        made = commands_of.add_parser(name, help=text, description=text)
        made.add_argument("--json", action="store_true", help="one JSON object and nothing else")
        made.set_defaults(run=run)
        return made

    command("methods", bench.methods, "The fifteen methods and their rules.")
    preflight = command("preflight", artwork.preflight, "Judge an artwork at its print width.")
    preflight.add_argument("art")
    preflight.add_argument("--method", required=True)
    preflight.add_argument("--width-mm", type=_length, required=True)
    preflight.add_argument("--cloth", type=_colour, default="#FFFFFF")
    preflight.add_argument("--page", type=int, default=1)
    preflight.add_argument("--min-stroke-mm", type=_above_zero)
    plates = command("plates", artwork.plates, "Make the plates of an artwork as TIFF or PDF.")
    plates.add_argument("art")
    plates.add_argument("--method", required=True)
    plates.add_argument("--width-mm", type=_length, required=True)
    plates.add_argument("--cloth", type=_colour, default="#FFFFFF")
    plates.add_argument("--dpi", type=int)
    plates.add_argument("--white-level", type=float)
    plates.add_argument("--choke-mm", type=float, help="negative spreads")
    plates.add_argument("--no-mirror", action="store_true")
    plates.add_argument("--out", required=True)
    contour = command("contour", sheets.contour, "The cut path round an artwork, as SVG or DXF.")
    contour.add_argument("art")
    contour.add_argument("--width-mm", type=_length, required=True)
    contour.add_argument("--offset-mm", type=float, required=True, help="above 0 outside the print")
    contour.add_argument("--max-error-mm", type=_error, default=0.05)
    contour.add_argument("--least-radius-mm", type=float, default=0.0, help="what the blade can follow")
    contour.add_argument("--no-holes", action="store_true", help="cut round the outside alone")
    contour.add_argument("--out", required=True)
    nest = command("nest", sheets.nest, "Pieces on a roll or on sheets, with the least waste.")
    nest.add_argument(
        "pieces", help="JSON with a list “pieces”: id, width_mm and height_mm or outline_mm, count, rotate"
    )
    where = nest.add_mutually_exclusive_group(required=True)
    where.add_argument("--roll", type=_room, metavar="W", help="a roll so wide, in mm")
    where.add_argument("--sheet", type=_sheet, metavar="WxH", help="sheets of this size, in mm")
    nest.add_argument("--gap-mm", type=_gap, default=3.0)
    nest.add_argument("--margin-mm", type=_gap, default=0.0)
    until = nest.add_mutually_exclusive_group()
    until.add_argument("--seconds", type=_seconds)
    until.add_argument("--iterations", type=int, help="with a seed: the same layout every time")
    nest.add_argument("--seed", type=int, default=1)
    nest.add_argument("--out", help="a drawing as .svg")
    ink = command("ink", bench.ink, "How a printer's real use of ink differs from what was expected.")
    ink.add_argument("readings", help="CSV with job, expected_ml_CHANNEL and level_pct_CHANNEL, a row a print run")
    ink.add_argument("--tank-ml", type=_volume, default=1000.0)
    ink.add_argument("--cleaning-ml", type=_cleaning, default=0.0, help="besides, with every run")
    read = command("nozzles", nozzles, "Which nozzles are out, from a scan of a nozzle sheet.")
    read.add_argument("scan", help="PNG, JPEG or TIFF at 200 dpi or more")
    read.add_argument("--sheet", required=True, metavar="SHEET.json", help="what nozzle-sheet wrote beside the sheet")
    check = command("nozzle-sheet", nozzle_sheet, "A sheet that shows every nozzle, and its description.")
    check.add_argument("--channels", default="C,M,Y,K")
    check.add_argument("--lines", type=int, default=96, help="a channel")
    check.add_argument("--name", default="", help="tells sheets of alike printers apart")
    check.add_argument("--out", required=True, metavar="F.png")
    day = command("plan", plan, "A day's work over machines, heat and hands.")
    day.add_argument("day", help="JSON with jobs and their steps, machines, people; minutes from the day's start")
    length = day.add_mutually_exclusive_group()
    length.add_argument("--seconds", type=_seconds)
    length.add_argument("--tries", type=int, help="instead of seconds: the same plan every time")
    day.add_argument("--seed", type=int, default=1)
    colour = command("colour", artwork.colour, "What one colour becomes in ink.")
    one = colour.add_mutually_exclusive_group(required=True)
    one.add_argument("--rgb", type=_three)
    one.add_argument("--cmyk", type=_four)
    one.add_argument("--lab", type=_three)
    for made in (plates, colour):
        made.add_argument("--profile", required=made is colour)
        made.add_argument("--intent", choices=("relative", "perceptual", "saturation", "absolute"), default="relative")
        made.add_argument("--no-bpc", action="store_true")
    plates.add_argument("--ink-limit", type=float)
    delta = command("delta-e", artwork.delta_e, "CIEDE2000 of two Lab colours.")
    delta.add_argument("lab_1", type=_three)
    delta.add_argument("lab_2", type=_three)
    advise = command("advise", bench.advise, "Which method for this blank, artwork and quantity, and why.")
    advise.add_argument("job", help="JSON with blank, artwork, width_mm, height_mm and quantity")
    press = command("press", bench.press, "The press card of a method: stages, stacks and minutes.")
    press.add_argument("method")
    press.add_argument("--school", action="append", default=[], metavar="QUESTION=CHOICE")
    press.add_argument("--pieces", type=int, default=1)
    fit = command("press-fit", bench.press_fit, "A press's heating and cooling from its own readings.")
    fit.add_argument("heating", help="CSV with the columns minute,celsius")
    fit.add_argument("cooling", help="the same, with the heater off")
    fit.add_argument("--room-c", type=float, required=True, help="measured beside the press")
    fit.add_argument(
        "--between", action="append", default=[], type=_between, metavar="A-B", help="minutes from A to B °C"
    )
    heats = command(
        "temperatures", bench.temperatures, "The maker's two temperatures against the house's one, for a batch."
    )
    for whose in ("maker", "house"):
        heats.add_argument(
            f"--{whose}", required=True, type=_two_presses, metavar="C/S,C/S", help="°C/seconds of both presses"
        )
    heats.add_argument("--pieces", type=int, required=True)
    heats.add_argument("--load-s", type=float, default=30, help="hands at each pressing")
    heats.add_argument("--cool-s", type=float, default=90, help="between the two presses")
    heats.add_argument("--press", required=True, help="what press-fit answered, as JSON")
    return parser


def _between(text: str) -> tuple[float, float]:
    parts = text.split("-")
    if len(parts) != 2:
        raise argparse.ArgumentTypeError(f"“{text}” must be two temperatures such as 120-160")
    return float(parts[0]), float(parts[1])


def _two_presses(text: str) -> tuple[tuple[float, float], tuple[float, float]]:
    try:
        (a, b), (c, d) = (tuple(float(n) for n in one.split("/")) for one in text.split(","))
    except ValueError:
        raise argparse.ArgumentTypeError(f"“{text}” must be two presses such as 150/12,120/8") from None
    return (a, b), (c, d)


def _sheet(text: str) -> tuple[float, float]:
    parts = text.lower().split("x")
    if len(parts) != 2:
        raise argparse.ArgumentTypeError(f"“{text}” must be a width and a height such as 320x450")
    return _room(parts[0]), _room(parts[1])


def _above_zero(text: str) -> float:
    value = float(text)
    if not 0 < value <= 3000:
        raise argparse.ArgumentTypeError(f"{text} mm is no stroke: give a width above 0")
    return value


def _colour(text: str) -> str:
    try:
        int(text.removeprefix("#"), 16)
    except ValueError:
        raise argparse.ArgumentTypeError(f"“{text}” is not a colour like '#1A2B3C'") from None
    if len(text) != 7 or text[0] != "#":
        raise argparse.ArgumentTypeError(f"“{text}” is not a colour like '#1A2B3C'")
    return text


def _numbers(text: str, count: int) -> tuple[float, ...]:
    parts = text.split(",")
    if len(parts) != count:
        raise argparse.ArgumentTypeError(f"“{text}” must be {count} numbers with commas between")
    return tuple(float(p) for p in parts)


def _three(text: str) -> tuple[float, ...]:
    return _numbers(text, 3)


def _four(text: str) -> tuple[float, ...]:
    return _numbers(text, 4)


if __name__ == "__main__":
    sys.exit(main())
