#!/usr/bin/env python3
"""The commands of Keg Cart: demo, serve, test, prove, check, measure, backup, restore, stand-ins, screenshots, types.

Only the standard library is used here: everything else is installed by these commands, into
`.venv` and `web/node_modules`. Works on Linux, macOS and Windows.
"""

import argparse
import hashlib
import os
import shutil
import socket
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

ROOT = Path(__file__).resolve().parent
WEB = ROOT / "web"
VENV = ROOT / ".venv"
DATA = Path(os.environ.get("KEGCART_DATA", str(ROOT / "var")))
PYTHON = VENV / ("Scripts/python.exe" if os.name == "nt" else "bin/python")
NODE_LEAST = (20, 19)
LEAST_ROOM = 20_000_000
MOST_TEST_PROCESSES = 4
CHROMIUM_NAMES = ("chromium-headless-shell", "chromium", "chromium-browser", "google-chrome", "chrome")


# What Python compiles is kept, also where the environment forbids it: else each process would compile the whole program anew.
os.environ.pop("PYTHONDONTWRITEBYTECODE", None)


def stop(message):
    """Say in one line what is wrong, and end."""
    print("keg cart: " + message, file=sys.stderr)
    sys.exit(1)


def say(message):
    print("keg cart: " + message, flush=True)


def run(*command, **options):
    """Run a command in the project; end with its exit code if it fails."""
    options.setdefault("cwd", ROOT)
    done = subprocess.run([str(part) for part in command], **options)
    if done.returncode:
        sys.exit(done.returncode)
    return done


def digest(*paths):
    """A hash over the contents of files and folders."""
    out = hashlib.sha256()
    for path in paths:
        files = sorted(p for p in path.rglob("*") if p.is_file()) if path.is_dir() else [path]
        for file in files:
            if "__pycache__" not in file.parts and file.exists():
                out.update(str(file.relative_to(ROOT)).encode())
                out.update(file.read_bytes())
    return out.hexdigest()


def changed(name, value):
    """Whether a step must be done again; `done` records it afterwards."""
    stamp = DATA / "stamps" / name
    return not stamp.exists() or stamp.read_text() != value


def done(name, value):
    stamp = DATA / "stamps" / name
    stamp.parent.mkdir(parents=True, exist_ok=True)
    stamp.write_text(value)


def need_python():
    if sys.version_info < (3, 11):
        stop("Python 3.11 or newer is needed; this is %d.%d (%s)." % (*sys.version_info[:2], sys.executable))


def need_data():
    """A data folder that can be written to, with room; for the one who runs this alone."""
    try:
        DATA.mkdir(parents=True, exist_ok=True, mode=0o700)
    except OSError as error:
        stop("the data folder %s cannot be made: %s. Name another in KEGCART_DATA." % (DATA, error.strerror))
    if not os.access(str(DATA), os.W_OK | os.X_OK):
        stop("the data folder %s may not be written to: allow it, or name another in KEGCART_DATA." % DATA)
    if shutil.disk_usage(str(DATA)).free < LEAST_ROOM:
        stop("less than %d MB are free where the data lies (%s): make room." % (LEAST_ROOM // 10**6, DATA))


def need_node():
    node, npm = shutil.which("node"), shutil.which("npm")
    if not node or not npm:
        stop(
            "Node %d.%d or newer with npm is needed to build the screen; %s was not found."
            % (*NODE_LEAST, "node" if not node else "npm")
        )
    version = subprocess.run([node, "--version"], capture_output=True, text=True).stdout.strip().lstrip("v")
    numbers = tuple(int(part) for part in version.split(".")[:2])
    if numbers < NODE_LEAST:
        stop("Node %d.%d or newer is needed; this is %s." % (*NODE_LEAST, version))
    return npm


def set_up_python(development=False):
    """The packages that running needs; with `development` also those of tests, checks and measurements."""
    locks = [ROOT / "requirements.lock"] + ([ROOT / "requirements-dev.lock"] if development else [])
    step, mark = ("python-dev" if development else "python"), digest(*locks) + sys.version
    if PYTHON.exists() and not changed(step, mark):
        return
    say("installing the Python packages (once)")
    if not PYTHON.exists():
        run(sys.executable, "-m", "venv", VENV)
    wanted = [part for lock in locks for part in ("-r", lock)]
    # Compiled when first used: of all that is installed only a part ever is, and compiling the whole takes the longest by far.
    run(PYTHON, "-m", "pip", "install", "--quiet", "--disable-pip-version-check", "--no-compile", *wanted)
    done(step, mark)
    if development:
        done("python", digest(locks[0]) + sys.version)


def set_up_simulation():
    """The equations of the simulation compiled, so that the first who simulates does not wait for it."""
    sources = ROOT / "kegcart" / "core" / "simulation"
    mark = digest(sources / "equations.py", sources / "arrays.py", ROOT / "requirements.lock") + sys.version
    if not changed("simulation", mark):
        return
    say("compiling the simulation (once)")
    run(PYTHON, "-m", "kegcart.core.simulation", cwd=ROOT)
    done("simulation", mark)


def set_up_web():
    sources = [
        WEB / "package-lock.json",
        WEB / "package.json",
        WEB / "index.html",
        WEB / "vite.config.ts",
        WEB / "tsconfig.json",
        WEB / "public",
        WEB / "src",
    ]
    mark = digest(*sources)
    if (WEB / "dist" / "index.html").exists() and not changed("screen", mark):
        return
    npm = need_node()
    set_up_node_modules(npm)
    say("building the screen")
    run(npm, "run", "--silent", "build", cwd=WEB)
    done("screen", mark)


def set_up_node_modules(npm):
    mark = digest(WEB / "package-lock.json")
    if (WEB / "node_modules").exists() and not changed("node", mark):
        return
    say("installing the packages of the screen (once)")
    run(npm, "ci", "--no-audit", "--no-fund", "--silent", cwd=WEB)
    done("node", mark)


def set_up_data():
    mark = digest(ROOT / "kegcart" / "workbench" / "migrations", ROOT / "kegcart" / "workbench" / "demo")
    if (DATA / "kegcart.sqlite3").exists() and not changed("data", mark):
        return
    say("preparing the data and the demo builds")
    manage("prepare_data")
    done("data", mark)


def manage(*arguments):
    return run(PYTHON, ROOT / "manage.py", *arguments)


def set_up(development=False):
    need_python()
    need_data()
    set_up_python(development)
    with ThreadPoolExecutor(2) as side_by_side:
        for step in [side_by_side.submit(set_up_simulation), side_by_side.submit(set_up_screen_and_data)]:
            step.result()


def set_up_screen_and_data():
    set_up_web()
    set_up_data()


def need_port(port):
    with socket.socket() as probe:
        if os.name != "nt":
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            stop("port %d is in use: end what runs there, or choose another with --port." % port)


def serve(port):
    say("open http://127.0.0.1:%d  (Ctrl+C ends)" % port)
    command = ["-m", "kegcart.site.server", "--port", str(port)]
    os.chdir(ROOT)
    if os.name != "nt":  # the server takes this process's place, so that ending it ends the server
        os.execv(PYTHON, [str(PYTHON), *command])
    try:
        sys.exit(subprocess.run([str(PYTHON), *command]).returncode)
    except KeyboardInterrupt:
        say("ended")


def command_demo(options):
    need_python()
    need_port(options.port)
    set_up()
    serve(options.port)


def need_set_up():
    need_python()
    if not PYTHON.exists():
        stop("not set up yet: run `python3 run.py demo` first.")


def command_serve(options):
    need_set_up()
    need_port(options.port)
    serve(options.port)


def need_chromium():
    """A Chromium for the browser tests; installed where that may be done, without a window as that is the quickest."""
    if shutil.which(CHROMIUM_NAMES[0]):
        return
    if shutil.which("apt-get") and hasattr(os, "geteuid") and os.geteuid() == 0:
        say("installing Chromium for the browser tests")
        quiet = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}
        quiet["env"] = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
        subprocess.call(["apt-get", "update", "-qq"], **quiet)
        for name in CHROMIUM_NAMES[:2]:
            if subprocess.call(["apt-get", "install", "-y", "-qq", name], **quiet) == 0:
                return
    if not any(shutil.which(name) for name in CHROMIUM_NAMES):
        stop("the browser tests need Chromium: install it, for instance with `sudo apt-get install chromium`.")


def run_tests(labels, **environment):
    """Run tests in one process more than there are processors, as those of the screen often wait for it; four at most."""
    processes = min(MOST_TEST_PROCESSES, (os.cpu_count() or 1) + 1)
    command = ["test", *labels, "--parallel", str(processes), "--verbosity", "1", "--noinput"]
    run(PYTHON, ROOT / "manage.py", *command, env={**os.environ, **environment})


def command_test(options):
    core_only = options.labels and all(label.startswith("tests.core") for label in options.labels)
    if core_only:  # the core needs neither screen nor data
        need_python()
        set_up_python(development=True)
        set_up_simulation()
    else:
        set_up(development=True)
        need_chromium()
    run_tests(options.labels or ["tests"], **({"KEGCART_SLOW": "1"} if options.slow else {}))


def command_prove(options):
    set_up(development=True)
    run_tests(options.labels or ["tests"], KEGCART_PROVE="1")


def generated_types():
    """The TypeScript types of the API, generated from its description."""
    npm = need_node()
    set_up_node_modules(npm)
    description = DATA / "openapi.json"
    description.parent.mkdir(parents=True, exist_ok=True)
    text = run(PYTHON, ROOT / "manage.py", "export_openapi", capture_output=True, encoding="utf-8").stdout
    description.write_text(text, encoding="utf-8")
    tool = WEB / "node_modules" / "openapi-typescript" / "bin" / "cli.js"
    return run(shutil.which("node"), tool, description, capture_output=True, encoding="utf-8").stdout


def generated_page():
    """The catalogue of findings, read out of the rules."""
    environment = {**os.environ, "PYTHONIOENCODING": "utf-8"}
    return run(PYTHON, "-m", "kegcart.core.catalogue_page", capture_output=True, encoding="utf-8", env=environment).stdout


def generated_units():
    """How metric units are shown in US customary, for the screen."""
    read = "import json; from kegcart.core.units import CUSTOMARY as c; print(json.dumps({u: s._asdict() for u, s in c.items()}, indent=2))"
    return run(PYTHON, "-c", read, capture_output=True, encoding="utf-8").stdout


#: What is made from the code and committed: what makes it, and where it stands.
GENERATED = {
    "generated types": (generated_types, WEB / "src" / "api" / "schema.d.ts"),
    "units of the screen": (generated_units, WEB / "src" / "api" / "customary.json"),
    "catalogue of findings": (generated_page, ROOT / "docs" / "findings.md"),
}


def command_types(options):
    need_python()
    set_up_python()
    for make, where in GENERATED.values():
        where.write_text(make(), encoding="utf-8")
        say(f"{where.relative_to(ROOT)} is written")


def command_check(options):
    need_python()
    npm = need_node()
    with ThreadPoolExecutor(2) as side_by_side:
        for step in [side_by_side.submit(set_up_python, True), side_by_side.submit(set_up_node_modules, npm)]:
            step.result()
    npx = [npm, "exec", "--offline", "--"]
    lint_imports = PYTHON.parent / ("lint-imports.exe" if os.name == "nt" else "lint-imports")
    # The longest first: they run side by side.
    steps = {
        "mypy, strict": ([PYTHON, "-m", "mypy"], ROOT),
        "eslint": ([*npx, "eslint", "src"], WEB),
        "tsc": ([*npx, "tsc", "--noEmit"], WEB),
        "prettier": ([*npx, "prettier", "--check", "--log-level", "warn", "src"], WEB),
        "knip": ([*npx, "knip"], WEB),
        "migrations": ([PYTHON, ROOT / "manage.py", "makemigrations", "--check", "--dry-run", "--verbosity", "0"], ROOT),
        "import-linter": ([lint_imports, "--no-cache"], ROOT),
        "ruff": ([PYTHON, "-m", "ruff", "check", "--quiet", "."], ROOT),
        "ruff format": ([PYTHON, "-m", "ruff", "format", "--check", "--quiet", "."], ROOT),
    }

    def held(name):
        command, folder = steps[name]
        begin = time.monotonic()
        told = {"stdout": subprocess.PIPE, "stderr": subprocess.STDOUT, "encoding": "utf-8", "errors": "replace"}
        ended = subprocess.run([str(part) for part in command], cwd=folder, **told)
        return ended.returncode == 0, ended.stdout, time.monotonic() - begin

    failed = []
    with ThreadPoolExecutor(os.cpu_count() or 1) as side_by_side:
        for name, (holds, output, seconds) in zip(steps, side_by_side.map(held, steps), strict=True):
            if not holds:
                print(output, flush=True)
                failed.append(name)
            say("%-28s %s  %.1f s" % (name, "holds" if holds else "FAILS", seconds))
    for name, (make, where) in GENERATED.items():
        stale = not where.exists() or make() != where.read_text(encoding="utf-8")
        say("%-28s %s" % (name, "FAILS  run `python3 run.py types`" if stale else "holds"))
        failed += [name] if stale else []
    if failed:
        stop("check fails: " + ", ".join(failed))
    say("everything holds")


def command_measure(options):
    set_up(development=True)
    need_chromium()
    if options.solver:
        solver = ["--quiet", "--disable-pip-version-check", "--no-compile", "-r", ROOT / "requirements-solver.lock"]
        run(PYTHON, "-m", "pip", "install", *solver)
    manage("measure", *(["--solver"] if options.solver else []))


def command_attack(options):
    set_up(development=True)
    need_chromium()
    manage("attack", "--seed", str(options.seed))


def command_backup(options):
    need_set_up()
    manage("backup", options.file)


def command_restore(options):
    need_set_up()
    manage("restore", options.file)


def command_stand_ins(options):
    need_set_up()
    demo = ROOT / "kegcart" / "workbench" / "demo" / (options.design + ".json")
    design = demo if demo.exists() else Path(options.design).resolve()
    wanted = ["--seed", options.seed, "--speed", options.speed, "--fault", options.fault, "--port", options.port]
    say("the stand-ins end with Ctrl+C; the live test finds them by `Look for instruments`")
    run(PYTHON, "-m", "kegcart.standins", design, *wanted)


def command_screenshots(options):
    set_up(development=True)
    need_chromium()
    manage("screenshots")


COMMANDS = {
    "demo": (command_demo, "set up what is missing, load the demo builds, and serve"),
    "serve": (command_serve, "serve what is set up"),
    "test": (command_test, "run the tests of core, API and screen"),
    "prove": (command_prove, "try the properties of core and API at their full size"),
    "check": (command_check, "run linters, type checkers and staleness checks"),
    "measure": (command_measure, "measure speed and memory against the budgets"),
    "attack": (
        command_attack,
        "attack a running server: kills, fuzzed calls, hostile files, two windows, a full disk, a full shelf",
    ),
    "backup": (command_backup, "write a backup of all data into a file, also while the server runs"),
    "restore": (command_restore, "bring back a backup; what stood before is kept"),
    "stand-ins": (command_stand_ins, "serve stand-ins for the instruments of a build's load test"),
    "screenshots": (command_screenshots, "make docs/screenshots anew from the demo builds"),
    "types": (command_types, "generate the TypeScript types of the API, the units of the screen and the catalogue of findings"),
}


def main():
    parser = argparse.ArgumentParser(prog="run.py", description="Keg Cart: design, build and test a portable power station.")
    commands = parser.add_subparsers(dest="command", required=True)
    for name, (_, text) in COMMANDS.items():
        sub = commands.add_parser(name, help=text)
        if name in ("demo", "serve"):
            sub.add_argument("--port", type=int, default=8000)
        if name == "measure":
            sub.add_argument("--solver", action="store_true", help="hold the sorting of cells against a general solver")
        if name == "attack":
            sub.add_argument("--seed", type=int, default=8)
        if name in ("backup", "restore"):
            sub.add_argument("file", type=Path)
        if name == "stand-ins":
            sub.add_argument("design", nargs="?", default="lantern-lane", help="a demo build, or a design as a file")
            sub.add_argument("--seed", type=int, default=1, help="by which its true figures differ from the design's")
            sub.add_argument("--speed", type=float, default=1.0, help="how much faster than a clock its time goes")
            sub.add_argument("--fault", default="", help="what is wrong with it besides; any: one by the seed, untold")
            sub.add_argument("--port", type=int, default=5025, help="the first of their ports; 0: any that are free")
        if name in ("test", "prove"):
            sub.add_argument("labels", nargs="*", help="only these tests, as tests.core or tests.api.test_designs")
        if name == "test":
            sub.add_argument("--slow", action="store_true", help="name the twenty slowest tests")
    options = parser.parse_args()
    COMMANDS[options.command][0](options)


if __name__ == "__main__":
    main()
