"""What every layer speaks: frozen models, findings, readings, refusals, how far work is, and the hash of a value."""

from offsetter.core.values.canonical import Fact, digest, fingerprint
from offsetter.core.values.finding import Finding, Patch, Seen, Severity
from offsetter.core.values.frozen import Frozen
from offsetter.core.values.progress import Left, Progress, Stage
from offsetter.core.values.reading import Quality, Reading
from offsetter.core.values.refusal import Refusal

__all__ = [
    "Fact",
    "Finding",
    "Frozen",
    "Left",
    "Patch",
    "Progress",
    "Quality",
    "Reading",
    "Refusal",
    "Seen",
    "Severity",
    "Stage",
    "digest",
    "fingerprint",
]
