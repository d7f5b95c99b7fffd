"""Files that somebody may hand to the program: broken, huge, twisted. Each is refused with a reason, or taken as what it is."""

import json
from collections.abc import Iterator

from kegcart.workbench.services import DEMO_DIR

LANE = (DEMO_DIR / "lantern-lane.json").read_text(encoding="utf-8")
IMPORT, CELLS, LOADS, CURVE = "/api/designs/import", "/api/rack/read", "/api/loads/read", "/api/pack/read-curve"
REFUSED, READ = frozenset({413, 422}), frozenset({200, 413, 422})


def table(text: str) -> bytes:
    return json.dumps({"text": text}).encode()


def changed(**parts: object) -> bytes:
    return json.dumps(json.loads(LANE) | parts).encode()


def files() -> Iterator[tuple[str, str, bytes, frozenset[int]]]:
    """(what it is, where it goes, its bytes, the statuses that are right)."""
    yield "nothing", IMPORT, b"", REFUSED
    yield "not text", IMPORT, bytes(range(256)) * 40, REFUSED
    yield "UTF-16", IMPORT, LANE.encode("utf-16"), REFUSED
    yield "a picture", IMPORT, b"\x89PNG\r\n\x1a\n" + b"\x00" * 5000, REFUSED
    yield "cut in the middle", IMPORT, LANE.encode()[: len(LANE) // 2], REFUSED
    yield "twice in a row", IMPORT, (LANE + LANE).encode(), REFUSED
    yield "one more than 1 MB", IMPORT, changed(notes="x" * 1_000_001), REFUSED
    yield "10 MB", IMPORT, changed(notes="x" * 10_000_000), REFUSED
    yield "nested 100 000 deep", IMPORT, b"[" * 100_000 + b"]" * 100_000, REFUSED
    yield "objects nested 900 deep", IMPORT, b'{"a":' * 900 + b"1" + b"}" * 900, REFUSED
    yield "a key twice", IMPORT, LANE.replace('"name":', '"name": "x", "name":', 1).encode(), REFUSED
    yield "half a character", IMPORT, changed(name="x").replace(b'"x"', b'"\\ud800"'), REFUSED
    yield (
        "a number of 100 000 digits",
        IMPORT,
        changed(version=1).replace(b'"version": 1', b'"version": ' + b"1" * 100_000),
        REFUSED,
    )
    yield "infinite, and not a number", IMPORT, LANE.replace("180", "Infinity", 1).replace("700", "NaN", 1).encode(), REFUSED
    yield (
        "1e999 as a figure",
        IMPORT,
        changed(brief={"site_max_c": 0}).replace(b'"site_max_c": 0', b'"site_max_c": 1e999'),
        REFUSED,
    )
    yield "a name of control characters", IMPORT, changed(name="\x00\x07\x1b"), REFUSED
    yield "a later version", IMPORT, changed(version=99), REFUSED
    yield "100 000 loads", IMPORT, changed(loads={"items": {f"l{n}": {} for n in range(60_000)}}), REFUSED
    yield (
        "a circle of parts",
        IMPORT,
        changed(
            power={
                "network": {"a": {"part": "switch", "name": "a", "feed": "b"}, "b": {"part": "switch", "name": "b", "feed": "a"}}
            }
        ),
        REFUSED,
    )
    yield "prototype and dunder keys", IMPORT, changed(__proto__={"a": 1}, constructor={}, __class__="x"), REFUSED
    yield "a table of 440 000 columns", CELLS, table("label;capacity\n" + ";".join("1" * 440_000)), REFUSED
    yield "a table of 100 000 rows", CELLS, table("a;capacity\n" + "1;2\n" * 200_000), REFUSED
    yield "rows of nothing but mistakes", CELLS, table("label;capacity\n" + "a;x\n" * 19_000), READ
    yield "a quotation mark never closed", CELLS, table('label;capacity\na;"2,3\n' + "b;2,4\n" * 5000), REFUSED
    yield "a cell of 800 000 digits", CELLS, table("label;capacity\na;" + "1" * 800_000), READ
    yield "separators and nothing else", CELLS, table(";;;;\n" * 50_000), REFUSED
    yield "formulas as loads", LOADS, table("name;watts\n=cmd|' /C calc'!A0;60\n@SUM(A1);70\n"), READ
    yield "19 000 loads", LOADS, table("name;watts\n" + "lamp;60\n" * 19_000), READ
    yield "hours without end", LOADS, table("name;watts;hours\nlamp;60;" + "9-10," * 100_000), READ
    yield (
        "a curve of 20 000 points",
        CURVE,
        table("soc;v\n" + "".join(f"{n / 200};{3 + n / 20000}\n" for n in range(19_900))),
        READ,
    )
    yield "a curve of one value", CURVE, table("soc;v\n" + "50;3,2\n" * 5000), READ
    yield "a table of control characters", CELLS, table("label;capacity\n\x00\x01;2\n"), REFUSED
