"""Listening: the desk's own port, and the two ports of the shop's network, all for the one application."""

from __future__ import annotations

import socket
import ssl
import threading
import time
from typing import TYPE_CHECKING

import uvicorn
from starlette.types import ASGIApp

from adhaero.store.devices import Ports

if TYPE_CHECKING:
    from adhaero.store.certificates import Secured

TRIES = 20
STARTS_IN_S = 10


def _bound(host: str, wanted: int) -> socket.socket:
    """A socket on ``wanted``, or on the next free port after it. ``OSError`` where there is none."""
    for port in range(wanted, wanted + TRIES):
        # Named as TCP: only then does the loop send small answers at once (else each waits 40 ms for the other side).
        bound = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
        bound.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            bound.bind((host, port))
            # Another program may have bound the port as well, and only one of both can listen.
            bound.listen(128)
            return bound
        except OSError as error:
            bound.close()
            failed = error
    raise failed


class _Port:
    """One more port for the application, served by a thread of its own."""

    def __init__(self, app: ASGIApp, wanted: int, secured: Secured | None = None) -> None:
        self.socket = _bound("0.0.0.0", wanted)
        self.port = int(self.socket.getsockname()[1])
        self.config = uvicorn.Config(
            app, lifespan="off", log_level="error", proxy_headers=False, timeout_graceful_shutdown=1,
            ssl_certfile=secured.page if secured else None,
        )  # fmt: skip
        self.server = uvicorn.Server(self.config)
        self.thread = threading.Thread(target=self.server.run, args=([self.socket],), daemon=True)
        self.thread.start()
        end = time.monotonic() + STARTS_IN_S
        while not self.server.started and self.thread.is_alive() and time.monotonic() < end:
            time.sleep(0.01)
        if not self.server.started:
            self.stop()
            raise OSError(f"port {self.port} does not answer")

    def renew(self, secured: Secured) -> None:
        context = self.config.ssl
        if isinstance(context, ssl.SSLContext):
            context.load_cert_chain(secured.page)

    def stop(self) -> None:
        self.server.should_exit = True
        self.thread.join(5)
        self.socket.close()


class HouseListener:
    """The plain and the secure port of the shop's network. ``app`` is given when it is made."""

    app: ASGIApp

    def __init__(self) -> None:
        self._open: list[_Port] = []

    def start(self, wanted: Ports, secured: Secured) -> Ports:
        """Listen on both ports, or on the next free ones. ``OSError`` where nothing can be listened on."""
        plain = _Port(self.app, wanted.plain)
        try:
            safe = _Port(self.app, max(wanted.secure, plain.port + 1), secured)
        except OSError:
            plain.stop()
            raise
        self._open = [plain, safe]
        return Ports(plain.port, safe.port)

    def renew(self, secured: Secured) -> None:
        """Use another certificate for every connection from now on."""
        for port in self._open:
            port.renew(secured)

    def stop(self) -> None:
        """Listen no longer."""
        for port in self._open:
            port.stop()
        self._open = []


def serve(app: ASGIApp, port: int) -> None:
    """Serve this computer until the program is ended."""
    uvicorn.run(app, host="127.0.0.1", port=port, log_level="warning", proxy_headers=False, timeout_graceful_shutdown=2)
