"""Who is at the other end of a connection on this computer: the same user, or another one."""

from __future__ import annotations

import ipaddress
import os
import sys
from pathlib import Path

TABLES = (Path("/proc/net/tcp"), Path("/proc/net/tcp6"))
_ESTABLISHED = "01"


def can_tell() -> bool:
    """Whether this system tells whose a connection is: Linux does, for all connections of its own."""
    return TABLES[0].exists()


def _hexed(host: str, port: int) -> str:
    """An address as the kernel's table writes it: the four bytes in the machine's own order, and the port."""
    number = int(ipaddress.IPv4Address(host))
    return f"{number.to_bytes(4, 'big')[:: -1 if sys.byteorder == 'little' else 1].hex().upper()}:{port:04X}"


def is_same_user(client: tuple[str, int], server: tuple[str, int]) -> bool:
    """Whether the client of an open connection on this computer runs as the user who runs this program.

    Read off the table of the kernel (proc(5), net/tcp): the row of the client's end names its user. False where the
    system has no such table: then a key is needed.
    """
    try:
        own, other = _hexed(*client), _hexed(*server)
    except ValueError:
        return False
    for table in TABLES:
        try:
            lines = table.read_text().splitlines()[1:]
        except OSError:
            continue
        for line in lines:
            cells = line.split()
            # In the table for IPv6 an IPv4 address stands at the end of a mapped one.
            if cells[1].endswith(own) and cells[2].endswith(other) and cells[3] == _ESTABLISHED:
                return int(cells[7]) == os.geteuid()
    return False
