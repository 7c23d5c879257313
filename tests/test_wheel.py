"""The wheel alone: installed into a fresh environment without Node or a checkout, the demo runs from it."""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import sys
import time
import urllib.error
import urllib.request
import zipfile
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent
pytestmark = pytest.mark.slow


def run(*command: str | Path, env: dict[str, str] | None = None, cwd: Path | None = None) -> str:
    done = subprocess.run([str(c) for c in command], capture_output=True, text=True, env=env, cwd=cwd, check=False)
    assert done.returncode == 0, done.stdout[-2000:] + done.stderr[-2000:]
    return done.stdout


@pytest.fixture(scope="module")
def wheel(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The wheel, built from a clean copy of what it is made of."""
    copy = tmp_path_factory.mktemp("source")
    for name in ("pyproject.toml", "README.md", "LICENSE"):
        if (ROOT / name).exists():
            shutil.copy(ROOT / name, copy / name)
    shutil.copytree(ROOT / "src", copy / "src", ignore=shutil.ignore_patterns("*.egg-info", "__pycache__"))
    run(sys.executable, "-m", "pip", "wheel", "--quiet", "--no-deps", "--no-build-isolation", "--wheel-dir", copy, copy)
    (made,) = copy.glob("*.whl")
    return made


@pytest.fixture(scope="module")
def installed(wheel: Path, tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, dict[str, str]]:
    """A fresh environment with the wheel and what it names, and nothing of this checkout on its path."""
    home = tmp_path_factory.mktemp("fresh")
    run(sys.executable, "-m", "venv", home / "venv")
    binaries = home / "venv" / "bin"
    # Compiling all of the numerical libraries takes a minute, and only what is imported is ever needed.
    pip: list[str | Path] = [binaries / "python", "-m", "pip", "install", "--quiet", "--no-compile",
                             "--disable-pip-version-check"]  # fmt: skip
    run(*pip, "--require-hashes", "-r", ROOT / "requirements" / "run.lock")
    run(*pip, "--no-deps", wheel)
    empty = home / "empty"
    empty.mkdir()
    env = {k: v for k, v in os.environ.items() if not k.startswith(("PYTHON", "VIRTUAL"))}
    return binaries, {**env, "HOME": str(home), "PATH": f"{binaries}:{empty}"}


def test_it_carries_the_built_front_end_and_the_migrations(wheel: Path) -> None:
    with zipfile.ZipFile(wheel) as held:
        names = held.namelist()
    assert "adhaero/webroot/index.html" in names
    assert any(re.fullmatch(r"adhaero/webroot/assets/index-.*\.js", n) for n in names)
    assert any(n.endswith(".woff2") for n in names), "fonts are shipped"
    assert sum(n.startswith("adhaero/store/migrations/") for n in names) == len(
        list((ROOT / "src/adhaero/store/migrations").glob("*.sql"))
    )
    assert not any(n.startswith("tests") or "node_modules" in n for n in names)


def test_the_demo_runs_from_it_without_node(installed: tuple[Path, dict[str, str]]) -> None:
    binaries, env = installed
    assert shutil.which("node", path=env["PATH"]) is None
    demo = subprocess.Popen(
        [binaries / "adhaero", "demo", "--port", "8471", "--data", Path(env["HOME"]) / "demo"],
        env=env, cwd=env["HOME"], stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True,
    )  # fmt: skip
    try:
        address = said(demo)
        page = get(address)
        assert "<title>Adhaero</title>" in page
        script = re.search(r'src="(/assets/[^"]+\.js)"', page)
        assert script is not None
        assert len(get(address + script[1])) > 10_000
        assert "Runner laminations" in get(f"{address}/api/today")
        assert "hold most" in get(f"{address}/api/batches/2/compare")
        assert str(ROOT) not in get(f"{address}/api/copies"), "it knows of no checkout"
    finally:
        demo.terminate()
        demo.wait(20)


def said(process: subprocess.Popen[str]) -> str:
    """The address that the program prints at its start."""
    assert process.stdout is not None
    for line in process.stdout:
        found = re.search(r"Open (http://\S+)", line)
        if found:
            return found[1]
    raise AssertionError("it ended without an address")


def get(url: str) -> str:
    end = time.monotonic() + 60
    while True:
        try:
            with urllib.request.urlopen(url, timeout=20) as answer:
                text: str = answer.read().decode()
                return text
        except urllib.error.URLError:
            if time.monotonic() > end:
                raise
            time.sleep(0.2)


def test_commands_say_what_they_do(installed: tuple[Path, dict[str, str]]) -> None:
    binaries, env = installed
    told = run(binaries / "adhaero", "--help", env=env)
    for command in ("serve", "demo", "backup", "restore", "check"):
        assert command in told
    assert "--no-browser" in run(binaries / "adhaero", "serve", "--help", env=env)
