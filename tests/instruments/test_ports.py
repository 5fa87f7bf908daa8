"""A port that is slow to take what is sent: the stop is never what is left out."""

import socket
import threading

from waldhorn.instruments.ports import MOST_UNSENT, TcpPort

STOP = b'{"cmd": "stop"}\n'


def test_a_stop_reaches_an_instrument_that_was_slow_to_listen():
    with socket.create_server(("127.0.0.1", 0)) as server:
        port = TcpPort(*server.getsockname())
        instrument, _ = server.accept()
        held, write = threading.Event(), port._sender._write

        def slowly(line):
            held.wait(5)
            write(line)

        port._sender._write = slowly
        for pct in range(2 * MOST_UNSENT):
            port.send(b'{"cmd": "throttle", "pct": %d}\n' % pct)
        port.send(STOP)
        held.set()
        port.close()
        heard = b""
        while chunk := instrument.recv(65536):
            heard += chunk
        instrument.close()
    lines = heard.splitlines(keepends=True)
    assert lines[-1] == STOP
    assert len(lines) <= MOST_UNSENT + 1
    assert lines[-2] == b'{"cmd": "throttle", "pct": %d}\n' % (2 * MOST_UNSENT - 1)
