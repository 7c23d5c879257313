"""At the command line one sentence says what is wrong with a data file, and no second server takes it."""

from __future__ import annotations

import contextlib
import os
import re
import shutil
import sqlite3
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import pytest

from adhaero import cli
from adhaero.api import peer
from adhaero.serving import HouseListener
from adhaero.store.database import Database
from adhaero.workflow.network import Network
from tests.e2e.conftest import call
from tests.e2e.server import Server, free_port
from tests.running import Clock


def run(*words: str) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "adhaero", *words]
    return subprocess.run(command, capture_output=True, text=True, timeout=60, check=False)


def sound(folder: Path) -> Path:
    folder.mkdir()
    db = Database(folder / "adhaero.db")
    db.open_up()
    return db.path


def newer(folder: Path) -> None:
    with sqlite3.connect(sound(folder)) as conn:
        conn.execute("PRAGMA user_version = 900")


def corrupt(folder: Path) -> None:
    path = sound(folder)
    data = bytearray(path.read_bytes())
    data[100:4000] = b"\x5a" * 3900
    path.write_bytes(bytes(data))


def truncated(folder: Path) -> None:
    path = sound(folder)
    path.write_bytes(path.read_bytes()[:5000])


def other(folder: Path) -> None:
    folder.mkdir()
    (folder / "adhaero.db").write_text("this is a letter, not a data file\n" * 40)


def a_folder(folder: Path) -> None:
    (folder / "adhaero.db").mkdir(parents=True)


def empty_file(folder: Path) -> None:
    folder.mkdir()
    (folder / "adhaero.db").touch()


@pytest.mark.parametrize("broken", [newer, corrupt, truncated, other, a_folder, empty_file])
@pytest.mark.parametrize("command", ["check", "backup"])
def test_a_file_that_cannot_be_used_gets_one_sentence(
    tmp_path: Path, broken: Callable[[Path], None], command: str
) -> None:
    broken(tmp_path / "data")
    target = [str(tmp_path / "copy.db")] if command == "backup" else []
    done = run(command, "--data", str(tmp_path / "data"), *target)
    said = (done.stdout + done.stderr).strip()
    assert done.returncode != 0, said
    assert "in order" not in said
    assert "Traceback" not in said
    assert len(said.splitlines()) == 1, said
    assert not (tmp_path / "copy.db").exists()


@pytest.mark.parametrize("port", ["0x50", "70000", "-1", "eighty"])
def test_a_port_that_cannot_be_is_refused_in_a_sentence(tmp_path: Path, port: str) -> None:
    done = run("serve", "--data", str(tmp_path), "--port", port)
    assert done.returncode != 0
    assert "Traceback" not in done.stderr
    assert "port" in done.stderr


def test_a_second_server_on_the_same_data_says_where_the_first_is(tmp_path: Path) -> None:
    first = Server(tmp_path)
    first.start()
    try:
        done = run("serve", "--data", str(tmp_path), "--port", str(free_port()))
        assert done.returncode != 0
        assert re.search(rf"already serves .* at http://127\.0\.0\.1:{first.port}\b", done.stderr), done.stderr
        assert "Traceback" not in done.stderr
    finally:
        first.stop()


def listening(process: int) -> set[tuple[str, int]]:
    """The addresses and ports on which a process listens, by the kernel's table (proc(5), net/tcp)."""
    own, found = set(), set()
    for file in Path(f"/proc/{process}/fd").iterdir():
        with contextlib.suppress(FileNotFoundError):  # closed meanwhile
            own.add(os.readlink(file).removeprefix("socket:[").removesuffix("]"))
    for line in Path("/proc/net/tcp").read_text().splitlines()[1:]:
        cells = line.split()
        if cells[3] == "0A" and cells[9] in own:
            address, port = cells[1].split(":")
            found.add((".".join(str(b) for b in reversed(bytes.fromhex(address))), int(port, 16)))
    return found


@pytest.mark.skipif(sys.platform != "linux", reason="reads Linux's table of connections")
def test_without_the_switch_nothing_listens_beyond_this_computer(tmp_path: Path) -> None:
    server = Server(tmp_path)
    server.start()
    try:
        assert server.process is not None
        process = server.process.pid or 0
        assert listening(process) == {("127.0.0.1", server.port)}
        call(server, "PUT", "/network", {"open": True})
        opened = listening(process)
        assert {a for a, _ in opened} == {"127.0.0.1", "0.0.0.0"}
        assert len(opened) == 3
        call(server, "PUT", "/network", {"open": False})
        assert listening(process) == {("127.0.0.1", server.port)}
        call(server, "PUT", "/network", {"open": True})
        server.stop()
        server.start()
        assert len(listening(server.process.pid or 0)) == 3, "the switch stays as it was left"
        server.stop()
        # Where the network can't be opened any more the desk works all the same.
        shutil.rmtree(tmp_path / "certificate")
        (tmp_path / "certificate").write_text("not a folder")
        server.start()
        assert listening(server.process.pid or 0) == {("127.0.0.1", server.port)}
        assert call(server, "GET", "/network")["open"] is False
    finally:
        server.stop()


def test_where_the_system_tells_no_users_the_address_carries_a_code(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    network = Network(tmp_path, Clock(), 8137, HouseListener())
    assert cli._own_address(network) == "http://127.0.0.1:8137"
    monkeypatch.setattr(peer, "TABLES", (tmp_path / "none",))
    address = cli._own_address(network)
    code = network.pairing.code()
    assert code is not None
    assert address == f"http://127.0.0.1:8137/pair#{code.text}"
    device, _ = network.pairing.pair(code.text, "This computer", "127.0.0.1")
    assert [d.name for d in network.devices.admitted.devices] == [device.name]


@pytest.mark.parametrize("words", [("serve", "--port", "0"), ("check",), ("backup", "copy.db"), ("restore",)])
def test_a_folder_that_is_a_file_is_said_in_one_sentence(tmp_path: Path, words: tuple[str, ...]) -> None:
    taken = tmp_path / "letter.txt"
    taken.write_text("not a folder")
    said = run(*words, "--data", str(taken))
    assert said.returncode != 0 or words == ("restore",)
    assert "Traceback" not in said.stderr


def test_damaged_pages_are_said_in_one_sentence(tmp_path: Path) -> None:
    path = sound(tmp_path / "shop")
    data = bytearray(path.read_bytes())
    data[4096:] = b"\x5a" * (len(data) - 4096)
    path.write_bytes(bytes(data))
    for words in (("check",), ("serve", "--port", "0", "--no-browser"), ("backup", str(tmp_path / "copy.db"))):
        said = run(*words, "--data", str(path.parent))
        assert "Traceback" not in said.stderr, said.stderr
        assert said.returncode != 0
