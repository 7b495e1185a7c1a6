"""Any request that the interface's own description allows, and many that it does not: never a server error, never a trace.

OFFSETTER_FUZZ multiplies how many of each are tried (./offsetter soak).
"""

import os

import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis import strategies as st
from schemathesis.generation import GenerationMode
from tools.openapi import described

from tests.web.conftest import Counter, shop_of_its_own
from tests.web.test_methods import taken

EXAMPLES = int(os.environ.get("OFFSETTER_FUZZ", "1"))
SEED = int(os.environ.get("OFFSETTER_SEED", "20"))
ENDLESS = {"GET /api/jobs/events", "GET /api/long-work/{key}/events"}
"""Streams of events: they end when the browser goes."""
SCHEMA = schemathesis.openapi.from_dict(described())
ALL = {o.label: o for o in (found.ok() for found in SCHEMA.get_all_operations()) if o.label not in ENDLESS}
PARTS = {"code", "happened", "kept", "to_do"}
ODD = st.sampled_from(["", "\x00", "a/b", "..", "é" * 300, "\ud7ff", "front' --", "film"])


@pytest.fixture(scope="module")
def client(database, shop_rows, tmp_path_factory):
    with shop_of_its_own(database, "any_request", shop_rows, tmp_path_factory) as (_, made):
        yield made


@pytest.fixture(scope="module")
def real(client) -> dict[str, str]:
    """Ids of things that are there, by the names that addresses give them."""
    counter = Counter(client)
    job = taken(counter, "film", "tee-black")
    counter.plates(job)
    run = counter.release(job).json()["runs"][-1]["id"]
    seen = counter.job(job)
    people = counter.get("/api/people").json()
    file = seen["line"]["decisions"]["place"]["file"]
    return {
        "job_id": job, "run_id": run, "name": "run.pdf", "recipe_id": "film-house", "press": "gannet", "printer": "petrel", "blank_id": "tee-black",
        "user_id": next(p["id"] for p in people if p["name"] == "Sami"), "file_hash": file, "file": file, "key": seen["line"]["pictures"]["cloth"].split("/")[3],
        "station": "place", "code": "R1-1", "kind": "cloth", "holder": "somebody-here", "brand": "house-blue",
    }  # fmt: skip


@pytest.mark.parametrize("label", sorted(ALL))
def test_no_request_is_answered_by_a_server_error(label, client, real):
    operation = ALL[label]
    known = {p.name: real[p.name] for p in operation.path_parameters if p.name in real}

    @seed(SEED)
    @settings(
        max_examples=3 * EXAMPLES,
        database=None,
        deadline=None,
        phases=(Phase.generate,),
        suppress_health_check=list(HealthCheck),
    )
    @given(
        data=st.data(),
        mode=st.sampled_from(list(GenerationMode)),
        who=st.sampled_from(["Ada", "Ada", "Noor", "Visitor"]),
    )
    def ask(data, mode, who):
        where = {
            n: data.draw(st.one_of(st.just(v), ODD)) if data.draw(st.integers(0, 5)) == 0 else v
            for n, v in known.items()
        }
        case = data.draw(operation.as_strategy(mode, path_parameters=where or None))
        asked = case.as_transport_kwargs(base_url="http://127.0.0.1")
        headers = {k: v for k, v in asked.pop("headers").items() if k.lower() != "cookie"}
        asked.pop("cookies", None)
        try:
            answer = client.request(**asked, headers={**headers, **Counter(client, who).headers})
        except (UnicodeError, ValueError, TypeError):
            return  # no client can send it
        assert answer.status_code < 500, answer.text[:300]
        if answer.status_code >= 400:
            assert set(answer.json()) >= PARTS, answer.text[:300]
            assert "Traceback" not in answer.text
            assert "/src/offsetter" not in answer.text

    ask()


def test_what_is_kept_still_is_what_folding_anew_gives(client, real):
    """After whatever this worker's requests did to the shop."""
    assert client.app.state.services.standings.refold() == []
