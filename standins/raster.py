"""What a simulated printer reads of PWG Raster (PWG 5102.4)."""

import struct
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

HEADER = 1796


@dataclass(frozen=True, slots=True)
class Page:
    width: int
    height: int
    dpi: tuple[int, int]
    size_pt: tuple[int, int]
    space: int
    pages: int
    dots: NDArray[np.uint8]
    """Rows, columns, channels."""


def pages_of_raster(data: bytes) -> Iterator[Page]:
    """Raises ValueError for what is no such document."""
    if data[:4] != b"RaS2":
        raise ValueError("no raster")
    at = 4
    while at < len(data):
        head, at = data[at : at + HEADER], at + HEADER
        if len(head) < HEADER or not head.startswith(b"PwgRaster"):
            raise ValueError("no header where one is due")

        def number(offset: int, head: bytes = head) -> int:
            return int(struct.unpack_from(">I", head, offset)[0])

        wide, high, bits, line = number(372), number(376), number(388), number(392)
        size = max(1, bits // 8)
        if line != wide * size or wide * high * size > 2_000_000_000:
            raise ValueError("lines that cannot be")
        dots, y = np.empty((high, line), np.uint8), 0
        while y < high:
            times, at = data[at] + 1, at + 1
            row = bytearray()
            while len(row) < line:
                code, at = data[at], at + 1
                if code < 128:
                    row += data[at : at + size] * (code + 1)
                    at += size
                elif code == 128:
                    row += b"\xff" * (line - len(row))
                else:
                    row += data[at : at + (257 - code) * size]
                    at += (257 - code) * size
            if len(row) != line or y + times > high:
                raise ValueError("a line too long")
            dots[y : y + times] = np.frombuffer(bytes(row), np.uint8)
            y += times
        yield Page(wide, high, (number(276), number(280)), (number(352), number(356)), number(400), number(452), dots.reshape(high, wide, size))  # fmt: skip
