"""Texts in a language: a catalogue in gettext's form (PO), which any translator's program opens. English needs none: it stands in the program.

offsetter.pot beside this holds every text of the program; tools/texts.py writes it.
"""

import re
from collections.abc import Callable, Collection
from datetime import date
from pathlib import Path
from typing import Any

from offsetter.core.facts.texts import FIELDS, shipped_texts
from offsetter.core.sentences import ENGLISH, Language, Written
from offsetter.core.values import Refusal

CODE = re.compile(r"[a-z]{2,3}(_[A-Z]{2})?")
LARGEST_BYTES = 4_000_000
PAGES = "frontend/"
COUNT_OF_MANY = 100
SKELETONS: dict[Written, str] = {
    "weekday": "EEEE",
    "short weekday": "EEE",
    "short": "MMMd",
    "long": "MMMMd",
    "full": "yMMMMd",
}
"""What is told of a day, in Unicode's letters (UTS 35); each language has its own order for it."""
SHIPPED = Path(__file__).parent / "texts"


class Catalogue:
    """One language's texts. What nobody put into it is said in English."""

    def __init__(
        self,
        code: str,
        name: str,
        texts: dict[str, str],
        counted: dict[str, tuple[str, ...]],
        form: Callable[[int], int],
        of_pages: Collection[str] = (),
    ) -> None:
        """of_pages: those of the English texts that stand in pages."""
        self.code, self.name = code, name
        self._texts, self._counted, self._form = texts, counted, form
        self._of_pages = of_pages

    def text(self, english: str) -> str:
        return self._texts.get(english, english)

    def counted(self, one: str, many: str, count: int) -> str:
        forms = self._counted.get(one)
        return ENGLISH.counted(one, many, count) if forms is None else forms[min(self._form(count), len(forms) - 1)]

    def value(self, text: str) -> str:
        """Within a sentence it may be written small."""
        for english in (text, text[:1].upper() + text[1:]):
            if english in shipped_texts():
                return self._texts.get(english, text)
        return text

    def of_shop(self, told: Any, speaks: bool = False) -> Any:
        """An answer as JSON has it, what methods, recipes and care say in it in this language."""
        match told:
            case dict():
                return {k: self.of_shop(v, k in FIELDS or k == "method_names") for k, v in told.items()}
            case list():
                return [self.of_shop(v, speaks) for v in told]
            case str() if speaks and told in shipped_texts():
                return self._texts.get(told, told)
        return told

    def day(self, at: date, how: Written) -> str:
        from babel.dates import format_skeleton

        return str(format_skeleton(SKELETONS[how], at, locale=self.code))

    def for_pages(self) -> dict[str, str]:
        """What pages say: English to the same here, and of what is counted its first form with each way of counting ("{count} print_few")."""
        told = {english: self._texts[english] for english in self._of_pages if english in self._texts}
        ways = _ways_of_counting(self.code, self._form)
        for one in self._of_pages:
            forms = self._counted.get(one)
            if forms:
                told |= {f"{one}_{way}": forms[min(form, len(forms) - 1)] for way, form in ways.items()}
        return told


class InJson:
    """The same where sentences stand in JSON already: its quotes are written otherwise there."""

    def __init__(self, language: Language) -> None:
        self._language = language

    def text(self, english: str) -> str:
        return _escaped(self._language.text(_plain(english)))

    def counted(self, one: str, many: str, count: int) -> str:
        return _escaped(self._language.counted(_plain(one), _plain(many), count))

    def value(self, text: str) -> str:
        return _escaped(self._language.value(_plain(text)))

    def day(self, at: date, how: Written) -> str:
        return _escaped(self._language.day(at, how))


def read_catalogue(path: Path) -> Catalogue:
    """A file named by its language, such as de.po. Raises Refusal for what is none."""
    # Loaded by the first shop that has one.
    from babel import UnknownLocaleError
    from babel.messages.pofile import PoFileError, read_po

    code = path.stem
    if not CODE.fullmatch(code) or path.stat().st_size > LARGEST_BYTES:
        raise Refusal(
            "bad-texts",
            f"{path.name} is no language's catalogue.",
            "It is left out.",
            "Name it by its language, such as de.po.",
        )
    try:
        with path.open("rb") as file:
            found = read_po(file, locale=code, abort_invalid=True)
    except (PoFileError, UnknownLocaleError, ValueError, OSError) as wrong:
        raise Refusal(
            "bad-texts",
            f"{path.name} cannot be read: {wrong}.",
            "It is left out.",
            "Put it right in a program for translators.",
        ) from wrong
    texts: dict[str, str] = {}
    counted: dict[str, tuple[str, ...]] = {}
    of_pages: list[str] = []
    for message in found:
        if not message.id or message.fuzzy:
            continue
        match message.id, message.string:
            case ((str() as english), (str() as told)) if told and _fields(english) == _fields(told):
                texts[english] = told
            case ((str() as one), *_), ((str(), *_) as forms) if all(forms):
                counted[one] = tuple(str(f) for f in forms)
        # A program for translators may leave out where a text stands.
        if not message.locations or any(file.startswith(PAGES) for file, _ in message.locations):
            of_pages.append(message.id if isinstance(message.id, str) else message.id[0])
    name = found.locale.get_display_name() if found.locale else None
    return Catalogue(code, name or code, texts, counted, _form_of(found.plural_expr), of_pages)


def catalogues_in(*folders: Path) -> dict[str, Catalogue]:
    """Of every language that lies there, by its code; a later folder's goes before an earlier one's. What cannot be read is left out."""
    found: dict[str, Catalogue] = {}
    for folder in folders:
        for path in sorted(folder.glob("*.po")) if folder.is_dir() else ():
            try:
                found[path.stem] = read_catalogue(path)
            except Refusal:
                continue
    return found


def _fields(text: str) -> set[str]:
    """A text that lost a value would say something else."""
    return set(re.findall(r"\{(\w+)\}", text))


def _ways_of_counting(code: str, form: Callable[[int], int]) -> dict[str, int]:
    """A browser's names of a language's ways of counting (one, few, other), to the catalogue's forms, by number: what each says of the same counts."""
    from babel import Locale

    rule = Locale.parse(code).plural_form
    ways = {rule(n): form(n) for n in (1_000_000, *reversed(range(200)))}
    return {"other": form(COUNT_OF_MANY)} | ways


def _form_of(expression: str) -> Callable[[int], int]:
    from gettext import c2py

    made: Callable[[int], int] = c2py(expression)
    return made


def _plain(text: str) -> str:
    return text.replace('\\"', '"').replace("\\\\", "\\") if "\\" in text else text


def _escaped(text: str) -> str:
    return text.replace("\\", "\\\\").replace('"', '\\"') if '"' in text or "\\" in text else text
