"""./offsetter refold: work out anew what is kept of every job, put right what differed, and say it."""

import sys

from pydantic import ValidationError

from offsetter.core.quantities import METRIC, told
from offsetter.desk.base import Base
from offsetter.store.engine import engine_for
from offsetter.store.files import FileStore
from offsetter.web.services import Services
from offsetter.web.settings import Settings


def main() -> int:
    try:
        settings = Settings()
    except ValidationError as missing:
        names = ", ".join(f"OFFSETTER_{str(e['loc'][0]).upper()}" for e in missing.errors())
        print(f"offsetter: {names} must be set; docs/running.md says to what.", file=sys.stderr)
        return 2
    base = Base(engine_for(settings.database_url), FileStore(settings.data_folder))
    differing = Services(base).standings.refold()
    for one in differing:
        print(told(f"{one.what}\n  kept  {one.kept}\n  anew  {one.anew}", METRIC))
    print(
        f"offsetter: {len(differing)} of what is kept differed and is put right"
        if differing
        else "offsetter: nothing differed"
    )
    return 1 if differing else 0


if __name__ == "__main__":
    sys.exit(main())
