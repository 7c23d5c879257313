"""Which addresses belong to the network of a house or a shop."""

from __future__ import annotations

import ipaddress

HOUSE_NETWORKS = ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "169.254.0.0/16", "127.0.0.0/8")
"""RFC 1918 and 3927: what routers at home give out; and the computer itself."""
_HOUSE = [ipaddress.ip_network(n) for n in HOUSE_NETWORKS]


def in_house(address: str) -> bool:
    """Whether an address (IPv4) belongs to a house network, or to this computer itself."""
    try:
        told = ipaddress.ip_address(address)
    except ValueError:
        return False
    return told.version == 4 and any(told in network for network in _HOUSE)
