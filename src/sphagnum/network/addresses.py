"""What this machine is called, and under which addresses of its own network others reach it."""

from __future__ import annotations

import fcntl
import ipaddress
import re
import socket
import struct

SIOCGIFADDR = 0x8915
"""Of netdevice(7)."""
LOOPBACK = ("127.0.0.0/8", "::1/128")
PRIVATE = ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "169.254.0.0/16", "fc00::/7", "fe80::/10")
"""Networks of nobody's but one's own (RFC 1918, RFC 3927, RFC 4193)."""


def names() -> tuple[str, ...]:
    """What this machine is called on its network, the usual first: its name, and that name as small networks announce it."""
    own = socket.gethostname().rstrip(".").lower()
    short = own.partition(".")[0]
    fit = [n for n in dict.fromkeys((own, f"{short}.local")) if re.fullmatch(r"[a-z0-9]([a-z0-9.-]{0,60}[a-z0-9])?", n)]
    return (*fit, "localhost")


def addresses() -> tuple[str, ...]:
    """Private addresses of this machine, those of its network before loopback."""
    found = [a for _, name in socket.if_nameindex() if (a := _of_interface(name)) is not None]
    ours = [a for a in dict.fromkeys(found) if any(ipaddress.ip_address(a) in ipaddress.ip_network(n) for n in PRIVATE)]
    return (*ours, "127.0.0.1", "::1")


def _of_interface(name: str) -> str | None:
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as asked:
        try:
            told = fcntl.ioctl(asked.fileno(), SIOCGIFADDR, struct.pack("256s", name.encode()[:15]))
        except OSError:  # it has none
            return None
    return socket.inet_ntoa(told[20:24])
