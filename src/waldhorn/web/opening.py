"""The pit opened to the local network: beside the loopback address, the same application on the addresses of this
machine that others of the network reach. Each of them is listened on by name, never all at once: so a request's own
address tells whether it came from this machine.
"""

import asyncio
import contextlib
import ipaddress
import socket
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import uvicorn
from starlette.types import ASGIApp

from waldhorn.core.base.errors import InputError

if TYPE_CHECKING:
    from waldhorn.pit.settings.certificate import Certificate

EVERYWHERE = "0.0.0.0"  # stands for every address of the local network
PATIENCE_S = 5.0


@dataclass
class Opening:
    """Where others reach the pit: nowhere until it is opened. `port` is the one it has on this machine too."""

    port: int | None = None
    certificate: "Certificate | None" = None
    addresses: tuple[str, ...] = ()
    _shutting: asyncio.Task[None] | None = None
    _servers: list[tuple[uvicorn.Server, asyncio.Task[None]]] = field(default_factory=list)

    @property
    def urls(self) -> tuple[str, ...]:
        """What others type, or scan."""
        scheme = "https" if self.certificate else "http"
        named = (f"[{address}]" if ":" in address else address for address in self.addresses)
        return tuple(f"{scheme}://{name}:{self.port}" for name in named)

    async def open(self, app: ASGIApp, addresses: Sequence[str], certificate: "Certificate | None") -> None:
        """Listen on these addresses too; raises InputError where none of them can be listened on."""
        await self.shut()
        if self.port is None:
            raise InputError("open", "this pit is not served on a port of its own")
        sockets = list(_listening(addresses, self.port))
        if not sockets:
            raise InputError("open", f"nothing can be listened on at port {self.port} of {', '.join(addresses)}")
        config = uvicorn.Config(
            app,
            lifespan="off",
            log_config=None,
            proxy_headers=False,
            server_header=False,
            timeout_graceful_shutdown=1,
            ssl_certfile=certificate.file if certificate else None,
            ssl_keyfile=certificate.key if certificate else None,
        )
        server = _Beside(config)
        task = asyncio.create_task(server.serve(sockets=sockets))
        self._servers.append((server, task))
        while not server.started and not task.done():
            await asyncio.sleep(0.01)
        self.certificate = certificate
        self.addresses = tuple(s.getsockname()[0] for s in sockets)

    async def shut_soon(self) -> None:
        """Listen on this machine only, in a task of its own: not in one of those that are waited for."""
        self._shutting = asyncio.create_task(self.shut())

    async def shut(self) -> None:
        """Listen on this machine only."""
        for server, task in self._servers:
            server.should_exit = True
            with contextlib.suppress(TimeoutError):
                await asyncio.wait_for(task, PATIENCE_S)
        self._servers.clear()
        self.addresses, self.certificate = (), None


class _Beside(uvicorn.Server):
    """A server beside the one that listens for signals."""

    @contextlib.contextmanager
    def capture_signals(self) -> Iterator[None]:
        """Leave them to that one."""
        yield


def _listening(addresses: Sequence[str], port: int) -> Iterator[socket.socket]:
    for address in addresses:
        taken = socket.socket(socket.AF_INET6 if ":" in address else socket.AF_INET)
        taken.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            taken.bind((address, port))
        except OSError:
            taken.close()
            continue
        yield taken


def of_local_network() -> list[str]:
    """The addresses of this machine on local networks: private ones, so that nobody outside reaches them."""
    import ifaddr

    found = [ip.ip for adapter in ifaddr.get_adapters() for ip in adapter.ips if isinstance(ip.ip, str)]
    private = [ipaddress.ip_address(ip) for ip in found]
    return [str(ip) for ip in private if ip.is_private and not ip.is_loopback]


def asked_for(host: str) -> list[str]:
    """The addresses that a host stands for; raises InputError where it is none of this machine's."""
    if host == EVERYWHERE:
        if found := of_local_network():
            return found
        raise InputError("host", "this machine has no address on a local network: connect it to one first")
    try:
        return [str(ipaddress.ip_address(host))]
    except ValueError as error:
        raise InputError(
            "host", f"“{host}” is no address: one of {', '.join(of_local_network()) or EVERYWHERE}"
        ) from error
