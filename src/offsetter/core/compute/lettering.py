"""What lettering says, judged: whether it reads backwards, and which words no list knows."""

from collections.abc import Callable

from offsetter.core.values import Frozen

SURE = 50.0
"""A word read with less than this confidence is no word: measured, rendered words reach 93 and more, mirrored ones 66 at most."""
SHORT, SURE_OF_SHORT = 2, 90.0
"""Two letters are soon seen in a row of windows (85, measured): they have to be surer."""
CLEARLY = 20.0
"""One way reads better than the other by more than this, or nobody can tell (measured)."""


class Read(Frozen):
    """Words with their confidence, 0 to 100, and the line each stands in."""

    words: tuple[tuple[str, float], ...] = ()
    lines: tuple[int, ...] = ()

    @property
    def confidence(self) -> float:
        """Mean, each word weighing as much as it has letters."""
        letters = sum(len(w) for w, _ in self.words)
        return sum(c * len(w) for w, c in self.words) / letters if letters else 0.0

    @property
    def text(self) -> str:
        said, last = "", None
        for (word, sure), line in zip(self.words, self.lines, strict=True):
            if sure >= (SURE_OF_SHORT if len(word) <= SHORT else SURE):
                said += ("" if not said else " " if line == last else "\n") + word
                last = line
        return said


class Lettering(Frozen):
    text: str = ""
    """As it reads, lines by line breaks; of the mirror image when that is what can be read."""
    mirrored: bool | None = None
    """None: there is nothing to read, or it reads alike both ways."""
    misspelt: tuple[str, ...] = ()
    """Words that no list knows: suggestions, for names are never in one."""


def judged(normal: Read, mirror: Read, misspelt: Callable[[tuple[str, ...]], tuple[str, ...]]) -> Lettering:
    """By the difference of the two readings, never by one alone."""
    gain = normal.confidence - mirror.confidence
    mirrored = None if abs(gain) <= CLEARLY else gain < 0
    better = mirror if mirrored else normal
    text = better.text
    words = tuple(w.strip(".,;:!?()'\"") for w in text.split())
    return Lettering(
        text=text, mirrored=mirrored if text else None, misspelt=misspelt(tuple(w for w in words if w)) if words else ()
    )
