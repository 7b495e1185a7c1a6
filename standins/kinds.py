"""The seven printers of the demo's shop that stand on its network. All values are invented."""

from collections.abc import Callable

from standins.engine import Container, Kind, Paper

INKS = {"C": ("Cyan", "#00FFFF"), "M": ("Magenta", "#FF00FF"), "Y": ("Yellow", "#FFFF00"), "K": ("Black", "#000000"), "W": ("White", "#FFFFFF")}  # fmt: skip


def _tanks(holds: float, left: dict[str, float], lays: dict[str, float], kind: str = "ink-tank", word: str = "ink") -> list[Container]:  # fmt: skip
    """left: shares of what they hold."""
    return [
        Container(f"{INKS[c][0]} {word}", c, INKS[c][1], kind, holds, share * holds, lays.get(c, 1.0))
        for c, share in left.items()
    ]


def _waste(left: float) -> Container:
    return Container("Waste box", "", "none", "waste-ink", 1.0, left)


def _film() -> Kind:
    lays = {"C": 1.05, "M": 0.97, "Y": 1.02, "K": 1.08, "W": 1.09}
    return Kind("petrel", "Film printer", [*_tanks(250, {"C": 0.62, "M": 0.58, "Y": 0.71, "K": 0.66, "W": 0.02}, lays), _waste(0.4)],
                [Paper("main-roll", 460, 100_000, "film", 96, 100)], {"C": 9, "M": 9, "Y": 9, "K": 9, "W": 20}, 4.0, 300, stood_days=3)  # fmt: skip


def _dye_roll() -> Kind:
    return Kind("shearwater", "Wide dye printer", [*_tanks(600, {"C": 0.8, "M": 0.74, "Y": 0.69, "K": 0.51}, {"K": 1.12}), _waste(0.2)],
                [Paper("main-roll", 1118, 100_000, "stationery", 70, 100)], {}, 6.0, 720)  # fmt: skip


def _toner(name: str, said: str, left: dict[str, float], holds: float, papers: list[Paper]) -> Kind:
    box = Container("Waste toner box", "", "none", "waste-toner", 1.0, 0.35)
    drum = Container("Drum", "", "none", "opc", 1.0, 0.8)
    return Kind(
        name, said, [*_tanks(holds, left, {}, "toner", "toner"), drum, box], papers, {}, 60.0, 600, is_toner=True
    )


def _white_toner() -> Kind:
    return _toner("puffin", "White-toner printer", {"C": 0.7, "M": 0.66, "Y": 0.8, "W": 0.31}, 3500, [Paper("by-pass-tray", 210, 297, "labels", 20, 50), Paper("tray-1", 210, 297, "stationery", 200, 250)])  # fmt: skip


def _dye_toner() -> Kind:
    return _toner("razorbill", "Office printer with dye toner", {"C": 0.55, "M": 0.48, "Y": 0.6, "K": 0.9}, 2800, [Paper("tray-1", 210, 297, "stationery", 120, 250)])  # fmt: skip


def _desktop() -> Kind:
    return Kind("plover", "Desktop inkjet", [*_tanks(70, {"C": 0.6, "M": 0.44, "Y": 0.52, "K": 0.7}, {"M": 1.1}, "ink-cartridge"), _waste(0.1)],
                [Paper("tray-1", 215.9, 279.4, "stationery", 40, 100), Paper("by-pass-tray", 215.9, 279.4, "stationery-coated", 0, 20)],
                {}, 2.0, 720, cleaning_ml=0.1, takes=("image/pwg-raster", "image/jpeg", "application/octet-stream"))  # fmt: skip


def _direct() -> Kind:
    lays = {"W": 1.06}
    return Kind("skua", "Direct printer", [*_tanks(220, {"C": 0.5, "M": 0.55, "Y": 0.6, "K": 0.62, "W": 0.45}, lays), _waste(0.5)],
                [Paper("main", 406, 508, "other", 1, 1)], {}, 1.4, 600)  # fmt: skip


def _vinyl() -> Kind:
    return Kind("tern", "Print-and-cut roll printer", [*_tanks(440, {"C": 0.7, "M": 0.4, "Y": 0.45, "K": 0.8}, {"Y": 1.07}, "ink-cartridge"), _waste(0.3)],
                [Paper("main-roll", 610, 50_000, "other", 38, 50)], {}, 3.2, 720)  # fmt: skip


KINDS: dict[str, Callable[[], Kind]] = {
    "petrel": _film, "shearwater": _dye_roll, "puffin": _white_toner, "razorbill": _dye_toner, "plover": _desktop, "skua": _direct, "tern": _vinyl,
}  # fmt: skip
