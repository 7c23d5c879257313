"""The longest pull at the highest rate: 1,000 lines a second for half an hour, over TCP and over a serial line.

``python -m benchmarks.rig [minutes]``. Every line carries a force of its own, so that those stored can be held against
those sent one by one. Printed: lines sent and stored, how long after the breaking line the break was said, memory of
the server at the start and the end, and its share of a core.
"""

from __future__ import annotations

import json
import multiprocessing
import os
import pty
import socket
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
import tty
import urllib.request
from collections.abc import Callable
from contextlib import closing
from multiprocessing.synchronize import Event
from pathlib import Path
from typing import Any

from adhaero.store import curves

RATE_HZ = 1000
STEP_N = 0.005
"""Each line is so much above the one before: half an hour at 1 kHz ends at 9 kN."""
FIRST_N = 200.0
CHUNK_S = 0.005
_TICKS = os.sysconf("SC_CLK_TCK")


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def _send(write: Callable[[bytes], Any], go: Event, seconds: float, told: Any) -> None:
    """Zero until ``go``, then the ramp, then the break and zero again; evenly, catching up after a pause."""
    start = time.monotonic()
    sent = ramp = 0
    ramped = int(seconds * RATE_HZ)
    while True:
        due = int((time.monotonic() - start) * RATE_HZ)
        lines = []
        for n in range(sent, due):
            if go.is_set() and ramp < ramped:
                force = FIRST_N + STEP_N * ramp
                ramp += 1
                if ramp == ramped:
                    told["highest"] = force
            else:
                force = 0.0
                if ramp == ramped and "broken_at" not in told:
                    told["broken_at"] = time.time()
            lines.append(f"{n},{force:.3f}\n")
        if lines:
            write("".join(lines).encode())
        sent = due
        time.sleep(CHUNK_S)


def _tcp_source(port: int, go: Event, seconds: float, told: Any) -> None:
    with socket.create_server(("127.0.0.1", port)) as door:
        while True:
            link, _ = door.accept()
            try:
                _send(link.sendall, go, seconds, told)
            except OSError:
                link.close()


def _serial_source(master: int, go: Event, seconds: float, told: Any) -> None:
    # What the program writes to the rig is read away, as a rig without commands would.
    threading.Thread(target=_drain, args=(master,), daemon=True).start()

    def write(data: bytes) -> None:
        while data:
            data = data[os.write(master, data) :]

    _send(write, go, seconds, told)


def _drain(master: int) -> None:
    while os.read(master, 1000):
        pass


class Shop:
    """A server of its own with one batch, and the calls that the measurement makes."""

    def __init__(self, folder: Path) -> None:
        self.folder, self.port = folder, _free_port()
        command = [sys.executable, "-m", "adhaero", "serve", "--data", str(folder), "--port", str(self.port)]
        self.process = subprocess.Popen(command, stdout=subprocess.DEVNULL)
        end = time.monotonic() + 60
        while time.monotonic() < end:
            try:
                self.call("GET", "/today")
                return
            except OSError:
                time.sleep(0.2)
        raise RuntimeError("the server did not start")

    def call(self, method: str, path: str, body: object = None) -> Any:
        """One call of the interface."""
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(f"http://127.0.0.1:{self.port}/api{path}", data, method=method)
        request.add_header("Content-Type", "application/json")
        with urllib.request.urlopen(request, timeout=60) as answer:
            return json.loads(answer.read())

    def batch(self) -> tuple[int, str]:
        """A locked batch, and its first piece."""
        batch = self.call("POST", "/batches", {"name": "A long pull"})["id"]
        plan = self.call("GET", f"/batches/{batch}/plan")
        levels = [{"value": g, "unit": ""} for g in ("casein", "hide-hot")]
        document = {**plan["document"], "question": "?", "factors": [{"key": "glue", "name": "Glue", "levels": levels}]}
        body = {"version": plan["version"], "name": "A long pull", "document": document}
        version = self.call("PUT", f"/batches/{batch}/plan", body)["version"]
        self.call("POST", f"/batches/{batch}/lock", {"version": version})
        return batch, self.call("GET", f"/batches/{batch}/break")["next"]

    def memory_mb(self) -> float:
        """Resident memory of the server."""
        status = Path(f"/proc/{self.process.pid}/status").read_text()
        return int(status.split("VmRSS:")[1].split()[0]) / 1024

    def busy_s(self) -> float:
        """Seconds of a core used so far."""
        fields = Path(f"/proc/{self.process.pid}/stat").read_text().rsplit(")", 1)[1].split()
        return (int(fields[11]) + int(fields[12])) / _TICKS

    def stored(self, pull: int) -> list[float]:
        """The forces stored of a pull, in their order."""
        with closing(sqlite3.connect(self.folder / "adhaero.db")) as conn:
            conn.row_factory = sqlite3.Row
            return [float(f) for part in curves.chunks(conn, pull) for f in part[:, 1]]


def _measure(name: str, shop: Shop, port: str, go: Event, told: Any, seconds: float) -> str:
    rig = {"name": name, "port": port, "capacity": 20_000, "step": 0.001, "fixture": "none"}
    shop.call("PUT", "/rig", rig)
    batch, code = shop.batch()
    while shop.call("GET", "/rig/live")["status"] != "live":
        time.sleep(0.2)
    time.sleep(3)
    pull = shop.call("POST", f"/batches/{batch}/pulls", {"code": code})["id"]
    go.set()
    time.sleep(min(20.0, seconds / 3))
    memory, busy, begun = shop.memory_mb(), shop.busy_s(), time.monotonic()
    # A screen that looks on, as there is one.
    since = connection = 0
    while True:
        live = shop.call("GET", f"/rig/live?since={since}&connection={connection}")
        since, connection = live["sequence"], live["connection"]
        if live["pull"]["broke"]:
            seen = time.time()
            break
        time.sleep(0.03 if time.monotonic() - begun > seconds - 60 else 0.12)
    core = (shop.busy_s() - busy) / (time.monotonic() - begun)
    end = shop.memory_mb()
    while shop.call("GET", "/rig/live")["pull"]["state"] not in ("ended", "interrupted"):
        time.sleep(0.2)
    ramp = [f for f in shop.stored(pull) if f >= FIRST_N - STEP_N / 2]
    wanted = round((told["highest"] - FIRST_N) / STEP_N) + 1
    kept = {round((f - FIRST_N) / STEP_N) for f in ramp}
    lost = wanted - len(kept)
    return (
        f"{name}: {wanted} lines sent up to the break, {len(ramp)} stored, {lost} lost; "
        f"break said {seen - told['broken_at']:.3f} s after its line; "
        f"memory {memory:.1f} MB at the start, {end:.1f} MB at the end; {100 * core:.0f} % of a core"
    )


def _run(name: str, serial_line: bool, seconds: float) -> None:
    context = multiprocessing.get_context("fork")
    go, told = context.Event(), context.Manager().dict()
    if serial_line:
        master, slave = pty.openpty()
        tty.setraw(slave)
        port, source = os.ttyname(slave), context.Process(target=_serial_source, args=(master, go, seconds, told))
    else:
        number = _free_port()
        port = f"socket://127.0.0.1:{number}"
        source = context.Process(target=_tcp_source, args=(number, go, seconds, told))
    source.daemon = True
    source.start()
    with tempfile.TemporaryDirectory() as folder:
        shop = Shop(Path(folder))
        try:
            print(_measure(name, shop, port, go, told, seconds), flush=True)
        finally:
            shop.process.terminate()
            shop.process.wait(timeout=20)
            source.terminate()


def main(minutes: float) -> None:
    """Both kinds of line, one after the other."""
    print(f"A pull of {minutes:g} min at {RATE_HZ} lines a second")
    _run("TCP", False, 60 * minutes)
    _run("serial line", True, 60 * minutes)


if __name__ == "__main__":
    main(float(sys.argv[1]) if len(sys.argv) > 1 else 30.0)
