"""The host's end of the bench line: over TCP to loopback, or over a serial port.

A port is read by a thread of its own and may block there; what is sent is handed to a second thread, so that nobody
who speaks to an instrument waits for it. Bytes become lines here, and how many of them are read in a second is bounded.
"""

import contextlib
import ipaddress
import math
import queue
import socket
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from typing import Protocol

from waldhorn.core.base.errors import InputError
from waldhorn.instruments import line_protocol

CONNECT_S = 3.0
POLL_S = 0.25  # how long a read waits for something to come
WRITE_S = 0.5  # an instrument that takes nothing for so long is gone
MOST_UNSENT = 40
BAUD = 115_200
CHUNK = 65_536
MOST_LINES_S = 1000  # lines read in a second; of a faster stream every n-th
_RARE = (b'"hello"', b'"timing"', b'"error"')


class Gone(Exception):
    """The instrument is gone; says why, where that is known."""


class Port(Protocol):
    """A way to an instrument."""

    def read(self) -> bytes:
        """What has come since, empty when nothing did for a while; raises Gone."""
        ...

    def send(self, line: bytes) -> None:
        """Send a line, without waiting for it."""
        ...

    def close(self) -> None:
        """Let go; a read that waits comes back with Gone."""
        ...


class _Sender:
    """Writes lines in a thread of its own. What cannot be written in time breaks the port: nobody listens any more.
    Where too many wait, the oldest goes: what was said later holds, a stop most of all."""

    def __init__(self, write: Callable[[bytes], object], broken: Callable[[], object]) -> None:
        self._unsent: queue.SimpleQueue[bytes | None] = queue.SimpleQueue()
        self._write, self._broken = write, broken
        self._thread = threading.Thread(target=self._run, name="waldhorn-send", daemon=True)
        self._thread.start()

    def send(self, line: bytes) -> None:
        if self._unsent.qsize() >= MOST_UNSENT:
            with contextlib.suppress(queue.Empty):
                self._unsent.get_nowait()
        self._unsent.put(line)

    def close(self) -> None:
        """Send what is waiting, then end."""
        self._unsent.put(None)
        if threading.current_thread() is not self._thread:
            self._thread.join(2 * WRITE_S)

    def _run(self) -> None:
        while (line := self._unsent.get()) is not None:
            try:
                self._write(line)
            except OSError:  # pyserial says no other
                self._broken()
                return


class TcpPort:
    """An instrument on a TCP port of this machine."""

    def __init__(self, host: str, port: int) -> None:
        self._socket = socket.create_connection((host, port), CONNECT_S)
        self._socket.settimeout(max(POLL_S, WRITE_S))
        self._sender = _Sender(self._socket.sendall, self._break)

    def read(self) -> bytes:
        """What has come since; raises Gone."""
        try:
            found = self._socket.recv(CHUNK)
        except TimeoutError:
            return b""
        except OSError as error:
            raise Gone(str(error)) from error
        if not found:
            raise Gone
        return found

    def send(self, line: bytes) -> None:
        """Send a line, without waiting for it."""
        self._sender.send(line)

    def _break(self) -> None:
        with contextlib.suppress(OSError):
            self._socket.shutdown(socket.SHUT_RDWR)

    def close(self) -> None:
        """Let go."""
        self._sender.close()
        self._break()
        self._socket.close()


class SerialPort:
    """An instrument on a serial port; raises InputError when it cannot be opened."""

    def __init__(self, device: str, baud: int = BAUD) -> None:
        import serial  # what it needs is another thing on every system: only where there is a port

        try:
            self.serial = serial.Serial(device, baud, timeout=POLL_S, write_timeout=WRITE_S)
        except (OSError, ValueError) as error:
            raise InputError("instrument", f"{device} cannot be opened: {error}") from error
        self._sender = _Sender(self.serial.write, self.serial.close)

    def read(self) -> bytes:
        """What has come since; raises Gone."""
        try:
            return bytes(self.serial.read(max(1, self.serial.in_waiting)))
        except (OSError, TypeError, AttributeError) as error:  # closed under a read that waits
            raise Gone(str(error)) from error

    def send(self, line: bytes) -> None:
        """Send a line, without waiting for it."""
        self._sender.send(line)

    def close(self) -> None:
        """Let go."""
        self._sender.close()
        with contextlib.suppress(OSError):
            self.serial.close()


def open_port(where: str, baud: int = BAUD) -> Port:
    """Open the way to an instrument: host:port on this machine, or a serial device.

    Raises InputError with what is wrong and what would be right.
    """
    if where.startswith("/dev/") or where.upper().startswith("COM"):
        return SerialPort(where, baud)
    host, _, port = where.rpartition(":")
    if not port.isdecimal() or not 1 <= int(port) <= 65_535:
        raise InputError("instrument", f"“{where}” is no instrument: write 127.0.0.1:8701, or a port like /dev/ttyUSB0")
    if not _loopback(host or "127.0.0.1"):
        raise InputError(
            "instrument", f"{host} is another machine: instruments are on 127.0.0.1 or a serial port of this one"
        )
    try:
        return TcpPort(host.strip("[]") or "127.0.0.1", int(port))
    except OSError as error:
        raise InputError("instrument", f"nothing answers at {where}: is the instrument on?") from error


def _loopback(host: str) -> bool:
    if host == "localhost":
        return True
    try:
        return ipaddress.ip_address(host.strip("[]")).is_loopback
    except ValueError:
        return False


class LineSplitter:
    """Parts what comes into lines. One that does not end is given out once, too long to be read, and the rest of it
    passed over."""

    def __init__(self) -> None:
        self._rest = b""
        self._passing = False

    def split(self, came: bytes) -> list[bytes]:
        """The lines that are whole, with their ends."""
        *whole, self._rest = (self._rest + came).split(b"\n")
        found = [line + b"\n" for line in whole]
        if found and self._passing:
            found, self._passing = found[1:], False
        if len(self._rest) > line_protocol.LONGEST_LINE:
            found += [] if self._passing else [self._rest[: line_protocol.LONGEST_LINE + 1]]
            self._rest, self._passing = b"", True
        return found


class Allowance:
    """How many lines of a stream are read: a bucket of one second's worth. Of samples that come faster every n-th is,
    evenly; a greeting, a sweep or an error among them is read all the same."""

    def __init__(self, now: float, most_s: float = MOST_LINES_S) -> None:
        self.most_s, self._left, self._last = most_s, most_s, now

    def of(self, came: Sequence[bytes], now: float) -> Sequence[bytes]:
        """Those of the lines that are to be read."""
        self._left = min(self.most_s, self._left + (now - self._last) * self.most_s)
        self._last = now
        if len(came) > self._left:
            every = math.ceil(len(came) / max(1.0, self._left / 2))
            came = [line for i, line in enumerate(came) if i % every == 0 or any(told in line for told in _RARE)]
            came = came[: max(1, int(self._left))]
        self._left -= len(came)
        return came


def heard_lines(port: Port) -> Iterator[bytes]:
    """The lines of a port as they come, an empty one whenever nothing did for a while; raises Gone."""
    splitter = LineSplitter()
    while True:
        came = port.read()
        if not came:
            yield b""
        yield from splitter.split(came)


def overhear(where: str, seconds: float, most: int, baud: int = BAUD) -> list[str]:
    """The lines an instrument prints in so many seconds, at most so many; raises InputError."""
    port = open_port(where, baud)
    found: list[str] = []
    end = time.monotonic() + seconds
    try:
        for line in heard_lines(port):
            if line:
                found.append(line[: line_protocol.LONGEST_LINE].decode("utf-8", "replace").rstrip())
            if len(found) >= most or time.monotonic() > end:
                break
    except Gone:
        pass
    finally:
        port.close()
    return found
