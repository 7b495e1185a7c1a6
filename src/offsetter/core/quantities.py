"""Quantities in sentences. A sentence is kept with the value itself in it, whatever its reader measures in; whoever shows it
(a page, a paper, the command line) says it in that reader's units."""

import re
from typing import Literal

from offsetter.core.sentences import BEGIN, ENGLISH, Language, shown
from offsetter.core.units import MM_PER_INCH, fahrenheit_of
from offsetter.core.values.frozen import Frozen

# Of the letters that Unicode leaves to private use, so that no text that a person writes looks like one.
OPEN, _CLOSE = "\ue000", "\ue001"
_NUMBER = r"-?[0-9.]+(?:e[-+]?[0-9]+)?"
_KEPT = re.compile(rf"{OPEN}([a-z]+):({_NUMBER})(?:x({_NUMBER}))?:([0-9]|g){_CLOSE}")
M_PER_YARD = 0.9144  # exact, by definition since 1959


_WRITTEN = re.compile(r"\{([0-9]+(?:\.[0-9]+)?) (C|mm)\}")


class Units(Frozen):
    """What a reader measures in."""

    length: Literal["mm", "in"] = "mm"
    heat: Literal["C", "F"] = "C"


METRIC = Units()


def a_length(mm: float, decimals: int | None = 0) -> str:
    """mm with so many decimals, or as short as it goes (None); inches get two more.

    >>> told(a_length(101.6), Units(length="in"))
    '4.00 in'
    """
    return _kept("length", mm, None, decimals)


def a_size(width_mm: float, height_mm: float, decimals: int | None = 0) -> str:
    """Width by height.

    >>> told(a_size(200, 250), METRIC)
    '200 x 250 mm'
    """
    return _kept("length", width_mm, height_mm, decimals)


def in_metres(metres: float, decimals: int | None = 2) -> str:
    """A length of roll, in metres or yards."""
    return _kept("roll", metres, None, decimals)


def an_area(m2: float, decimals: int | None = 0) -> str:
    return _kept("area", m2, None, decimals)


def a_heat(celsius: float, decimals: int | None = 0) -> str:
    return _kept("heat", celsius, None, decimals)


def both_heats(celsius: float) -> str:
    """The reader's degrees, the other in brackets: presses of both kinds stand in one shop.

    >>> told(both_heats(160), METRIC), told(both_heats(160), Units(heat="F"))
    ('160 °C (320 °F)', '320 °F (160 °C)')
    """
    return _kept("heats", celsius, None, 0)


def written(text: str) -> str:
    """Text of a data file, in which a quantity is written as {160 C} or {457 mm}; a heat that was given in °F with its fraction.

    >>> told(written("{204.44 C}, 60 s"), METRIC), told(written("{204.44 C}, 60 s"), Units(heat="F"))
    ('204 °C, 60 s', '400 °F, 60 s')
    """
    return _WRITTEN.sub(lambda w: a_heat(float(w[1])) if w[2] == "C" else a_length(float(w[1]), None), text)


def told(text: str, units: Units, language: Language = ENGLISH) -> str:
    """The sentence in the reader's units and language."""
    text = _KEPT.sub(lambda kept: _said(kept, units), text) if OPEN in text else text
    return shown(text, language) if BEGIN in text else text


def _kept(kind: str, value: float, by: float | None, decimals: int | None) -> str:
    second = "" if by is None else f"x{float(by)!r}"
    return f"{OPEN}{kind}:{float(value)!r}{second}:{'g' if decimals is None else decimals}{_CLOSE}"


def _said(kept: re.Match[str], units: Units) -> str:
    kind, value, decimals = kept[1], float(kept[2]), None if kept[4] == "g" else int(kept[4])
    values = (value,) if kept[3] is None else (value, float(kept[3]))
    if kind in ("heat", "heats"):
        here, there = ("C", "F") if units.heat == "C" else ("F", "C")
        return _degrees(value, here, decimals) + (f" ({_degrees(value, there, decimals)})" if kind == "heats" else "")
    per, finer, unit = {
        ("length", "mm"): (1.0, 0, "mm"), ("length", "in"): (MM_PER_INCH, 2, "in"),
        ("roll", "mm"): (1.0, 0, "m"), ("roll", "in"): (M_PER_YARD, 0, "yd"),
        ("area", "mm"): (1.0, 0, "m²"), ("area", "in"): (M_PER_YARD**2, 0, "sq yd"),
    }[kind, units.length]  # fmt: skip
    said = (_number(v / per, decimals if decimals is None else decimals + finer, per != 1.0) for v in values)
    return f"{' x '.join(said)} {unit}"


def _number(value: float, decimals: int | None, is_converted: bool) -> str:
    if decimals is None:
        return f"{value:.3g}" if is_converted else f"{value:g}"
    return f"{value:.{decimals}f}"


def _degrees(celsius: float, unit: str, decimals: int | None) -> str:
    value = celsius if unit == "C" else fahrenheit_of(celsius)
    return f"{_number(value, decimals, unit == 'F')} °{unit}"
