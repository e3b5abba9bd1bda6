"""Addresses at which panel meters may be read, as an administrator allowed them."""

import ipaddress
import socket
from collections.abc import Callable, Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from volmek.core.document.errors import Problem, ProblemError
from volmek.store.models import MeterAddress

Address = ipaddress.IPv4Address | ipaddress.IPv6Address
Network = ipaddress.IPv4Network | ipaddress.IPv6Network


def network_of(host: str) -> Network | None:
    """The address or network that a text is, None where it is a name.

    Examples
    --------
    >>> network_of("10.20.0.0/24"), network_of("10.20.0.7"), network_of("meter-3")
    (IPv4Network('10.20.0.0/24'), IPv4Network('10.20.0.7/32'), None)
    """
    try:
        return ipaddress.ip_network(host, strict=False)
    except ValueError:
        return None


def addresses_of(host: str) -> list[Address]:
    """What a host's name stands for now; an address stands for itself."""
    found = {ipaddress.ip_address(str(a[4][0]).partition("%")[0]) for a in socket.getaddrinfo(host, None, type=socket.SOCK_STREAM)}  # fmt: skip
    return sorted((a.ipv4_mapped or a if isinstance(a, ipaddress.IPv6Address) else a for a in found), key=str)


def close_by(address: Address) -> bool:
    """An address of this machine or of its wire alone: only what was allowed by number reaches it, a name does not."""
    return address.is_loopback or address.is_link_local or address.is_unspecified or address.is_multicast


def allowed_address(
    host: str, allowed: Sequence[str], resolve: Callable[[str], list[Address]] = addresses_of
) -> tuple[str, str]:
    """The address to connect to, or why it may not be read.

    The address that was looked at is the one that is connected to: a name that points elsewhere the moment after changes nothing.

    Parameters
    ----------
    host : as the settings of the meter have it
    allowed : hosts, addresses and networks that an administrator allowed

    Returns
    -------
    The address and an empty text, or an empty address and one sentence.

    Examples
    --------
    >>> allowed_address("10.20.0.7", ["10.20.0.0/24"]), allowed_address("127.0.0.1", ["10.20.0.0/24"])[0]
    (('10.20.0.7', ''), '')
    """
    try:
        found = resolve(host)
    except (OSError, UnicodeError, ValueError):
        return "", f"The meter's address {host!r} is not known on this network."
    networks = [n for n in map(network_of, allowed) if n is not None]
    named = host.casefold() in {a.casefold() for a in allowed if network_of(a) is None}
    for address in found:
        by_number = any(address in n for n in networks if n.version == address.version)
        if by_number or (named and not close_by(address)):
            return str(address), ""
    return (
        "",
        f"Meters at {host} may not be read: somebody who administers must allow that address first, under People.",
    )


def allow(session: Session, host: str, who: str) -> MeterAddress:
    """Allow a host, an address or a network.

    Raises
    ------
    ProblemError : it is none, wider than a site needs, or allowed already.
    """
    host = host.strip()
    network = network_of(host)
    if network is None and not all(part and part.isascii() and part.replace("-", "").isalnum() for part in host.split(".")):  # fmt: skip
        raise ProblemError([Problem("host", "is no name, address or network, such as 10.20.0.0/24")])
    if network is not None:
        if network.num_addresses > 65_536:
            raise ProblemError([Problem("host", f"a network of {network.num_addresses} addresses is too wide: at most 65536")])  # fmt: skip
        host = str(network) if network.num_addresses > 1 else str(network.network_address)
    if session.scalar(select(MeterAddress.id).where(MeterAddress.host == host)) is not None:
        raise ProblemError([Problem("host", f"{host} is allowed already")])
    made = MeterAddress(host=host, allowed_by=who)
    session.add(made)
    session.flush()
    return made


def allowed_hosts(session: Session) -> list[MeterAddress]:
    """What is allowed, in the order in which it was."""
    return list(session.scalars(select(MeterAddress).order_by(MeterAddress.id)))
