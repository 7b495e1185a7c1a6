"""One web process over a shop's database and files. It keeps nothing that another needs: any of them answers any request."""

import os
from multiprocessing import parent_process

from fastapi import FastAPI

from offsetter.intake.limits import end_with_parent, few_arenas, memory
from offsetter.web.app import create_app
from offsetter.web.lookers import count_for
from offsetter.web.settings import Settings


def served() -> FastAPI:
    few_arenas()
    settings = Settings()
    processes = settings.processes or 1
    opener = parent_process()
    if opener is not None and opener.pid is not None:
        end_with_parent(opener.pid)
    lookers = settings.lookers if settings.lookers is not None else count_for(os.cpu_count() or 1, memory()) // processes  # fmt: skip
    return create_app(
        settings.database_url,
        settings.data_folder,
        settings.dist,
        is_demo=settings.demo,
        last_backup=settings.last_backup,
        authority=settings.authority,
        filling=settings.filling,
        loopback_ports=frozenset(settings.loopback_ports),
        watches=True,
        lookers=lookers,
    )
