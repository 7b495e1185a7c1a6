"""The day's planner against published job-shop optima, brute force, a closed form, and a checker that knows nothing of it."""

import json
import subprocess
import sys
from datetime import UTC, datetime, timedelta
from itertools import permutations
from pathlib import Path

import numpy as np
import pytest

from offsetter.core import facts
from offsetter.core.acts import Act, Prepared, Pressed, RanStage
from offsetter.core.compute.batch import Block, blocks_of, run_batch
from offsetter.core.compute.day import Day, Hands, Job, Machine, Person, Step, Wait, plan_day
from offsetter.core.compute.day.chances import finishes
from offsetter.core.compute.day.check import faults_of
from offsetter.core.compute.day.model import MOST_STEPS
from offsetter.core.compute.day.platen import heats_of
from offsetter.core.compute.day.solver import Effort, improve
from offsetter.core.compute.day.what_if import promise, ways_out
from offsetter.core.compute.heat import PressHeat
from offsetter.core.learned import pace_of, stage_paces
from offsetter.core.sentences import shown
from offsetter.core.values import Refusal

KNOWN = json.loads((Path(__file__).parent / "data" / "job_shop.json").read_text())
HEAT = PressHeat(q_c_per_min=14, k_per_min=0.045, room_c=22)


def job_shop(name: str) -> Day:
    rows = KNOWN[name]
    return Day(
        machines=tuple(Machine(id=str(m)) for m in sorted({m for row in rows["machines"] for m in row})),
        jobs=tuple(
            Job(
                id=f"j{i}",
                steps=tuple(Step(id=str(k), minutes=t, machines=(str(m),)) for k, (m, t) in enumerate(zip(machines, minutes, strict=True))),
            )
            for i, (machines, minutes) in enumerate(zip(rows["machines"], rows["minutes"], strict=True))
        ),
    )  # fmt: skip


@pytest.mark.parametrize("name", ["ft06", "la01"])
def test_a_published_optimum_is_found_and_proven(name):
    """Muth and Thompson 1963, Lawrence 1984; the harder ones are in bench/day.py."""
    day = job_shop(name)
    made = improve(day, plan_day(day), effort=Effort(work=20))
    assert (made.cost, made.proven) == (KNOWN[name]["optimum"], True)
    assert faults_of(day, made) == []


@pytest.mark.parametrize("seed", range(3))
def test_changes_of_heat_are_ordered_as_brute_force_orders_them(seed):
    """All orders of seven pressings on one press, each with its own heat: no published instance has such set-ups."""
    chance = np.random.default_rng(seed)
    press = Machine(id="p", kind="press", celsius=22, heat=HEAT, settle_min=0.5)
    minutes, heats = chance.integers(5, 30, 7).tolist(), chance.choice([120, 140, 160, 200], 7).tolist()
    due = chance.integers(20, 160, 7).tolist()
    jobs = tuple(
        Job(id=str(i), due_min=d, steps=(Step(id="press", minutes=m, machines=("p",), celsius=c),))
        for i, (m, c, d) in enumerate(zip(minutes, heats, due, strict=True))
    )
    day = Day(machines=(press,), jobs=jobs)

    def cost(order: tuple[int, ...]) -> int:
        at, stands, late = 0, 22.0, 0
        for i in order:
            at += press.change_min(stands, heats[i]) + minutes[i]
            stands = heats[i]
            late += max(0, at - due[i])
        return 10 * late + at

    best = min(map(cost, permutations(range(7))))
    made = improve(day, plan_day(day, seed=seed), effort=Effort(work=5))
    assert made.cost == best
    assert faults_of(day, made) == []
    assert made.floor == cost(tuple(sorted(range(7), key=lambda i: (due[i], i))))


def shop(jobs: int, seed: int, presses: int = 1) -> Day:
    """Jobs that are printed, cured, pressed (some twice) and packed by two people, of whom one may press and one leaves early."""
    chance = np.random.default_rng(seed)

    def job(i: int) -> Job:
        n, heat = int(chance.integers(4, 25)), float(chance.choice([140, 160, 200]))
        on = tuple(f"press {k}" for k in range(presses))
        steps = [
            Step(id="print", minutes=int(chance.integers(8, 40)), machines=("printer",), hands="ends", hands_before=3, hands_after=1),
            Step(id="powder", minutes=3, hands="all", after=(Wait(step="print", at_most=5),)),
            Step(id="cure", minutes=8, machines=("oven",), hands="ends", hands_before=2, hands_after=1, after=(Wait(step="powder", at_most=90),)),
            Step(id="press", minutes=3 + n, machines=on, hands="all", celsius=heat, skill="press"),
        ]  # fmt: skip
        if chance.random() < 0.5:
            steps.append(Step(id="again", minutes=3, machines=on, hands="all", celsius=140, after=(Wait(step="press", at_least=4, at_most=60),)))  # fmt: skip
        return Job(id=f"j{i}", due_min=int(chance.integers(60, 60 * jobs)), steps=(*steps, Step(id="pack", minutes=4, hands="all")))  # fmt: skip

    whole = tuple((d * 1440 + a, d * 1440 + b) for d in range(9) for a, b in ((0, 270), (300, 540)))
    return Day(
        machines=(Machine(id="printer"), Machine(id="oven"), *(Machine(id=f"press {k}", celsius=22, heat=HEAT, away=((540, 1440),)) for k in range(presses))),
        people=(Person(id="a", here=whole, skills=("press",)), Person(id="b", here=((0, 360), *whole[2:]), skills=("pack",))),
        jobs=tuple(job(i) for i in range(jobs)),
    )  # fmt: skip


@pytest.mark.parametrize(("jobs", "presses"), [(6, 1), (10, 2), (24, 1)])
def test_every_plan_can_be_done_costs_no_more_than_due_dates_and_comes_out_the_same(jobs, presses):
    day = shop(jobs, jobs, presses)
    first = plan_day(day)
    effort = Effort(work=0.02, windows=1)
    made = improve(day, first, effort=effort)
    for plan in (first, made):
        assert faults_of(day, plan) == []
    assert made.cost <= first.cost <= first.floor
    again = improve(day, plan_day(day), effort=effort)
    assert (again.places, again.cost) == (made.places, made.cost)
    if presses == 2:
        assert {p.machine for p in made.places if p.step == "press"} == {"press 0", "press 1"}


def test_the_checker_finds_what_is_wrong():
    day = shop(4, 3)
    plan = plan_day(day)
    assert faults_of(day, plan) == []

    def moved(step: str, by: int = 0, **changed):
        places = [
            p.model_copy(
                update={
                    "start_min": p.start_min + by, "end_min": p.end_min + by,
                    "hands": tuple(Hands(person=h.person, start_min=h.start_min + by, end_min=h.end_min + by) for h in p.hands), **changed,
                }
            )
            if (p.job, p.step) == ("j1", step) else p
            for p in plan.places
        ]  # fmt: skip
        return " ".join(faults_of(day, plan.model_copy(update={"places": tuple(places)})))

    assert "5 is the most" in moved("powder", 400)
    assert "after print, and wants 0" in moved("powder", -5)
    assert "is not here" in moved("press", 545 - next(p.start_min for p in plan.places if (p.job, p.step) == ("j1", "press")))  # fmt: skip
    assert "does two things" in moved("press", next(p.start_min for p in plan.places if (p.job, p.step) == ("j2", "press")) - next(p.start_min for p in plan.places if (p.job, p.step) == ("j1", "press")))  # fmt: skip
    assert "lies on “oven”" in moved("press", machine="oven")
    at = next(p.start_min for p in plan.places if (p.job, p.step) == ("j1", "press"))
    assert "by somebody who cannot" in moved("press", hands=(Hands(person="b", start_min=at, end_min=at + 5),))
    press = Machine(id="p", celsius=22, heat=HEAT)
    one = Day(machines=(press,), jobs=(Job(id="a", steps=(Step(id="x", minutes=5, machines=("p",), celsius=160),)),))
    slower = press.model_copy(update={"heat": PressHeat(q_c_per_min=9, k_per_min=0.04, room_c=22)})
    assert "p is not at 160.0 °C" in " ".join(faults_of(one.model_copy(update={"machines": (slower,)}), plan_day(one)))


def test_a_batch_at_two_heats_takes_what_the_closed_form_says():
    """n*p1 + max(w, d) + n*p2 for a batch by stage (references: maker's two temperatures), as one stage of the day."""
    n, p1, p2, cool = 5, 0.7, 0.6, 1.5
    down, up = HEAT.minutes(150, 120), HEAT.minutes(120, 150)
    trace = run_batch((Block(celsius=150, busy_min=p1, wait_min=cool), Block(celsius=120, busy_min=p2)), n, HEAT, "by stage")  # fmt: skip
    assert trace.minutes == pytest.approx(n * p1 + max(cool, down) + n * p2)
    lot = Step(id="lot", minutes=13, machines=("p",), celsius=150, ends_c=120)
    press = Machine(id="p", celsius=150, heat=HEAT)
    day = Day(machines=(press,), jobs=tuple(Job(id=i, steps=(lot,)) for i in "ab"))
    made = plan_day(day)
    # The last-to-first return is paid between the two jobs, and not before the first.
    assert made.ends_min == 13 + int(-(-up // 1)) + 13
    assert [(h.from_c, h.to_c) for h in heats_of(day, made, press)] == [(150, 120), (120, 150), (150, 120)]


def test_a_pin_is_kept_by_every_way_of_planning_and_refused_where_it_cannot_be():
    day = shop(6, 2)

    def pinned(job: str, step: str, minute: int) -> Day:
        def put(s: Step) -> Step:
            return s.model_copy(update={"pinned_min": minute}) if s.id == step else s

        return Day(machines=day.machines, people=day.people, jobs=tuple(Job(id=j.id, due_min=j.due_min, steps=tuple(put(s) if j.id == job else s for s in j.steps)) for j in day.jobs))  # fmt: skip

    held = pinned("j4", "press", 400)
    made = improve(held, plan_day(held), effort=Effort(work=0.05))
    assert faults_of(held, made) == []
    assert next(p.start_min for p in made.places if (p.job, p.step) == ("j4", "press")) == 400
    with pytest.raises(Refusal, match="not ready by that time"):
        plan_day(pinned("j4", "press", 20))
    with pytest.raises(Refusal, match="cannot begin then"):
        plan_day(pinned("j4", "press", 280))  # in the break


def test_ways_out_of_being_late_are_planned_again_and_an_order_more_is_promised():
    weeding = tuple(Job(id=f"j{i}", name=f"J{i}", due_min=60, steps=(Step(id="weed", minutes=30, hands="all"),)) for i in range(4))  # fmt: skip
    alone = Day(people=(Person(id="a", here=((0, 90), (1440, 1900))),), jobs=weeding)
    plan = plan_day(alone)
    # Two are done by 60; the third at 90, the last the next day at 1470.
    assert sorted(plan.late.values()) == [30, 1410]
    outs = {shown(w.name): w for w in ways_out(alone, plan, 1440)}
    assert (outs["one more pair of hands"].late, outs["one more pair of hands"].hands_min) == ({}, 60)
    longer = outs["everybody an hour longer today"]
    assert (sorted(longer.late.values()), longer.hands_min) == ([30, 60], 60)
    more = promise(alone, plan, Job(id="new", steps=(Step(id="weed", minutes=20, hands="all"),)))
    assert (more.quietly_min, more.soonest_min) == (1490, 20)
    assert sum(more.pushes.values()) > 0
    assert ways_out(alone, plan_day(alone.model_copy(update={"jobs": weeding[:2]})), 1440) == ()


def test_finishes_spread_as_the_sum_of_independent_stages_does():
    """The sum of n independent times: its mean the sum of the means, its variance the sum of the variances."""
    n, minutes = 12, 100
    steps = tuple(Step(id=str(i), minutes=minutes, machines=("m",)) for i in range(n))
    day = Day(machines=(Machine(id="m"),), jobs=(Job(id="a", steps=steps),))
    early, likely, late = finishes(day, plan_day(day), spread={"m": 0.3}, runs=600)["a"]
    deviation = 0.3 * minutes * n**0.5
    assert likely == pytest.approx(n * minutes, rel=0.02)
    # Nine in ten lie below 1.2816 standard deviations over the mean.
    assert late - early == pytest.approx(2 * 1.2816 * deviation, rel=0.12)
    assert finishes(day, plan_day(day), runs=20) == finishes(day, plan_day(day), runs=20)


@pytest.mark.parametrize(("jobs", "presses"), [(6, 1), (10, 2), (24, 1)])
def test_a_plan_carried_out_as_planned_is_done_when_it_says(jobs, presses):
    """With stages that take what they were planned to take, nothing is later; what could begin sooner does."""
    day = shop(jobs, jobs, presses)
    plan = improve(day, plan_day(day), effort=Effort(work=0.02, windows=1))
    ends = {j.id: max(p.end_min for p in plan.places if p.job == j.id) for j in day.jobs}
    sure = finishes(day, plan, spread={"": 0, **{m.id: 0 for m in day.machines}}, runs=2)
    assert all(early == late <= ends[job] for job, (early, _, late) in sure.items())
    spread = finishes(day, plan)
    assert all(early <= likely <= late for early, likely, late in spread.values())
    assert sum(late for _, _, late in spread.values()) > sum(ends.values())


BAD = {
    "a ring": ({"jobs": [{"id": "a", "steps": [{"id": "x", "minutes": 1, "after": [{"step": "y"}]}, {"id": "y", "minutes": 1}]}]}, "round a ring"),
    "longer than any day": (
        {"people": [{"id": "p", "here": [[0, 480]]}], "jobs": [{"id": "a", "steps": [{"id": "x", "minutes": 600, "hands": "all"}]}]},
        "longer than 480",
    ),
    "nobody": ({"jobs": [{"id": "a", "steps": [{"id": "x", "minutes": 5, "hands": "all"}]}]}, "nobody here can"),
    "no hours": ({"people": [{"id": "p", "here": []}], "jobs": [{"id": "a", "steps": [{"id": "x", "minutes": 5, "hands": "all"}]}]}, "fits nowhere"),
    "lost machine": ({"jobs": [{"id": "a", "steps": [{"id": "x", "minutes": 5, "machines": ["m"]}]}]}, "no machine of this day"),
    "never so hot": (
        {"machines": [{"id": "m", "celsius": 20, "heat": {"q_c_per_min": 5, "k_per_min": 0.05, "room_c": 20}}],
         "jobs": [{"id": "a", "steps": [{"id": "x", "minutes": 5, "machines": ["m"], "celsius": 180}]}]},
        "never reaches",
    ),
    "too much": ({"jobs": [{"id": f"j{i}", "steps": [{"id": "x", "minutes": 1}]} for i in range(MOST_STEPS + 1)]}, "planned at once"),
    "endless": ({"jobs": [{"id": "a", "steps": [{"id": "x", "minutes": 1e308}]}]}, "minutes"),
}  # fmt: skip


def offsetter(*told: object) -> subprocess.CompletedProcess:
    return subprocess.run([sys.executable, "-m", "offsetter.cli", *map(str, told)], capture_output=True, text=True, check=False, stdin=subprocess.DEVNULL)  # fmt: skip


@pytest.mark.parametrize("name", BAD)
def test_what_cannot_be_planned_is_said_in_one_sentence(name, tmp_path):
    day, said = BAD[name]
    (tmp_path / "day.json").write_text(json.dumps(day))
    done = offsetter("plan", tmp_path / "day.json", "--tries", 2, "--json")
    assert (done.returncode, done.stdout) == (2, "")
    assert said in done.stderr
    assert "Traceback" not in done.stderr


def test_the_command_gives_the_same_plan_for_the_same_seed_and_counts_late_jobs(tmp_path):
    day = shop(5, 1)
    (tmp_path / "day.json").write_text(day.model_dump_json())
    one, two = (
        json.loads(offsetter("plan", tmp_path / "day.json", "--tries", 20, "--seed", 7, "--json").stdout) for _ in range(2)
    )  # fmt: skip
    assert one["places"] == two["places"]
    assert one["jobs"] == 5
    assert one["stages"] == day.steps == len(one["places"])
    assert one["cost"] <= one["floor_cost"]
    assert set(one["late_min"]) == {j.id for j in day.jobs if max(p["end_min"] for p in one["places"] if p["job"] == j.id) > j.due_min}  # fmt: skip
    assert {p["machine"] for p in one["platens"]} == {"press 0"}


def test_a_stage_of_preparing_is_planned_by_what_its_lots_took():
    """Oven lots of one run, an eighth slower than on paper; those that were ticked by hand say nothing."""
    recipe = facts.recipes()["film-house"]
    stage = next(s for s in recipe.stages if s.id == "cure-oven")
    ran = RanStage(stage=stage.id, temperature_c=stage.temperature_c, planned_s=stage.time_s, ran_s=stage.time_s)
    at, acts = datetime(2026, 11, 2, 8, tzinfo=UTC), []
    for i in range(24):
        at += timedelta(seconds=(stage.time_s + stage.hands_s) * 1.125)
        body = Prepared(run="r", stage=stage.id, count=4, ran=None if i % 6 == 5 else ran)
        acts.append(Act(id=f"lot-{i:05}", job="j", at=at, actor="Ada", signature="x", body=body))
    (found,) = stage_paces(tuple(acts), {recipe.id: recipe}).items()
    assert found[0] == "stage:cure-oven"
    assert (found[1].factor, found[1].rounds) == (pytest.approx(1.125, abs=0.01), 16)
    assert stage_paces(tuple(acts[:11]), {recipe.id: recipe}) == {}


def test_a_press_is_planned_by_what_its_rounds_took_once_there_are_enough():
    recipe = facts.recipes()["film-house"]
    ran = tuple(
        RanStage(stage=s.id, temperature_c=s.temperature_c, planned_s=s.time_s, ran_s=s.time_s)
        for s in recipe.stages_for({})
        if s.part == "press" and not s.first_only
    )
    planned = sum(b.busy_min for b in blocks_of(tuple(s for s in recipe.stages if s.id in {r.stage for r in ran})))
    chance = np.random.default_rng(4)
    at, acts = datetime(2026, 11, 2, 8, tzinfo=UTC), []
    for i in range(30):
        # A fifth slower than the recipe, give or take; twice somebody was called away for an hour.
        at += timedelta(minutes=60 if i in (10, 20) else planned * 1.2 * chance.uniform(0.9, 1.1))
        body = Pressed(run="r", size="S", press="gannet", recipe=recipe.id, stages=ran)
        acts.append(Act(id=f"round-{i:04}", job="j", at=at, actor="Ada", signature="x", body=body))
    pace = pace_of(tuple(acts), {recipe.id: recipe})["gannet"]
    assert pace.rounds == 27
    assert pace.factor == pytest.approx(1.2, abs=0.05)
    assert 1.05 < pace.low < pace.factor < pace.high < 1.35
    assert pace_of(tuple(acts[:10]), {recipe.id: recipe}) == {}
