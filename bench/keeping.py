"""A whole shop kept in one file and brought back: 2,000 jobs and 3 GB of files, against the bounds and the disk's own speed."""

import os
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from growth import closed_job, grow
from shop import ROOT, close_shop, open_shop

from offsetter.store.engine import engine_for
from offsetter.store.files import FileStore

JOBS, ACTS_A_JOB = 2_000, 50
FILE_BYTES, FILES = 6_000_000, 500
BACKUP_S, RESTORE_S, MOST_MB = 60, 120, 300


def bench_keeping() -> None:
    from database import free_port

    with tempfile.TemporaryDirectory(prefix="offsetter-bench-") as folder:
        data, back, kept = Path(folder) / "shop", Path(folder) / "back", Path(folder) / "shop.zip"
        data.mkdir()
        port = free_port()
        demo = open_shop(data, port, f"http://127.0.0.1:{port}")
        try:
            engine = engine_for((data / "url").read_text())
            grow(engine, closed_job(engine), JOBS, JOBS * ACTS_A_JOB)
            files = FileStore(data / "files")
            for _ in range(FILES):
                files.keep(os.urandom(FILE_BYTES))
            disk_s = _copied(data / "files" / "originals", Path(folder) / "copy")
            print(
                f"keeping: {JOBS} jobs, {FILES * FILE_BYTES / 1e9:.1f} GB; the disk copies the files in {disk_s:.0f} s"
            )
            _row("backup, while open", *_run("backup", kept, data), max(BACKUP_S, disk_s))
        finally:
            close_shop(demo)
        shutil.rmtree(data)
        _row("restore", *_run("restore", kept, back), max(RESTORE_S, disk_s))


def _copied(source: Path, target: Path) -> float:
    """Seconds to copy the files and have them on the disk."""
    began = time.perf_counter()
    shutil.copytree(source, target)
    os.sync()
    took = time.perf_counter() - began
    shutil.rmtree(target)
    return took


def _run(what: str, kept: Path, data: Path) -> tuple[float, float]:
    """Seconds, and the most memory in MB that the process had."""
    began, most = time.perf_counter(), 0.0
    told = [sys.executable, str(ROOT / "tools" / "backup.py"), what, str(kept), "--data", str(data)]
    done = subprocess.Popen(told, stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL)
    while done.poll() is None:
        try:
            rows = Path(f"/proc/{done.pid}/status").read_text().splitlines()
            most = max(most, *(int(r.split()[1]) / 1000 for r in rows if r.startswith("VmHWM:")))
        except (OSError, TypeError):
            pass
        time.sleep(0.05)
    if done.returncode:
        raise SystemExit(f"{what} failed")
    return time.perf_counter() - began, most


def _row(what: str, took_s: float, most_mb: float, bound_s: float) -> None:
    print(
        f"  {what:20} {took_s:6.1f} s   of bound {took_s / bound_s:.2f}   memory {most_mb:.0f} MB, of bound {most_mb / MOST_MB:.2f}"
    )
