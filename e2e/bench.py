"""Speed as ratios measured side by side in one run.  Run by ./coat bench; nothing here is asserted."""

from __future__ import annotations

import json
import os
import re
import resource
import shutil
import signal
import statistics
import subprocess
import tempfile
import time
import unittest
from collections.abc import Callable
from pathlib import Path
from typing import Any

from django.contrib.auth import get_user_model
from django.db import connection
from django.test import Client, TestCase

from coatlog.core.run.entries import Entry, parse_body
from coatlog.core.run.replay import replay
from coatlog.core.tests.samples import PLACE, T0, steady, two_layer_facts
from coatlog.demo.estuary import load_estuary
from coatlog.jobs.models import Job
from coatlog.run.tests.base import ShopMixin
from coatlog.shop import clock
from ops.paths import ROOT, venv_bin


def seconds(work: Callable[[], Any], *, times: int = 5) -> float:
    """Median of some runs."""
    took = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        took.append(time.perf_counter() - start)
    return statistics.median(took)


def say(text: str) -> None:
    print(f"bench: {text}", flush=True)


class ReplayBench(unittest.TestCase):
    def test_replay_of_100_000_entries_against_parsing_them(self) -> None:
        facts = two_layer_facts(part_count=8)
        lines = [json.dumps(e) for e in self.many(facts, 100_000)]
        climate = steady(22.0)

        def parse() -> list[Entry]:
            entries = [Entry(**json.loads(line)) for line in lines]
            for e in entries:
                parse_body(e.kind, e.body)
            return entries

        entries = parse()
        parsed = seconds(parse, times=3)
        replayed = seconds(lambda: replay({facts.id: facts}, {}, entries, climate), times=3)
        peak_mb = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
        ratio = replayed / parsed
        say(f"replay of 100 000 entries {replayed:.2f} s, parsing them {parsed:.2f} s: ratio {ratio:.2f}")
        say(f"peak memory of the process so far {peak_mb:.0f} MB")

    def many(self, facts: Any, count: int) -> list[dict[str, Any]]:
        """A long job's log: readings, steps, notes, combs, pours, some strikes, 24 coats."""
        out: list[dict[str, Any]] = []

        def add(kind: str, body: dict[str, Any]) -> None:
            i = len(out)
            out.append(
                {"id": f"e{i:06d}", "job_id": "job", "kind": kind, "at": T0 + 60 * i, "at_true": T0 + 60 * i,
                 "device_id": f"d{i % 3}", "n": i, "seq": i + 1, "body": body}
            )  # fmt: skip

        add("facts_adopted", {"facts_id": facts.id})
        for k, layer in enumerate(x for x in facts.layers for _ in range(x.coats)):
            n = 1 + sum(
                o["kind"] == "coat_started" and o["body"]["coats"][0]["layer_id"] == layer.id for o in out
            )
            ref = {"coat_id": f"c{k}", "part_id": layer.part_id, "layer_id": layer.id, "n": n}
            add("coat_started", {"coats": [ref], "facts_id": facts.id})
            add("coat_done", {"coat_ids": [f"c{k}"]})
        while len(out) < count:
            i = len(out)
            kind = i % 10
            part = f"p{i % 8}"
            if kind < 4:
                add("climate_read", {"place_id": PLACE, "air_degc": 18 + i % 7, "rh_frac": 0.5})
            elif kind < 6:
                add("step_done", {"part_ids": [part], "step": "abrade" if i % 2 else "wipe"})
            elif kind < 8:
                add("note", {"text": "seen"})
            elif kind == 8:
                add("film_read", {"part_id": part, "what": "dry_total", "um": [700.0, 720.0]})
            else:
                add("strike", {"target_id": f"e{i - 3:06d}", "reason": "twice"})
        return out


class NowBench(ShopMixin, TestCase):
    def test_now_against_the_bare_sql_of_its_rows(self) -> None:
        for _ in range(19):
            self.make_job(self.owner, self.place, self.sheets)
        client = self.signed_in("owner1")

        def sql() -> None:
            with connection.cursor() as cursor:
                cursor.execute(
                    "SELECT p.*, f.doc FROM run_jobprojection p JOIN jobs_factsdoc f USING (job_id)"
                )
                cursor.fetchall()

        bare, now = seconds(sql, times=9), seconds(lambda: client.get("/api/now"), times=5)
        ms = f"{1000 * now:.0f} ms, bare SQL of the same rows {1000 * bare:.1f} ms"
        say(f"Now with 20 jobs {ms}: ratio {now / bare:.0f}")


class JobPageBench(TestCase):
    def test_a_job_page_against_the_bare_sql_of_its_rows(self) -> None:
        now = 1_790_000_000
        clock.set_now(now)
        self.addCleanup(clock.release)
        load_estuary(now)
        client = Client()
        owner = get_user_model().objects.get(username="demo")
        client.force_login(owner, backend="django.contrib.auth.backends.ModelBackend")
        for title in ("Load bed", "Underwater hull", "Fairings, colour and clear"):
            job = Job.objects.get(title=title)

            def sql(job: Job = job) -> None:
                with connection.cursor() as cursor:
                    cursor.execute(
                        "SELECT p.*, f.doc FROM run_jobprojection p JOIN jobs_factsdoc f USING (job_id)"
                        " WHERE p.job_id = %s",
                        [job.pk],
                    )
                    cursor.fetchall()

            client.get(f"/api/jobs/{job.pk}")
            bare = seconds(sql, times=9)
            page = seconds(lambda job=job: client.get(f"/api/jobs/{job.pk}"), times=9)
            ms = f"{1000 * page:.0f} ms, bare SQL {1000 * bare:.1f} ms"
            say(f"page of {title} {ms}: ratio {page / bare:.0f}")


class StartBench(unittest.TestCase):
    def test_warm_start_against_the_web_process_alone(self) -> None:
        home = Path(tempfile.mkdtemp(prefix="coatlog-bench-", dir="/tmp"))
        env = {k: v for k, v in os.environ.items() if not k.startswith(("COATLOG", "DATABASE", "DJANGO"))}
        env["COATLOG_HOME"] = str(home)
        cold, warm = self.once(env), statistics.median(self.once(env) for _ in range(3))
        python = [str(venv_bin("python")), "-c", "import config.wsgi"]
        wsgi_env = {**os.environ, "DJANGO_SETTINGS_MODULE": "config.settings"}
        alone = seconds(lambda: subprocess.run(python, cwd=ROOT, env=wsgi_env, check=True), times=3)
        say(f"start on an empty data folder {cold:.1f} s, warm start {warm:.1f} s")
        say(f"importing the web process alone {alone:.1f} s: ratio of a warm start {warm / alone:.1f}")
        shutil.rmtree(home, ignore_errors=True)

    def once(self, env: dict[str, str]) -> float:
        """Seconds from ./coat start to its address; stopped again afterwards."""
        begun = time.perf_counter()
        p = subprocess.Popen(
            [str(ROOT / "coat"), "start"], env=env, stdout=subprocess.PIPE, text=True, start_new_session=True
        )
        assert p.stdout is not None
        took = next(time.perf_counter() - begun for line in p.stdout if re.search("http://", line))
        p.send_signal(signal.SIGINT)
        p.stdout.read()
        p.stdout.close()
        p.wait(30)
        return took
