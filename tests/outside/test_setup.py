"""Set-up on a machine that lacks something: what it needs it fetches, or it says in one line what is missing."""

import os
import shutil
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
TOOLS = ("bash", "env", "cat", "sha256sum", "cut", "flock", "mkdir", "rm", "ln", "chmod", "tail", "sed", "uname")


def machine(folder: Path, *, with_python: bool = True) -> dict[str, str]:
    """A search path with the plainest tools and no Node, and a checkout that has never been set up."""
    tools, checkout = folder / "bin", folder / "checkout"
    tools.mkdir()
    (checkout / "tools").mkdir(parents=True)
    for name in TOOLS:
        (tools / name).symlink_to(shutil.which(name))
    shutil.copy(ROOT / "tools" / "setup.sh", checkout / "tools")
    shutil.copy(ROOT / "requirements-node.lock", checkout)
    python = sys.executable if with_python else folder / "no-python"
    return {**os.environ, "PATH": str(tools), "HERE": str(checkout), "OWN_PYTHON": str(python)}


def run(environment: dict[str, str], then: str) -> subprocess.CompletedProcess:
    # /usr/sbin and /sbin are put behind the search path by set-up itself: there is no Node there.
    script = f'set -euo pipefail; . "$HERE/tools/setup.sh"; PY=$OWN_PYTHON; {then}'
    return subprocess.run(
        ["bash", "-c", script], env=environment, capture_output=True, text=True, timeout=170, check=False
    )


def test_a_machine_without_node_gets_one_into_the_checkouts_own_folder(tmp_path):
    done = run(machine(tmp_path), "need_node; command -v node; node --version; npm --version")
    where, node, npm = done.stdout.split()[-3:] if done.returncode == 0 else ("", "", done.stderr)
    assert where.startswith(str(tmp_path / "checkout" / ".state")), npm
    assert int(node.removeprefix("v").split(".")[0]) >= 20
    assert npm[0].isdigit()


def test_without_node_and_without_a_way_to_fetch_one_it_says_what_is_missing(tmp_path):
    done = run(machine(tmp_path, with_python=False), "need_node")
    assert done.returncode == 1
    assert len(done.stderr.strip().splitlines()) == 1
    assert "Node 20" in done.stderr
