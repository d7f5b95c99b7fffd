"""What differs between two answers, so that a change of one figure is answered by what it changed."""

from collections.abc import Sequence
from typing import Any

from kegcart.core.design import patch_between

LISTS = ("findings", "offers")


def changes(before: dict[str, Any], after: dict[str, Any]) -> dict[str, Any]:
    """The answer `after` as it differs from `before`; see `ChangesOut`."""
    old, new = before["assessment"], after["assessment"]
    had = old["figures"]
    figures = {path: difference(was or {}, figure) for path, figure in new["figures"].items() if (was := had.get(path)) != figure}
    return {
        "since": before["revision"],
        "revision": after["revision"],
        "document": patch_between(before["document"], after["document"]),
        "figures": figures,
        "gone": [path for path in had if path not in new["figures"]],
        **{name: kept(old[name], new[name]) for name in LISTS},
        "checks": nearly_kept(old["checks"], new["checks"]),
        "verdict": new["verdict"],
        "next": new["next"],
        "begun": new["begun"],
        "charging": new["charging"],
        "suits_12v": new["suits_12v"],
        "diagram": {
            **after["diagram"],
            "items": kept(before["diagram"]["items"], after["diagram"]["items"]),
            "areas": kept(before["diagram"]["areas"], after["diagram"]["areas"]),
        },
        "wires": kept(before["wires"], after["wires"]),
        "day": after["day"] if after["day"] != before["day"] else None,
        "plugged": after["plugged"],
        "history": after["history"],
    }


def difference(before: dict[str, Any], after: dict[str, Any]) -> dict[str, Any]:
    """What makes `after` of `before`: a JSON Merge Patch (RFC 7396); nothing in either is null."""
    out: dict[str, Any] = {name: None for name in before if name not in after}
    for name, value in after.items():
        was = before.get(name)
        if isinstance(value, dict) and isinstance(was, dict):
            if inner := difference(was, value):
                out[name] = inner
        elif value != was:
            out[name] = value
    return out


def nearly_kept(before: Sequence[Any], after: Sequence[Any]) -> list[Any]:
    """A list of checks as `kept` writes it, in which one that is judged anew is told by what differs from the one at its place.

    Such an entry is `{was, now}`: the place in the list before, and a JSON Merge Patch on what stood there.
    """
    out = kept(before, after)
    for n, entry in enumerate(out):
        was = before[n] if n < len(before) else {}
        if not isinstance(entry, int) and (was.get("id"), was.get("place")) == (entry["id"], entry["place"]):
            out[n] = {"was": n, "now": difference(was, entry)}
    return out


def kept(before: Sequence[Any], after: Sequence[Any]) -> list[Any]:
    """A list in which what stood in the list before is named by its place there.

    The same entry is looked for first where it stood, then just after the last that was found: lists mostly shift.
    """
    out: list[Any] = []
    offset = 0
    for n, entry in enumerate(after):
        at = n + offset
        if at < len(before) and before[at] == entry:
            out.append(at)
            continue
        found = next((k for k in range(max(0, at - 8), min(len(before), at + 40)) if before[k] == entry), None)
        if found is None:
            out.append(entry)
        else:
            offset = found - n
            out.append(found)
    return out
