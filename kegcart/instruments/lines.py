"""A line to an instrument: a TCP socket or a serial port that carries text, by way of pyvisa."""

import re
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
_SOCKET = re.compile(r"(?P<host>\[[0-9a-fA-F:]+\]|[A-Za-z0-9_.-]+):(?P<port>\d{1,5})")
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
        return f"TCPIP::{found['host'].strip('[]')}::{found['port']}::SOCKET"
    raise LineError(f"'{address[:60]}' is no address: host:port as 192.168.1.20:5025, or a serial port as /dev/ttyUSB0 or COM3")


@cache
def manager() -> Any:
    """The one that opens lines."""
    return pyvisa.ResourceManager("@py")


class Line:
    """An open line. Used by one thread at a time. Errors of all that it does: LineError where it has gone."""

    def __init__(self, address: str, timeout_s: float = TIMEOUT_S) -> None:
        name = resource_name(address)
        try:
            with _opening:  # pyvisa keeps one table of what is open
                self.resource = manager().open_resource(
                    name, open_timeout=int(1000 * OPENING_S), read_termination="\n", write_termination="\n"
                )
            self.resource.timeout = int(1000 * timeout_s)
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
            # Below `read`, which keeps back what had come when the time was up.
            session: Any = self.resource.visalib.sessions[self.resource.session]
            content, _ = session.read(MOST)
        except Exception as error:
            raise LineError(f"it hung up: {short(error)}") from None
        answer = bytes(content).decode("ascii", "replace")
        if not answer.endswith("\n"):
            raise NoAnswerError(answer)
        return answer.rstrip("\r\n")

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
