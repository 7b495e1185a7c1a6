"""Which tray holds what a run wants, and what its printer must be set to by hand."""

from offsetter.core.facts import Feed
from offsetter.core.printer_told import Told, Tray
from offsetter.core.quantities import a_length
from offsetter.core.runs import Run
from offsetter.core.sentences import say
from offsetter.core.values import Frozen
from offsetter.store.machines import Link

SAME_MM = 3.0
"""A tray that is so near to a sheet's size holds it."""


class TrayFit(Frozen):
    id: str
    name: str
    fits: bool
    said: str
    """Why not, or what lies in it."""
    is_empty: bool = False


def trays_of(told: Told | None, link: Link, feed: Feed | None, run: Run | None) -> tuple[TrayFit, ...]:
    """Which tray holds what the run wants: by its size, and by what somebody laid into it."""
    if told is None or feed is None:
        return ()
    wants = run.plan.media if run else feed.media
    found = [_fit(t, link.media.get(t.id, ""), wants, feed) for t in told.trays]
    # What somebody laid there counts more than a size that fits.
    return tuple(sorted(found, key=lambda f: (not f.fits, link.media.get(f.id, "") != wants, f.is_empty)))


def _fit(tray: Tray, laid: str, wants: str, feed: Feed) -> TrayFit:
    is_empty = tray.level_pct == 0
    spoken = wants.replace("-", " ")
    if laid and laid != wants:
        return TrayFit(id=tray.id, name=tray.name, fits=False, said=say("holds {laid}", laid=laid.replace('-', ' ')), is_empty=is_empty)  # fmt: skip
    if tray.width_mm and abs(tray.width_mm - feed.media_mm) > SAME_MM:
        return TrayFit(id=tray.id, name=tray.name, fits=False, said=say("holds {width}, this run wants {media}", width=a_length(tray.width_mm), media=a_length(feed.media_mm)), is_empty=is_empty)  # fmt: skip
    said = say("empty: lay {spoken} into it first", spoken=spoken) if is_empty else say("{spoken} was laid into it", spoken=spoken) if laid else say("its size fits; nobody said that it holds {spoken}", spoken=spoken)  # fmt: skip
    return TrayFit(id=tray.id, name=tray.name, fits=True, said=said, is_empty=is_empty)


def notes_of(told: Told | None) -> tuple[str, ...]:
    if told is None:
        return ()
    notes = []
    if "print-scaling" not in told.heeds or (told.scalings and "none" not in told.scalings):
        notes.append(
            say("It cannot be told to print at 100 %: switch every fitting to the page off at the printer itself.")
        )
    if "media-col" not in told.heeds:
        notes.append(say("It cannot be told which tray to take: choose it at the printer itself."))
    return tuple(notes)
