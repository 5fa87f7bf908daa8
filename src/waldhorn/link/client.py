"""The host's end of the bench line: over TCP to loopback, or over a serial port.

What it cannot read it hands on as unread; every line can be overheard, for a recording.
"""

import asyncio
import contextlib
import ipaddress
from collections.abc import AsyncIterator, Callable
from typing import Protocol

import serial

from waldhorn.core.errors import Refused
from waldhorn.link import lines

CONNECT_S = 3.0
BAUD = 115_200


class Port(Protocol):
    """A way to an instrument."""

    async def readline(self) -> bytes:
        """The next line; empty when it is gone."""
        ...

    def send(self, line: bytes) -> None:
        """Send a line."""
        ...

    async def close(self) -> None:
        """Let go."""
        ...


class TcpPort:
    """An instrument on a TCP port."""

    def __init__(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        self.reader, self.writer = reader, writer

    async def readline(self) -> bytes:
        """The next line; one that is too long comes in pieces, as garbage."""
        try:
            return await self.reader.readline()
        except ValueError:
            return b"?" * (lines.LONGEST_LINE + 1)
        except ConnectionError:
            return b""

    def send(self, line: bytes) -> None:
        """Send a line."""
        with contextlib.suppress(ConnectionError, RuntimeError):
            self.writer.write(line)

    async def close(self) -> None:
        """Let go."""
        self.writer.close()
        with contextlib.suppress(ConnectionError):
            await self.writer.wait_closed()


class SerialPort:
    """An instrument on a serial port; read in a thread, as pyserial blocks."""

    def __init__(self, device: str, baud: int = BAUD) -> None:
        try:
            self.serial = serial.Serial(device, baud, timeout=0.5)
        except (serial.SerialException, OSError, ValueError) as error:
            raise Refused("instrument", f"{device} cannot be opened: {error}") from error
        self._rest = b""

    async def readline(self) -> bytes:
        """The next line; empty when the port is gone."""
        while b"\n" not in self._rest:
            try:
                more = await asyncio.to_thread(self._some)
            except (serial.SerialException, OSError, TypeError):
                return b""
            self._rest += more
            if len(self._rest) > 4 * lines.LONGEST_LINE:
                self._rest = b"?" * (lines.LONGEST_LINE + 1) + b"\n"
        line, self._rest = self._rest.split(b"\n", 1)
        return line + b"\n"

    def _some(self) -> bytes:
        return bytes(self.serial.read(max(1, self.serial.in_waiting)))

    def send(self, line: bytes) -> None:
        """Send a line."""
        with contextlib.suppress(serial.SerialException, OSError):
            self.serial.write(line)

    async def close(self) -> None:
        """Let go."""
        with contextlib.suppress(serial.SerialException, OSError):
            self.serial.close()


async def open_port(where: str, baud: int = BAUD) -> Port:
    """Open the way to an instrument: host:port on this machine, or a serial device.

    Raises Refused with what is wrong and what would be right.
    """
    if where.startswith("/dev/") or where.upper().startswith("COM"):
        return await asyncio.to_thread(SerialPort, where, baud)
    host, _, port = where.rpartition(":")
    if not port.isdecimal() or not 1 <= int(port) <= 65_535:
        raise Refused("instrument", f"“{where}” is no instrument: write 127.0.0.1:8701, or a port like /dev/ttyUSB0")
    if not _loopback(host or "127.0.0.1"):
        raise Refused(
            "instrument", f"{host} is another machine: instruments are on 127.0.0.1 or a serial port of this one"
        )
    try:
        opened = asyncio.open_connection(host.strip("[]") or "127.0.0.1", int(port), limit=lines.LONGEST_LINE)
        reader, writer = await asyncio.wait_for(opened, CONNECT_S)
    except (OSError, TimeoutError) as error:
        raise Refused("instrument", f"nothing answers at {where}: is the instrument on?") from error
    return TcpPort(reader, writer)


def _loopback(host: str) -> bool:
    if host == "localhost":
        return True
    try:
        return ipaddress.ip_address(host.strip("[]")).is_loopback
    except ValueError:
        return False


async def messages(
    port: Port, heard: Callable[[bytes], None] | None = None, read: Callable[[bytes], lines.Message] = lines.read
) -> AsyncIterator[lines.Message]:
    """What an instrument says, until it is gone."""
    while line := await port.readline():
        if heard:
            heard(line)
        yield read(line)


async def overhear(where: str, seconds: float, most: int, baud: int = BAUD) -> list[str]:
    """The lines an instrument prints in so many seconds, at most so many; raises Refused."""
    port = await open_port(where, baud)
    found: list[str] = []
    try:
        with contextlib.suppress(TimeoutError):
            async with asyncio.timeout(seconds):
                while len(found) < most and (line := await port.readline()):
                    found.append(line[: lines.LONGEST_LINE].decode("utf-8", "replace").rstrip())
    finally:
        await port.close()
    return found
