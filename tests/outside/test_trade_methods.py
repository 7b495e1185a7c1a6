"""Press values of all fifteen methods as practitioners give them: common practice, no source."""

import pytest

from offsetter.core.compute.cost import press_minutes
from offsetter.core.compute.stack import stack_faults
from offsetter.core.facts import Recipe, Stage, methods, recipes
from offsetter.core.units import fahrenheit_of
from tests.outside.test_command_line import answer, offsetter

BY_METHOD = {r.method: r for r in recipes().values()}


def stages(method: str, *schools: str) -> tuple[Stage, ...]:
    return BY_METHOD[method].stages_for(dict(s.split("=") for s in schools))


def stage(method: str, name: str, *schools: str) -> Stage:
    return next(s for s in stages(method, *schools) if s.name == name)


# Method, schools, stage, °F as given (or °C), seconds, words of the pressure.
PRACTICE = [
    ("sub-ink-fabric", (), "Transfer", 400, (60, 60), {"medium"}),
    ("sub-ink-fabric", ("dye-card=mixed",), "Transfer", 390, (50, 50), {"medium", "heavy"}),
    ("sub-ink-hard", (), "Transfer", 400, (60, 60), {"medium"}),
    ("sub-ink-hard", ("hard-blank=plaque",), "Transfer", 400, (80, 90), {"medium"}),
    ("sub-toner", (), "Transfer", 392, (60, 60), {"medium"}),
    ("toner-two-sheet", (), "Warm the lower platen", 310, (120, 120), None),
    ("toner-two-sheet", (), "Marry", 310, (120, 120), {"very light"}),
    ("toner-two-sheet", (), "Pre-press", None, (1, 10), None),
    ("toner-two-sheet", (), "Transfer", 310, (40, 40), None),
    ("toner-two-sheet", ("transfer-card=cooler",), "Transfer", 300, (30, 30), {"very firm"}),
    ("toner-two-sheet", (), "Cool", None, (180, 300), None),
    ("toner-two-sheet", (), "Finish", 310, (20, 20), {"firm"}),
    ("toner-two-sheet", ("finish-heat=low",), "Finish", 270, (20, 20), {"firm"}),
    ("toner-white-coat", (), "Marry", 330, (15, 15), None),
    ("toner-white-coat", (), "Transfer", 330, (25, 25), None),
    ("toner-white-coat", ("one-press=maker",), "Marry", 250, (25, 25), None),
    ("toner-white-coat", ("one-press=maker",), "Transfer", 375, (25, 25), None),
    ("toner-white-coat", (), "Finish", None, (5, 5), None),
    ("toner-self-weed", (), "Transfer", 300, (10, 10), {"firm"}),
    ("toner-self-weed", (), "Finish", None, (30, 30), None),
    ("toner-trim", (), "Transfer", 360, (10, 15), {"heavy"}),
    ("toner-trim", (), "Finish", None, (10, 15), None),
    ("toner-hard", (), "Transfer", 338, (180, 180), None),
    ("toner-hard", (), "Cool", None, (120, 120), None),
    ("toner-colour-sheet", (), "Warm the bed", 290, (15, 20), None),
    ("toner-colour-sheet", (), "Marry", 290, (120, 120), {"medium", "heavy"}),
    ("toner-colour-sheet", (), "Transfer", 290, (30, 30), None),
    ("toner-colour-sheet", (), "Cool", None, (120, 180), None),
    ("toner-opaque", (), "Transfer", None, (30, 40), None),
    ("inkjet-opaque", (), "Transfer", 350, (30, 30), {"medium", "firm"}),
    ("direct", (), "Dry", 330, (20, 30), {"heavy"}),
    ("direct", ("pretreat-dry=long",), "Dry", 330, (90, 90), {"medium"}),
    ("direct", (), "Let the ink set", None, (60, 120), None),
    ("direct", (), "Cure", 330, (90, 90), {"light"}),
    ("print-cut", (), "Transfer", 320, (15, 20), None),
    ("print-cut", ("vinyl-heat=low",), "Transfer", 285, (5, 5), None),
]


@pytest.mark.parametrize(("method", "schools", "name", "fahrenheit", "seconds", "pressure"), PRACTICE)
def test_a_stage_is_as_practice_gives_it(method, schools, name, fahrenheit, seconds, pressure):
    found = stage(method, name, *schools)
    if fahrenheit is not None:
        assert round(fahrenheit_of(found.temperature_c)) == fahrenheit
    assert seconds[0] <= found.time_s <= seconds[1]
    assert pressure is None or found.pressure in pressure


def test_every_method_has_a_recipe_and_every_stage_says_where_it_comes_from():
    assert set(BY_METHOD) == set(methods())
    for recipe in recipes().values():
        for one in recipe.stages:
            assert one.source, (recipe.id, one.id)
            assert one.say
            assert one.then
            assert one.temperature_c is None or one.caution, f"{recipe.id} {one.id}: heat without a caution"


@pytest.mark.parametrize(
    ("method", "schools", "missing"),
    [
        ("toner-opaque", (), {"temperature_c", "pressure"}),
        ("inkjet-light", (), {"temperature_c", "time_s", "pressure"}),
        ("sub-ink-hard", ("hard-blank=wood",), {"temperature_c", "time_s", "pressure"}),
        ("print-cut", ("vinyl-heat=nylon",), {"temperature_c", "time_s", "pressure"}),
    ],
)
def test_what_nobody_gave_is_asked_for_and_never_guessed(method, schools, missing):
    found = stage(method, "Transfer", *schools)
    assert set(found.missing) == missing
    assert found.temperature_c is None
    words = [w for s in schools for w in ("--school", s)]
    done = offsetter("press", method, *words, "--json")
    assert done.returncode == 1, "a value that nobody gave blocks the work"
    assert '"value-missing"' in done.stdout
    assert '"minutes": null' in done.stdout


def test_schools_with_one_heat_need_no_change_and_the_makers_do():
    heats = lambda *chosen: {s.temperature_c for s in stages("toner-white-coat", *chosen)} - {None}  # noqa: E731
    assert len(heats()) == 1
    assert len(heats("one-press=maker")) == 2
    assert len({s.temperature_c for s in stages("toner-colour-sheet")} - {None}) == 1


def every_stage() -> list[tuple[Recipe, Stage]]:
    return [(r, s) for r in recipes().values() for s in r.stages]


@pytest.mark.parametrize(("recipe", "one"), every_stage(), ids=lambda v: v.id)
def test_no_shipped_stack_glues_itself_or_prints_the_wrong_way(recipe, one):
    assert stack_faults(one, is_face_down=methods()[recipe.method].mirror) == ()


def turned(one: Stage) -> Stage:
    other = {"up": "down", "down": "up", "none": "none"}
    stack = tuple(
        x.model_copy(update={"printed_face": other[x.printed_face]}) if x.kind == "carrier" else x for x in one.stack
    )
    return one.model_copy(update={"stack": stack})


def bare(one: Stage) -> Stage:
    return one.model_copy(update={"stack": tuple(x for x in one.stack if x.kind not in ("cover", "pad"))})


@pytest.mark.parametrize("method", [m for m in methods() if m != "direct"])
def test_a_carrier_turned_over_is_refused_at_the_press(method):
    told = stack_faults(turned(stage(method, "Transfer")), is_face_down=methods()[method].mirror)
    assert any("turn it over" in t for t in told), told


@pytest.mark.parametrize(
    ("method", "name"),
    [
        ("toner-two-sheet", "Marry"),
        ("toner-two-sheet", "Finish"),
        ("film", "Finish"),
        ("toner-opaque", "Transfer"),
        ("direct", "Cure"),
    ],
)
def test_a_print_without_a_sheet_over_it_would_stick(method, name):
    told = stack_faults(bare(stage(method, name)), is_face_down=methods()[method].mirror)
    assert any("would stick to" in t for t in told), told


def test_sheets_that_do_not_face_each_other_are_not_married():
    told = stack_faults(turned(stage("toner-two-sheet", "Marry")), is_face_down=True)
    assert any("do not face each other" in t for t in told)


def test_warming_the_bed_is_counted_once():
    one, many = press_minutes(stages("toner-colour-sheet"), 1), press_minutes(stages("toner-colour-sheet"), 11)
    per_piece = press_minutes(tuple(s for s in stages("toner-colour-sheet") if not s.first_only and not s.alone), 1)
    assert many - one == pytest.approx(10 * per_piece, abs=0.1)


@pytest.mark.parametrize("method", list(methods()))
def test_the_command_line_gives_the_press_card_of_every_method(method):
    done = offsetter("press", method, "--pieces", 6, "--json")
    assert done.returncode == (1 if any(s.missing for s in stages(method)) else 0), done.stderr
    if done.returncode == 0:
        told = answer("press", method, "--pieces", 6)
        assert told["minutes"] > 0
        assert all(
            {"name", "temperature_c", "time_s", "pressure", "hover", "stack", "then"} <= set(s) for s in told["stages"]
        )
