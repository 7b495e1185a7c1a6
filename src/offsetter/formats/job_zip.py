"""A job as a zip: its document, the document's JSON Schema, its files under their hashes."""

import json
import zipfile
from pathlib import Path

from offsetter.core.job_file import JobFile

DOCUMENT, SCHEMA, FILES = "job.json", "job.schema.json", "files/"


def schema() -> str:
    """JSON Schema (2020-12) of the document."""
    return json.dumps({"$schema": "https://json-schema.org/draft/2020-12/schema", **JobFile.model_json_schema()}, indent=1)  # fmt: skip


def write_job_zip(path: Path, told: JobFile, files: dict[str, Path]) -> None:
    """files: hash to where its bytes lie. Pictures are packed already and are stored as they are."""
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as out:
        out.writestr(DOCUMENT, told.model_dump_json(indent=1))
        out.writestr(SCHEMA, schema())
        for file_hash, source in files.items():
            out.write(source, FILES + file_hash, compress_type=zipfile.ZIP_STORED)
