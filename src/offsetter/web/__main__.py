"""Runs the server from settings in the environment; --shop: for real, not for the demo."""

import os
import sys
from pathlib import Path

import uvicorn
from pydantic import ValidationError

from offsetter.core.values import Refusal
from offsetter.intake.limits import memory
from offsetter.web.app import create_app
from offsetter.web.lookers import count_for
from offsetter.web.settings import Settings


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
        lookers=settings.lookers if settings.lookers is not None else count_for(os.cpu_count() or 1, memory()),
    )
    uvicorn.run(app, host=settings.address, port=settings.port, log_level="warning", timeout_graceful_shutdown=2,
                proxy_headers=bool(settings.proxies), forwarded_allow_ips=settings.proxies,
                ssl_certfile=settings.tls_certificate, ssl_keyfile=settings.tls_key)  # fmt: skip
    return 0


if __name__ == "__main__":
    sys.exit(main())
