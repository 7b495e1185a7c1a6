"""What cannot be read is put back to its last version that can: nothing of the one that cannot is taken away."""

from pydantic import ValidationError

from offsetter.core.decisions import DOCUMENTS
from offsetter.core.sentences import say
from offsetter.core.values import Refusal
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.desk.standings import Standings
from offsetter.store.decisions import DecisionStore
from offsetter.store.shop import ShopStore


class Mending:
    def __init__(self, base: Base, jobs: Jobs, standings: Standings) -> None:
        self._base, self._jobs, self._standings = base, jobs, standings

    def job(self, job_id: str, author: str) -> tuple[str, ...]:
        """Every document of the job that cannot be read goes back, as one more revision; gives what went back."""
        back = []
        with self._base.session() as session, session.begin():
            store = DecisionStore(session)
            store.lock(job_id)
            for (print_id, station), now in store.current(job_id).items():
                if now.body is None or _reads(station, now.body):
                    continue
                bodies = (store.body_at(job_id, print_id, station, r) for r in range(now.revision - 1, 0, -1))
                good = next((b for b in bodies if b is not None and _reads(station, b)), None)
                if good is None:
                    raise Refusal("nothing-good", say("No version of this job's {station} can be read.", station=station), say("All of them are kept."),
                                  say("Send the log to whoever looks after Offsetter."))  # fmt: skip
                store.save(job_id, print_id, station, good, author, now.revision, self._base.now())
                back.append(station)
        self._standings.again(job_id)
        return tuple(back)

    def fact(self, kind: str, fact_id: str) -> None:
        """The version that stands in for a fact's newest one becomes the newest. Raises Refusal where none does."""
        broken = next((b for b in self._jobs.shop()[0].broken if (b.kind, b.id) == (kind, fact_id)), None)
        if broken is None or broken.used is None:
            raise Refusal(
                "nothing-good",
                say("There is no version of it that stands in."),
                say("Nothing was changed."),
                say("Enter it anew."),
            )
        with self._base.session() as session, session.begin():
            ShopStore(session).lock()
            ShopStore(session).put_back(kind, fact_id, broken.used)


def _reads(station: str, body: dict[str, object]) -> bool:
    try:
        DOCUMENTS[station].model_validate(body)
    except ValidationError:
        return False
    return True
