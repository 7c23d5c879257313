"""A simulated rig in a thread of its own, spoken to over TCP exactly as the application does."""

from __future__ import annotations

import asyncio
import json
import os
import socket
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from adhaero.rig.simulator import Simulator


class RigUnderTest:
    """Its simulator, its ports, and the hand at the lever."""

    def __init__(self, simulator: Simulator) -> None:
        self.simulator = simulator
        self.port = self.hand_port = 0
        self._loop = asyncio.new_event_loop()
        self._servers: list[asyncio.Server] = []
        self._ready = threading.Event()
        self._thread = threading.Thread(target=self._run, daemon=True)

    def _run(self) -> None:
        asyncio.set_event_loop(self._loop)

        async def start() -> None:
            signal = await asyncio.start_server(self.simulator.signal, "127.0.0.1", 0)
            hand = await asyncio.start_server(self.simulator.hand, "127.0.0.1", 0)
            self._servers = [signal, hand]
            self.port, self.hand_port = (s.sockets[0].getsockname()[1] for s in self._servers)
            self._ready.set()

        self._loop.run_until_complete(start())
        self._loop.run_forever()
        self._loop.close()

    def start(self) -> None:
        self._thread.start()
        assert self._ready.wait(5)

    def stop(self) -> None:
        async def end() -> None:
            for server in self._servers:
                server.close()
            others = [t for t in asyncio.all_tasks() if t is not asyncio.current_task()]
            for t in others:
                t.cancel()
            await asyncio.gather(*others, return_exceptions=True)

        asyncio.run_coroutine_threadsafe(end(), self._loop).result(timeout=5)
        self._loop.call_soon_threadsafe(self._loop.stop)
        self._thread.join(timeout=3)

    def at_its_end(self, what: Callable[..., Any], *arguments: Any) -> None:
        """Do something in the rig's own thread."""
        self._loop.call_soon_threadsafe(what, *arguments)

    @property
    def url(self) -> str:
        return f"socket://127.0.0.1:{self.port}"

    def hand(self, **order: Any) -> dict[str, Any]:
        with socket.create_connection(("127.0.0.1", self.hand_port), timeout=3) as link, link.makefile("rw") as lines:
            lines.write(json.dumps(order) + "\n")
            lines.flush()
            return dict(json.loads(lines.readline()))


@contextmanager
def running_rig(**settings: Any) -> Iterator[RigUnderTest]:
    """A rig that runs as long as the block."""
    rig = RigUnderTest(Simulator(**{"rate_hz": 500.0, **settings}))
    rig.start()
    try:
        yield rig
    finally:
        rig.stop()


def wait_for(what: Callable[[], Any], why: str, seconds: float = 30.0) -> Any:
    """The first true value of ``what``."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        value = what()
        if value:
            return value
        time.sleep(0.02)
    raise AssertionError(f"waited {seconds} s in vain: {why}")


@contextmanager
def longest_stall(folder: Path) -> Iterator[Callable[[], float]]:
    """How long this machine made a program wait meanwhile that writes a line to its disk every 20 ms, s: what a promise
    of so many seconds cannot include.
    """
    waits, over = [0.0], threading.Event()

    def write() -> None:
        with (folder / "pace").open("wb", buffering=0) as file:
            while not over.is_set():
                begun = time.monotonic()
                time.sleep(0.02)
                file.write(b"a line\n")
                os.fsync(file.fileno())
                waits.append(time.monotonic() - begun - 0.02)

    thread = threading.Thread(target=write, daemon=True)
    thread.start()
    try:
        yield lambda: max(waits)
    finally:
        over.set()
        thread.join()
