"""Backup and restore: of the version before, into an empty cluster, row for row, every replay the same."""

from __future__ import annotations

import os
import shutil
import subprocess
import tempfile
from pathlib import Path
from typing import Any

import psycopg

from config.runner import OnItsOwn
from ops.cluster import Cluster
from ops.paths import ROOT, venv_bin
from ops.serve import cluster_of, web_env

ROWS = """
SELECT 'entry', entry_id::text, seq::text, body::text, at_true::text FROM logbook_logentry
UNION ALL SELECT 'state', job_id::text, through_seq::text, state::text, climate_id FROM run_jobprojection
UNION ALL SELECT 'facts', facts_id, version::text, doc::text, '' FROM jobs_factsdoc
UNION ALL SELECT 'air', place_id::text, at::text, air_degc::text, rh_frac::text FROM logbook_climatereading
ORDER BY 1, 2, 3, 4, 5
"""


#: the tables as the version before this one left them
BEFORE = {"shop": "0008", "logbook": "0005"}


class BackupTest(OnItsOwn):
    def setUp(self) -> None:
        self.homes = [Path(tempfile.mkdtemp(prefix="coatlog-home-", dir="/tmp")) for _ in range(2)]
        for home in self.homes:
            self.addCleanup(shutil.rmtree, home, True)
        self.file = self.homes[0] / "shop.backup"

    def coat(self, home: Path, *words: str) -> tuple[int, str]:
        env = {k: v for k, v in os.environ.items() if not k.startswith(("COATLOG", "DATABASE", "DJANGO"))}
        done = subprocess.run(
            [str(ROOT / "coat"), *words],
            env={**env, "COATLOG_HOME": str(home)},
            cwd="/",
            stdin=subprocess.DEVNULL,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
            timeout=180,
            check=False,
        )
        return done.returncode, done.stdout

    def rows(self, cluster: Cluster) -> list[tuple[Any, ...]]:
        with psycopg.connect(cluster.url) as db:
            return db.execute(ROWS).fetchall()

    def test_a_shop_comes_back_whole_into_an_empty_cluster_and_nowhere_else(self) -> None:
        home, empty = self.homes
        cluster = cluster_of(home)
        self.addCleanup(cluster.stop, hard=True)
        cluster.make()
        cluster.start()
        env = web_env(cluster.url, secret="of-a-test")
        for words in (["prepare"], *(["migrate", app, at, "-v", "0"] for app, at in BEFORE.items())):
            subprocess.run(
                [str(venv_bin("python")), str(ROOT / "manage.py"), *words],
                env=env,
                check=True,
                capture_output=True,
            )
        before = self.rows(cluster)
        self.assertGreater(len(before), 300)
        with psycopg.connect(cluster.url) as db:
            db.execute(
                "INSERT INTO django_session VALUES ('key', 'who is signed in', now() + interval '1 day')"
            )

        code, said = self.coat(home, "backup", str(self.file))
        self.assertEqual(code, 0, said)
        self.assertIn("MB", said)
        self.assertEqual(self.file.stat().st_mode & 0o777, 0o600)
        kept = self.homes[0] / "kept"
        kept.mkdir()
        for name in ("coat-log-20200101-000000.backup", "coat-log-20200102-000000.backup", "mine.backup"):
            (kept / name).touch()
        code, said = self.coat(home, "backup", str(kept), "--keep", "2")
        self.assertEqual((code, "000000.backup is older" in said), (0, True), said)
        left = sorted(f.name for f in kept.iterdir())
        self.assertEqual(
            (len(left), left[0], left[-1]), (3, "coat-log-20200102-000000.backup", "mine.backup")
        )
        code, said = self.coat(home, "backup", str(self.file))
        self.assertEqual(code, 1)
        self.assertIn("is there already", said)
        code, said = self.coat(home, "restore", str(self.file))
        self.assertEqual(code, 1)
        self.assertIn("never writes over a shop", said)
        self.assertEqual(self.rows(cluster), before)

        code, said = self.coat(empty, "restore", str(self.file))
        self.assertEqual(code, 0, said)
        self.assertIn("10 jobs: projections are what the log says.", said)
        restored = cluster_of(empty)
        self.addCleanup(restored.stop, hard=True)
        restored.start()
        self.assertEqual(self.rows(restored), before)
        with psycopg.connect(restored.url) as db:
            for table in ("django_session", "shop_signedin"):  # the second is of this version
                self.assertEqual(db.execute(f"SELECT count(*) FROM {table}").fetchone(), (0,))
        with (
            self.assertRaises(psycopg.errors.RestrictViolation),
            psycopg.connect(restored.url) as db,
        ):
            db.execute("DELETE FROM logbook_logentry")

    def test_what_is_no_backup_is_refused_in_words(self) -> None:
        wrong = self.homes[0] / "words.txt"
        wrong.write_text("hello")
        for words, said in (
            (("restore", str(wrong)), "something else or was cut short"),
            (("restore", str(self.homes[0] / "none")), "is no file"),
            (("restore",), "./coat restore FILE"),
            (("backup",), "./coat backup FILE"),
            (("backup", "/no/such/folder/x"), "is no folder"),
        ):
            code, text = self.coat(self.homes[1], *words)
            self.assertNotEqual(code, 0)
            self.assertIn(said, text)
