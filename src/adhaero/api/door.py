"""Who may come in: this computer's own user, and devices that were paired. Everybody else sees the door only."""

from __future__ import annotations

import ipaddress
from dataclasses import dataclass

from starlette.concurrency import run_in_threadpool
from starlette.datastructures import Headers, MutableHeaders
from starlette.requests import HTTPConnection, Request
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from adhaero.api.peer import is_same_user
from adhaero.api.problems import problem
from adhaero.store.devices import DESK, Device
from adhaero.workflow.context import iso
from adhaero.workflow.network import Network

OPEN_TO_ALL = frozenset({"/api/door", "/api/door/certificate"})
DESK_ONLY = ("/api/copies",)
"""Copies hold all that a shop has: they are made, taken away and put back at the desk."""
_FORWARDED = ("forwarded", "x-forwarded-for", "x-real-ip", "via")


@dataclass(frozen=True)
class Caller:
    """Who calls: over this computer's loopback or not, as its own user or not, with which device's key."""

    local: bool
    owner: bool
    device: Device | None

    @property
    def admitted(self) -> bool:
        """Whether the caller may read and write."""
        return self.owner or self.device is not None

    @property
    def has_desk(self) -> bool:
        """Whether the caller may take the whole data away, put a copy back, and say where the rig is."""
        return self.admitted and (self.local or (self.device is not None and self.device.right == DESK))

    @property
    def at_desk(self) -> bool:
        """Whether the caller may let others in: only who sits at the computer that the program runs on."""
        return self.admitted and self.local


def cookie_name(network: Network) -> str:
    """One name for each shop: two programs on one computer share their cookies."""
    return f"adhaero-{network.devices.admitted.shop}"


def name_of(request: Request) -> str:
    """What the sender of a request is called in the shop: its device's name, or the desk."""
    found: Caller | None = getattr(request.state, "caller", None)
    return found.device.name if found is not None and found.device is not None else "the desk"


def _is_local(host: str) -> bool:
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:
        return False


def caller(scope: Scope, network: Network) -> Caller:
    """Who sent this request."""
    asked = HTTPConnection(scope)
    key = asked.cookies.get(cookie_name(network), "")
    device = network.devices.holder(key, network.now()) if key else None
    client, server = scope.get("client"), scope.get("server")
    if client is None or server is None:
        return Caller(local=False, owner=False, device=device)
    # What a program in between passes on may come from anywhere, though its own connection is local.
    local = _is_local(client[0]) and not any(h in asked.headers for h in _FORWARDED)
    return Caller(local, local and device is None and is_same_user(client, server), device)


class Door:
    """ASGI middleware: what is not the door itself or the shipped front end is refused to who is not admitted.

    The front end holds no data, and a device needs it to be paired. Without a network the application is not served
    to anybody: it is called from within its own process.
    """

    def __init__(self, app: ASGIApp, network: Network | None) -> None:
        self.app, self.network = app, network

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or self.network is None or not scope["path"].startswith("/api/"):
            await self.app(scope, receive, send)
            return
        now = self.network.now

        async def timed(message: Message) -> None:
            # Every answer says when it was made: devices go by the desk's clock, not by their own.
            if message["type"] == "http.response.start":
                MutableHeaders(scope=message)["Adhaero-Now"] = iso(now())
            await send(message)

        await self._answer(self.network, scope, receive, timed)

    async def _answer(self, network: Network, scope: Scope, receive: Receive, send: Send) -> None:
        # Whoever guesses costs next to nothing.
        wait_s = network.pairing.must_wait(scope["client"][0]) if self._is_guess(scope) else 0
        if wait_s:
            detail = f"Too many wrong codes came from here. Try again in {wait_s} s."
            refused = problem(429, "too-many", "Refused", detail)
            refused.headers["Retry-After"] = str(wait_s)
            await refused(scope, receive, send)
            return
        who = await run_in_threadpool(caller, scope, network)
        scope.setdefault("state", {})["caller"] = who
        shop = Headers(scope=scope).get("adhaero-shop")
        if shop and shop != network.devices.admitted.shop and scope["path"] not in OPEN_TO_ALL:
            detail = (
                "This page is of another shop, whose program answered here before. Load it anew; nothing was changed."
            )
            await problem(421, "other-shop", "Another shop", detail)(scope, receive, send)
            return
        if who.admitted and not who.has_desk and scope["path"].startswith(DESK_ONLY):
            detail = "This device is for work at the bench. Do that at the desk, or give it the desk's rights there."
            await problem(403, "desk-only", "Only at the desk", detail)(scope, receive, send)
            return
        if who.admitted or scope["path"] in OPEN_TO_ALL:
            await self.app(scope, receive, send)
            return
        detail = (
            "This device is not paired with the shop. Pair it with the code that the desk shows; nothing was changed."
        )
        await problem(401, "not-paired", "Not paired", detail)(scope, receive, send)

    @staticmethod
    def _is_guess(scope: Scope) -> bool:
        return scope["path"] == "/api/door" and scope["method"] == "POST" and scope.get("client") is not None
