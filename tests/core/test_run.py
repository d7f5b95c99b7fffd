"""The commands a builder starts the program with: what is missing is said in one clear line, and nothing is done twice."""

import os
import socket
import subprocess
import sys
import tempfile
from importlib.util import module_from_spec, spec_from_file_location
from pathlib import Path
from types import ModuleType
from unittest import TestCase, mock

ROOT = Path(__file__).parents[2]


def loaded() -> ModuleType:
    """`run.py` as a module, without running a command."""
    spec = spec_from_file_location("run", ROOT / "run.py")
    assert spec and spec.loader
    module = module_from_spec(spec)
    spec.loader.exec_module(module)
    return module


class Locks(TestCase):
    def test_every_package_is_pinned_with_its_hashes_and_no_address(self) -> None:
        for name in ("requirements", "requirements-dev", "requirements-solver"):
            text = (ROOT / f"{name}.lock").read_text(encoding="utf-8")
            self.assertNotIn("://", text)
            packages = [part for part in text.replace("\\\n", " ").splitlines() if not part.startswith("#")]
            self.assertTrue(packages)
            for package in packages:
                self.assertRegex(package, r"^[\w.-]+==[\w.]+ .*--hash=sha256:[0-9a-f]{64}")
            direct = [line for line in (ROOT / f"{name}.in").read_text(encoding="utf-8").splitlines() if line[0] not in "#-"]
            pinned = {package.split("==")[0].lower() for package in packages}
            self.assertLessEqual({line.split("~")[0].lower() for line in direct}, pinned)


class CommandLine(TestCase):
    def run_py(self, *arguments: str, **environment: str) -> "subprocess.CompletedProcess[str]":
        return subprocess.run(
            [sys.executable, str(ROOT / "run.py"), *arguments],
            cwd=ROOT,
            env={**os.environ, **environment},
            capture_output=True,
            text=True,
            timeout=60,
            check=False,
        )

    def one_line(self, done: "subprocess.CompletedProcess[str]") -> str:
        """What was said of the mistake: one line, on standard error, and no traceback."""
        self.assertNotEqual(done.returncode, 0)
        said = done.stderr.strip()
        self.assertEqual(len(said.splitlines()), 1, said)
        self.assertNotIn("Traceback", said)
        return said

    def test_each_command_is_listed_with_what_it_does(self) -> None:
        listed = self.run_py("--help").stdout
        for command in ("demo", "serve", "test", "check", "measure", "attack", "backup", "restore", "screenshots", "types"):
            self.assertIn(command, listed)

    def test_a_command_that_is_not_there_is_refused(self) -> None:
        done = self.run_py("fly")
        self.assertEqual(done.returncode, 2)
        self.assertIn("fly", done.stderr)

    def test_a_data_folder_that_cannot_be_used_is_said_in_one_line(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "file"
            file.write_text("")
            said = self.one_line(self.run_py("demo", "--port", "0", KEGCART_DATA=str(file / "data")))
            self.assertIn("cannot be made", said)
        run = loaded()
        with mock.patch.object(run.shutil, "disk_usage", return_value=mock.Mock(free=1000)), self.assertRaises(SystemExit):
            run.need_data()

    def test_without_data_the_server_says_so_in_one_line(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            said = self.one_line(self.run_py("serve", "--port", "0", KEGCART_DATA=folder))
            self.assertIn("there is no data yet: run `python3 run.py demo`", said)

    def test_a_port_in_use_is_said_with_the_way_out(self) -> None:
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            port = taken.getsockname()[1]
            for command in ("demo", "serve"):
                said = self.one_line(self.run_py(command, "--port", str(port)))
                self.assertIn(f"port {port} is in use", said)
                self.assertIn("--port", said)

    def test_a_port_that_is_no_number_is_refused(self) -> None:
        self.assertIn("invalid int value", self.run_py("demo", "--port", "eight").stderr)


class WhatIsNeeded(TestCase):
    def setUp(self) -> None:
        self.run_py = loaded()

    def refused(self, work: str, *arguments: object) -> str:
        """The one line with which a step ends."""
        with mock.patch.object(self.run_py, "print", create=True) as said, self.assertRaises(SystemExit) as ended:
            getattr(self.run_py, work)(*arguments)
        self.assertEqual(ended.exception.code, 1)
        line = said.call_args.args[0]
        self.assertEqual(len(line.splitlines()), 1)
        return str(line)

    def test_an_old_python_is_said_with_both_versions(self) -> None:
        with mock.patch.object(self.run_py.sys, "version_info", (3, 9, 2)):
            line = self.refused("need_python")
        self.assertIn("Python 3.11 or newer is needed", line)
        self.assertIn("3.9", line)

    def test_a_missing_node_is_said(self) -> None:
        with mock.patch.object(self.run_py.shutil, "which", return_value=None):
            line = self.refused("need_node")
        self.assertIn("node was not found", line)

    def test_a_missing_npm_is_said(self) -> None:
        with mock.patch.object(self.run_py.shutil, "which", side_effect=lambda name: "/bin/node" if name == "node" else None):
            self.assertIn("npm was not found", self.refused("need_node"))

    def test_an_old_node_is_said_with_its_version(self) -> None:
        answer = subprocess.CompletedProcess([], 0, stdout="v18.4.0\n", stderr="")
        with (
            mock.patch.object(self.run_py.shutil, "which", return_value="/bin/node"),
            mock.patch.object(self.run_py.subprocess, "run", return_value=answer),
        ):
            line = self.refused("need_node")
        self.assertIn("this is 18.4.0", line)

    def test_a_node_that_is_new_enough_is_taken(self) -> None:
        for version in ("v20.19.0", "v22.1.3"):
            answer = subprocess.CompletedProcess([], 0, stdout=f"{version}\n", stderr="")
            with (
                mock.patch.object(self.run_py.shutil, "which", return_value="/bin/npm"),
                mock.patch.object(self.run_py.subprocess, "run", return_value=answer),
            ):
                self.assertEqual(self.run_py.need_node(), "/bin/npm")

    def test_a_missing_chromium_names_the_command_where_it_may_not_be_installed(self) -> None:
        with mock.patch.object(self.run_py.shutil, "which", return_value=None):
            line = self.refused("need_chromium")
        self.assertIn("apt-get install chromium", line)

    def test_what_is_not_set_up_cannot_be_served(self) -> None:
        with mock.patch.object(self.run_py, "PYTHON", Path("/nowhere/python")):
            line = self.refused("command_serve", mock.Mock(port=8000))
        self.assertIn("run.py demo", line)


class NothingTwice(TestCase):
    """Only what changed is done again."""

    def setUp(self) -> None:
        self.run_py = loaded()
        self.folder = tempfile.TemporaryDirectory()
        self.addCleanup(self.folder.cleanup)
        self.root = Path(self.folder.name)
        for name, value in (("ROOT", self.root), ("DATA", self.root / "var")):
            patch = mock.patch.object(self.run_py, name, value)
            patch.start()
            self.addCleanup(patch.stop)

    def test_a_step_that_is_done_is_not_done_again_until_its_sources_change(self) -> None:
        source = self.root / "source.txt"
        source.write_text("one")
        mark = self.run_py.digest(source)
        self.assertTrue(self.run_py.changed("step", mark))
        self.run_py.done("step", mark)
        self.assertFalse(self.run_py.changed("step", self.run_py.digest(source)))
        source.write_text("two")
        self.assertTrue(self.run_py.changed("step", self.run_py.digest(source)))

    def test_a_folder_counts_with_every_file_in_it_and_where_it_stands(self) -> None:
        folder = self.root / "folder"
        (folder / "deep").mkdir(parents=True)
        (folder / "deep" / "a.txt").write_text("a")
        first = self.run_py.digest(folder)
        (folder / "deep" / "a.txt").rename(folder / "a.txt")
        moved = self.run_py.digest(folder)
        (folder / "b.txt").write_text("")
        self.assertEqual(len({first, moved, self.run_py.digest(folder)}), 3)

    def test_compiled_files_do_not_count(self) -> None:
        folder = self.root / "folder"
        (folder / "__pycache__").mkdir(parents=True)
        (folder / "a.py").write_text("a = 1")
        before = self.run_py.digest(folder)
        (folder / "__pycache__" / "a.pyc").write_bytes(b"x")
        self.assertEqual(self.run_py.digest(folder), before)
