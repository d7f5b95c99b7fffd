"""A TCP server for each stand-in: a line comes, a line goes."""

import socket
import socketserver
import threading
import time
from collections.abc import Sequence
from contextlib import suppress

from kegcart.standins.bench import StandIn

LONGEST_LINE = 500


class Handler(socketserver.StreamRequestHandler):
    """One connection: each line is answered in turn."""

    disable_nagle_algorithm = True

    def handle(self) -> None:
        server: StandInServer = self.server  # type: ignore[assignment]
        server.open.add(self)
        try:
            while line := self.rfile.readline(LONGEST_LINE):
                server.asked = time.monotonic()
                answer = server.stand_in.answer(line.decode("ascii", "replace"))
                if answer is not None:
                    self.wfile.write(answer.encode("ascii", "replace") + b"\n")
        except OSError:
            return  # the one who asked has gone
        finally:
            server.open.discard(self)


class StandInServer(socketserver.ThreadingTCPServer):
    """Serves a stand-in at a port of this machine; at any that is free where it is 0."""

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, stand_in: StandIn, port: int = 0) -> None:
        self.stand_in, self.asked = stand_in, time.monotonic()
        self.open: set[Handler] = set()
        super().__init__(("127.0.0.1", port), Handler)

    @property
    def address(self) -> str:
        """Where it is reached."""
        return f"localhost:{self.server_address[1]}"

    def start(self) -> None:
        """Serve from now on, in a thread."""
        threading.Thread(target=self.serve_forever, kwargs={"poll_interval": 0.1}, daemon=True).start()

    def hang_up(self) -> None:
        """Stop serving, and close what is open, as an instrument that is switched off."""
        self.shutdown()
        self.server_close()
        for handler in list(self.open):
            with suppress(OSError):
                handler.connection.shutdown(socket.SHUT_RDWR)


def serve(stand_ins: Sequence[StandIn], first_port: int = 0) -> list[StandInServer]:
    """Serve each at a port of its own: from one on, or at any that is free where it is 0. Errors: OSError, where a port is taken."""
    servers = list[StandInServer]()
    try:
        for n, stand_in in enumerate(stand_ins):
            servers.append(StandInServer(stand_in, first_port + n if first_port else 0))
    except OSError:
        for server in servers:
            server.server_close()
        raise
    for server in servers:
        server.start()
    return servers
