"""IPP messages as bytes and back (RFC 8010): what a client sends, what a printer answers, and the other way round.

A message is a version, an operation or a status, a number that the answer repeats, groups of attributes, and a document behind them.
"""

import struct
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from datetime import datetime
from enum import IntEnum
from typing import Any

MOST_BYTES, MOST_VALUES, DEEPEST = 4_000_000, 20_000, 8
"""Of a message without its document: more is no printer's answer."""


class Tag(IntEnum):
    """RFC 8010, section 3.5."""

    OPERATION, JOB, END, PRINTER, UNSUPPORTED = 0x01, 0x02, 0x03, 0x04, 0x05
    UNSUPPORTED_VALUE, UNKNOWN, NO_VALUE = 0x10, 0x12, 0x13
    INTEGER, BOOLEAN, ENUM = 0x21, 0x22, 0x23
    OCTETS, DATE, RESOLUTION, RANGE, COLLECTION, END_COLLECTION = 0x30, 0x31, 0x32, 0x33, 0x34, 0x37
    TEXT, NAME, KEYWORD, URI, SCHEME, CHARSET, LANGUAGE, MIME, MEMBER = (
        0x41,
        0x42,
        0x44,
        0x45,
        0x46,
        0x47,
        0x48,
        0x49,
        0x4A,
    )


WHOLE = (Tag.INTEGER, Tag.ENUM)
WORDS = (Tag.TEXT, Tag.NAME, Tag.KEYWORD, Tag.URI, Tag.SCHEME, Tag.CHARSET, Tag.LANGUAGE, Tag.MIME)
OUT_OF_BAND = (Tag.UNSUPPORTED_VALUE, Tag.UNKNOWN, Tag.NO_VALUE)
OPENS = struct.Struct(">BBhi")


class BadMessage(ValueError):
    """Bytes that are no IPP message."""


@dataclass(frozen=True, slots=True)
class Value:
    """One value with its kind. data: int, bool, str, bytes, (low, high) of a range, (across, along, unit) of a resolution, a datetime,
    the members of a collection, or None where the printer says that it does not know."""

    tag: int
    data: Any


Attributes = dict[str, tuple[Value, ...]]


@dataclass(frozen=True, slots=True)
class Message:
    """code: an operation in a request, a status in an answer."""

    code: int
    request_id: int = 1
    groups: tuple[tuple[int, Attributes], ...] = ()
    version: tuple[int, int] = (2, 0)
    order: tuple[str, ...] = field(default=(), compare=False)
    """Names of the first group's attributes as they came."""

    def group(self, tag: int) -> Attributes:
        """The first group of that kind; empty where there is none."""
        return next((a for t, a in self.groups if t == tag), {})

    def groups_of(self, tag: int) -> tuple[Attributes, ...]:
        return tuple(a for t, a in self.groups if t == tag)


def of(tag: int, *data: Any) -> tuple[Value, ...]:
    return tuple(Value(tag, d) for d in data)


def encode(message: Message) -> bytes:
    """The message's bytes; a document is sent behind them."""
    out = [OPENS.pack(*message.version, message.code, message.request_id)]
    for tag, attributes in message.groups:
        out.append(bytes((tag,)))
        for name, values in attributes.items():
            out.extend(_attribute(name, values))
    return b"".join((*out, bytes((Tag.END,))))


def _attribute(name: str, values: Iterable[Value]) -> Iterator[bytes]:
    for at, value in enumerate(values):
        yield _field(value.tag, "" if at else name, _data(value))
        if value.tag == Tag.COLLECTION:
            for member, inside in value.data.items():
                yield _field(Tag.MEMBER, "", member.encode())
                yield from _attribute("", inside)
            yield _field(Tag.END_COLLECTION, "", b"")


def _field(tag: int, name: str, data: bytes) -> bytes:
    named = name.encode()
    return struct.pack(">BH", tag, len(named)) + named + struct.pack(">H", len(data)) + data


def _data(value: Value) -> bytes:
    tag, data = value.tag, value.data
    if tag in WHOLE:
        return struct.pack(">i", data)
    if tag == Tag.BOOLEAN:
        return bytes((int(data),))
    if tag == Tag.RANGE:
        return struct.pack(">ii", *data)
    if tag == Tag.RESOLUTION:
        return struct.pack(">iib", *data)
    if tag == Tag.DATE:
        apart = round(data.utcoffset().total_seconds() / 60) if data.utcoffset() else 0
        return struct.pack(
            ">HBBBBBBcBB", data.year, data.month, data.day, data.hour, data.minute, data.second, 0,
            b"+" if apart >= 0 else b"-", *divmod(abs(apart), 60),
        )  # fmt: skip
    if tag == Tag.COLLECTION or tag in OUT_OF_BAND:
        return b""
    return data if isinstance(data, bytes) else str(data).encode()


def decode(data: bytes) -> tuple[Message, int]:
    """A message, and where its document begins. Raises BadMessage."""
    if len(data) < OPENS.size + 1:
        raise BadMessage("it is too short")
    major, minor, code, request_id = OPENS.unpack_from(data)
    reader = _Reader(data, OPENS.size)
    groups: list[tuple[int, Attributes]] = []
    order: list[str] = []
    tag = reader.byte()
    while tag != Tag.END:
        if not tag < 0x10:
            raise BadMessage("a value stands outside a group")
        attributes: dict[str, tuple[Value, ...]] = {}
        groups.append((tag, attributes))
        tag = reader.byte()
        name = ""
        while tag >= 0x10:
            named = reader.text()
            if named:
                name = named
                if len(groups) == 1:
                    order.append(name)
                if name in attributes:
                    raise BadMessage(f"{name} stands there twice")
            elif not name:
                raise BadMessage("a value has no name")
            attributes[name] = (*attributes.get(name, ()), reader.value(tag, 0))
            tag = reader.byte()
    said = Message(code, request_id, tuple(groups), (major, minor), tuple(order))
    return said, reader.at


class _Reader:
    def __init__(self, data: bytes, at: int) -> None:
        self.data, self.at, self.values = data, at, 0

    def byte(self) -> int:
        return self.take(1)[0]

    def take(self, count: int) -> bytes:
        if self.at + count > min(len(self.data), MOST_BYTES):
            raise BadMessage("it ends too early")
        taken = self.data[self.at : self.at + count]
        self.at += count
        return taken

    def sized(self) -> bytes:
        return self.take(int.from_bytes(self.take(2), "big"))

    def text(self) -> str:
        return self.sized().decode("utf-8", "replace")

    def value(self, tag: int, depth: int) -> Value:
        self.values += 1
        if self.values > MOST_VALUES or depth > DEEPEST:
            raise BadMessage("it holds more than any printer says")
        data = self.sized()
        if tag == Tag.COLLECTION:
            return Value(tag, self.members(depth + 1))
        return Value(tag, _read(tag, data))

    def members(self, depth: int) -> Attributes:
        found: dict[str, tuple[Value, ...]] = {}
        name = ""
        while True:
            tag = self.byte()
            self.text()
            if tag == Tag.END_COLLECTION:
                self.sized()
                return found
            if tag == Tag.MEMBER:
                name = self.text()
                continue
            if not name or tag < 0x10:
                raise BadMessage("a collection is broken off")
            found[name] = (*found.get(name, ()), self.value(tag, depth))


def _read(tag: int, data: bytes) -> Any:
    try:
        if tag in WHOLE:
            return struct.unpack(">i", data)[0]
        if tag == Tag.BOOLEAN:
            return data[0] != 0
        if tag == Tag.RANGE:
            return struct.unpack(">ii", data)
        if tag == Tag.RESOLUTION:
            return struct.unpack(">iib", data)
        if tag == Tag.DATE:
            return _date(data)
    except (struct.error, IndexError, ValueError) as wrong:
        raise BadMessage(f"a value of kind {tag:#x} has the wrong length") from wrong
    if tag in WORDS:
        return data.decode("utf-8", "replace")
    if tag in (0x35, 0x36):  # text and name that say their language: length, language, length, words
        return data[4 + int.from_bytes(data[:2], "big") :].decode("utf-8", "replace")
    return None if tag < 0x20 else data


def _date(data: bytes) -> datetime:
    year, month, day, hour, minute, second, _, sign, hours, minutes = struct.unpack(">HBBBBBBcBB", data)
    apart = f"{sign.decode()}{hours:02}:{minutes:02}"
    return datetime.fromisoformat(f"{year:04}-{month:02}-{day:02}T{hour:02}:{minute:02}:{min(second, 59):02}{apart}")
