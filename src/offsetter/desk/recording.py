"""One act on its way into the books: completed with what the shop knows, refused when the ledger could not be true."""

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from offsetter.core import acts as core
from offsetter.core.acts import Act, standing
from offsetter.core.decisions import kind_of, number_of
from offsetter.core.ledger import Demand, Ledger, Pool, fold
from offsetter.core.runs import Run
from offsetter.core.sentences import say, say_many
from offsetter.core.values import Refusal

AS_IT_WAS = say("Nothing was recorded.")
TAKEN_BACK_WITHIN = timedelta(seconds=15)
"""One key for ten seconds, and the time a hand needs; later a reason is asked for."""
ON_THE_FLOOR = (core.Printed, core.Prepared, core.Pressed, core.Stored, core.Fetched)


@dataclass(frozen=True, slots=True)
class Recording:
    act: Act
    known: tuple[Act, ...]
    runs: dict[str, Run]
    demand: Demand
    ledger: Ledger
    find: Callable[[str], Act | None]
    fetched: Callable[[str], int]
    """Transfers already taken from a lot in the store."""
    recipe: str = ""
    """Of the job's way."""
    prepared_first: tuple[str, ...] = ()
    """Stages that garments go through before they are printed, in order; none: the way prepares afterwards."""

    def completed(self) -> Act:
        """The act as it is kept. Raises Refusal in three parts."""
        body = self.act.body
        self._refuse_when_not_open()
        match body:
            case core.Prepared() if self.prepared_first or not body.run:
                return self._garments(body)
            case core.Printed() | core.Prepared():
                return self._through_run(body)
            case core.Pressed():
                return self._pressed(body)
            case core.Passed():
                self._refuse_more(body.count, self.ledger.to_inspect.get(f"{body.line}/{body.size}", 0), body.size)
            case core.Spoiled():
                return self._spoiled(body)
            case core.Stored():
                return self._stored(body)
            case core.Fetched():
                return self._fetched(body)
            case core.Voided():
                self._voided(body)
            case core.Held() | core.Resumed() | core.Cancelled() | core.Closed():
                self._stands(body)
            case _:
                pass
        return self.act

    def _refuse_when_not_open(self) -> None:
        """What was done before a job was held still counts, however late it arrives."""
        stands, why = core.job_standing(self.known)
        if stands == "open" or not isinstance(self.act.body, ON_THE_FLOOR):
            return
        since = max(
            (a.at for a in standing(self.known) if isinstance(a.body, core.Held | core.Cancelled | core.Closed)),
            default=self.act.at,
        )
        if self.act.at > since:
            raise _refused(
                f"job-{stands}",
                say("The job is {stands}{which}.", stands=stands, which=": " + why if why else ""),
                say("Take it up again before working on it."),
            )

    def _run(self, run_id: str) -> Run:
        if run_id not in self.runs:
            raise _refused("no-such-run", say("This run is not one of the job's."), say("Open the job again."))
        return self.runs[run_id]

    def _garments(self, body: core.Prepared) -> Act:
        """Garments made ready before they are printed."""
        if body.stage not in self.prepared_first:
            raise _refused(
                "no-such-stage", say("This way does not prepare garments so."), say("Look at Prepare again.")
            )
        at, ledger = self.prepared_first.index(body.stage), self.ledger
        most = ledger.to_prepare(body.stage)
        if at:
            most = min(most, ledger.prepared(self.prepared_first[at - 1]) - ledger.prepared(body.stage))
        if body.count > most:
            raise _refused(
                "more-than-ready",
                say_many(
                    max(0, most),
                    "{count} garment waits for this stage, not {asked}.",
                    "{count} garments wait for this stage, not {asked}.",
                    asked=body.count,
                ),
                say("Give a smaller count."),
            )
        return self._with(body, run="", per={}, signature="")

    def _through_run(self, body: core.Printed | core.Prepared) -> Act:
        run = self._run(body.run)
        done = standing(self.known)
        printed = sum(a.body.count for a in done if isinstance(a.body, core.Printed) and a.body.run == run.id)
        if isinstance(body, core.Printed):
            if run.copies == 0 or printed + body.count > run.copies:
                raise _refused("more-than-laid", say_many(run.copies, "The run holds {count} print; {printed} recorded already.", "The run holds {count} prints; {printed} are recorded already.", printed=printed),
                               say("Record at most {copies} more.", copies=run.copies - printed))  # fmt: skip
            ready = self.ledger.prepared(self.prepared_first[-1]) if self.prepared_first else None
            if ready is not None and self.ledger.printed + body.count > ready:
                raise _refused("not-prepared", say_many(ready, "{count} garment is prepared, and {printed} printed.", "{count} garments are prepared, and {printed} of them are printed.", printed=self.ledger.printed),
                               say("Prepare the garments first: it comes before printing here."))  # fmt: skip
            return self._with(body, per=run.per(printed, body.count), signature=run.plan.items[0].signature)
        gone = sum(
            a.body.count
            for a in done
            if isinstance(a.body, core.Prepared) and (a.body.run, a.body.stage) == (run.id, body.stage)
        )
        if gone + body.count > printed:
            raise _refused("more-than-printed", say_many(printed, "{count} transfer is printed; {gone} went through this stage.", "{count} transfers are printed; {gone} of them went through this stage.", gone=gone),
                           say("Record the printing first, or a smaller count."))  # fmt: skip
        return self._with(body, per=run.per(gone, body.count), signature=run.plan.items[0].signature)

    def _pressed(self, body: core.Pressed) -> Act:
        slots = self.demand.prints.get(body.print, {})
        if body.slot not in slots:
            raise _refused(
                "no-such-size",
                say("Size {size} was not ordered with this print.", size=body.size),
                say("Choose an ordered size."),
            )
        made_by = self._run(body.run).plan.items if body.run else ()
        signature = next(
            (i.signature for i in made_by if i.print == body.print and (not i.slots or body.slot in i.slots)),
            slots[body.slot],
        )
        if body.together < body.count or (body.number and body.count > self.demand.items_of(kind_of(body.slot))):
            raise _refused(
                "no-such-load",
                say("{count} pieces cannot lie among {together}.", count=body.count, together=body.together),
                say("Record what lay under the press."),
            )
        if self._pool(slots[body.slot] or signature).in_hand < body.count:
            raise _refused(
                "no-transfer", say("No printed transfer for it is in hand."), say("Record the printing first.")
            )
        return self._with(body, recipe=self.recipe, signature=signature)

    def _spoiled(self, body: core.Spoiled) -> Act:
        kind = f"{body.line}/{body.size}" if body.size else ""
        if body.what == "transfer":
            signature = self._transfer_meant(body, kind)
            hand = self._pool(signature).in_hand
            if body.count > hand:
                raise _refused(
                    "more-than-in-hand",
                    say_many(
                        hand,
                        "{count} transfer is in hand, not {asked}.",
                        "{count} transfers are in hand, not {asked}.",
                        asked=body.count,
                    ),
                    say("Give a smaller count."),
                )
            return self.act.model_copy(update={"signature": signature})
        if kind not in self.demand.ordered:
            raise _refused(
                "no-such-size", say("Size {size} was not ordered.", size=body.size), say("Choose an ordered size.")
            )
        if body.what == "blank":
            return self.act
        good = self.ledger.still_good.get(kind, 0)
        free = {
            p: self.ledger.on_kind(p, kind) - good
            for p, slots in self.demand.prints.items()
            if any(kind_of(s) == kind for s in slots)
        }
        had = body.had or tuple(p for p, n in free.items() if n >= body.count)
        if not had or any(free.get(p, 0) < body.count for p in had):
            self._refuse_more(body.count, max(free.values(), default=0), body.size or "")
        return self._with(body, had=had, number=self._whose(body, kind, had))

    def _whose(self, body: core.Spoiled, kind: str, had: tuple[str, ...]) -> int | None:
        """Which numbered piece it was: a name on it is lost with it, and no other name."""
        named = {
            number
            for p in had
            for slot in self.demand.prints[p]
            if kind_of(slot) == kind and (number := number_of(slot)) and self.ledger.live(p, slot)
        }
        if not named:
            return body.number
        number = next(iter(named)) if body.number is None and len(named) == 1 else body.number
        if number not in named or body.count != 1:
            raise _refused("which-piece", say("These pieces carry names, and it is not said which of them is spoiled."),
                           say("Give the number of one pressed piece: {named}.", named=', '.join(str(n) for n in sorted(named))))  # fmt: skip
        return number

    def _transfer_meant(self, body: core.Spoiled, kind: str) -> str:
        """Which transfers a spoiled one was of: by its size, or the print's only ones."""
        slots = self.demand.prints.get(body.print) or next(iter(self.demand.prints.values()), {})
        wanted = f"{kind}#{body.number}" if body.number else kind
        if wanted in slots:
            return slots[wanted]
        held = [s for s in dict.fromkeys(slots.values()) if self._pool(s).in_hand >= body.count]
        return held[0] if held else next(iter(slots.values()), "")

    def _stored(self, body: core.Stored) -> Act:
        hand = self._pool(body.of).in_hand
        if body.count > hand:
            raise _refused(
                "more-than-in-hand",
                say("{hand} of these transfers are in hand, not {count}.", hand=hand, count=body.count),
                say("Give a smaller count."),
            )
        run = next((r.id for r in reversed(self.runs.values()) if body.of in r.laid()), body.run)
        return self._with(body, run=run, signature=body.of)

    def _fetched(self, body: core.Fetched) -> Act:
        lot = self.find(body.stored)
        if lot is None or not isinstance(lot.body, core.Stored):
            raise _refused("no-such-lot", say("These transfers are not in the store."), say("Look at the store again."))
        left = lot.body.count - self.fetched(body.stored)
        if body.count > left:
            raise _refused(
                "more-than-stored",
                say("{left} of them are left in the store, not {count}.", left=left, count=body.count),
                say("Take fewer."),
            )
        if lot.signature not in self.demand.signatures():
            raise _refused("does-not-fit", say("These transfers were printed otherwise than this job asks for."),
                           say("Take only what matches in print, width and cloth."))  # fmt: skip
        return self.act.model_copy(update={"signature": lot.signature})

    def _voided(self, body: core.Voided) -> None:
        voids = next((a for a in self.known if a.id == body.voids), None)
        if voids is None or isinstance(voids.body, core.Voided):
            raise _refused("nothing-to-void", say("The act to take back is not recorded."), say("Open the job again."))
        if isinstance(voids.body, core.Stored) and self.fetched(voids.id):
            raise _refused(
                "still-used",
                say("Another job took some of these transfers since."),
                say("Take them back in that job first."),
            )
        if not body.reason.strip() and self.act.at - voids.at > TAKEN_BACK_WITHIN:
            raise _refused(
                "reason-needed", say("More than ten seconds have passed since."), say("Say why it is taken back.")
            )
        after = fold((*self.known, self.act), self.demand)
        short = any(p.in_hand < 0 for p in after.pools.values())
        if short or any(after.complete(k) < after.still_good[k] for k in after.ordered):
            raise _refused(
                "still-used",
                say("Later work stands on this: pieces were pressed or counted since."),
                say("Take the later work back first."),
            )

    def _stands(self, body: Any) -> None:
        stands, _ = core.job_standing(self.known)
        allowed = {"held": ("open",), "resumed": ("held",), "cancelled": ("open", "held"), "closed": ("open", "held")}[
            body.kind
        ]
        if stands not in allowed:
            raise _refused(
                f"job-{stands}", say("The job is {stands} already.", stands=stands), say("Open the job again.")
            )

    def _pool(self, signature: str) -> Pool:
        return self.ledger.pools.get(signature, Pool())

    def _with(self, body: Any, *, signature: str | None = None, **changes: Any) -> Act:
        if isinstance(changes.get("per"), Counter):
            changes["per"] = dict(changes["per"])
        made = body.model_copy(update=changes)
        return self.act.model_copy(update={"body": made, **({} if signature is None else {"signature": signature})})

    @staticmethod
    def _refuse_more(count: int, waiting: int, size: str) -> None:
        if count > waiting:
            raise _refused("more-than-pressed", say_many(waiting, "{count} pressed piece of size {size} waits to be inspected, not {asked}.", "{count} pressed pieces of size {size} wait to be inspected, not {asked}.", size=size, asked=count),
                           say("Record what was pressed first, or a smaller count."))  # fmt: skip


def _refused(code: str, happened: str, to_do: str) -> Refusal:
    return Refusal(code, happened, AS_IT_WAS, to_do)
