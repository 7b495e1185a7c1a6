"""Lettering read back from a picture, normal and mirrored, and spell-checked. Runs in a worker: reading takes seconds."""

import os
from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

from offsetter.core.compute.lettering import Lettering, Read, judged

READ_PX = 1600
LONGEST_WORD = 24
BLOCK, SPARSE = 6, 11
"""How the reader takes a page: as one block, or as words strewn over it."""
INKS_LOOKED_AT = 3
LEAST_SHARE, MOST_SHARE = 0.004, 0.7
"""Of a picture: less than this is no lettering, more is its ground."""
SHORT_ALONE = 2
MOST_PIECES, LEAST_LETTERS, LEAST_LETTER_PX = 600, 3, 60


def read_lettering(rgba: NDArray[np.uint8], language: str, known: tuple[str, ...]) -> Lettering:
    """What a picture (rows, columns, 4) says. language: of the spelling; known: words that are right all the same.

    Looked at in turn until words are found: as a whole, ink by ink (words in a disc or another shape), along its circle.
    """
    os.environ["OMP_THREAD_LIMIT"] = "1"
    small = _small(rgba)

    def spelt(words: tuple[str, ...]) -> tuple[str, ...]:
        return _misspelt(words, language, known)

    ground = _on_ground(small)
    best = _both_ways(ground, BLOCK, spelt)
    inks = _inks(small)
    circles = [ground, *inks] if 0.7 < small.shape[0] / small.shape[1] < 1.4 else []
    looks = [*((m, SPARSE) for m in inks), *((m, BLOCK) for ink in circles for m in _along_circle(ink))]
    for look, layout in looks:
        if best.text and best.mirrored is not None:
            break
        found = _both_ways(look, layout, spelt)
        # One word may stand alone; two letters among shapes are no word. What reads alike both ways may be none either.
        if any(len(w) > SHORT_ALONE for w in found.text.split()) and (found.mirrored is not None or not best.text):
            best = found
    return best


def _both_ways(grey: NDArray[np.uint8], layout: int, spelt: Callable[[tuple[str, ...]], tuple[str, ...]]) -> Lettering:
    return judged(_read(grey, layout), _read(np.ascontiguousarray(grey[:, ::-1]), layout), spelt)


def _small(rgba: NDArray[np.uint8]) -> NDArray[np.uint8]:
    height, width = rgba.shape[:2]
    scale = min(1.0, READ_PX / max(width, height))
    size = (max(1, round(width * scale)), max(1, round(height * scale)))
    return np.asarray(cv2.resize(rgba, size, interpolation=cv2.INTER_AREA))


def _inks(rgba: NDArray[np.uint8]) -> list[NDArray[np.uint8]]:
    """Each main colour alone, dark on light: words of one colour in a shape of another; last what is left clear inside."""
    alpha = rgba[..., 3]
    seen = alpha > 127
    if not seen.any():
        return []
    lab = cv2.cvtColor(np.ascontiguousarray(rgba[..., :3]), cv2.COLOR_RGB2LAB).astype(np.float32)
    sample = lab[seen][:: max(1, int(seen.sum()) // 20_000)]
    start = np.zeros(len(sample), np.int32)
    stop = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 20, 1.0)
    cv2.setRNGSeed(7)
    _, _, middles = cv2.kmeans(sample, min(INKS_LOOKED_AT, len(sample)), start, stop, 3, cv2.KMEANS_PP_CENTERS)
    nearest = np.linalg.norm(lab[:, :, None, :] - middles[None, None], axis=3).argmin(axis=2)
    masks = [seen & (nearest == i) for i in range(len(middles))]
    _, labels = cv2.connectedComponents((~seen).astype(np.uint8), connectivity=4)
    edge = np.unique(np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]]))
    inside = ~seen & ~np.isin(labels, edge)
    looks = [m for m in (*masks, inside) if LEAST_SHARE < m.mean() < MOST_SHARE and _could_be_letters(m)]
    return [_framed(np.where(m, 0, 255).astype(np.uint8)) for m in looks]


def _could_be_letters(mask: NDArray[np.bool_]) -> bool:
    """A word is a few pieces, a page some hundred; grain and a photograph's shades are thousands."""
    count, _, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    sizes = stats[1:, cv2.CC_STAT_AREA]
    return count - 1 <= MOST_PIECES and int((sizes >= LEAST_LETTER_PX).sum()) >= LEAST_LETTERS


def _along_circle(grey: NDArray[np.uint8]) -> list[NDArray[np.uint8]]:
    """A picture rolled out along its circle: words over the top, and words under the bottom, each set straight."""
    height, width = grey.shape
    radius = min(height, width) / 2
    around = round(2 * np.pi * radius * 0.8)
    light = np.asarray(
        cv2.warpPolar(255 - grey, (round(radius), around), (width / 2, height / 2), radius, cv2.INTER_LINEAR)
    )
    ring = 255 - light.T[round(radius * 0.45) :]
    over = np.roll(ring[::-1], -around // 4, axis=1)
    under = np.roll(ring[:, ::-1], around // 4, axis=1)
    return [_framed(np.ascontiguousarray(r)) for r in (over, np.roll(under, -around // 2, axis=1))]


def _framed(grey: NDArray[np.uint8]) -> NDArray[np.uint8]:
    return np.asarray(cv2.copyMakeBorder(grey, 24, 24, 24, 24, cv2.BORDER_CONSTANT, value=255))


def _on_ground(rgba: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Grey, dark on light, on the ground that it stands out from most."""
    alpha = rgba[..., 3:4].astype(np.float32) / 255
    light = rgba[..., :3].astype(np.float32).mean(axis=2, keepdims=True)
    seen = float((light * alpha).sum() / max(1.0, float(alpha.sum())))
    ground = 0.0 if seen > 127 else 255.0
    grey = np.rint(light * alpha + ground * (1 - alpha)).astype(np.uint8)[..., 0]
    framed = cv2.copyMakeBorder(grey, 24, 24, 24, 24, cv2.BORDER_CONSTANT, value=ground)
    return np.asarray(255 - framed if ground == 0.0 else framed, dtype=np.uint8)


def _read(grey: NDArray[np.uint8], layout: int) -> Read:
    import pytesseract

    told = pytesseract.image_to_data(
        grey, config=f"--psm {layout} --oem 1", output_type=pytesseract.Output.DICT, timeout=40
    )
    words = [
        (w.strip(), float(c), line)
        for w, c, line in zip(told["text"], told["conf"], told["line_num"], strict=True)
        if w.strip() and float(c) >= 0
    ]
    return Read(words=tuple((w, c) for w, c, _ in words), lines=tuple(line for _, _, line in words))


def _misspelt(words: tuple[str, ...], language: str, known: tuple[str, ...]) -> tuple[str, ...]:
    from spellchecker import SpellChecker

    checker = SpellChecker(language=language)
    checker.word_frequency.load_words([w.lower() for w in known])
    plain = [w for w in words if w.isalpha() and 3 <= len(w) <= LONGEST_WORD]
    wrong = checker.unknown([w.lower() for w in plain])
    if language == "en":
        wrong = {w for w in wrong if not checker.known([_american(w)])}
    return tuple(dict.fromkeys(w for w in plain if w.lower() in wrong))


def _american(word: str) -> str:
    """The English list is American; a British spelling is right too."""
    for british, american in (("our", "or"), ("yse", "yze"), ("ise", "ize"), ("isi", "izi"), ("tre", "ter")):
        word = word.replace(british, american)
    return word


def words_of(text: str) -> tuple[str, ...]:
    """Words of a title or a customer's name: right in this job, whatever a list says."""
    return tuple(w for w in (p.strip(".,;:()'\"") for p in text.split()) if w.isalpha())
