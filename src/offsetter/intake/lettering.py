"""Lettering read back from a picture, normal and mirrored, and spell-checked. Runs in a worker: reading takes seconds."""

import os

import cv2
import numpy as np
from numpy.typing import NDArray

from offsetter.core.compute.lettering import Lettering, Read, judged

READ_PX = 1600
LONGEST_WORD = 24


def read_lettering(rgba: NDArray[np.uint8], language: str, known: tuple[str, ...]) -> Lettering:
    """What a picture (rows, columns, 4) says. language: of the spelling; known: words that are right all the same."""
    os.environ["OMP_THREAD_LIMIT"] = "1"
    grey = _on_ground(rgba)
    normal, mirrored = _read(grey), _read(np.ascontiguousarray(grey[:, ::-1]))
    return judged(normal, mirrored, lambda words: _misspelt(words, language, known))


def _on_ground(rgba: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Grey, dark on light, on the ground that it stands out from most."""
    height, width = rgba.shape[:2]
    scale = min(1.0, READ_PX / max(width, height))
    small = cv2.resize(
        rgba, (max(1, round(width * scale)), max(1, round(height * scale))), interpolation=cv2.INTER_AREA
    )
    alpha = small[..., 3:4].astype(np.float32) / 255
    light = small[..., :3].astype(np.float32).mean(axis=2, keepdims=True)
    seen = float((light * alpha).sum() / max(1.0, float(alpha.sum())))
    ground = 0.0 if seen > 127 else 255.0
    grey = np.rint(light * alpha + ground * (1 - alpha)).astype(np.uint8)[..., 0]
    framed = cv2.copyMakeBorder(grey, 24, 24, 24, 24, cv2.BORDER_CONSTANT, value=ground)
    return np.asarray(255 - framed if ground == 0.0 else framed, dtype=np.uint8)


def _read(grey: NDArray[np.uint8]) -> Read:
    import pytesseract

    told = pytesseract.image_to_data(grey, config="--psm 6 --oem 1", output_type=pytesseract.Output.DICT, timeout=40)
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
