"""A line to an instrument: a TCP socket or a serial port that carries text, by way of pyvisa."""

import re
import select
import socket
import threading
from functools import cache
from typing import Any

import pyvisa
from pyvisa import constants

TIMEOUT_S = 1.5
"""An answer that is not here by then is none."""
OPENING_S = 1.0
BAUD = 9600
MOST = 8192
_SOCKET = re.compile(r"(?P<host>[A-Za-z0-9_.-]+):(?P<port>\d{1,5})")
_SERIAL = re.compile(r"(?P<device>/dev/[A-Za-z0-9_./-]+|COM\d{1,3})(?:@(?P<baud>\d{3,7}))?")
_opening = threading.Lock()


class LineError(Exception):
    """A line that cannot be opened, or has gone, with the sentence that says so."""


class NoAnswerError(Exception):
    """Nothing came, or only a part. part: what came."""

    def __init__(self, part: str = "") -> None:
        super().__init__("half a line" if part else "nothing")
        self.part = part


def resource_name(address: str) -> str:
    """The name by which pyvisa knows an address: `host:port`, or a serial port as `/dev/ttyUSB0` or `COM3`, with `@115200` for its speed.

    Errors: LineError, where it is neither.
    """
    if found := _SERIAL.fullmatch(address):
        return f"ASRL{found['device'].removeprefix('COM')}::INSTR"
    if (found := _SOCKET.fullmatch(address)) and 0 < int(found["port"]) < 65536:
        return f"TCPIP::{found['host']}::{found['port']}::SOCKET"
    raise LineError(f"'{address[:60]}' is no address: host:port as 192.168.1.20:5025, or a serial port as /dev/ttyUSB0 or COM3")


@cache
def manager() -> Any:
    """The one that opens lines."""
    return pyvisa.ResourceManager("@py")


class InstrumentLine:
    """An open line. Used by one thread at a time. Errors of all that it does: LineError where it has gone."""

    def __init__(self, address: str, timeout_s: float = TIMEOUT_S) -> None:
        name, self.timeout_s = resource_name(address), timeout_s
        try:
            with _opening:  # pyvisa keeps one table of what is open
                self.resource = manager().open_resource(
                    name, open_timeout=int(1000 * OPENING_S), read_termination="\n", write_termination="\n"
                )
            self.resource.timeout = int(1000 * timeout_s)
            self.session: Any = self.resource.visalib.sessions[self.resource.session]
            self.socket = self.session.interface if isinstance(self.session.interface, socket.socket) else None
            if self.socket is not None:
                self.socket.getpeername()  # a connection that was refused is told by this alone
            if name.startswith("ASRL"):
                found = _SERIAL.fullmatch(address)
                self.resource.baud_rate = int((found and found["baud"]) or BAUD)
                self.resource.flush(constants.BufferOperation.discard_read_buffer)
        except Exception as error:  # whatever a line is made of raises errors of its own
            raise LineError(f"nothing answers at {address}: {short(error)}") from None

    def tell(self, text: str) -> None:
        """Send a line."""
        try:
            self.resource.write(text)
        except Exception as error:
            raise LineError(f"it hung up: {short(error)}") from None

    def ask(self, text: str) -> str:
        """Send a line, and return the line that comes back. Errors: NoAnswerError; LineError."""
        self.tell(text)
        try:
            if self.socket is not None and not self._comes(self.socket):
                raise NoAnswerError
            # Below `read`, which keeps back what had come when the time was up.
            content, _ = self.session.read(MOST)
        except (LineError, NoAnswerError):
            raise
        except Exception as error:
            raise LineError(f"it hung up: {short(error)}") from None
        answer = bytes(content).decode("ascii", "replace")
        if not answer.endswith("\n"):
            raise NoAnswerError(answer)
        return answer.rstrip("\r\n")

    def _comes(self, line: socket.socket) -> bool:
        """Whether something comes before the time is up. Errors: LineError, where the other end has gone: the session would ask it on and on."""
        ready, _, _ = select.select([line], [], [], self.timeout_s)
        if ready and not line.recv(1, socket.MSG_PEEK):
            raise LineError("it hung up")
        return bool(ready)

    def close(self) -> None:
        """Close it, whatever became of it."""
        try:
            with _opening:
                self.resource.close()
        except Exception:
            return


def short(error: Exception) -> str:
    """What went wrong, in a line."""
    said = str(error).strip() or type(error).__name__
    return said.splitlines()[0][:120]
