"""The shop's network: the switch, the addresses under which tablets find the desk, and the devices that may come in."""

from __future__ import annotations

import ipaddress
import re
import socket
import threading
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from adhaero.core.house_network import in_house
from adhaero.core.refusal import refuse
from adhaero.formats.labels import Symbol, symbol
from adhaero.store.devices import Devices, Ports
from adhaero.workflow.pairing import Code, Pairing

if TYPE_CHECKING:
    from adhaero.store.certificates import Secured

USUAL = Ports(8147, 8148)


class Listener(Protocol):
    """What listens on the shop's network: two ports, one plain, one secure."""

    def start(self, wanted: Ports, secured: Secured) -> Ports:
        """Listen; the ports that it got. ``OSError`` where it can't."""

    def renew(self, secured: Secured) -> None:
        """Use another certificate from now on."""

    def stop(self) -> None:
        """No longer listen; open connections end."""


@dataclass(frozen=True)
class DeviceView:
    """A device that may come in; ``own`` is the one that asks, ``right`` what it may do: bench or desk."""

    id: str
    name: str
    paired_at: str
    seen_at: str
    own: bool
    right: str


@dataclass(frozen=True)
class CodeView:
    """An open code with the address to scan; ``until`` is when it ends."""

    text: str
    address: str
    symbol: Symbol
    until: str | None


@dataclass(frozen=True)
class NetworkView:
    """The shop's network as the desk sees it.

    ``addresses`` are the plain ones, ``secure`` the same for the page with a certificate; ``withdrawn`` says that the
    last code ended because too many wrong ones were tried; ``may_change`` whether who asks sits at the desk.
    """

    open: bool
    addresses: list[str]
    secure: list[str]
    code: CodeView | None
    withdrawn: bool
    devices: list[DeviceView]
    may_change: bool


def own_name() -> str:
    """The name of this computer as other devices can ask for it."""
    return re.sub(r"[^a-z0-9-]", "", socket.gethostname().split(".")[0].lower())[:40] or "adhaero"


def own_addresses() -> list[str]:
    """Addresses of this computer in house networks (IPv4), without its own loopback."""
    import ifaddr

    found = [str(ip.ip) for adapter in ifaddr.get_adapters() for ip in adapter.ips if ip.is_IPv4]
    usable = (a for a in found if in_house(a) and not ipaddress.ip_address(a).is_loopback)
    return sorted(usable, key=lambda a: (not a.startswith("192.168."), a.startswith("169.254."), a))


@dataclass
class Network:
    """The door of a shop. ``folder`` holds the data; ``port`` is the desk's own, ``listener`` opens the others."""

    folder: Path
    now: Callable[[], datetime]
    port: int
    listener: Listener
    find_addresses: Callable[[], list[str]] = own_addresses
    devices: Devices = field(init=False)
    pairing: Pairing = field(init=False)
    ports: Ports | None = None
    authority: bytes = b""
    """The certificate (PEM) that a device has to trust; there is one once the network was opened."""
    _certified: Sequence[str] = ()
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def __post_init__(self) -> None:
        self.devices = Devices(self.folder)
        self.pairing = Pairing(self.devices, self.now)

    def open_up(self, *, stays: bool = True) -> None:
        """Listen on the shop's network, from now on at each start if it ``stays``. ``Refusal`` where that fails."""
        with self._lock:
            if self.ports is None:
                wanted = self.devices.admitted.ports or USUAL
                try:
                    self.ports = self.listener.start(wanted, self._secured())
                except OSError as error:
                    why = f"the program can't listen there ({error.strerror or error})"
                    raise refuse("network", why, "See whether another program is in the way.") from None
            self.devices.switch(stays or self.devices.admitted.open, self.ports)

    def shut(self) -> None:
        """No longer listen beyond this computer, nor at the next start."""
        self.end()
        self.devices.switch(False, None)

    def end(self) -> None:
        """The program ends: nothing listens any longer, and the switch stays as it is."""
        with self._lock:
            if self.ports is not None:
                self.listener.stop()
                self.ports = None

    def _secured(self) -> Secured:
        # Read when it is needed: most shops never open their network.
        from adhaero.store.certificates import certificate

        self._certified = tuple(self.find_addresses())
        secured = certificate(self.folder / "certificate", own_name(), self._certified, self.now())
        self.authority = secured.authority
        return secured

    def places(self) -> tuple[list[str], list[str]]:
        """The plain and the secure addresses under which the program is found now."""
        with self._lock:
            ports = self.ports
            if ports is None:
                return [], []
            found = self.find_addresses()
            if not set(found) <= set(self._certified):
                # The router gave another address: the page's certificate has to name it.
                self.listener.renew(self._secured())
        return [f"http://{a}:{ports.plain}" for a in found], [f"https://{a}:{ports.secure}" for a in found]

    def view(self, device_id: str | None, *, may_change: bool) -> NetworkView:
        """What the desk shows. A code is shown to the desk only."""
        plain, secure = self.places()
        code = self.pairing.code() if may_change else None
        devices = [DeviceView(d.id, d.name, d.paired_at, d.seen_at, d.id == device_id, d.right)
                   for d in self.devices.admitted.devices]  # fmt: skip
        return NetworkView(
            self.ports is not None,
            plain,
            secure,
            None if code is None else self._shown(code, plain),
            self.pairing.withdrawn,
            devices,
            may_change,
        )

    def _shown(self, code: Code, plain: Sequence[str]) -> CodeView:
        address = f"{plain[0] if plain else f'http://127.0.0.1:{self.port}'}/pair#{code.text}"
        return CodeView(code.text, address, symbol(address), None if code.until is None else code.until.isoformat())
