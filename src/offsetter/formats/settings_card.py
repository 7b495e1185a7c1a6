"""What a person sets by hand at a machine that takes files alone, as a small text."""

from offsetter.core.values import Frozen
from offsetter.formats.reader import for_reader


class Setting(Frozen):
    name: str
    value: str


def write_card(title: str, settings: tuple[Setting, ...], steps: tuple[str, ...]) -> str:
    title, steps = for_reader(title), tuple(map(for_reader, steps))
    settings = tuple(Setting(name=for_reader(s.name), value=for_reader(s.value)) for s in settings)
    wide = max(len(s.name) for s in settings)
    lines = [title, "=" * len(title), "", *(f"{s.name.ljust(wide)}  {s.value}" for s in settings), ""]
    lines += [f"{n}. {step}" for n, step in enumerate(steps, 1)]
    return "\n".join((*lines, ""))
