"""The cards of rolls and sheets: which face takes the print, by word and by photograph."""

from typing import Literal

from offsetter.core import stock
from offsetter.core.facts.media import Medium, medium_id
from offsetter.core.sentences import say
from offsetter.core.values import Refusal
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.desk.photos import Photos
from offsetter.store.shop import ShopStore

MEDIA = "media"
Face = Literal["print", "back"]


class Media:
    def __init__(self, base: Base, jobs: Jobs, photos: Photos) -> None:
        self._base, self._jobs, self._photos = base, jobs, photos

    def card(self, media: str) -> Medium:
        """As it is known; empty where nobody wrote anything. Raises Refusal for a medium that the shop does not have."""
        shop, _ = self._jobs.shop()
        known = {i.split("/", 1)[1] for i in stock.items_of(shop) if i.startswith(("roll/", "sheet/"))}
        if media not in known:
            raise Refusal("no-such-item", say("The shop has no such roll or sheet."), say("Nothing was changed."), say("Choose one that a printer of the shop takes."))  # fmt: skip
        return shop.medium(media) or Medium(media=media)

    def save(self, card: Medium, author: str) -> Medium:
        """What is written on it; photographs are put there by themselves and stay."""
        before = self.card(card.media)
        card = card.model_copy(update={"print_photo": before.print_photo, "back_photo": before.back_photo})
        return self._keep(card, author)

    def photograph(self, media: str, face: Face, name: str, data: bytes, author: str) -> Medium:
        """One face, its location removed."""
        card = self.card(media)
        return self._keep(card.model_copy(update={f"{face}_photo": self._photos.bare(name, data)}), author)

    def _keep(self, card: Medium, author: str) -> Medium:
        with self._base.session() as session, session.begin():
            store = ShopStore(session, author, self._base.now())
            store.lock()
            store.replace(MEDIA, medium_id(card.media), card.model_dump(mode="json"))
        return card
