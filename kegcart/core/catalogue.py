"""The catalogue: what is judged under each id, by which rules, and how bad it is where it fails.

A rule enters itself with `@judges`: its title stands there, what must be so is the first line of its docstring, and what that
rests on is the docstring's "Source:". So the screen, the printed table and `docs/findings.md` say what the code does.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, TypeVar

from kegcart.core.finding import Severity

STOP, MEND, NOTE = Severity.STOP, Severity.MEND, Severity.NOTE
Rule = TypeVar("Rule", bound=Callable[..., Any])


@dataclass(slots=True, order=True)
class Entry:
    """One id of the catalogue: its title in a few words, how bad it can be, and the rules that judge it."""

    id: str
    title: str = ""
    severities: tuple[Severity, ...] = ()
    rules: list[Callable[..., Any]] = field(default_factory=list)

    @property
    def requires(self) -> str:
        """What must be so, as its rules say it."""
        return " ".join(dict.fromkeys((rule.__doc__ or "").split("\n\n")[0].replace("\n   ", "") for rule in self.rules))

    @property
    def source(self) -> str:
        """What its rules rest on; empty where a rule follows from what words mean."""
        said = ((rule.__doc__ or "").partition("Source: ")[2].split("\n\n")[0] for rule in self.rules)
        return "; ".join(dict.fromkeys(" ".join(part.split()).rstrip(".") for part in said if part))


CATALOGUE: dict[str, Entry] = {}


def judges(id: str, title: str = "", *severities: Severity) -> Callable[[Rule], Rule]:
    """Enter a rule under the id that it judges. Where several rules judge one id, one of them gives the title.

    Errors: ValueError where a second title is given, or the rule has no docstring.
    """

    def enter(rule: Rule) -> Rule:
        entry = CATALOGUE.setdefault(id, Entry(id))
        if not rule.__doc__ or (title and entry.title):
            raise ValueError(f"{id}: {'a second title' if rule.__doc__ else 'a rule that does not say what must be so'}")
        entry.title = entry.title or title
        entry.severities += tuple(s for s in severities if s not in entry.severities)
        entry.rules.append(rule)
        return rule

    return enter
