"""Stand-ins for instruments, started for a design in a process of their own: they go on while the server is away."""

import json
import os
import signal
import subprocess
import sys
import threading
from collections.abc import Collection
from contextlib import suppress
from pathlib import Path
from typing import Any

from django.conf import settings

from kegcart.core.design import DesignError
from kegcart.workbench import services

FILE = settings.DATA_DIR / "stand-ins.json"
STARTS_S = 30.0
_lock = threading.Lock()


def start(design_id: str, seed: int, speed: float, fault: str) -> list[dict[str, str]]:
    """Start the stand-ins of a design, in the place of those that stand: name and address of each. Errors: DesignError, MissingError."""
    text, _ = services.as_given(design_id)
    with _lock:
        end()
        command = [sys.executable, "-m", "kegcart.standins", "-", f"--seed={seed}", f"--speed={speed:g}", f"--fault={fault}"]
        process = subprocess.Popen(
            command,
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            cwd=settings.BASE_DIR,
            start_new_session=True,
        )
        assert process.stdin and process.stdout and process.stderr
        too_long = threading.Timer(STARTS_S, process.kill)
        too_long.start()
        try:
            with suppress(BrokenPipeError):
                process.stdin.write(text)
                process.stdin.close()
            first = process.stdout.readline()
        finally:
            too_long.cancel()
        if not first:
            said = process.stderr.read().decode("utf-8", "replace").strip().removeprefix("keg cart: ")
            process.wait()
            raise DesignError([("", said.splitlines()[-1] if said else "the stand-ins did not start")])
        told = json.loads(first)
        FILE.write_text(json.dumps({"pid": process.pid, **told}), encoding="utf-8")
        # It is waited for once it has ended, so that nothing of it is left.
        threading.Thread(target=process.wait, daemon=True).start()
        found: list[dict[str, str]] = told["stand_ins"]
        return found


def dealt(addresses: Collection[str]) -> str:
    """What was dealt to the stand-ins that were started last, in words; empty where those at these addresses are others, or none."""
    with suppress(OSError, ValueError, KeyError):
        known = json.loads(FILE.read_text(encoding="utf-8"))
        if {one["address"] for one in known["stand_ins"]}.issuperset(addresses) and addresses:
            return str(known["dealt"])
    return ""


def end() -> None:
    """End those that stand, where any do."""
    known: dict[str, Any] = {}
    with suppress(OSError, ValueError):
        known = json.loads(FILE.read_text(encoding="utf-8"))
    if is_ours(known.get("pid")):
        with suppress(OSError):
            os.kill(known["pid"], signal.SIGTERM)
    FILE.unlink(missing_ok=True)


def is_ours(pid: Any) -> bool:
    """Whether a process of this number is one of stand-ins: another may have its number since."""
    if not isinstance(pid, int):
        return False
    with suppress(OSError):
        return b"kegcart.standins" in Path(f"/proc/{pid}/cmdline").read_bytes()
    return os.name == "nt"
