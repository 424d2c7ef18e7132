"""The machine side on its own: clusters, ports, steps that fail in words, builds that notice a change."""

from __future__ import annotations

import contextlib
import io
import os
import signal
import socket
import time
import unittest
from pathlib import Path

import psycopg

from ops import machine
from ops.cluster import free_port, throwaway
from ops.console import StepFailed, run, step
from ops.lesser import lesser_rights
from ops.main import main


class ClusterTest(unittest.TestCase):
    def test_a_killed_servers_lock_is_cleared_and_its_data_is_there(self) -> None:
        with throwaway(durable=True) as cluster:
            with psycopg.connect(cluster.url, autocommit=True) as db:
                db.execute("CREATE TABLE kept (x int)")
                db.execute("INSERT INTO kept VALUES (7)")
            pid = cluster.pid()
            assert pid is not None
            os.kill(pid, signal.SIGKILL)
            while cluster.pid() is not None:
                time.sleep(0.05)
            self.assertTrue((cluster.data / "postmaster.pid").exists(), "nothing was left over")
            cluster.start()
            with psycopg.connect(cluster.url) as db:
                self.assertEqual(db.execute("SELECT x FROM kept").fetchone(), (7,))
            self.assertNotEqual(cluster.pid(), pid)

    def test_a_lock_whose_number_another_program_has_got_is_no_server(self) -> None:
        with throwaway() as cluster:
            cluster.stop()
            (cluster.data / "postmaster.pid").write_text(f"{os.getpid()}\n")
            self.assertIsNone(cluster.pid())
            cluster.start()
            self.assertIsNotNone(cluster.pid())

    def test_only_who_has_the_password_gets_in(self) -> None:
        with throwaway() as cluster:
            wrong = cluster.url.replace((cluster.folder / "password").read_text().strip(), "guess")
            with self.assertRaises(psycopg.OperationalError):
                psycopg.connect(wrong).close()
            self.assertEqual((cluster.folder / "password").stat().st_mode & 0o077, 0)

    def test_a_port_in_use_is_not_taken(self) -> None:
        with socket.socket() as s:
            s.bind(("127.0.0.1", 0))
            s.listen()
            self.assertNotEqual(free_port(s.getsockname()[1]), s.getsockname()[1])


class LesserTest(unittest.TestCase):
    def test_root_hands_its_rights_over_where_nobody_can_read_the_program(self) -> None:
        self.assertEqual(lesser_rights({}, uid=1000, can_read=lambda *_: True), {})
        lesser = lesser_rights({}, uid=0, can_read=lambda *_: True)
        self.assertNotIn(0, (lesser["user"], lesser["group"]))
        self.assertEqual(lesser["extra_groups"], [])
        self.assertEqual(lesser_rights({}, uid=0, can_read=lambda *_: False), {})


class StepTest(unittest.TestCase):
    def test_a_failing_step_says_which_why_and_what_to_do(self) -> None:
        said = io.StringIO()
        with contextlib.redirect_stdout(said), self.assertRaises(SystemExit) as ended:
            step(
                "Pouring", lambda: run(["sh", "-c", "echo the cup leaks; exit 3"], remedy="Take another cup.")
            )
        self.assertEqual(ended.exception.code, 1)
        for words in ("Stopped at: Pouring", "the cup leaks", "Do this: Take another cup."):
            self.assertIn(words, said.getvalue())

    def test_a_missing_program_and_an_endless_one(self) -> None:
        with self.assertRaisesRegex(StepFailed, "is not there"):
            run(["no-such-program"], remedy="-")
        with self.assertRaisesRegex(StepFailed, "longer than 1 s"):
            run(["sleep", "5"], remedy="-", timeout_s=1)

    def test_unknown_verbs_show_what_there_is(self) -> None:
        said = io.StringIO()
        with contextlib.redirect_stdout(said):
            self.assertEqual(main(["polish"]), 2)
        self.assertIn("./coat start", said.getvalue())

    def test_a_changed_source_is_noticed(self) -> None:
        digest = machine._digest([Path(__file__)])
        self.assertEqual(digest, machine._digest([Path(__file__)]))
        self.assertNotEqual(digest, machine._digest([Path(machine.__file__)]))
