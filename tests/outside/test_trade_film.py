"""Values of `film` as practitioners give them: common practice, no source."""

import pytest

from offsetter.core.facts import methods, recipes
from offsetter.core.units import fahrenheit_of

FILM = recipes()["film-house"]


def stage(name: str, **schools: str):
    chosen = {q.replace("_", "-"): c for q, c in schools.items()}
    return next(s for s in FILM.stages_for(chosen) if s.name == name)


@pytest.mark.parametrize(
    ("name", "schools", "celsius", "seconds"),
    [
        ("Cure in the oven", {"film_cure": "oven"}, (160, 170), (120, 300)),
        ("Pre-press", {}, None, (2, 5)),
        ("Transfer", {"film_transfer": "standard"}, (160, 170), (15, 20)),
        ("Finish", {"finish": "yes"}, None, (10, 15)),
    ],
)
def test_a_stage_lies_inside_what_practice_gives(name, schools, celsius, seconds):
    found = stage(name, **schools)
    assert celsius is None or celsius[0] <= found.temperature_c <= celsius[1]
    assert seconds[0] <= found.time_s <= seconds[1]


@pytest.mark.parametrize(
    ("name", "schools", "fahrenheit", "seconds"),
    [
        ("Cure under the press", {"film_cure": "hover"}, 285, (60, 120)),
        ("Transfer", {"film_transfer": "low"}, 285, (15, 15)),
        ("Finish", {"finish": "yes", "film_transfer": "low"}, 285, (5, 5)),
    ],
)
def test_a_school_given_in_fahrenheit_shows_as_it_was_given(name, schools, fahrenheit, seconds):
    found = stage(name, **schools)
    assert round(fahrenheit_of(found.temperature_c)) == fahrenheit
    assert seconds[0] <= found.time_s <= seconds[1]


def test_film_is_mirrored_colour_first_white_last_face_down_and_peeled_cold():
    film = methods()["film"]
    assert film.mirror
    assert film.plate_order == ("colour", "white")
    faces = [layer.printed_face for layer in stage("Transfer").stack if layer.what == "Film"]
    assert faces == ["down"]
    names = [s.name for s in FILM.stages_for({})]
    assert names.index("Transfer") < names.index("Cool") < names.index("Peel")


def test_hovering_never_touches_and_one_heat_holds_for_all_of_a_school():
    assert stage("Cure under the press", film_cure="hover").hover
    for transfer in ("standard", "low"):
        heats = {s.temperature_c for s in FILM.stages_for({"film-transfer": transfer}) if s.part == "press"} - {None}
        assert len(heats) == 1


def test_the_fifteen_methods_are_there_and_the_mirror_follows_the_face():
    assert len(methods()) == 15
    upwards = {"toner-opaque", "inkjet-opaque", "direct", "print-cut"}
    assert {m.id for m in methods().values() if not m.mirror} == upwards
    assert {m.id for m in methods().values() if m.white == "plate"} == {
        "film",
        "direct",
        "toner-two-sheet",
        "toner-white-coat",
    }
