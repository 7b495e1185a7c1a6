"""The linters catch what they claim: one probe a rule is put into a copy of the tree, and each must be found."""

import shutil
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[2]
BIN = Path(sys.executable).parent
# File to a line that breaks a rule, and the contract that says so.
CONTRACTS = {
    "Layers of the server": ("store/engine.py", "from offsetter.desk import base"),
    "Layers of the core": ("core/facts/blanks.py", "from offsetter.core import line"),
    "The core knows no web, database, process, clock, network or file": (
        "core/ledger.py",
        "import subprocess, time, socket, pathlib",
    ),
    "Formats and intake know no web, database or stand-in": ("formats/cgats.py", "import sqlalchemy"),
    "The command line uses core, intake and formats": ("cli/sheets.py", "import offsetter.work.local"),
    "Nobody knows the stand-ins but the start of the demo": ("devices/probe.py", "import standins.probe"),
}
FRONT_END = {
    "no-circle": ("ui/when.ts", 'import "./parts";\nexport const probe = 1;', "ui/parts.tsx", 'import "./when";'),
    "api-knows-nothing-above": ("api/types.ts", 'import "../ui/parts";'),
    "ui-knows-nothing-above": ("ui/Typed.tsx", 'import "../bench/Bench";'),
    "line-knows-nothing-above": ("line/useWork.ts", 'import "../stations/Waits";'),
    "stations-knows-no-other-pages": ("stations/Waits.tsx", 'import "../shop/Find";'),
    "everything-has-a-layer": ("somewhere/new.ts", 'import "../ui/when";'),
    "nobody-uses-what-has-no-layer": ("ui/Overlay.tsx", 'import "../somewhere/new";'),
}  # fmt: skip


def put(folder: Path, file: str, line: str) -> None:
    path = folder / file
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text(f"{line}\n{path.read_text() if path.exists() else ''}")


@pytest.fixture(scope="module")
def server_said(tmp_path_factory) -> str:
    folder = tmp_path_factory.mktemp("server")
    for name in ("src", "standins"):
        shutil.copytree(ROOT / name, folder / name, ignore=shutil.ignore_patterns("__pycache__"))
    shutil.copy(ROOT / "pyproject.toml", folder)
    for file, line in CONTRACTS.values():
        put(folder / "src" / "offsetter", file, line)
    put(folder / "src" / "offsetter", "newcomer/__init__.py", "")
    put(folder / "src" / "offsetter", "core/newcomer.py", "")
    told = subprocess.run([BIN / "lint-imports", "--no-cache"], cwd=folder, env={"PYTHONPATH": f"{folder / 'src'}:{folder}", "PATH": str(BIN)},
                          capture_output=True, text=True, check=False)  # fmt: skip
    return told.stdout + told.stderr


@pytest.mark.parametrize("contract", CONTRACTS)
def test_each_contract_of_the_server_finds_its_probe(server_said, contract):
    assert f"{contract} BROKEN" in server_said, server_said[-2500:]


def test_a_module_that_stands_in_no_layer_is_found(server_said):
    assert server_said.count("newcomer") >= 2, server_said[-2500:]


def test_the_cores_clock_and_files_are_found(tmp_path):
    core = tmp_path / "src" / "offsetter" / "core"
    core.mkdir(parents=True)
    shutil.copy(ROOT / "pyproject.toml", tmp_path)
    (core / "probe.py").write_text(
        "from datetime import UTC, datetime\n\nNOW = datetime.now(UTC)\nREAD = open('a').read()\n"
    )
    told = subprocess.run(
        [BIN / "ruff", "check", "src"], cwd=tmp_path, capture_output=True, text=True, check=False
    ).stdout
    assert "TID251" in told
    assert "PTH123" in told


@pytest.fixture(scope="module")
def front_end_said(tmp_path_factory) -> str:
    folder = tmp_path_factory.mktemp("front")
    shutil.copytree(ROOT / "frontend" / "src", folder / "src")
    for name in (".dependency-cruiser.cjs", "tsconfig.json", "package.json"):
        shutil.copy(ROOT / "frontend" / name, folder)
    (folder / "node_modules").symlink_to(ROOT / "frontend" / "node_modules")
    for probe in FRONT_END.values():
        for file, line in zip(probe[::2], probe[1::2], strict=True):
            put(folder / "src", file, line)
    told = subprocess.run([folder / "node_modules/.bin/depcruise", "--config", ".dependency-cruiser.cjs", "src"], cwd=folder,
                          capture_output=True, text=True, check=False)  # fmt: skip
    return told.stdout + told.stderr


@pytest.mark.parametrize("rule", FRONT_END)
def test_each_rule_of_the_front_end_finds_its_probe(front_end_said, rule):
    assert f"error {rule}:" in front_end_said, front_end_said[-2500:]
