"""The devices that may use this shop, and whether its network reaches it: a small file beside the data.

Beside the data, not in it: a copy of the data that is put back must not let in a device that was turned away.
Keys are kept as digests, so that nobody who reads the file can use them.
"""

from __future__ import annotations

import contextlib
import hashlib
import json
import secrets
import threading
from dataclasses import asdict, dataclass, replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

from adhaero.store.private_file import write_private

FILE = "devices.json"
BENCH, DESK = "bench", "desk"
SEEN_EVERY = timedelta(minutes=1)
"""How far the moment at which a device was seen last may lag behind in the file."""


@dataclass(frozen=True)
class Device:
    """A paired device; moments are ISO 8601, ``digest`` is the SHA-256 of its key, ``right`` what it may do: work at
    the bench, or all that the desk may do but letting others in.
    """

    id: str
    name: str
    digest: str
    paired_at: str
    seen_at: str
    right: str = BENCH


@dataclass(frozen=True)
class Ports:
    """Where the shop's network finds the program: the plain and the secure port."""

    plain: int
    secure: int


@dataclass(frozen=True)
class Admitted:
    """All that is stored: an id of the shop (it names the cookie), the switch, the ports last used, the devices."""

    shop: str
    open: bool = False
    ports: Ports | None = None
    devices: tuple[Device, ...] = ()


def digest(key: str) -> str:
    """What is stored of a key."""
    return hashlib.sha256(key.encode()).hexdigest()


class Devices:
    """The file, read once and written whole at each change; safe to use from several threads."""

    def __init__(self, folder: Path) -> None:
        self.path = folder / FILE
        self._lock = threading.Lock()
        self._seen: dict[str, datetime] = {}
        self._now = self._read()
        if not self.path.exists():
            # Kept from the first start on: pages know a shop by its id.
            folder.mkdir(mode=0o700, parents=True, exist_ok=True)
            self._write(self._now)

    @property
    def admitted(self) -> Admitted:
        """What is stored now."""
        return self._now

    def _read(self) -> Admitted:
        """What the file holds. One that can't be read is put aside: then every device is paired anew."""
        try:
            told = json.loads(self.path.read_text())
            ports = None if told["ports"] is None else Ports(**told["ports"])
            devices = tuple(Device(**d) for d in told["devices"])
            return Admitted(str(told["shop"]), bool(told["open"]), ports, devices)
        except FileNotFoundError:
            pass
        except (ValueError, TypeError, KeyError, AttributeError):
            self.path.replace(self.path.with_suffix(".damaged.json"))
        return Admitted(secrets.token_hex(4))

    def _write(self, changed: Admitted) -> None:
        write_private(self.path, json.dumps(asdict(changed), indent=1).encode())
        self._now = changed

    def add(self, name: str, now: datetime) -> tuple[Device, str]:
        """Let a device in; its key is told here and never again."""
        key = secrets.token_urlsafe(32)
        at = now.astimezone(UTC).isoformat(timespec="seconds")
        device = Device(secrets.token_hex(4), name, digest(key), at, at)
        with self._lock:
            self._write(replace(self._now, devices=(*self._now.devices, device)))
        return device, key

    def remove(self, device_id: str) -> bool:
        """Turn a device away; whether there was one."""
        with self._lock:
            left = tuple(d for d in self._now.devices if d.id != device_id)
            if len(left) == len(self._now.devices):
                return False
            self._write(replace(self._now, devices=left))
        return True

    def give(self, device_id: str, right: str) -> bool:
        """Change what a device may do; whether there is such a device."""
        with self._lock:
            changed = tuple(replace(d, right=right) if d.id == device_id else d for d in self._now.devices)
            if all(d.id != device_id for d in changed):
                return False
            self._write(replace(self._now, devices=changed))
        return True

    def switch(self, on: bool, ports: Ports | None) -> None:
        """Keep whether the shop's network reaches the program, and where."""
        with self._lock:
            self._write(replace(self._now, open=on, ports=ports or self._now.ports))

    def holder(self, key: str, now: datetime) -> Device | None:
        """The device with this key, noted as seen; ``None`` for a key that nobody has."""
        wanted = digest(key)
        found = next((d for d in self._now.devices if secrets.compare_digest(d.digest, wanted)), None)
        if found is None:
            return None
        last = self._seen.get(found.id)
        if last is None or now - last >= SEEN_EVERY:
            self._seen[found.id] = now
            seen = replace(found, seen_at=now.astimezone(UTC).isoformat(timespec="seconds"))
            with self._lock:
                if any(d.id == found.id for d in self._now.devices):
                    devices = tuple(seen if d.id == found.id else d for d in self._now.devices)
                    # When it was seen is not worth an answer: on a full disk it stays as it was.
                    with contextlib.suppress(OSError):
                        self._write(replace(self._now, devices=devices))
        return found
