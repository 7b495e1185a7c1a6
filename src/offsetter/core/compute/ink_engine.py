"""littleCMS by its own interface, for what Pillow's has no modes for: profiles of five to eight inks.

Format words: lcms2.h, "Format of pixel is defined by one cmsUInt32Number". Inks count from 0 to 100 in doubles.
"""

import ctypes
from functools import cache
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from offsetter.core.values import Refusal

LIBRARY = "liblcms2.so.2"
BLACK_POINT, NO_CACHE = 0x2000, 0x0040
_RGB, _LAB, _MANY = 4, 10, 14
"""Colour spaces of a format word; of n inks it is the last and n."""
End = Literal["srgb", "lab", "inks"]


def _word(space: int, channels: int, bytes_each: int, *, extra: int = 0, is_float: bool = False) -> int:
    # A double is told by no bytes at all.
    return is_float << 22 | space << 16 | extra << 7 | channels << 3 | (bytes_each & 7)


class InkTransform:
    """From sRGB with alpha (8 bit) or Lab (doubles) to so many inks, or back to sRGB (8 bit) or Lab; used by one thread at a time."""

    def __init__(
        self, profile: bytes, inks: int, source: End, target: End, intent: int, *, doubles: bool, black_point: bool
    ) -> None:
        lcms = _library()
        self._doubles = doubles
        self._channels = {"srgb": 3, "lab": 3, "inks": inks}[target]
        words = {
            "srgb": _word(_RGB, 3, 1, extra=source == "srgb"),
            "lab": _word(_LAB, 3, 0, is_float=True),
            "inks": _word(_MANY + inks, inks, 0 if doubles else 1, is_float=doubles),
        }
        ends = [self._opened(lcms, end, profile) for end in (source, target)]
        flags = NO_CACHE | (BLACK_POINT if black_point else 0)
        try:
            made = lcms.cmsCreateTransform(ends[0], words[source], ends[1], words[target], intent, flags) if all(ends) else None  # fmt: skip
        finally:
            for end in filter(None, ends):
                lcms.cmsCloseProfile(end)
        if not made:
            raise Refusal("broken-profile", "The profile cannot be used: a table in it is broken.", "Nothing was changed.",
                          "Export it again from where it came, or choose another.")  # fmt: skip
        self._lcms, self._made = lcms, ctypes.c_void_p(made)

    def __del__(self) -> None:
        if made := getattr(self, "_made", None):
            self._lcms.cmsDeleteTransform(made)

    def apply(self, values: NDArray[Any]) -> NDArray[Any]:
        """values: rows, columns, channels, of the type that it was made for."""
        given = np.ascontiguousarray(values, np.float64 if self._doubles else np.uint8)
        out = np.empty((*given.shape[:2], self._channels), given.dtype)
        self._lcms.cmsDoTransform(self._made, given.ctypes.data, out.ctypes.data, given.shape[0] * given.shape[1])
        return out

    @staticmethod
    def _opened(lcms: ctypes.CDLL, end: End, profile: bytes) -> Any:
        if end == "srgb":
            return lcms.cmsCreate_sRGBProfile()
        return lcms.cmsCreateLab4Profile(None) if end == "lab" else lcms.cmsOpenProfileFromMem(profile, len(profile))


@cache
def _library() -> ctypes.CDLL:
    try:
        lcms = ctypes.CDLL(LIBRARY)
    except OSError as missing:
        raise Refusal("no-ink-engine", f"{LIBRARY} is not on this machine; profiles of more than four inks need it.", "Nothing was changed.",
                      "Install Debian's package liblcms2-2 and start again.") from missing  # fmt: skip
    pointer, word = ctypes.c_void_p, ctypes.c_uint32
    for name, result, arguments in (
        ("cmsOpenProfileFromMem", pointer, (ctypes.c_char_p, word)),
        ("cmsCreate_sRGBProfile", pointer, ()),
        ("cmsCreateLab4Profile", pointer, (pointer,)),
        ("cmsCloseProfile", ctypes.c_int, (pointer,)),
        ("cmsCreateTransform", pointer, (pointer, word, pointer, word, word, word)),
        ("cmsDeleteTransform", None, (pointer,)),
        ("cmsDoTransform", None, (pointer, pointer, pointer, word)),
    ):  # fmt: skip
        function = getattr(lcms, name)
        function.restype, function.argtypes = result, arguments
    return lcms
