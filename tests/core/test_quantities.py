"""Quantities in sentences, said in the units of whoever reads them."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from offsetter.core import facts
from offsetter.core.quantities import (
    METRIC,
    OPEN,
    Units,
    a_heat,
    a_length,
    a_size,
    an_area,
    both_heats,
    in_metres,
    told,
    written,
)
from offsetter.core.sentences import BEGIN, capitalised, lowered, say, say_many, shown

AMERICAN = Units(length="in", heat="F")


@pytest.mark.parametrize(
    ("kept", "metric", "american"),
    [  # the inch and the yard by definition (1959); degrees by their scales' fixed points (0 and 100, 32 and 212)
        (a_length(25.4), "25 mm", "1.00 in"),
        (a_length(0.25, 2), "0.25 mm", "0.0098 in"),
        (a_length(0.5, None), "0.5 mm", "0.0197 in"),
        (a_size(203.2, 254), "203 x 254 mm", "8.00 x 10.00 in"),
        (in_metres(0.9144), "0.91 m", "1.00 yd"),
        (an_area(0.83612736, 2), "0.84 m²", "1.00 sq yd"),
        (a_heat(100), "100 °C", "212 °F"),
        (both_heats(160), "160 °C (320 °F)", "320 °F (160 °C)"),
        (a_length(-1e-05, 2), "-0.00 mm", "-0.0000 in"),
        (written("{121 C}, then {457 mm}"), "121 °C, then 457 mm", "250 °F, then 18 in"),
    ],
)
def test_a_sentence_is_said_in_its_readers_units(kept, metric, american):
    assert told(f"It is {kept}.", METRIC) == f"It is {metric}."
    assert told(f"It is {kept}.", AMERICAN) == f"It is {american}."


@given(st.floats(-1e9, 1e9), st.integers(0, 3))
def test_whatever_the_figure_nothing_of_how_it_is_kept_is_left(value, decimals):
    sentence = f"{a_length(value, decimals)} {both_heats(value)} {a_size(value, value, None)}"
    assert OPEN not in told(sentence, METRIC) + told(sentence, AMERICAN)
    assert float(told(a_length(value, decimals), METRIC).split()[0]) == round(value, decimals)


def test_shipped_facts_hold_no_degrees_that_only_some_can_read():
    assert "°C" not in repr([*facts.methods().values(), *facts.recipes().values()])


def test_sentences_stand_in_each_other_and_begin_as_their_place_asks():
    inner = say("{name} waits for {far}", name="It", far=a_length(25.4))
    outer = say(
        "{what}; {many}", what=capitalised(lowered(inner)), many=say_many(2, "{count} is left", "{count} are left")
    )
    assert told(outer, AMERICAN) == "It waits for 1.00 in; 2 are left"
    assert told(lowered(inner), METRIC) == "it waits for 25 mm"
    assert lowered("As it is") == "as it is"
    # Braces of a value are its own, and a text that only looks like a sentence hinders nobody.
    assert shown(say("“{name}” is kept", name="{far}")) == "“{far}” is kept"
    assert told(BEGIN * 400, METRIC) == BEGIN * 400
