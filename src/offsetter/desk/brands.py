"""Customers' colours, and colours taken from a photograph."""

import json
from typing import Any

from pydantic import ValidationError

from offsetter.core.facts import BrandColour, Lab
from offsetter.core.sentences import say
from offsetter.core.values import Refusal, digest
from offsetter.desk.base import Base
from offsetter.intake.icc import MOST_BYTES
from offsetter.intake.receive import in_child
from offsetter.store.shop import GONE, ShopStore


class Brands:
    def __init__(self, base: Base) -> None:
        self._base = base

    def put(self, brand_id: str, body: dict[str, Any], author: str) -> BrandColour:
        try:
            brand = BrandColour.model_validate({**body, "id": brand_id})
        except ValidationError as wrong:
            first = wrong.errors()[0]
            raise Refusal("bad-colour", say("This colour cannot be: {which} {first}.", which=first['loc'][0] if first['loc'] else '', first=first['msg'].removeprefix('Value error, ')),
                          say("Nothing was saved."), say("Give a customer, a name, and L, a and b.")) from wrong  # fmt: skip
        with self._base.session() as session, session.begin():
            ShopStore(session).lock()
            ShopStore(session, author, self._base.now()).replace(
                "brand_colours", brand_id, brand.model_dump(mode="json")
            )
        return brand

    def remove(self, brand_id: str, author: str) -> None:
        with self._base.session() as session, session.begin():
            ShopStore(session).lock()
            ShopStore(session, author, self._base.now()).replace("brand_colours", brand_id, {GONE: True})

    def pick(self, name: str, data: bytes, spots: tuple[float, float, float, float]) -> Lab:
        """The colour of a spot on a photograph, against a white spot in the same light. Raises Refusal."""
        if len(data) > MOST_BYTES:
            raise Refusal(
                "too-large",
                say("“{name}” is larger than {most_bytes} MB.", name=name, most_bytes=MOST_BYTES // 2**20),
                say("Nothing was taken from it."),
                say("Send a smaller photograph."),
            )
        file_hash = self._base.files.keep(data)
        out = self._base.files.derived("picks", digest(file_hash, spots))
        if not out.exists():
            in_child(
                "pick",
                name[:120],
                "Nothing was taken from it.",
                str(self._base.files.original(file_hash)),
                name[:120],
                str(out),
                *map(str, spots),
            )
        light, a, b = json.loads(out.read_text())
        return light, a, b
