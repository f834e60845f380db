"""Addresses outside that this server may ask: those of the person's own network, and what its settings allow."""

from __future__ import annotations

import ipaddress
import socket
from dataclasses import dataclass
from functools import lru_cache
from urllib.parse import urlsplit

from django.conf import settings

from canopy.errors import QuantityError

Address = ipaddress.IPv4Address | ipaddress.IPv6Address
# Networks of homes: RFC 1918 and RFC 4193. Link-local ones are not among them: machines of data centres tell secrets
# there.
_HOME = tuple(ipaddress.ip_network(text) for text in ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "fc00::/7"))
_PORTS = {"http": 80, "https": 443, "mqtt": 1883, "mqtts": 8883}


@dataclass(frozen=True, kw_only=True)
class Outside:
    """An address that may be asked: its scheme, host as it was written, the number it leads to, port and path."""

    scheme: str
    host: str
    number: str
    port: int
    path: str

    @property
    def url(self) -> str:
        """By number, so that a name which leads elsewhere a moment later does not."""
        number = f"[{self.number}]" if ":" in self.number else self.number
        return f"{self.scheme}://{number}:{self.port}{self.path}"


@lru_cache(maxsize=8)
def _allowed(text: str) -> tuple[tuple[frozenset[str], tuple[ipaddress.IPv4Network | ipaddress.IPv6Network, ...]], ...]:
    names, networks = set(), []
    for item in filter(None, (part.strip() for part in text.split(","))):
        try:
            networks.append(ipaddress.ip_network(item, strict=False))
        except ValueError:
            names.add(item.casefold())
    return ((frozenset(names), tuple(networks)),)


def outside(address: str, schemes: tuple[str, ...]) -> Outside:
    """Look an address up and say whether it may be asked; raises QuantityError with why not."""
    try:
        # A broker's topics may end in #, which no program's address of a page may hold.
        parts = urlsplit(address.strip(), allow_fragments=not address.strip().startswith("mqtt"))
        port = parts.port
    except ValueError:
        raise QuantityError("this is no address") from None
    if parts.scheme not in schemes or not parts.hostname:
        raise QuantityError(f"write an address such as {schemes[0]}://192.168.1.20/… ({', '.join(schemes)})")
    if parts.username or parts.password:
        raise QuantityError("names and passwords do not belong into an address: they have fields of their own")
    host, port = parts.hostname, port or _PORTS[parts.scheme]
    try:
        found = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)
    except (OSError, UnicodeError):
        raise QuantityError(f"“{host}” is not known on this network") from None
    numbers = [str(item[4][0]).split("%")[0] for item in found]
    barred = [number for number in numbers if not _may(host, port, ipaddress.ip_address(number))]
    if barred:
        raise QuantityError(
            f"{host} leads to {barred[0]}, which is not on a home network; whoever runs this server may allow it "
            "(MILD_CANOPY_REACH)"
        )
    path = (parts.path or "/") + (f"?{parts.query}" if parts.query else "")
    return Outside(scheme=parts.scheme, host=host, number=numbers[0], port=port, path=path)


def _may(host: str, port: int, number: Address) -> bool:
    if isinstance(number, ipaddress.IPv6Address) and number.ipv4_mapped is not None:
        number = number.ipv4_mapped
    if any(number in network for network in _HOME if network.version == number.version):
        return True
    for names, networks in _allowed(settings.REACH):
        if host.casefold() in names or f"{host.casefold()}:{port}" in names:
            return True
        if any(number in network for network in networks if network.version == number.version):
            return True
    return False
