"""The proof: signed for the transfers as they were then; a change after it is said."""

from typing import Literal

from offsetter.core.acts import Act, Signed, standing
from offsetter.core.prints import Variant
from offsetter.core.values import Frozen


class ProofState(Frozen):
    state: Literal["not wanted", "unsigned", "signed", "changed"]
    by: str = ""
    at: str = ""
    changed: tuple[str, ...] = ()
    """Names of prints that were changed after the signature."""


def proof_of(acts: tuple[Act, ...], variants: tuple[Variant, ...], *, wanted: bool) -> ProofState:
    """Whether what would be printed now is what was signed."""
    signed = sorted((a for a in standing(acts) if isinstance(a.body, Signed)), key=lambda a: (a.at, a.id))
    if not signed:
        return ProofState(state="unsigned" if wanted else "not wanted")
    last = signed[-1]
    assert isinstance(last.body, Signed)
    now: dict[str, list[Variant]] = {}
    for v in variants:
        now.setdefault(v.print, []).append(v)
    changed = tuple(
        vs[0].name for p, vs in now.items() if not {v.signature for v in vs} <= set(last.body.signatures.get(p, ()))
    )
    return ProofState(
        state="changed" if changed else "signed", by=last.body.by, at=last.at.isoformat(), changed=changed
    )
