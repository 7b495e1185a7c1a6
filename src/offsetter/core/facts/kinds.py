"""General kinds of machines and blanks: what a new shop begins with, every value from memory until the shop has looked."""

from typing import Any, Literal

from pydantic import Field

from offsetter.core.facts.blanks import Blank, Size
from offsetter.core.facts.machines import Cutter, Machine, Oven, Press, Printer, Probe
from offsetter.core.facts.shop import Prices
from offsetter.core.values import Frozen

FROM_MEMORY = "from memory: check"
MachineSort = Literal["printers", "presses", "ovens", "cutters", "probes"]
MACHINES: dict[MachineSort, type[Machine]] = {
    "printers": Printer,
    "presses": Press,
    "ovens": Oven,
    "cutters": Cutter,
    "probes": Probe,
}
NOT_VALUES = {
    "id",
    "name",
    "kind",
    "began_as",
    "measures",
    "address",
    "retired",
    "sources",
    "readings",
    "room_c",
    "article",
    "code",
    "colour",
    "colour_name",
}
"""Fields that nobody has to check: they are given, or measured."""


class MachineKind(Frozen):
    id: str
    name: str
    said: str
    body: dict[str, Any]
    """Of the machine, but its id and name."""
    methods: tuple[str, ...] = ()
    """What a printer of this kind can do."""


class BlankKind(Frozen):
    id: str
    said: str
    colours: tuple[tuple[str, str], ...] = Field(min_length=1)
    """Name and sRGB."""
    sizes: dict[str, Size]
    body: dict[str, Any]
    """Of the blank, but its id, sizes and colour."""


class Kinds(Frozen):
    machines: dict[MachineSort, dict[str, MachineKind]]
    blanks: dict[str, BlankKind]
    prices: Prices

    @classmethod
    def from_rows(cls, rows: dict[str, Any]) -> "Kinds":
        """From the data file's tables. Raises ValidationError for a kind that no machine could be made of."""
        machines: dict[MachineSort, dict[str, MachineKind]] = {}
        for sort, model in MACHINES.items():
            for kind, row in rows[sort].items():
                body = {k: v for k, v in row.items() if k not in ("name", "said")}
                read = model.model_validate({"id": "kind", "name": "kind", **body})
                machines.setdefault(sort, {})[kind] = MachineKind(
                    id=kind, name=row["name"], said=row["said"], body=body, methods=read.methods if isinstance(read, Printer) else ()
                )  # fmt: skip
        blanks = {}
        for kind, row in rows["blanks"].items():
            body = {k: v for k, v in row.items() if k not in ("said", "colours", "sizes")}
            found = BlankKind(id=kind, said=row["said"], colours=row["colours"], sizes=row["sizes"], body=body)
            Blank.model_validate(blank_body(found, *found.colours[0]) | {"id": "kind"})
            blanks[kind] = found
        return cls(machines=machines, blanks=blanks, prices=Prices.model_validate(rows["prices"]))


def machine_body(kind: MachineKind, name: str, own: dict[str, Any]) -> dict[str, Any]:
    """A machine of a kind with what the shop says itself; each value that it did not say carries where it comes from."""
    values = {**kind.body, **own}
    return {**values, "name": name, "began_as": kind.id, "sources": unchecked(values, own)}


def blank_body(kind: BlankKind, colour_name: str, colour: str) -> dict[str, Any]:
    """A blank of a kind in one colour; colours of one kind are one article."""
    sizes = {k: s.model_dump(mode="json", exclude_defaults=True) for k, s in kind.sizes.items()}
    values = {**kind.body, "sizes": sizes}
    return {
        **values,
        "article": kind.id,
        "colour": colour,
        "colour_name": colour_name,
        "sources": unchecked(values, {}),
    }


def unchecked(values: dict[str, Any], own: dict[str, Any]) -> dict[str, str]:
    """Field to its source, for every value that nobody in the shop has looked at; a printer's feeds one by one."""
    fields = [k for k in values if k not in own and k not in NOT_VALUES]
    named = [f"feeds.{f['method']}" for f in values["feeds"]] if "feeds" in fields else []
    return dict.fromkeys([*(f for f in fields if f != "feeds"), *named], FROM_MEMORY)


def still_unchecked(known: dict[str, str], before: dict[str, Any], after: dict[str, Any]) -> dict[str, str]:
    """What is left to check once a person has saved: a value that they changed is the shop's own."""
    feeds = {
        side: {f"feeds.{f['method']}": f for f in body.get("feeds", ())}
        for side, body in (("was", before), ("is", after))
    }
    was, now = {**before, **feeds["was"]}, {**after, **feeds["is"]}
    return {k: source for k, source in known.items() if k in now and was.get(k) == now[k]}
