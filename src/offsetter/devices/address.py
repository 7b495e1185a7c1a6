"""An address that a person typed: looked up once, judged, and from then on only that one machine is spoken to."""

import ipaddress
import re
import socket
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Literal
from urllib.parse import urlsplit

from offsetter.core.sentences import say
from offsetter.core.values import Refusal

Scheme = Literal["ipp", "http"]
USUAL: dict[Scheme, tuple[str, int, str]] = {"ipp": ("printer", 631, "/ipp/print"), "http": ("probe", 80, "/")}
"""What answers there, and the port and path where none is said."""
LONGEST = 200
NOTHING = say("Nothing was sent.")
OWN_NETWORKS = tuple(ipaddress.ip_network(n) for n in ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "fc00::/7"))
"""RFC 1918 and RFC 4193. Link-local, where clouds keep their secrets, is not among them."""
LOOKS_UP_WITHIN_S = 4.0
_LOOKING = ThreadPoolExecutor(4, "looking-up")
"""A name server that does not answer holds up nobody for longer."""
_HOST = re.compile(r"^[A-Za-z0-9](?:[A-Za-z0-9.-]{0,120}[A-Za-z0-9])?$")
_PATH = re.compile(r"^/[A-Za-z0-9/._~%-]{0,120}$")


@dataclass(frozen=True, slots=True)
class Address:
    """uri: as the machine knows itself. ip: what its name stood for when it was checked."""

    uri: str
    host: str
    ip: str
    port: int
    path: str


def checked_address(typed: str, loopback_ports: frozenset[int] = frozenset(), scheme: Scheme = "ipp") -> Address:
    """An address on the shop's own network. loopback_ports: of this machine, that may be spoken to. Raises Refusal for any other."""
    typed = typed.strip()
    what, usual_port, usual_path = USUAL[scheme]
    whole = typed if "://" in typed else f"{scheme}://{typed}"
    try:
        parts = urlsplit(whole)
        host, port = parts.hostname or "", parts.port or usual_port
    except ValueError:
        raise _bad(typed, scheme) from None
    path = parts.path if parts.path not in ("", "/") else usual_path
    is_odd = parts.query or parts.fragment or parts.username or parts.password or len(typed) > LONGEST
    is_name = bool(_HOST.match(host)) or _is_ip(host)
    if parts.scheme == f"{scheme}s":
        raise Refusal(f"no-tls-{what}", say("{what}s are spoken to without encryption here, on the shop's own network alone.", what=what.capitalize()), NOTHING,
                      say("Give the address as {scheme}://.", scheme=scheme))  # fmt: skip
    if parts.scheme != scheme or is_odd or not is_name or not _PATH.match(path):
        raise _bad(typed, scheme)
    ip = _looked_up(host, port, what)
    if not _is_of_the_shop(ip, port, loopback_ports):
        raise Refusal("foreign-address", say("{host} is at {ip}, which is not on the shop's own network.", host=host, ip=ip), NOTHING,
                      say("Give the address of a {what} that stands here.", what=what))  # fmt: skip
    shown = f"[{host}]" if ":" in host else host
    return Address(uri=f"{scheme}://{shown}:{port}{path}", host=host, ip=str(ip), port=port, path=path)


def _bad(typed: str, scheme: Scheme) -> Refusal:
    return Refusal("bad-address", say("“{typed}” is no address of a {usual}.", typed=typed[:60], usual=USUAL[scheme][0]), NOTHING,
                   say("Give its name or number on the network, or the whole address that begins with {scheme}://.", scheme=scheme))  # fmt: skip


def _is_ip(host: str) -> bool:
    try:
        ipaddress.ip_address(host)
    except ValueError:
        return False
    return True


def _looked_up(host: str, port: int, what: str) -> ipaddress.IPv4Address | ipaddress.IPv6Address:
    try:
        found = _LOOKING.submit(socket.getaddrinfo, host, port, type=socket.SOCK_STREAM).result(LOOKS_UP_WITHIN_S)
    except (OSError, UnicodeError, TimeoutError):
        raise Refusal("no-such-host", say("Nothing on the network is called {host}.", host=host), NOTHING,
                      say("Look at the {what}'s own panel for its address.", what=what)) from None  # fmt: skip
    # Of several the older kind: printers speak it all.
    found.sort(key=lambda f: f[0] != socket.AF_INET)
    ip = ipaddress.ip_address(str(found[0][4][0]).split("%")[0])
    return ip.ipv4_mapped or ip if isinstance(ip, ipaddress.IPv6Address) else ip


def _is_of_the_shop(
    ip: ipaddress.IPv4Address | ipaddress.IPv6Address, port: int, loopback_ports: frozenset[int]
) -> bool:
    if ip.is_loopback:
        return port in loopback_ports
    return any(ip in n for n in OWN_NETWORKS if n.version == ip.version)
