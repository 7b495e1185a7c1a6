"""At the press and the printer: recipes, heat, advice, ink."""

import csv
import math
from argparse import Namespace
from pathlib import Path
from typing import Any

from offsetter.cli.reading import MOST_READINGS, columns_of, findings_told, json_file, method_called, number_in, text_of
from offsetter.core import facts
from offsetter.core.compute.heat import HIGHEST_C
from offsetter.core.values import Refusal


def methods(_: Namespace) -> dict[str, Any]:
    return {"methods": [m.model_dump(mode="json") for m in facts.methods().values()]}


def advise(asked: Namespace) -> dict[str, Any]:
    from offsetter.core.compute.advice import advise as ranked_for
    from offsetter.core.compute.fit import AdviceJob

    job = AdviceJob.model_validate(json_file(Path(asked.job)))
    advice = ranked_for(job, facts.methods(), facts.recipes(), facts.advice_facts())
    return {
        "ranked": [
            {
                "method": a.method, "name": a.name, "verdict": a.verdict, "reasons": [r.said for r in a.reasons],
                "cost_per_piece": None if a.cost_per_piece is None else float(a.cost_per_piece), "minutes_per_piece": a.minutes_per_piece,
                "wash_life": a.wash_life, "hand_feel": a.hand_feel,
            }
            for a in advice.ranked
        ],
        "recommended": advice.recommended, "runner_up": advice.runner_up, "would_change": list(advice.would_change),
        "prices": "from memory, without the blank",
    }  # fmt: skip


def press(asked: Namespace) -> dict[str, Any]:
    from offsetter.core.compute.cost import press_minutes
    from offsetter.core.compute.stack import stage_findings

    method = method_called(asked.method)
    recipe = next((r for r in facts.recipes().values() if r.method == method.id), None)
    if recipe is None:
        raise Refusal("no-recipe", f"There is no recipe for {method.id}.", "", "Add one as a data file of its own.")
    if not 1 <= asked.pieces <= 100_000:
        raise Refusal("no-pieces", f"{asked.pieces} pieces cannot be pressed.", "", "Give 1 to 100000.")
    pairs = [s.partition("=") for s in asked.school]
    stages = recipe.stages_for({question: choice for question, _, choice in pairs})
    findings = stage_findings(stages, is_face_down=method.mirror)
    return {
        "recipe": recipe.name, "version": recipe.version, "findings": findings_told(findings),
        # What nobody gave has no length yet: the minutes would be a guess.
        "minutes": None if any(s.missing for s in stages) else press_minutes(stages, asked.pieces),
        "stages": [
            {**s.model_dump(mode="json"), "stack": [layer.model_dump(mode="json") for layer in s.stack]} for s in stages
        ],
    }  # fmt: skip


def press_fit(asked: Namespace) -> dict[str, Any]:
    from offsetter.core.compute.heat import fit_press

    fitted = fit_press(_readings(Path(asked.heating)), _readings(Path(asked.cooling)), asked.room_c)
    minutes = {f"{a:g}-{b:g}": fitted.minutes(a, b) for a, b in asked.between}
    return {
        "q_c_per_min": round(fitted.q_c_per_min, 4), "k_per_min": round(fitted.k_per_min, 6), "room_c": fitted.room_c,
        "ceiling_c": round(fitted.ceiling_c, 2),
        # JSON has no infinity: a temperature that this press never reaches takes no number of minutes.
        "minutes": {k: round(m, 3) if math.isfinite(m) else None for k, m in minutes.items()},
    }  # fmt: skip


def temperatures(asked: Namespace) -> dict[str, Any]:
    from offsetter.core.compute.heat import PressHeat, TwoPresses, batch_minutes

    if not 1 <= asked.pieces <= 100_000:
        raise Refusal("no-pieces", f"{asked.pieces} pieces cannot be pressed.", "", "Give 1 to 100000.")
    if min(asked.load_s, asked.cool_s) < 0:
        raise Refusal("bad-times", "Loading and cooling take no negative time.", "", "Give seconds from 0.")
    fitted = json_file(Path(asked.press))
    try:
        heat = PressHeat.model_validate({k: fitted[k] for k in ("q_c_per_min", "k_per_min", "room_c")})
    except (KeyError, TypeError, ValueError):
        raise Refusal("no-fit", f"“{asked.press}” is not what press-fit answers.", "",
                      "Give a JSON object with q_c_per_min, k_per_min and room_c.") from None  # fmt: skip
    answer: dict[str, Any] = {}
    for whose in ("maker", "house"):
        (first_c, first_s), (second_c, second_s) = getattr(asked, whose)
        for celsius, seconds in getattr(asked, whose):
            if not heat.room_c < celsius <= min(HIGHEST_C, heat.ceiling_c - 1) or not 0 < seconds <= 3600:
                raise Refusal("bad-press", f"{celsius:g} °C for {seconds:g} s is no pressing on this press.", "",
                              f"Give {heat.room_c:.0f} to {min(HIGHEST_C, heat.ceiling_c - 1):.0f} °C and 1 to 3600 s.")  # fmt: skip
        work = TwoPresses(first_c=first_c, first_min=(asked.load_s + first_s) / 60, second_c=second_c,
                          second_min=(asked.load_s + second_s) / 60, cool_min=asked.cool_s / 60)  # fmt: skip
        answer[whose] = {k: round(m, 3) for k, m in batch_minutes(work, asked.pieces, heat).model_dump().items()}
    return answer


def _readings(path: Path) -> tuple[tuple[float, float], ...]:
    """Rows of minute,celsius. Raises Refusal that names the row."""
    rows = list(csv.DictReader(text_of(path).splitlines()))
    if len(rows) > MOST_READINGS:
        raise Refusal(
            "too-many-readings", f"“{path.name}” has {len(rows)} readings.", "", f"Give at most {MOST_READINGS}."
        )
    found = []
    for number, row in enumerate(rows, 2):
        try:
            found.append((float(row["minute"]), float(row["celsius"])))
        except (KeyError, TypeError, ValueError):
            raise Refusal("bad-readings", f"Row {number} of “{path.name}” is not a minute and a temperature.", "",
                          "Give a first row minute,celsius and numbers below it.") from None  # fmt: skip
    return tuple(found)


def ink(asked: Namespace) -> dict[str, Any]:
    from offsetter.core.compute.ink_fit import fit_ink

    rows = columns_of(Path(asked.readings))
    channels = [c.removeprefix("expected_ml_") for c in rows[0] if c.startswith("expected_ml_")]
    if not channels or any(f"level_pct_{c}" not in rows[0] for c in channels):
        raise Refusal(
            "wrong-columns",
            f"“{Path(asked.readings).name}” lacks expected_ml_… or level_pct_… of a channel.",
            "",
            "Give both for each.",
        )
    found = {}
    for c in channels:
        expected, levels = (
            [number_in(r[f"expected_ml_{c}"]) for r in rows],
            [number_in(r[f"level_pct_{c}"]) for r in rows],
        )
        if any(not 0 <= e <= 100_000 for e in expected) or any(not -3 <= v <= 100 for v in levels):
            raise Refusal(
                "no-reading",
                f"A value of {c} can be none: use is 0 or more, a level 0 to 100 (or -1 to -3: not told).",
                "",
                "Put it right.",
            )
        found[c] = fit_ink(tuple(expected), tuple(levels), asked.tank_ml, asked.cleaning_ml)
    return {
        "factor": {c: f.factor for c, f in found.items()}, "error_pct": {c: f.error_pct for c, f in found.items()},
        "verdict": {c: f.verdict for c, f in found.items()}, "steps": {c: f.steps for c, f in found.items()},
        "fills": {c: f.fills for c, f in found.items()},
    }  # fmt: skip
