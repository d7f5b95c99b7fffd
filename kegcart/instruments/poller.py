"""An instrument that is asked over and over, in a thread of its own: whatever it does costs no other a reading."""

import queue
import threading
import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from kegcart.core.bench.asking import AnswerError, another_unit, commands, read_answer
from kegcart.core.reference.bench import Ask
from kegcart.instruments.lines import InstrumentLine, LineError, NoAnswerError

EVERY_S = 0.1
SLOW_S = 0.5
"""An instrument that takes longer is said to be slow."""
AGAIN_S = 0.5
"""So long after it was lost it is looked for again."""

NAME = "*IDN?"
"""Source: the standard commands that every programmable instrument knows."""
GREETED_S = 1.0

Said = Literal["found", "lost", "silent", "half a line", "no number", "another unit", "slow", "well"]


@dataclass(frozen=True, slots=True)
class Instrument:
    """An instrument of the bench: its name, its address, what it is asked, what it can be told to do, how often it is asked, s."""

    name: str
    address: str
    asks: Sequence[Ask]
    acts: Mapping[str, str]
    every_s: float = EVERY_S


TakeReadings = Callable[[str, float, Mapping[str, float]], None]
"""Takes the name of an instrument, the moment by `time.monotonic` and its readings by channel."""
TakeSaid = Callable[[str, Said, str], None]
"""Takes the name of an instrument, how it is, and the sentence that says so."""


class Poller:
    """Asks an instrument until it is closed. What it reads, and how it is, is handed on in its own thread."""

    def __init__(self, instrument: Instrument, readings: TakeReadings, said: TakeSaid) -> None:
        self.instrument, self.readings, self.tell_said = instrument, readings, said
        self.asks = list(instrument.asks)
        self.unknown: set[Ask] = set()
        self.how: Said | None = None
        self._greeted = 0.0
        self._told: queue.SimpleQueue[tuple[str, float]] = queue.SimpleQueue()
        self._wake, self._closed = threading.Event(), threading.Event()
        self._thread = threading.Thread(target=self._run, name=f"instrument {instrument.name}", daemon=True)

    def start(self) -> None:
        """Begin to ask."""
        self._thread.start()

    def stop(self) -> None:
        """Let it end, after what it was told to do last is done."""
        self._closed.set()
        self._wake.set()

    def close(self, wait_s: float = 2.0) -> None:
        """End, and wait for that a little."""
        self.stop()
        self._thread.join(wait_s)

    def tell(self, act: str, value: float = 0.0) -> None:
        """Tell it to do something, before it is asked anything more."""
        self._told.put((act, value))
        self._wake.set()

    def _say(self, how: Said, sentence: str) -> None:
        """Say how it is, where that is another than before."""
        if how != self.how:
            self.how = how
            self.tell_said(self.instrument.name, how, sentence)

    def _run(self) -> None:
        while not self._closed.is_set():
            try:
                line = InstrumentLine(self.instrument.address)
            except LineError as error:
                self._say("lost", str(error))
                self._closed.wait(AGAIN_S)
                continue
            try:
                self._converse(line)
            except LineError as error:
                self._say("lost", str(error))
                self._greeted = 0.0
            finally:
                line.close()

    def _converse(self, line: InstrumentLine) -> None:
        """Ask until the line has gone, or nothing sensible comes by it. Errors: LineError."""
        silent = False
        due = time.monotonic()
        while True:
            self._act(line)
            if self._closed.is_set():
                return
            if not self.asks:
                self._greet(line)
            for ask in [ask for ask in self.asks if ask not in self.unknown]:
                try:
                    self._ask(line, ask)
                    silent = False
                except NoAnswerError as error:
                    if ask.optional and not silent and not error.part and self.how is None:
                        self.unknown.add(ask)
                    elif silent:
                        raise LineError("it answers no more") from None
                    else:
                        what: Said = "half a line" if error.part else "silent"
                        self._say(what, f"it answers {error}{': ' + repr(error.part[:40]) if error.part else ''}")
                    silent = True
                    # What comes after all would be taken for the answer to the next question.
                    return
                self._act(line)
            due = max(due + self.instrument.every_s, time.monotonic() - self.instrument.every_s)
            self._wake.wait(max(0.0, due - time.monotonic()))
            self._wake.clear()

    def _greet(self, line: InstrumentLine) -> None:
        """Ask one that is only told what to do for its name, now and then, so that it is missed when it has gone. Errors: LineError."""
        if time.monotonic() - self._greeted < GREETED_S:
            return
        try:
            line.ask(NAME)
        except NoAnswerError:
            raise LineError("it answers no more") from None
        self._greeted = time.monotonic()
        if self.how != "found":
            self._say("found", "it answers")

    def _act(self, line: InstrumentLine) -> None:
        """Do what it was told. Errors: LineError; what it was told then is done when it is found again."""
        while True:
            try:
                act, value = self._told.get_nowait()
            except queue.Empty:
                return
            try:
                line.tell(commands(self.instrument.acts, act, value))
            except LineError:
                self._told.put((act, value))
                raise

    def _ask(self, line: InstrumentLine, ask: Ask) -> None:
        """Ask once, and hand on what is read. Errors: LineError, NoAnswerError."""
        asked = time.monotonic()
        answer = line.ask(ask.text)
        took = time.monotonic() - asked
        try:
            values = read_answer(answer, ask)
        except AnswerError as error:
            if ask.optional and self.how in (None, "found"):
                self.unknown.add(ask)
            else:
                self._say("no number", str(error))
            return
        self.readings(self.instrument.name, asked + took / 2, values)
        if unit := another_unit(answer, ask):
            self._say("another unit", f"it answers in {unit} where {ask.unit} is asked: converted")
        elif took > SLOW_S:
            self._say("slow", f"it takes {took:.1f} s to answer")
        elif self.how not in ("well", "found"):
            back = self.how is not None
            self._say("well" if back else "found", "it answers again" if back else "it answers")
