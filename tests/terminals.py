"""A serial port that is none, with a simulated instrument behind it."""

import contextlib
import os
import tty

from waldhorn.simulator.analyser import Instrument


def open_pseudo_terminal(instrument: Instrument) -> tuple[str, "PseudoTerminal"]:
    """The instrument behind a serial port that is none: its name, and what moves it."""
    master, slave = os.openpty()
    tty.setraw(slave)
    return os.ttyname(slave), PseudoTerminal(instrument, master, slave)


class PseudoTerminal:
    """Moves an instrument behind a pseudo-terminal: one tick a call."""

    def __init__(self, instrument: Instrument, master: int, slave: int) -> None:
        self.instrument, self.master, self.slave = instrument, master, slave
        self._rest = b""
        os.set_blocking(master, False)
        os.write(master, instrument.hello())

    def tick(self) -> None:
        """Take what the host wrote, and write the lines of one tick."""
        with contextlib.suppress(BlockingIOError):
            self._rest += os.read(self.master, 65_536)
        *whole, self._rest = self._rest.split(b"\n")
        for line in whole:
            self.instrument.obey(line)
        with contextlib.suppress(BlockingIOError):
            os.write(self.master, b"".join(self.instrument.tick()))

    def close(self) -> None:
        """Pull the plug."""
        os.close(self.master)
        os.close(self.slave)
