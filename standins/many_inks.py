"""The profile of an invented printer of more than four inks, as its maker would bring it along: made, never measured.

The ink model is that of inks.py; a solid of a further ink lies over the four as a filter. The way back is found by search: near
hues are made of two neighbouring inks and black, and refined by Gauss-Newton steps. Tags: ICC.1:2010, 9 and 10.10 (lut16Type).
"""

import struct
from itertools import pairwise, product
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from standins.inks import D50, DOT_GAIN_AT_HALF, PRIMARIES, YULE_NIELSEN_N, xyz_of

Floats = NDArray[np.float64]
FURTHER = {"O": (68.0, 52.0, 82.0), "G": (58.0, -75.0, 38.0), "B": (28.0, 38.0, -68.0)}
"""Invented: Lab (D50) of a solid on white."""
NAMES = {"C": "Cyan", "M": "Magenta", "Y": "Yellow", "K": "Black", "O": "Orange", "G": "Green", "B": "Blue"}
ROUND = ("M", "O", "Y", "G", "C", "B")
"""Chromatic inks by their hue."""
WHITE_XYZ = np.array(xyz_of(PRIMARIES[""]))


def printed(shares: Floats, inks: tuple[str, ...]) -> Floats:
    """XYZ (Y = 100) of patches (n, inks) given as shares from 0 to 1."""
    dots = np.minimum(1.0, shares + 4 * DOT_GAIN_AT_HALF * shares * (1 - shares))
    mixed = np.zeros((len(shares), 3))
    for on in product((0, 1), repeat=len(inks)):
        part = np.prod(np.where(on, dots, 1 - dots), axis=1)
        mixed += part[:, None] * np.maximum(_solid([n for n, is_on in zip(inks, on, strict=True) if is_on]), 1e-6) ** (1 / YULE_NIELSEN_N)  # fmt: skip
    return np.asarray(mixed**YULE_NIELSEN_N)


def _solid(inks: list[str]) -> Floats:
    xyz = np.array(xyz_of(PRIMARIES["".join(n for n in "CMYK" if n in inks)]))
    for ink in inks:
        if ink in FURTHER:
            xyz = xyz * np.array(xyz_of(FURTHER[ink])) / WHITE_XYZ
    return xyz


def lab_of(xyz: Floats) -> Floats:
    ratio = xyz / np.array(D50)
    f = np.where(ratio > (6 / 29) ** 3, np.cbrt(ratio), ratio / (3 * (6 / 29) ** 2) + 4 / 29)
    return np.stack([116 * f[:, 1] - 16, 500 * (f[:, 0] - f[:, 1]), 200 * (f[:, 1] - f[:, 2])], axis=1)


def separated(lab: Floats, inks: tuple[str, ...], steps: int = 17) -> Floats:
    """Shares (n, inks) whose print comes nearest to each Lab, relative to the paper: two neighbouring hues and black."""
    hues = [n for n in ROUND if n in inks]
    spots, labs = [], []
    axis = np.linspace(0, 1, steps)
    cube = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1).reshape(-1, 3)
    for pair in [*pairwise(hues), (hues[-1], hues[0])]:
        shares = np.zeros((len(cube), len(inks)))
        for column, ink in enumerate((*pair, "K")):
            shares[:, inks.index(ink)] = cube[:, column]
        spots.append(shares)
        labs.append(on_white(shares, inks))
    all_spots, all_labs = np.concatenate(spots), np.concatenate(labs)
    found = all_spots[cKDTree(all_labs).query(lab)[1]]
    for _ in range(4):
        here = on_white(found, inks)
        slopes = np.stack(
            [(on_white(np.clip(found + 0.01 * row, 0, 1), inks) - here) / 0.01 for row in np.eye(len(inks))], axis=2
        )
        # Only inks that are on already move: what was chosen stays two hues and black.
        slopes *= (found > 0)[:, None, :]
        step = np.linalg.pinv(slopes, rcond=0.05) @ (lab - here)[..., None]
        tried = np.clip(found + np.clip(step[..., 0], -0.1, 0.1), 0, 1)
        better = np.linalg.norm(on_white(tried, inks) - lab, axis=1) < np.linalg.norm(here - lab, axis=1)
        found = np.where(better[:, None], tried, found)
    return found


def on_white(shares: Floats, inks: tuple[str, ...]) -> Floats:
    """Lab under the paper as white."""
    return lab_of(printed(shares, inks) / WHITE_XYZ * np.array(D50))


def profile(
    inks: tuple[str, ...] = ("C", "M", "Y", "K", "O", "G"), name: str = "Invented six inks", *, named: bool = True
) -> bytes:
    """A printer profile of so many inks, version 2, both ways. named: it says what its inks are."""
    many, nodes, back = len(inks), 5, 17
    grid = np.stack(np.meshgrid(*[np.linspace(0, 1, nodes)] * many, indexing="ij"), axis=-1).reshape(-1, many)
    a2b = _lut(many, 3, nodes, _lab16(on_white(grid, inks)))
    steps = np.linspace(0, 1, back)
    # Legacy 16-bit Lab ends at 0xFF00 for L* 100, and 0x8000 is a* or b* 0.
    light, span = steps * 100, steps * 65535 / 256 - 128
    labs = np.stack(np.meshgrid(light, span, span, indexing="ij"), axis=-1).reshape(-1, 3)
    ends = [np.minimum(65535, np.arange(256) * 257 * 65535 / 65280), np.arange(256) * 257.0, np.arange(256) * 257.0]
    b2a = _lut(3, many, back, np.rint(separated(labs, inks) * 65535), ends)
    wtpt = b"XYZ " + bytes(4) + struct.pack(">3i", *(round(v / 100 * 65536) for v in WHITE_XYZ))
    said = name.encode()
    desc = b"desc" + bytes(4) + struct.pack(">I", len(said) + 1) + said + bytes(1 + 8 + 3 + 67)
    tags = [(b"desc", desc), (b"cprt", b"text" + bytes(4) + b"CC0, invented data\0"), (b"wtpt", wtpt)]
    # One table serves every intent.
    tags += [(f"{way}{intent}".encode(), table) for way, table in (("A2B", a2b), ("B2A", b2a)) for intent in range(3)]
    if named:
        rows = b"".join(NAMES[i].encode().ljust(32, b"\0") + bytes(6) for i in inks)
        tags.append((b"clrt", b"clrt" + bytes(4) + struct.pack(">I", many) + rows))
    return _file(f"{many}CLR".encode() if inks != ("C", "M", "Y", "K") else b"CMYK", tags)


def _lab16(lab: Floats) -> Floats:
    return np.rint(np.stack([lab[:, 0] * 652.80, (lab[:, 1] + 128) * 256, (lab[:, 2] + 128) * 256], axis=1)).clip(
        0, 65535
    )


def _lut(inputs: int, outputs: int, nodes: int, table: Floats, bends: list[Floats] | None = None) -> bytes:
    head = b"mft2" + bytes(4) + struct.pack(">4B", inputs, outputs, nodes, 0) + struct.pack(">9i", *(65536 * (i % 4 == 0) for i in range(9)))  # fmt: skip
    straight = np.array([0, 65535])
    first = [np.rint(b).astype(">u2") for b in bends or [straight] * inputs]
    told = b"".join(f.tobytes() for f in first)
    return (
        head
        + struct.pack(">2H", len(first[0]), 2)
        + told
        + table.astype(">u2").tobytes()
        + straight.astype(">u2").tobytes() * outputs
    )


def _file(space: bytes, tags: list[tuple[bytes, bytes]]) -> bytes:
    body, rows, at = b"", b"", 128 + 4 + 12 * len(tags)
    lies: dict[bytes, int] = {}
    for signature, data in tags:
        if data not in lies:
            lies[data] = at + len(body)
            body += data + bytes(-len(data) % 4)
        rows += signature + struct.pack(">II", lies[data], len(data))
    illuminant = struct.pack(">3i", *(round(v / 100 * 65536) for v in D50))
    head: list[Any] = [struct.pack(">I", at + len(body)), bytes(4), struct.pack(">I", 0x02400000), b"prtr", space, b"Lab ",
                       struct.pack(">6H", 2026, 1, 1, 0, 0, 0), b"acsp", bytes(4), bytes(4), bytes(4), bytes(4), bytes(8), bytes(4), illuminant, bytes(48)]  # fmt: skip
    return b"".join(head) + struct.pack(">I", len(tags)) + rows + body
