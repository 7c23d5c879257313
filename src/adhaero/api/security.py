"""Who may talk to the server: the right host and origin, bodies of a sane size, and a strict content policy."""

from __future__ import annotations

from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from adhaero.api.problems import problem
from adhaero.core.house_network import in_house
from adhaero.workflow.network import own_name

MAX_BODY = 512 * 1024
LARGER = {
    "/api/batches/import": 32 * 1024 * 1024,
    "/api/photos": 5 * 1024 * 1024,
    "/api/climate": 24 * 1024 * 1024,
    "/api/curves": 96 * 1024 * 1024,
    "/api/curves/look": 96 * 1024 * 1024,
    "/api/batches/from-plan": 4 * 1024 * 1024,
    "/api/batches/import-table": 12 * 1024 * 1024,
    "/api/batches/import-table/preview": 12 * 1024 * 1024,
}
"""Routes that take files: a table of thousands of pieces, a logger of a year at a reading a minute, a plan, a photo."""
_SAFE = {"GET", "HEAD", "OPTIONS"}
_HEADERS = {
    "Content-Security-Policy": (
        "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; "
        "connect-src 'self'; manifest-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
    ),
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
}


class Guard:
    """ASGI middleware. ``hosts`` are the names under which the server may be called on its own computer.

    On the network of a house it may be called by the address that the call came in at, and by the computer's name.
    Checking the host stops pages that point a name of their own at this machine; checking the origin stops pages
    elsewhere from writing here.
    """

    def __init__(self, app: ASGIApp, hosts: frozenset[str]) -> None:
        self.app = app
        self.hosts = hosts

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)

        async def guarded(message: Message) -> None:
            if message["type"] == "http.response.start":
                MutableHeaders(scope=message).update(_HEADERS)
            await send(message)

        refusal = self._refusal(scope, headers)
        limit = LARGER.get(scope["path"], MAX_BODY)
        length = headers.get("content-length", "0")
        if refusal is None and (not length.isdigit() or int(length) > limit):
            refusal = f"The text is larger than {limit // 1024} kB. Nothing was saved; send less."
            await problem(413, "too-large", "Not saved", refusal)(scope, receive, guarded)
            return
        if refusal is not None:
            await problem(403, "forbidden", "Refused", refusal)(scope, receive, guarded)
            return
        received = 0

        async def counted() -> Message:
            nonlocal received
            message = await receive()
            received += len(message.get("body", b""))
            if received > limit:
                raise HTTPException(413, f"The text is larger than {limit // 1024} kB. Nothing was saved; send less.")
            return message

        await self.app(scope, counted, guarded)

    def _is_known(self, host: str | None, server: tuple[str, int] | None) -> bool:
        if host in self.hosts:
            return True
        at = server[0] if server else ""
        # An address that is not of a house network may be reachable from anywhere: nothing is served there.
        return at not in self.hosts and in_house(at) and host in (at, own_name(), f"{own_name()}.local")

    def _refusal(self, scope: Scope, headers: Headers) -> str | None:
        if not self._is_known(_host(f"//{headers.get('host', '')}"), scope.get("server")):
            return "This address is not one under which Adhaero may be called. Use the one it printed at its start."
        if scope["method"] in _SAFE:
            return None
        origin = headers.get("origin")
        if origin is not None and _netloc(origin) != headers.get("host"):
            return "The request came from a page of another site."
        if origin is None and headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none"):
            return "The request came from a page of another site."
        return None


def _host(url: str) -> str | None:
    try:
        parts = urlsplit(url)
        _ = parts.port
    except ValueError:
        return None
    return parts.hostname


def _netloc(url: str) -> str | None:
    try:
        return urlsplit(url).netloc
    except ValueError:
        return None
