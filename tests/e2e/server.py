"""The real thing: server and simulated rig as processes of their own, on a data folder of their own."""

from __future__ import annotations

import multiprocessing
import os
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from multiprocessing.process import BaseProcess
from pathlib import Path

from adhaero import cli

# Servers are forked from one process that has read the numerical libraries already: seconds less for each test.
_CONTEXT = multiprocessing.get_context("forkserver")
_CONTEXT.set_forkserver_preload(["adhaero.api.app", "tests.e2e.server"])


def free_port() -> int:
    """A port that nobody uses now."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def _quietly(command: list[str]) -> None:
    """The command in a process of its own, its words put aside."""
    os.dup2(os.open(os.devnull, os.O_WRONLY), 1)
    cli.main(command)


class Rig:
    """The simulated rig as a process; quick, so that a batch breaks in a minute, and read often enough for that."""

    def __init__(self, seed: int = 20417, pump: float = 0.5) -> None:
        self.port, self.hand_port = free_port(), free_port()
        command = [sys.executable, "-m", "adhaero", "rig-sim", "--port", str(self.port), "--hand-port",
                   str(self.hand_port), "--pump", str(pump), "--rate", "400", "--seed", str(seed)]  # fmt: skip
        self.process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
        assert self.process.stdout is not None
        assert "simulated rig" in self.process.stdout.readline()

    @property
    def url(self) -> str:
        return f"socket://127.0.0.1:{self.port}"

    def stop(self) -> None:
        self.process.terminate()
        self.process.wait(timeout=5)


class Server:
    """The server as a process. ``kill`` is kill -9; ``start`` brings it back on the same port and data."""

    def __init__(self, folder: Path, rig: Rig | None = None) -> None:
        self.folder, self.rig, self.port = folder, rig, free_port()
        self.process: BaseProcess | None = None

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        command = ["serve", "--data", str(self.folder), "--port", str(self.port)]
        if self.rig is not None:
            command += ["--hand-port", str(self.rig.hand_port)]
        self.process = _CONTEXT.Process(target=_quietly, args=(command,))
        self.process.start()
        end = time.monotonic() + 40
        while time.monotonic() < end:
            try:
                with urllib.request.urlopen(f"{self.url}/api/today", timeout=1):
                    return
            except OSError:
                time.sleep(0.1)
        raise AssertionError("the server did not start")

    def kill(self) -> None:
        assert self.process is not None
        os.kill(self.process.pid or 0, signal.SIGKILL)
        self.process.join(timeout=5)

    def stop(self) -> None:
        if self.process is not None and self.process.is_alive():
            self.process.terminate()
            self.process.join(timeout=10)
