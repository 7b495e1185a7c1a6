"""Writes the server's OpenAPI document, from which the front end's types are made."""

import json
import sys
import tempfile
from pathlib import Path
from typing import Any

from offsetter.web.app import create_app

TARGET = Path(__file__).resolve().parents[1] / "frontend" / "src" / "api" / "openapi.json"


def described() -> dict[str, Any]:
    """The document itself, made without a database."""
    with tempfile.TemporaryDirectory() as folder:
        app = create_app("mariadb+pymysql://nobody@127.0.0.1/none", Path(folder), Path(folder))
        return app.openapi()


def document() -> str:
    return json.dumps(described(), indent=1, sort_keys=True, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    TARGET.write_text(document())
    sys.exit(0)
