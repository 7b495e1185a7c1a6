"""./offsetter migrate: bring the database of OFFSETTER_OWNER_URL up to date and grant its rights to the user of OFFSETTER_APP_USER."""

import os
import sys

from offsetter.store.engine import grant, migrate

if "OFFSETTER_OWNER_URL" not in os.environ:
    sys.exit("offsetter: set OFFSETTER_OWNER_URL to a database user that owns the schema; docs/running.md tells more.")
migrate(os.environ["OFFSETTER_OWNER_URL"])
if "OFFSETTER_APP_USER" in os.environ:
    grant(os.environ["OFFSETTER_OWNER_URL"], os.environ["OFFSETTER_APP_USER"])
