"""Sentences, kept apart from what stands in them: text, names and values between characters that no person types. Whoever shows one (a page, a
paper, the command line) puts it together in its reader's language; English is the text as it is written here, beside its rule."""

import re
from collections.abc import Callable, Iterable
from datetime import date
from typing import Literal, Protocol, get_args

# Of the letters that Unicode leaves to private use.
BEGIN, _END, _NAME, _VALUE, _MANY = "\ue002", "\ue003", "\ue004", "\ue005", "\ue006"
_CASE, _DAY = "\ue007", "\ue008"
_INNERMOST = re.compile(f"{BEGIN}([^{BEGIN}{_END}]*){_END}")
_FIELD = re.compile(r"\{(\w+)\}")
DEEPEST = 16
"""Sentences within each other; what a person typed to look like more is left as it is."""


Written = Literal["weekday", "short weekday", "short", "long", "full"]
"""How a day is written: Thursday, Thu, 3 Dec, 3 December, 3 December 2026."""


class Language(Protocol):
    def text(self, english: str) -> str:
        """The same in this language, its values still to come; english where nobody gave it."""

    def counted(self, one: str, many: str, count: int) -> str:
        """The form that so many take."""

    def day(self, at: date, how: Written) -> str:
        """As this language writes it."""

    def value(self, text: str) -> str:
        """What stands in a sentence: something that came with the program is said in this language, all else as it is."""


class English:
    def text(self, english: str) -> str:
        return english

    def counted(self, one: str, many: str, count: int) -> str:
        return one if count == 1 else many

    def value(self, text: str) -> str:
        return text

    def day(self, at: date, how: Written) -> str:
        return at.strftime({"weekday": "%A", "short weekday": "%a", "short": "%-d %b", "long": "%-d %B", "full": "%-d %B %Y"}[how])  # fmt: skip


ENGLISH = English()


def say(text: str, /, **values: object) -> str:
    """A sentence, or a part of one. text: English, with the names of its values in braces. Values may be sentences.

    >>> shown(say("{what} is {far} off", what=say("The print"), far=3))
    'The print is 3 off'
    """
    if not values:
        return f"{BEGIN}{text}{_END}"
    return f"{BEGIN}{text}{''.join(f'{_NAME}{n}{_VALUE}{v}' for n, v in values.items())}{_END}"


def say_many(count: int, one: str, many: str, /, **values: object) -> str:
    """The same in the form that count takes; {count} is known.

    >>> shown(say_many(1, "{count} piece is left", "{count} pieces are left"))
    '1 piece is left'
    """
    return say(f"{one}{_MANY}{many}{_MANY}{count}", count=count, **values)


def listed(parts: Iterable[str]) -> str:
    """Such as "cyan, magenta and white".

    >>> shown(listed(("cyan", "magenta", "white")))
    'cyan, magenta and white'
    """
    found = tuple(parts)
    if len(found) < 2:
        return found[0] if found else ""
    *others, before, last = found
    end = say("{one} and {other}", one=before, other=last)
    return ", ".join((*others, end))


def a_day(at: date, how: Written) -> str:
    """A day in words; of a moment its own.

    >>> shown(say("ready on {day}", day=a_day(date(2026, 12, 3), "long")))
    'ready on 3 December'
    """
    return f"{BEGIN}{_DAY}{how}:{at:%Y-%m-%d}{_END}"


def lowered(text: str) -> str:
    """In the middle of a sentence: its first letter small.

    >>> shown(lowered(say("{name} waits", name="It")))
    'it waits'
    """
    return f"{BEGIN}{_CASE}l{text}{_END}" if BEGIN in text else text[:1].lower() + text[1:]


def capitalised(text: str) -> str:
    """At the beginning of a sentence: its first letter large."""
    return f"{BEGIN}{_CASE}c{text}{_END}" if BEGIN in text else text[:1].upper() + text[1:]


def shown(text: str, language: Language = ENGLISH) -> str:
    """Put together, in a language. Innermost first, so that what is put in is whole; a text that only looks like one is left alone."""
    put = _putter(language)
    for _ in range(DEEPEST):
        if BEGIN not in text:
            break
        text = _INNERMOST.sub(put, text)
    return text


def _day(kept: str, language: Language) -> str:
    """Empty for what is none."""
    how, _, at = kept.partition(":")
    try:
        return language.day(date.fromisoformat(at), how) if how in get_args(Written) else ""  # type: ignore[arg-type]
    except ValueError:
        return ""


def _putter(language: Language) -> Callable[[re.Match[str]], str]:
    def put(kept: re.Match[str]) -> str:
        inside = kept[1]
        if inside[:1] == _CASE:
            rest = inside[2:]
            return (rest[:1].upper() if inside[1:2] == "c" else rest[:1].lower()) + rest[1:]
        if inside[:1] == _DAY:
            return _day(inside[1:], language) or kept[0]
        text, *told = inside.split(_NAME)
        if _MANY in text:
            one, many, count = text.split(_MANY)
            text = language.counted(one, many, int(count))
        else:
            text = language.text(text)
        if not told:
            return text
        values = dict(one.split(_VALUE, 1) for one in told)
        return _FIELD.sub(lambda f: language.value(values[f[1]]) if f[1] in values else f[0], text)

    return put
