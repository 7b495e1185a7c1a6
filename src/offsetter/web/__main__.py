"""Runs the server from settings in the environment; --shop: for real, not for the demo."""

import os
import sys
from pathlib import Path

import uvicorn
from pydantic import ValidationError

from offsetter.core.values import Refusal
from offsetter.intake.limits import memory
from offsetter.web.settings import Settings, processes_for

HUNG_AFTER_S = 30
"""A web process that does not answer its opener for so long is replaced."""


def main() -> int:
    try:
        settings = Settings()
        settings.refuse_open_address()
        if "--shop" in sys.argv:
            settings.refuse_data_inside(Path(__file__).resolve().parents[3])
    except Refusal as refusal:
        print(f"offsetter: {refusal}", file=sys.stderr)
        return 2
    except ValidationError as missing:
        names = ", ".join(f"OFFSETTER_{str(e['loc'][0]).upper()}" for e in missing.errors())
        print(f"offsetter: {names} must be set; docs/running.md says to what.", file=sys.stderr)
        return 2
    count = settings.processes or processes_for(os.cpu_count() or 1, memory())
    os.environ["OFFSETTER_PROCESSES"] = str(count)  # each of them shares the machine with so many
    # Each loads itself: what opens them stays small, and starts another where one ends.
    uvicorn.run("offsetter.web.process:served", factory=True, workers=count, host=settings.address, port=settings.port, log_level="warning",
                timeout_graceful_shutdown=2, timeout_worker_healthcheck=HUNG_AFTER_S, proxy_headers=bool(settings.proxies),
                forwarded_allow_ips=settings.proxies, ssl_certfile=settings.tls_certificate, ssl_keyfile=settings.tls_key)  # fmt: skip
    return 0


if __name__ == "__main__":
    sys.exit(main())
