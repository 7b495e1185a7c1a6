"""What a printer says of itself, in a technician's words. It may lie: nothing here is believed further than it can be."""

from typing import Annotated, Literal

from pydantic import Field

from offsetter.core.sentences import say
from offsetter.core.values import Frozen

Short = Annotated[str, Field(max_length=120)]
Channel = Annotated[str, Field(pattern=r"^[A-Z][A-Za-z]{0,7}$")]
State = Literal["ready", "printing", "stopped", "unknown"]
STATES: dict[int, State] = {3: "ready", 4: "printing", 5: "stopped"}
"""RFC 8011, 5.4.11."""

REASONS = {
    "media-empty": say("out of paper"), "media-needed": say("waits for another paper"), "media-low": say("paper runs low"), "media-jam": say("paper jam"),
    "cover-open": say("cover open"), "door-open": say("door open"), "interlock-open": say("a lock is open"), "input-tray-missing": say("a tray is out"),
    "output-area-full": say("its exit is full"), "output-area-almost-full": say("its exit is nearly full"), "output-tray-missing": say("its exit tray is missing"),
    "marker-supply-low": say("ink or toner low"), "marker-supply-empty": say("ink or toner empty"), "toner-low": say("toner low"), "toner-empty": say("toner empty"),
    "marker-waste-almost-full": say("waste nearly full"), "marker-waste-full": say("waste full"), "fuser-over-temp": say("fuser too hot"),
    "fuser-under-temp": say("fuser warms up"), "opc-near-eol": say("drum nearly worn"), "opc-life-over": say("drum worn out"), "developer-low": say("developer low"),
    "developer-empty": say("developer empty"), "cleaner-life-almost-over": say("cleaner nearly worn"), "cleaner-life-over": say("cleaner worn out"),
    "paused": say("paused at the printer"), "moving-to-paused": say("about to pause"), "stopping": "stopping", "shutdown": say("switching off"),
    "spool-area-full": say("no room for jobs"), "connecting-to-device": say("looks for its engine"), "timed-out": say("its engine does not answer"),
    "warming-up": say("warming up"),
}  # fmt: skip
"""Of printer-state-reasons (RFC 8011, 5.4.12, and PWG 5100.9), without -error, -warning and -report."""

INKS = {"cyan": "C", "magenta": "M", "yellow": "Y", "black": "K", "white": "W", "cleaner": "", "clear": ""}
OF_RGB = {"#00FFFF": "C", "#FF00FF": "M", "#FFFF00": "Y", "#000000": "K", "#FFFFFF": "W"}


class Supply(Frozen):
    """One container of a printer. level_pct: None where it does not know, or says only that there is some."""

    name: Short
    channel: Channel | Literal[""] = ""
    """Empty: it is no colour, such as a waste box or a drum."""
    level_pct: float | None = Field(None, ge=0, le=100)
    has_some: bool = False
    """It says that it is not empty, and no more."""
    fills_up: bool = False
    """Waste: the level rises."""
    low_pct: float | None = Field(None, ge=0, le=100)
    lied: Short = ""
    """What it said instead, where that cannot be."""


class Tray(Frozen):
    """Where a sheet or a roll lies. Sizes in mm; 0: not said. level_pct: None where it does not know."""

    id: Short
    name: Short
    width_mm: float = Field(0, ge=0, le=100_000)
    length_mm: float = Field(0, ge=0, le=100_000)
    media_type: Short = ""
    level_pct: float | None = Field(None, ge=0, le=100)


class Told(Frozen):
    """A printer's own words at one moment."""

    name: Short = ""
    model: Short = ""
    uuid: Short = ""
    state: State = "unknown"
    reasons: tuple[Short, ...] = Field((), max_length=40)
    """Keywords, as it sent them; “none” is left out."""
    message: Annotated[str, Field(max_length=300)] = ""
    takes_jobs: bool = True
    queued: int = Field(0, ge=0)
    supplies: tuple[Supply, ...] = Field((), max_length=40)
    trays: tuple[Tray, ...] = Field((), max_length=40)
    formats: tuple[Short, ...] = Field((), max_length=60)
    scalings: tuple[Short, ...] = Field((), max_length=20)
    raster_dpi: tuple[Annotated[int, Field(ge=1, le=10_000)], ...] = Field((), max_length=20)
    raster_types: tuple[Short, ...] = Field((), max_length=20)
    """How it takes pictures dot by dot (PWG 5100.14)."""
    heeds: tuple[Short, ...] = Field((), max_length=200)
    """What a job may ask of it."""

    @property
    def said(self) -> str:
        """How it stands."""
        worst = [w for r in self.reasons if (w := self._named(r))]
        if self.state == "stopped" or (worst and self.is_hindered):
            return "; ".join(worst) or "stopped"
        more = f", {'; '.join(worst)}" if worst else ""
        return say(
            "{which}{more}",
            which=self.state if self.state != "unknown" else say("says nothing of its state"),
            more=more,
        )

    def _named(self, keyword: str) -> str:
        """A reason in words; what runs low by its name, where the levels tell."""
        for bare, least in (("marker-supply-low", None), ("toner-low", None), ("marker-supply-empty", 0.0), ("toner-empty", 0.0)):  # fmt: skip
            if keyword.startswith(bare):
                low = [s.name for s in self.supplies if s.channel and s.level_pct is not None and s.level_pct <= (s.low_pct or 10.0 if least is None else least)]  # fmt: skip
                return f"{', '.join(low)} {'low' if least is None else 'empty'}" if low else reason_said(keyword)
        return reason_said(keyword)

    @property
    def is_hindered(self) -> bool:
        """It will not print until somebody goes there."""
        return self.state == "stopped" or not self.takes_jobs or any(r.endswith("-error") for r in self.reasons)

    def supply(self, channel: str) -> Supply | None:
        return next((s for s in self.supplies if s.channel == channel), None)


def reason_said(keyword: str) -> str:
    """One reason in words; what nobody has heard of is passed on as the printer said it."""
    bare = keyword
    for end in ("-error", "-warning", "-report"):
        bare = bare.removesuffix(end)
    if bare in ("none", ""):
        return ""
    return REASONS.get(bare, f"“{bare.replace('-', ' ')[:60]}”")


def channel_of(name: str, colour: str) -> str:
    """Which ink a container holds, by its name or by the colour it is shown in; empty: none."""
    low = name.casefold()
    if any(w in low for w in ("waste", "drum", "belt", "fuser", "cleaner", "cleaning", "maintenance")):
        return ""
    named = next((c for word, c in INKS.items() if word in low), None)
    return OF_RGB.get(colour.strip().upper(), "") if named is None else named
