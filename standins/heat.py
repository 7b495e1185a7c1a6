"""A simulated press and oven, and the probe for heat that is held to one of them: they heat at full power to what they are set to, are held
there by a thermostat, and cool into the room. Every value is invented; what Offsetter makes of the log must find them again."""

import math
import random
import threading
import time
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field

ROOM_C = 21.5
STEP_S, LOG_S = 2.0, 15.0
MOST_LOGGED = 4000
HELD_K = 1.5
"""The thermostat switches this far above and below."""
NOISE_C = 0.15
HOTTEST_C = 230.0


@dataclass(slots=True)
class Heated:
    """power: what its heater lifts it by in a minute, K; loss: share of its excess over the room that is gone in a minute."""

    said: str
    power: float
    loss: float
    celsius: float = ROOM_C
    set_c: float | None = None
    """None: its heater is off."""
    is_heating: bool = False

    def step(self, minutes: float) -> None:
        if self.set_c is None or self.celsius > self.set_c + HELD_K:
            self.is_heating = False
        elif self.celsius < self.set_c - HELD_K:
            self.is_heating = True
        ends = ROOM_C + (self.power / self.loss if self.is_heating else 0.0)
        self.celsius = ends + (self.celsius - ends) * math.exp(-self.loss * minutes)


def usual() -> dict[str, Heated]:
    return {
        "press": Heated("press with a flat platen", 12.6, 0.051),
        "oven": Heated("curing oven", 17.5, 0.083),
    }


@dataclass(slots=True)
class Hall:
    """What is heated here, and the probe. speed: how much faster than real it all goes."""

    speed: float = 1.0
    now: Callable[[], float] = time.time
    heated: dict[str, Heated] = field(default_factory=usual)
    held_to: str = "press"
    log: deque[tuple[float, float, float]] = field(default_factory=lambda: deque(maxlen=MOST_LOGGED))
    """Minute, the probe's reading and the room's."""
    _lived_s: float = 0.0
    _seen: float = 0.0
    _chance: random.Random = field(default_factory=lambda: random.Random(5))
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def __post_init__(self) -> None:
        self._seen = self.now()

    def live(self) -> None:
        """Until now: nothing happens while nobody looks, and then all of it."""
        with self._lock:
            self._live()

    def set(self, name: str, celsius: float | None) -> None:
        with self._lock:
            self._live()
            if name in self.heated:
                self.heated[name].set_c = None if celsius is None else min(HOTTEST_C, max(0.0, celsius))

    def hold(self, name: str) -> None:
        """The probe is held to another, and its log begins anew."""
        with self._lock:
            self._live()
            if name in self.heated:
                self.held_to = name
                self.log.clear()

    def csv(self) -> str:
        with self._lock:
            self._live()
            return "".join(["minute,celsius,room_c\n", *(f"{m:.2f},{c:.1f},{r:.1f}\n" for m, c, r in self.log)])

    def _live(self) -> None:
        behind = (self.now() - self._seen) * self.speed
        # After a long sleep all is cold anyway: a day of it is enough.
        self._lived_s += max(0.0, behind - 86_400)
        for _ in range(int(min(behind, 86_400) / STEP_S)):
            for one in self.heated.values():
                one.step(STEP_S / 60)
            before, self._lived_s = self._lived_s, self._lived_s + STEP_S
            if int(before / LOG_S) != int(self._lived_s / LOG_S):
                seen = self.heated[self.held_to].celsius + self._chance.gauss(0, NOISE_C)
                self.log.append((self._lived_s / 60, seen, ROOM_C + self._chance.gauss(0, NOISE_C)))
            self._seen += STEP_S / self.speed
