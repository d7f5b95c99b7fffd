"""Requests made from the API's own description, patches deep into real designs, and real designs spoiled: good and bad alike."""

import json
import random
from collections import Counter
from collections.abc import Callable
from typing import Any, Protocol

import schemathesis
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis import strategies as st
from pydantic_core import to_json
from schemathesis.core.result import Ok

from kegcart.workbench.services import DEMO_DIR, DEMOS

EXPECTED = {200, 201, 202, 204, 404, 409, 413, 422}
MODES = [schemathesis.GenerationMode.POSITIVE, schemathesis.GenerationMode.NEGATIVE]
ODD = ["90cm", "1.2k", 1e300, -1, "9" * 400, "Fuse {2}", "a\x00b", "\u202e", "=1+1", [], {}, None, True, 10**18, "1" * 5000, "🔋"]

weird = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False) | st.text(max_size=20) | st.sampled_from(ODD),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=8), inner, max_size=3),
    max_leaves=6,
)


class Target(Protocol):
    """What is attacked. Its `send` answers with the status and what was said."""

    def send(self, method: str, path: str, body: bytes | None) -> tuple[int, bytes]: ...

    def design(self, name: str) -> str:
        """Id of a fresh design of a demo build."""

    def standing(self, design: str) -> tuple[int, Any]:
        """Revision and document of a design."""


def pointers(document: Any, at: str = "") -> list[str]:
    """Every pointer of a document."""
    below = [p for key, value in document.items() for p in pointers(value, f"{at}/{key}")] if isinstance(document, dict) else []
    return [at, *below]


def tried(number: int, count: int, *strategies: Any) -> Callable[[Any], Any]:
    """So many examples of a seed, without those of other runs and without making them smaller."""

    def wrap(work: Any) -> Any:
        run = settings(
            max_examples=count, deadline=None, database=None, phases=[Phase.generate], suppress_health_check=list(HealthCheck)
        )
        return seed(number)(run(given(*strategies)(work)))  # type: ignore[no-untyped-call]

    return wrap


class Fuzz:
    """Sends, and keeps what came of it: how often each status, and what was answered otherwise than promised."""

    def __init__(self, target: Target, number: int) -> None:
        self.target, self.number = target, number
        self.seen: Counter[int] = Counter()
        self.wrong: list[str] = []

    def send(self, method: str, path: str, body: bytes | None = None) -> None:
        status, said = self.target.send(method, path, body)
        self.seen[status] += 1
        fits = status in EXPECTED
        if status in (413, 422):
            told = json.loads(said)
            fits = bool(told["message"]) and all(p["message"] for p in told["problems"])
        if not fits:
            self.wrong.append(f"{status} {method} {path} {body!r:.300} {said!r:.300}")

    def everything(self, cases: int, description: Any) -> None:
        """So many requests at least: to each operation, then whole documents and patches."""
        end = sum(self.seen.values()) + cases
        found = schemathesis.openapi.from_dict(description).get_all_operations()
        every = [result.ok() for result in found if isinstance(result, Ok)]
        operations = [operation for operation in every if not operation.definition.raw.get("x-reaches-out")]
        for operation in operations:
            self.operation(operation, cases // (len(operations) + 20) + 1)
        # Operations without parameters run out of different requests early.
        self.documents((end - sum(self.seen.values())) // 3)
        self.patches(max(1, end - sum(self.seen.values())))

    def operation(self, operation: Any, count: int) -> None:
        """Requests to one operation, made from its description, mostly on a design that is there."""
        design = self.target.design("tidewater")

        @tried(self.number, count, st.one_of(*[operation.as_strategy(generation_mode=mode) for mode in MODES]), st.integers(0, 3))
        def run(case: Any, real: int) -> None:
            if "design_id" in operation.path and real:
                case.path_parameters = {"design_id": design}
            body = None if case.body is None or type(case.body).__name__ == "NotSet" else case.body
            raw = body if isinstance(body, bytes) else None if body is None else to_json(body, inf_nan_mode="constants")
            query = "&".join(f"{k}={v}" for k, v in (case.query or {}).items() if str(v).isascii() and str(k).isascii())
            self.send(case.method, case.formatted_path + ("?" + query if query else ""), raw)

        run()

    def patches(self, count: int) -> None:
        """Patches that reach deep into a real document, on its current revision."""
        design = self.target.design("lantern-lane")
        every = pointers(self.target.standing(design)[1])
        kinds = st.sampled_from(["add", "remove", "replace", "move", "copy", "test"])

        @tried(self.number + 1, count, kinds, st.sampled_from(every), st.sampled_from(every), weird)
        def run(op: str, path: str, source: str, value: Any) -> None:
            base = self.target.standing(design)[0]
            body = {"base_revision": base, "patch": [{"op": op, "path": path, "from": source, "value": value}]}
            self.send("PATCH", f"/api/designs/{design}", json.dumps(body).encode())

        run()

    def documents(self, count: int) -> None:
        """Real design files with a few places spoiled."""
        chance = random.Random(self.number)
        sound = [(DEMO_DIR / f"{name}.json").read_text(encoding="utf-8") for name in DEMOS]
        for _ in range(count):
            document = json.loads(chance.choice(sound))
            for _ in range(chance.randint(1, 4)):
                spoil(document, chance)
            text = json.dumps(document)
            if chance.random() < 0.2:  # and the text itself
                at = chance.randrange(len(text))
                text = text[:at] + chance.choice(["", "\\", '"', "}", ",", "\x00", "\\ud800"]) + text[at + chance.randint(0, 3) :]
            self.send("POST", "/api/designs/import", text.encode("utf-8", "surrogatepass"))


def spoil(document: Any, chance: random.Random) -> None:
    """Change one place of a document: another value, another type, gone, doubled, or moved."""
    holders = [document]
    for holder in holders:
        inside = holder.values() if isinstance(holder, dict) else holder
        holders += [entry for entry in inside if isinstance(entry, dict | list) and entry]
    holder = chance.choice(holders)
    key = chance.choice(list(holder) if isinstance(holder, dict) else range(len(holder)))
    match chance.randrange(4):
        case 0:
            del holder[key]
        case 1 if isinstance(holder, dict):
            holder[str(chance.choice(ODD))[:60]] = holder[key]
        case 2:
            holder[key] = json.loads(json.dumps(chance.choice(holders)))
        case _:
            holder[key] = chance.choice(ODD)
