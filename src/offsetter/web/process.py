"""One web process over a shop's database and files. It keeps nothing that another needs: any of them answers any request."""

import gc
import os
from multiprocessing import parent_process
from typing import TYPE_CHECKING

from offsetter.intake.limits import end_with_parent, few_arenas, memory
from offsetter.web.settings import Settings

if TYPE_CHECKING:
    from fastapi import FastAPI


def served() -> "FastAPI":
    # What is loaded stays as long as the process: to look through it for what is no longer used would keep a request waiting.
    gc.disable()
    few_arenas()
    from offsetter.web.app import create_app
    from offsetter.web.lookers import count_for

    settings = Settings()
    processes = settings.processes or 1
    opener = parent_process()
    if opener is not None and opener.pid is not None:
        end_with_parent(opener.pid)
    lookers = settings.lookers if settings.lookers is not None else count_for(os.cpu_count() or 1, memory()) // processes  # fmt: skip
    app = create_app(
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
    gc.freeze()
    gc.enable()
    return app
