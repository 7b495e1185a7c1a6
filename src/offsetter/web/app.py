"""The server: routers over the desk."""

from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager, suppress
from datetime import datetime
from pathlib import Path

from fastapi import FastAPI
from sqlalchemy.exc import OperationalError
from starlette.middleware.body_limit import RequestBodyLimitMiddleware
from starlette.middleware.gzip import GZipMiddleware
from starlette.middleware.trustedhost import TrustedHostMiddleware

from offsetter.desk.base import Base
from offsetter.formats.catalogue import SHIPPED, catalogues_in
from offsetter.intake.receive import GATE
from offsetter.store.engine import engine_for
from offsetter.store.files import FileStore
from offsetter.web import (
    acts,
    artworks,
    at_work,
    colour,
    customers,
    elsewhere,
    inventory,
    job_files,
    jobs,
    leftovers,
    lists,
    logbook,
    long_work,
    machines,
    media,
    nozzles,
    people,
    press,
    problems,
    proofs,
    recipes,
    runs,
    sheets,
    static,
    stock,
    today,
)
from offsetter.web.guard import OwnPagesOnly, SignedInFirst
from offsetter.web.limits import JSON_BYTES
from offsetter.web.lookers import Lookers
from offsetter.web.reader import InReadersUnits
from offsetter.web.schemas import Problem
from offsetter.web.services import Services


def create_app(
    database_url: str,
    data_folder: Path,
    dist: Path,
    now: Callable[[], datetime] | None = None,
    *,
    is_demo: bool = False,
    last_backup: Path | None = None,
    authority: Path | None = None,
    filling: Path | None = None,
    loopback_ports: frozenset[int] = frozenset(),
    watches: bool = False,
    lookers: int = 0,
) -> FastAPI:
    """watches: ask the printers on the network by itself. lookers: processes for previews; 0: the server's own threads."""
    base = Base(engine_for(database_url), FileStore(data_folder), now)
    GATE.path = base.files.locks / "parsing"

    services = Services(base, is_demo=is_demo, loopback_ports=loopback_ports)
    previews = Lookers(services, database_url, data_folder, lookers)

    @asynccontextmanager
    async def life(_: FastAPI) -> AsyncIterator[None]:
        base.work.warm()
        previews.start()
        with suppress(OperationalError):  # a database that comes later is caught up with at the first look at Jobs
            services.standings.catch_up()
        if watches:
            services.watch.start()
        yield
        services.watch.stop()
        services.sending.close()
        previews.close()
        base.work.close()
        base.engine.dispose()

    app = FastAPI(title="Offsetter", version="0.1.0", lifespan=life, docs_url=None, redoc_url=None,
                  generate_unique_id_function=lambda route: route.name, responses={401: {"model": Problem}, 403: {"model": Problem}, 409: {"model": Problem}, 422: {"model": Problem}})  # fmt: skip
    app.state.services, app.state.lookers = services, previews
    app.state.last_backup, app.state.authority, app.state.filling = last_backup, authority, filling
    problems.install(app)
    for area in (
        jobs,
        artworks,
        runs,
        sheets,
        acts,
        long_work,
        press,
        proofs,
        leftovers,
        lists,
        logbook,
        people,
        recipes,
        machines,
        at_work,
        media,
        nozzles,
        customers,
        elsewhere,
        job_files,
        stock,
        today,
        inventory,
        colour,
    ):
        app.include_router(area.router)
    app.include_router(elsewhere.owned)
    static.install(app, dist)
    # A shop's own language lies beside its files, and goes before one that came with the program.
    languages = catalogues_in(SHIPPED, data_folder / "texts")
    app.state.languages = languages
    app.add_middleware(InReadersUnits, languages=languages)
    # Pictures are packed already, and event streams must not wait for a block to fill.
    app.add_middleware(
        GZipMiddleware,
        minimum_size=1500,
        compresslevel=4,
        exclude_content_types=("text/event-stream", "image/png", "image/jpeg", "image/tiff", "font/woff2"),
    )
    app.add_middleware(RequestBodyLimitMiddleware, max_body_size=JSON_BYTES)
    app.add_middleware(SignedInFirst, who=services.people.who, program=services.elsewhere.who)
    app.add_middleware(OwnPagesOnly)
    if is_demo:
        # The demo lets in whoever asks: a name that somebody points at this machine must not.
        app.add_middleware(TrustedHostMiddleware, allowed_hosts=["127.0.0.1", "localhost", "[::1]"])
    app.add_middleware(static.Headers)
    return app
