"""Instruments looked for: what answers at the serial ports of this machine and at some addresses, and what it calls itself."""

from collections.abc import Iterable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

from serial.tools import list_ports

from kegcart.core.bench.asking import MOST_ANSWER, AnswerError, read_answer
from kegcart.core.reference.bench import Ask
from kegcart.instruments.lines import InstrumentLine, LineError, NoAnswerError
from kegcart.instruments.poller import NAME

FIRST_PORT, PORTS = 5025, 12
"""The port that is kept for such instruments, and those after it. Source: service name registry, scpi-raw."""
ASKED_S = 0.8
AT_ONCE = 16
MOST_ADDRESSES = 64


@dataclass(frozen=True, slots=True)
class Found:
    """What answers at an address, and the name that it gives."""

    address: str
    name: str


@dataclass(frozen=True, slots=True)
class Tried:
    """What an instrument was asked, what it answered, its values by channel, and what is wrong with them; empty where nothing is."""

    ask: Ask
    answer: str
    values: dict[str, float]
    problem: str


def usual_addresses() -> list[str]:
    """Where instruments are looked for without being told: the serial ports, and the usual ports of this machine."""
    ports = [port.device for port in list_ports.comports()]
    return [*ports, *(f"localhost:{port}" for port in range(FIRST_PORT, FIRST_PORT + PORTS))]


def find(addresses: Iterable[str]) -> list[Found]:
    """What answers at some addresses, in their order."""
    every = list(dict.fromkeys(addresses))[:MOST_ADDRESSES]
    with ThreadPoolExecutor(AT_ONCE) as pool:
        return [found for found in pool.map(named, every) if found]


def named(address: str) -> Found | None:
    """What answers at an address; None where nothing does."""
    try:
        line = InstrumentLine(address, ASKED_S)
    except LineError:
        return None
    try:
        return Found(address, line.ask(NAME)[:MOST_ANSWER].strip())
    except (LineError, NoAnswerError):
        return None
    finally:
        line.close()


def try_out(address: str, asks: Sequence[Ask]) -> list[Tried]:
    """Ask an instrument everything once. Errors: LineError, where nothing answers at its address."""
    tried, line = list[Tried](), InstrumentLine(address)
    try:
        for ask in asks:
            answer, values, problem = "", dict[str, float](), ""
            try:
                answer = line.ask(ask.text)
                values = read_answer(answer, ask)
            except AnswerError as error:
                problem = str(error)
            except NoAnswerError as error:
                answer, problem = error.part, f"it answers {error}"
                line.close()
                line = InstrumentLine(address)
            tried.append(Tried(ask, answer[:MOST_ANSWER], values, problem))
    finally:
        line.close()
    return tried
