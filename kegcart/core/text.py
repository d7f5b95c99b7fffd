"""Text that people type and files bring: what may stand in it, and JSON read strictly.

Control characters would make an SVG or a PDF invalid, half a surrogate pair cannot be written at all, and a key that stands
twice would be dropped in silence: each is refused, with its place.
"""

import json
import re
from collections.abc import Iterator
from typing import Annotated, Any

from pydantic import AfterValidator, StringConstraints

UNPRINTABLE = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ud800-\udfff\ufffe\uffff]")
"""Control characters other than tab and line ends, halves of surrogate pairs, and what is no character.

Source: XML 1.0, production [2] Char, without the C1 controls, which it discourages."""
DEEPEST = 40
"""A design is nested a dozen levels deep."""


def checked(text: str) -> str:
    """The text, if all of it can be printed. Errors: ValueError naming the character and its place."""
    if found := UNPRINTABLE.search(text):
        raise ValueError(f"the character U+{ord(found[0]):04X} at place {found.start() + 1} cannot be printed: take it out")
    return text


def one_line(text: str) -> str:
    """The text in one line: ends of lines and tabs are spaces. Errors: ValueError as of `checked`."""
    return checked(re.sub(r"[\t\r\n]+", " ", text))


def printable(text: str) -> str:
    """The text with a mark in the place of what cannot be printed."""
    return UNPRINTABLE.sub("\N{REPLACEMENT CHARACTER}", text)


def plain_lines(text: str) -> str:
    """The text with line feeds alone as ends of lines. Errors: ValueError as of `checked`."""
    return checked(text.replace("\r\n", "\n").replace("\r", "\n"))


Printable = AfterValidator(one_line)
"""For a field of one line."""
Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80), Printable]
Remark = Annotated[str, StringConstraints(max_length=2000), AfterValidator(plain_lines)]


class JsonError(ValueError):
    """Text that is no JSON, or none that can be taken: the pointer where there is one, and the sentence with line and column."""

    def __init__(self, sentence: str) -> None:
        super().__init__(sentence)
        self.sentence = sentence


def place_of(text: str, at: int) -> str:
    """Line and column of a place in a text, both from 1."""
    return f"line {text.count(chr(10), 0, at) + 1}, column {at - text.rfind(chr(10), 0, at)}"


def read_json(text: str) -> Any:
    """Plain data from JSON text. Errors: JsonError naming line and column."""

    def constant(name: str) -> Any:
        raise JsonError(f"{name} is not a number that JSON knows")

    def entries(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
        out = dict(pairs)
        if len(out) != len(pairs):
            key, at = next(twice(text))
            raise JsonError(f"the key {key[:60]!r} stands twice in one object, again at {place_of(text, at)}")
        return out

    try:
        data = json.loads(text, parse_constant=constant, object_pairs_hook=entries)
    except json.JSONDecodeError as error:
        raise JsonError(f"the file is not JSON: {error.msg} at line {error.lineno}, column {error.colno}") from None
    except RecursionError:
        raise JsonError(f"it is nested more than {DEEPEST} levels deep") from None
    except JsonError:
        raise
    except ValueError:
        raise JsonError("a number in it is too large") from None
    if depth(data) > DEEPEST:
        raise JsonError(f"it is nested more than {DEEPEST} levels deep")
    if SURROGATE.search(text):
        try:
            json.dumps(data, ensure_ascii=False).encode()
        except UnicodeEncodeError:
            at = (HALF_PAIR.search(text) or SURROGATE.search(text)).start()  # type: ignore[union-attr]
            raise JsonError(f"an escape stands for half a character, at {place_of(text, at)}") from None
    return data


SURROGATE = re.compile(r"\\u[dD][89a-fA-F]|[\ud800-\udfff]")
HALF_PAIR = re.compile(r"\\u[dD][89abAB]..(?!\\u[dD][c-fC-F])|(?<!\\u[dD][89abAB]..)\\u[dD][c-fC-F]..")
"""An escape of one half of a surrogate pair without the other."""
TOKEN = re.compile(r'"(?:[^"\\]|\\.)*"|[{}\[\],:]')


def twice(text: str) -> Iterator[tuple[str, int]]:
    """The keys that stand a second time in one object, with their places."""
    open_objects: list[set[str] | None] = []
    last: tuple[str, int] | None = None
    for token in TOKEN.finditer(text):
        mark = token[0]
        if mark == "{":
            open_objects.append(set())
        elif mark == "[":
            open_objects.append(None)
        elif mark in "}]" and open_objects:
            open_objects.pop()
        elif mark == ":" and last and open_objects and open_objects[-1] is not None:
            key, at = json.loads(last[0]), last[1]
            if key in open_objects[-1]:
                yield key, at
            open_objects[-1].add(key)
        last = (mark, token.start()) if mark[0] == '"' else None


def depth(data: Any) -> int:
    """How deep plain data is nested, found without recursion; it stops counting beyond what is taken."""
    level, found = [data], 0
    while level and found <= DEEPEST:
        found += 1
        level = [
            entry
            for holder in level
            if isinstance(holder, dict | list)
            for entry in (holder.values() if isinstance(holder, dict) else holder)
            if isinstance(entry, dict | list)
        ]
    return found
