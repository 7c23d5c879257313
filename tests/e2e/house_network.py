"""Two computers of one house, on one machine: network namespaces with a cable between them that can be pulled."""

from __future__ import annotations

import contextlib
import json
import os
import secrets
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

DESK_IP, TABLET_IP = "10.77.0.1", "10.77.0.2"


def _ip(*words: str) -> None:
    subprocess.run(["ip", *words], check=True, capture_output=True, text=True)


class House:
    """A desk and a tablet. What is started ``at`` one of them sees that one's network only."""

    def __init__(self) -> None:
        own = secrets.token_hex(2)
        self.desk, self.tablet, self.cable = f"desk-{own}", f"tablet-{own}", f"c{own}"

    def lay(self) -> None:
        for name in (self.desk, self.tablet):
            _ip("netns", "add", name)
            _ip("-n", name, "link", "set", "lo", "up")
        ends = f"{self.cable}d", f"{self.cable}t"
        _ip("link", "add", ends[0], "type", "veth", "peer", "name", ends[1])
        for name, end, address in ((self.desk, ends[0], DESK_IP), (self.tablet, ends[1], TABLET_IP)):
            _ip("link", "set", end, "netns", name)
            _ip("-n", name, "addr", "add", f"{address}/24", "dev", end)
            _ip("-n", name, "link", "set", end, "up")

    def take_away(self) -> None:
        for name in (self.desk, self.tablet):
            with contextlib.suppress(subprocess.CalledProcessError):
                _ip("netns", "del", name)

    def pull_cable(self) -> None:
        _ip("-n", self.desk, "link", "set", f"{self.cable}d", "down")

    def plug_cable(self) -> None:
        _ip("-n", self.desk, "link", "set", f"{self.cable}d", "up")

    def at(self, place: str, *command: str) -> list[str]:
        """A command, run at one of both computers."""
        return ["ip", "netns", "exec", place, *command]

    def browser_at(self, place: str, folder: Path) -> Path:
        """A program that starts the browser there."""
        script = folder / f"browser-{place}"
        script.write_text(f'#!/bin/sh\nexec ip netns exec {place} /usr/bin/chromium-headless-shell "$@"\n')
        script.chmod(0o755)
        return script

    def asks(self, place: str, method: str, url: str, body: Any = None) -> int:
        """The status of a request made there by a program without a key."""
        code = (
            "import sys, urllib.request, urllib.error, json\n"
            "method, url, body = sys.argv[1:4]\n"
            "request = urllib.request.Request(url, body.encode() or None, {'Content-Type': 'application/json'},"
            " method=method)\n"
            "try:\n    print(urllib.request.urlopen(request, timeout=10).status)\n"
            "except urllib.error.HTTPError as e:\n    print(e.code)\n"
        )
        told = "" if body is None else json.dumps(body)
        command = self.at(place, sys.executable, "-c", code, method, url, told)
        return int(subprocess.run(command, check=True, capture_output=True, text=True).stdout)


class Desk:
    """The program at the desk, with the shop's network open."""

    def __init__(self, house: House, folder: Path) -> None:
        self.house, self.folder = house, folder
        self.process: subprocess.Popen[str] | None = None

    def start(self) -> None:
        command = [sys.executable, "-m", "adhaero", "serve", "--data", str(self.folder), "--port", "8137", "--shop",
                   "--no-browser"]  # fmt: skip
        self.process = subprocess.Popen(
            self.house.at(self.house.desk, *command), stdout=subprocess.DEVNULL, start_new_session=True
        )
        end = time.monotonic() + 60
        while time.monotonic() < end:
            with contextlib.suppress(subprocess.CalledProcessError):
                if self.house.asks(self.house.desk, "GET", "http://127.0.0.1:8137/api/today") == 200:
                    return
            time.sleep(0.2)
        raise AssertionError("the desk did not start")

    def stop(self, *, hard: bool = False) -> None:
        if self.process is not None:
            (self.process.kill if hard else self.process.terminate)()
            self.process.wait(20)
            self.process = None


def why_not() -> str:
    """Why this machine can't be two computers; empty where it can."""
    if os.name != "posix" or os.geteuid() != 0:
        return "only root lays cables between network namespaces"
    house = House()
    try:
        house.lay()
    except (OSError, subprocess.CalledProcessError) as error:
        return f"no network namespaces here: {getattr(error, 'stderr', '') or error}"
    finally:
        with contextlib.suppress(OSError):
            house.take_away()
    return ""


def house() -> Iterator[House]:
    """A house, taken away again."""
    laid = House()
    laid.lay()
    try:
        yield laid
    finally:
        laid.take_away()
