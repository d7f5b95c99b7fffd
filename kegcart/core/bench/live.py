"""A test as it is run: its steps one after another, begun, held, paused, repeated and stopped, by readings and by hand.

What happens is a line of events; the state follows from them alone, so that a test that was broken off goes on from what was stored.
"""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import asdict, dataclass, field
from math import isfinite
from typing import Any, Literal, get_args

from kegcart.core.bench.plan import SETTLES_S, TAIL_SHARE, Setting, StepKind
from kegcart.core.bench.readings import Span
from kegcart.core.bench.watch import Passed, Watch

TestState = Literal["ready", "running", "paused", "stopped", "over"]
Command = Literal["begin", "pause", "go on", "repeat", "skip", "stop", "finish", "note"]
COMMANDS: tuple[str, ...] = get_args(Command)
DROPPED, DROPPED_S = 0.2, 3.0
"""The load has dropped when it is down to this share of what it was, for so long."""
TOOK = 0.5
"""A load has come on when so much of it is there."""
LOADS = ("load", "trip", "run down")


OBEYED: Mapping[StepKind, tuple[str, ...]] = {
    "zero": ("main",),
    "standing": ("main", "inverter"),
    "idle": ("main", "inverter"),
    "load": ("load", "inverter"),
    "rest": ("load",),
    "surge": ("load", "inverter"),
    "trip": ("load", "inverter"),
    "run down": ("load", "inverter"),
    "recharge": ("supply",),
}
"""What must obey for a step to need no hands: the first word of the commands that instruments know."""


def needs_hands(act: StepKind, obeys: Collection[str], has_inverter: bool) -> bool:
    """Whether a step of this kind needs hands, where these obey."""
    return any(one not in obeys for one in OBEYED[act] if has_inverter or one != "inverter")


@dataclass(frozen=True, slots=True)
class RunStep:
    """A step of a test that is run: its key, what is done, its load in W, how long it is held, s, what ends it before; confirm: it is begun by
    hand only, as it can hurt. setting: what is switched and set in it."""

    key: str
    act: StepKind
    watts: float
    seconds: float
    until: str
    confirm: bool
    setting: Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class TestEvent:
    """Something that happened in a test: when, s since it began; what."""

    at_s: float
    kind: str
    data: Mapping[str, Any] = field(default_factory=dict)


class RefusedCommandError(ValueError):
    """A command that cannot be followed as the test stands, with the sentence that says why."""


class LiveTest:
    """A test from its first step to its last. Give it readings and commands with their moments; it says what happened."""

    def __init__(self, steps: Sequence[RunStep], watch: Watch, *, by_itself: bool) -> None:
        """by_itself: a step that can be begun without hands is."""
        self.steps, self.watch, self.by_itself = tuple(steps), watch, by_itself
        self.at = 0
        self.state: TestState = "ready"
        self.spans: list[Span] = []
        self.begun_s = self.held_s = 0.0
        self.now_s = 0.0
        self.waits = True
        """Whether the next step is begun by hand: the first, one that can hurt, and one after something has opened by itself."""
        self.opened = False
        self.reset_step()

    def reset_step(self) -> None:
        """Forget what was seen of the load."""
        self.took, self.most_a, self.dropped_s = False, 0.0, None

    took: bool
    most_a: float
    dropped_s: float | None

    @property
    def step(self) -> RunStep | None:
        """The step that stands next or runs; None after the last."""
        return self.steps[self.at] if self.at < len(self.steps) else None

    @property
    def left_s(self) -> float:
        """How much of the step is left, s."""
        if self.step is None:
            return 0.0
        running = self.now_s - self.begun_s if self.state == "running" else 0.0
        return max(0.0, self.step.seconds - self.held_s - running)

    @property
    def setting(self) -> Setting:
        """What is to be switched and set now. A step that begins by itself is set as the one before it ends, so that no load drops between
        them; one that is waited for keeps the switches of the one before it, and no load. What has opened by itself is switched off, so that
        it can be closed again."""
        if self.step and (self.state == "running" or (self.state == "ready" and not self.waits and self.by_itself)):
            return Setting(**self.step.setting)
        before = self.steps[self.at - 1] if self.at > 0 else None
        if self.state == "ready" and before is not None and not self.opened:
            return Setting(inverter=before.setting["inverter"], main=before.setting["main"])
        return Setting(main=self.state != "ready" or self.at > 0)

    def take(self, at_s: float, values: Mapping[str, float]) -> list[TestEvent]:
        """Take readings of one moment, or none: that time goes by. What happened by them."""
        self.now_s = max(self.now_s, at_s)
        for passed in self.watch.take(at_s, values):
            if self.state in ("running", "ready"):
                return [self.happens(stopped_at(passed, self.watch.lines[passed.line]))]
        if self.state == "ready" and not self.waits and self.by_itself:
            return [self.happens(TestEvent(self.now_s, "begin", {"step": self.at}))]
        if self.state == "running" and (how := self.ends(values)) is not None:
            return [self.happens(TestEvent(self.now_s, "end", {"how": how}))]
        return []

    def ends(self, values: Mapping[str, float]) -> str | None:
        """How the step ends now; None while it goes on."""
        step = self.step
        assert step is not None
        if step.act in LOADS and self.load_dropped(step, values):
            return "cut off"
        if step.until == "full":
            amps = values.get("supply.a", -values["posts.a"] if "posts.a" in values else None)
            if amps is not None and isfinite(amps):
                self.most_a = max(self.most_a, amps)
                if self.now_s - self.begun_s + self.held_s > SETTLES_S and amps < TAIL_SHARE * self.most_a:
                    return "full"
        return "" if self.left_s <= 0 else None

    def load_dropped(self, step: RunStep, values: Mapping[str, float]) -> bool:
        """Whether the load had come on and is gone: something has opened by itself."""
        watts = values.get("load.w")
        if watts is None and "posts.a" in values:
            watts = values["posts.a"] * self.watch.latest.get("posts.v", 0.0)
        if watts is None or not isfinite(watts):
            return False
        self.took = self.took or watts > TOOK * step.watts
        if not self.took or watts > DROPPED * step.watts:
            self.dropped_s = None
            return False
        if self.dropped_s is None:
            self.dropped_s = self.now_s
        return self.now_s - self.dropped_s >= DROPPED_S

    def command(self, at_s: float, command: Command, data: Mapping[str, Any] | None = None) -> TestEvent:
        """Do what the builder says. Errors: RefusedCommandError."""
        self.now_s = max(self.now_s, at_s)
        allowed: dict[str, tuple[TestState, ...]] = {
            "begin": ("ready", "stopped"),
            "pause": ("running",),
            "go on": ("paused",),
            "repeat": ("ready", "running", "paused", "stopped"),
            "skip": ("ready", "paused", "stopped"),
            "stop": ("ready", "running", "paused"),
            "finish": ("ready", "paused", "stopped", "over"),
            "note": get_args(TestState),
        }
        if self.state not in allowed[command]:
            raise RefusedCommandError(f"'{command}' cannot be done while the test is {self.state}")
        if command == "begin" and self.step is None:
            raise RefusedCommandError("there is no step left")
        if command == "repeat" and self.state == "ready" and self.at == 0:
            raise RefusedCommandError("no step was run yet")
        said = dict(data or {})
        if command == "begin":
            said = {"step": self.at}
        elif command == "repeat":
            said = {"step": self.at if self.state != "ready" else self.at - 1}
        elif command == "stop":
            said = {"by": "hand"}
        return self.happens(TestEvent(self.now_s, command, said))

    def happens(self, event: TestEvent) -> TestEvent:
        """Let something happen: the state follows. Events that were stored are put in again by this."""
        self.now_s = max(self.now_s, event.at_s)
        match event.kind:
            case "begin":
                self.at, self.state, self.begun_s, self.held_s = int(event.data["step"]), "running", event.at_s, 0.0
                self.opened = False
                self.reset_step()
                self.watch.again()
            case "go on":
                self.state, self.begun_s = "running", event.at_s
                self.watch.again()
            case "pause":
                self.close(event.at_s)
                self.state = "paused"
            case "end":
                self.close(event.at_s, str(event.data["how"]))
                self.opened = event.data["how"] == "cut off"
                self.at, self.state, self.held_s = self.at + 1, "ready", 0.0
                self.waits = self.step is None or self.step.confirm or self.opened
                if self.step is None:
                    self.state = "over"
            case "repeat":
                self.close(event.at_s)
                self.at, self.state, self.waits, self.held_s = int(event.data["step"]), "ready", True, 0.0
            case "skip":
                self.at, self.state, self.waits, self.held_s = self.at + 1, "ready", True, 0.0
                if self.step is None:
                    self.state = "over"
            case "stop":
                self.close(event.at_s)
                self.state = "stopped"
            case "finish":
                self.close(event.at_s)
                self.state, self.at = "over", len(self.steps)
        return event

    def close(self, at_s: float, how: str = "") -> None:
        """End the stretch that runs: it is a span of its step."""
        if self.state == "running" and self.step is not None:
            self.held_s += at_s - self.begun_s
            self.spans.append(Span(self.step.key, self.begun_s, at_s, how))

    @property
    def spans_so_far(self) -> list[Span]:
        """Every stretch that was run, with the one that runs."""
        if self.state == "running" and self.step is not None:
            return [*self.spans, Span(self.step.key, self.begun_s, self.now_s)]
        return list(self.spans)


def stopped_at(passed: Passed, limit: float) -> TestEvent:
    """A test that is stopped at a line."""
    return TestEvent(passed.at_s, "stop", {**asdict(passed), "limit": limit})


TURNED_A = 3.0


def turned_round(latest: Mapping[str, float]) -> list[str]:
    """The currents that are read the wrong way round: clamp and shunt differ in their sign, or the shunt shows that a load charges the pack.

    Source: practice: the arrow on a clamp points the way the current flows, from the pack.
    """
    amps, clamp, watts = (latest.get(channel, 0.0) for channel in ("posts.a", "clamp.a", "load.w"))
    if amps < -TURNED_A and watts > -amps:
        return ["posts.a"] + (["clamp.a"] if clamp < -TURNED_A else [])
    return ["clamp.a"] if abs(amps) > TURNED_A and abs(clamp) > TURNED_A and amps * clamp < 0 else []
