"""`docs/findings.md`: the catalogue of checks and findings, read out of the rules themselves.

    python -m kegcart.core.catalogue_page > docs/findings.md

Title, severity, what must be so and its source are entered by `@judges`; why it matters and what is offered stand in the code of
each rule, and are read from there, so that the page cannot say anything else than the screen does.
"""

import ast
import inspect
import sys
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cache
from types import ModuleType
from typing import Any

import kegcart.core.assess
import kegcart.core.forecast
import kegcart.core.log.judging
import kegcart.core.log.living  # noqa: F401  (they import every rule, which enters itself)
from kegcart.core.catalogue import CATALOGUE, Entry
from kegcart.core.pack.forms.base import PackForm

FAULTS = {"stop", "mend", "note"}
HEAD = """# The catalogue of checks and findings

Made from the rules by `python3 run.py types`; not to be edited. Each check holds, fails, or cannot be judged yet and says what is
missing. One that fails becomes a finding: **stop** can hurt or cannot work, **mend** breaks a margin, wears out early or wastes,
**note** is worth knowing. "…" stands for what the design puts in.
"""


@cache
def functions(module: ModuleType) -> dict[str, ast.FunctionDef]:
    """The functions of a module as they are written, by name."""
    return {node.name: node for node in ast.parse(inspect.getsource(module)).body if isinstance(node, ast.FunctionDef)}


@dataclass(frozen=True, slots=True)
class Said:
    """A call in a rule, with what its names stand for there."""

    call: ast.Call
    names: dict[str, ast.expr]
    module: ModuleType

    def words(self, node: ast.expr) -> str:
        """A text as it is written in the code, with a mark for what is put in."""
        match node:
            case ast.Constant(value=str(text)):
                return text
            case ast.JoinedStr(values=parts):
                return "".join(self.words(part) if isinstance(part, ast.Constant) else "…" for part in parts)
            case ast.IfExp(body=one, orelse=other):
                return f"{self.words(one)} / {self.words(other)}"
            case ast.Name(id=name) if name in self.names:
                return self.words(self.names[name])
            case ast.Name(id=name) if isinstance(constant := getattr(self.module, name, None), str):
                return constant
        return "…"


def calls(rule: Callable[..., Any]) -> Iterator[Said]:
    """Every call in a rule and in the functions it leads to, of its own module or of another of the rules."""
    seen: set[tuple[str, str]] = set()

    def walk(module: ModuleType, name: str) -> Iterator[Said]:
        if (module.__name__, name) in seen or name not in functions(module):
            return
        seen.add((module.__name__, name))
        nodes = list(ast.walk(functions(module)[name]))
        names: dict[str, ast.expr] = {}
        for node in nodes:
            if isinstance(node, ast.Assign) and isinstance(node.targets[0], ast.Name):
                names.setdefault(node.targets[0].id, node.value)
        for node in nodes:
            if not isinstance(node, ast.Call):
                continue
            yield Said(node, names, module)
            there = getattr(module, node.func.id, None) if isinstance(node.func, ast.Name) else None
            home = sys.modules.get(getattr(there, "__module__", ""))
            if (
                callable(there)
                and home is not None
                and ("rules" in home.__name__ or "checks" in home.__name__)
                and not is_rule(there)
            ):
                yield from walk(home, there.__name__)

    yield from walk(sys.modules[rule.__module__], rule.__name__)


def is_rule(function: object) -> bool:
    """Whether a function is entered in the catalogue itself."""
    return any(function in entry.rules for entry in CATALOGUE.values())


def said(entry: Entry) -> tuple[list[str], list[str]]:
    """Why it matters where it fails, and the remedies that are offered, as its rules say them."""
    why: list[str] = []
    remedies: list[str] = []
    for found in (said for rule in entry.rules for said in calls(rule)):
        match found.call:
            case ast.Call(func=ast.Name(id=name), args=[_, reason, *_]) if name in FAULTS:
                why.append(found.words(reason))
            case ast.Call(func=ast.Name(id="Remedy"), args=[label, *_]):
                remedies.append(found.words(label))
            case ast.Call(func=ast.Attribute(attr="grown" | "strengthened" | "with_series" as way)):
                remedies.append((getattr(PackForm, way).__doc__ or "").partition("\n")[0].rstrip("."))
    return list(dict.fromkeys(why)), list(dict.fromkeys(remedies))


def page() -> str:
    """The page, one heading a station, one entry an id."""
    out = [HEAD]
    for station in dict.fromkeys(id.partition(".")[0] for id in CATALOGUE):
        out.append(f"## {station}\n")
        for entry in sorted(e for e in CATALOGUE.values() if e.id.startswith(f"{station}.")):
            why, remedies = said(entry)
            out.append(f"### {entry.id}\n")
            out.append(f"{entry.title[0].upper()}{entry.title[1:]}: {', '.join(s.value for s in entry.severities)}\n")
            lines = [("Must be so", entry.requires), ("Why", " / ".join(why)), ("Offered", "; ".join(remedies) or "nothing")]
            out += [f"- {name}: {text}" for name, text in [*lines, ("Source", entry.source or "what the words mean")]]
            out.append("")
    return "\n".join(out)


if __name__ == "__main__":
    print(page(), end="")
