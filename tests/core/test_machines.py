"""Machines over weeks: what their levels teach, how long they last, when their care is due."""

from datetime import UTC, date, datetime, timedelta
from itertools import count

import numpy as np
import pytest

from offsetter.core import facts
from offsetter.core.care import Used, before_first, due_tasks, room_said
from offsetter.core.compute.cost import pages_at_5
from offsetter.core.compute.day import Day, plan_day
from offsetter.core.compute.day.model import Job, Machine, Person, Step
from offsetter.core.compute.day.what_if import first_deliveries
from offsetter.core.facts import Levels as Store
from offsetter.core.facts import tasks_of
from offsetter.core.learned import printing_pace
from offsetter.core.levels import short_supplies
from offsetter.core.machine_acts import Cared, Filled, Levels, MachineAct, Room, Took
from offsetter.core.nozzle_care import Checked, would_show
from offsetter.core.printer_told import Supply
from offsetter.core.sending import Send
from offsetter.core.sentences import shown
from offsetter.core.supplies import parts_of, standing_of, verdict_of

NOW = datetime(2026, 3, 2, 8, 10, tzinfo=UTC)  # a Monday


NUMBERS = count()


def act(body, at):
    return MachineAct(id=f"act-{next(NUMBERS):06}", machine="petrel", at=at, body=body)


def weeks(printer, factor: float, jobs: int = 40, seed: int = 3):
    """Jobs of some white each, the level read in whole percent after each; poured in when it is nearly empty."""
    chance, level, found = np.random.default_rng(seed), 100.0, []
    for n in range(jobs):
        at, ml = NOW - timedelta(days=27.5) + timedelta(days=27 * n / jobs), float(chance.uniform(8, 14))
        if level < 12:
            found.append(act(Filled(channel="W", lot="W-2"), at - timedelta(minutes=5)))
            level = 100.0
        level -= (ml * factor + printer.cleaning_ml) / printer.tanks_ml["W"] * 100
        found.append(act(Took(job="j", run="r", count=10, m2=1, expected={"W": ml}), at))
        found.append(act(Levels(pct={"W": round(level)}), at + timedelta(minutes=2)))
    return tuple(found), level


@pytest.mark.parametrize("factor", [0.85, 1.0, 1.09, 1.3])
def test_levels_in_whole_percent_teach_what_a_print_really_takes(shop, factor):
    printer = shop.printers["petrel"]
    history, level = weeks(printer, factor)
    white = next(s for s in standing_of(printer, history, {"W": 20}, {"W": 400}, NOW.date()) if s.channel == "W")
    assert white.fit.verdict == "corrected"
    assert abs(white.fit.factor / factor - 1) * 100 <= white.fit.error_pct
    assert white.left == pytest.approx(level / 100 * 250, abs=2)
    assert white.wanted == pytest.approx(20 * white.fit.factor, abs=0.01)
    used_a_day = sum(a.body.expected["W"] for a in history if isinstance(a.body, Took)) / 28 * white.fit.factor
    assert white.pace == pytest.approx(used_a_day, rel=0.08)
    least, most = white.lasts
    assert least <= white.left / white.pace <= most
    assert white.said == ""


def test_a_level_that_nobody_explains_is_said_and_few_readings_teach_nothing(shop):
    printer = shop.printers["petrel"]
    risen = tuple(act(Levels(pct={"C": p}), NOW - timedelta(hours=3 - n)) for n, p in enumerate((40, 80)))
    cyan = standing_of(printer, risen, {}, {}, NOW.date())[0]
    assert "rose from 40 to 80" in shown(cyan.said)
    assert cyan.fit.verdict == "too few steps"
    assert cyan.lasts is None
    old = (act(Filled(channel="C", lot="C-9", expires=date(2026, 3, 10)), NOW), act(Levels(pct={"C": 90}), NOW))
    assert shown(standing_of(printer, old, {}, {}, NOW.date())[0].said).startswith("Lot C-9 expires on 10 March")
    assert standing_of(printer, old, {}, {}, date(2026, 2, 1))[0].said == ""
    over = standing_of(printer, (act(Levels(pct={"C": 90}), NOW),), {}, {"C": 100}, NOW.date())[0]
    assert "counts 100 mL in all" in shown(over.said)


def test_toner_is_reckoned_in_pages_at_five_per_cent(shop):
    """ISO/IEC 19798: a cartridge's pages are A4 at 5 % a colour; a whole A4 at 100 % takes twenty of them."""
    assert pages_at_5({"W": 100.0, "C": 5.0}, 210, 297) == {"W": 20.0, "C": 1.0}
    printer = shop.printers["puffin"]
    feed = printer.feeds[0]
    layout = type("Layout", (), {"places": tuple(type("Place", (), {"cut": n})() for n in range(1, 13)), "length_um": 0, "sheet_um": 297_000, "cut_lengths_um": (1,) * 12})()  # fmt: skip
    told = short_supplies(Store(held={"puffin": {"W": 85.0}}), printer, feed, layout, {}, {"W": 20.0})
    assert [(f.code, shown(f.message)) for f in told] == [("ink-short-W", "White ends at print 5 of 12")]
    assert "after sheet 4 of 12" in shown(told[0].fix_text)


def cared(task, days, **more):
    return act(Cared(task=task, **more), NOW - timedelta(days=days))


def test_worn_parts_last_as_many_pages_and_days_as_they_are_good_for(shop):
    printer = shop.printers["puffin"]
    assert set(printer.part_pages) == {"drum", "belt", "fuser", "waste"}
    history = tuple(act(Took(job="j", run="r", count=5, sheets=40), NOW - timedelta(days=d)) for d in range(27, -1, -1))
    told = [Supply(name="Drum", level_pct=80), Supply(name="Waste Toner Box", level_pct=95, fills_up=True), Supply(name="Feeder", level_pct=9), Supply(name="Fuser unit")]  # fmt: skip
    drum, waste, feeder, fuser = parts_of(printer, told, history, NOW.date())
    assert drum.pages == printer.part_pages["drum"] * 0.8
    assert waste.pages == printer.part_pages["waste"] * 0.05
    least, most = waste.lasts
    assert least <= waste.pages / 40 <= most, "forty sheets a day"
    assert (feeder.pages, feeder.lasts, fuser.pages) == (None, None, None)


def test_care_is_due_by_day_by_use_and_by_standing_still(shop):
    petrel = shop.printers["petrel"]
    tasks = tasks_of(facts.care(), petrel, shop.methods)
    assert {t.id for t in tasks} == {"stir-white", "nozzle-check", "wipe-cap", "waste-box", "roll-path"}
    assert {t.id for t in tasks_of(facts.care(), shop.printers["puffin"], shop.methods)} == {"toner-path", "toner-wear"}
    assert {t.id for t in tasks_of(facts.care(), shop.ovens["fulmar"], shop.methods)} == {"press-cord", "oven-filter"}
    done = [cared("stir-white", 3), cared("nozzle-check", 0), cared("wipe-cap", 2, totals={"m2": 30.0}), cared("waste-box", 5, totals={"m2": 30.0}), cared("roll-path", 1)]  # fmt: skip
    used = Used(totals={"m2": 41.0}, last_used=NOW - timedelta(days=3), a_day={"m2": 1.0})
    due = {d.task.id: d for d in due_tasks(tasks, done, used, NOW, NOW - timedelta(days=90))}
    assert (due["stir-white"].state, shown(due["stir-white"].said)) == ("due", "2 days late")
    assert due["nozzle-check"].state == "fine", "it stood still before that check, not since"
    assert (due["wipe-cap"].state, shown(due["wipe-cap"].said)) == (
        "due",
        "11 m² since the last time; it is done every 10",
    )
    assert due["waste-box"].state == "fine"
    assert [d.task.id for d in before_first(due.values())] == ["stir-white"]
    skipped = due_tasks(tasks, [*done, cared("stir-white", 0, outcome="skipped", reason="no white today")], used, NOW, NOW)  # fmt: skip
    assert before_first(skipped) == ()
    idle = due_tasks(tasks, [cared("nozzle-check", 0.7)], used, NOW, NOW)
    assert "stood still for 17 hours" in shown(next(d for d in idle if d.task.id == "nozzle-check").said)
    # More of its square metres than of its days is used up, and yet the day comes first.
    slow = Used(totals={"m2": 1.0}, last_used=NOW, a_day={"m2": 0.02})
    wiped = next(d for d in due_tasks(tasks, [cared("wipe-cap", 0.1)], slow, NOW, NOW) if d.task.id == "wipe-cap")
    assert (wiped.state, shown(wiped.said)) == ("fine", "in 7 days")


def test_the_room_and_the_sentence_over_a_machine(shop):
    room = facts.care().room
    assert room_said((), room) == ("", True)
    assert room_said((act(Room(celsius=17.5, humidity_pct=30), NOW),), room)[1] is False
    history, _ = weeks(shop.printers["petrel"], 1.0, jobs=38)
    stands = standing_of(shop.printers["petrel"], history, {"W": 500}, {}, date(2026, 3, 2))
    assert shown(verdict_of("Petrel", "ready", stands, ("Stir the white",))) == "Petrel: ready; white ends before the runs that wait are printed; stir the white is due"  # fmt: skip


def test_whether_missing_lines_matter_depends_on_the_print():
    checked = (Checked(id="a", at=NOW, by="Noor", kind="check", missing={"C": (41, 42), "K": ()}, lines=480),)
    assert shown(would_show(checked, {"C": 12.0})[0]) == "Cyan misses 2 lines, and this print covers 12 % with it: stripes would show. Clean first."  # fmt: skip
    missed, shows = would_show(checked, {"C": 0.1, "M": 40.0})
    assert "would not show" in missed
    assert not shows
    assert would_show((), {"C": 12.0}) == ("", False)


def sent(minutes: float, planned: float = 20.0, **more) -> Send:
    body = {"id": "x", "job": "j", "run": "r", "machine": "petrel", "name": "n", "by": "Ada", "made_at": NOW, "state": "done", "sheets": 2, "sheets_done": 2}  # fmt: skip
    return Send(
        **{**body, "planned_min": planned, "begun_at": NOW, "ended_at": NOW + timedelta(minutes=minutes), **more}
    )


def test_a_printer_teaches_its_own_pace_from_ten_runs_on():
    runs = [sent(20 * f) for f in (1.1, 1.2, 1.25, 1.3, 1.2, 1.15, 1.3, 1.2, 1.25)]
    assert printing_pace(runs) is None
    # One that was stopped, one that stood for want of paper, and one of a simulated printer teach nothing.
    odd = [sent(20, state="cancelled"), sent(200), sent(1), sent(20, sheets_done=1)]
    assert printing_pace([*runs, *odd]) is None
    learnt = printing_pace([*runs, sent(24), *odd])
    assert (learnt.rounds, learnt.factor) == (10, 1.2)


def test_what_of_a_late_job_could_leave_when_it_is_due():
    """Ten minutes a lot of five, one minute of packing a piece: of twenty due at 40, ten are pressed at 20 and packed at 30; with
    fifteen it would be 45."""
    lots = [Step(id=f"press:{n}", minutes=10, machines=("p",), hands="all", pieces=5) for n in range(4)]
    job = Job(id="a", name="A", due_min=40, steps=(*lots, Step(id="pack", minutes=20, hands="all")))
    easy = Job(
        id="b", name="B", due_min=500, steps=(Step(id="press:0", minutes=5, machines=("p",), hands="all", pieces=3),)
    )
    day = Day(machines=(Machine(id="p"),), people=(Person(id="ada", here=((0, 480),)),), jobs=(job, easy))
    plan = plan_day(day, share=lambda _: 1.0)
    assert plan.late == {"a": 20}
    assert [(f.job, f.pieces, f.of) for f in first_deliveries(day, plan)] == [("a", 10, 20)]
