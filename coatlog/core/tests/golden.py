"""A log for every practice, kept as it was once written, and what replay makes of each, by hash.

The logs are never written anew: they stand for the logs shops have.  What replay makes of them may
change, but then its version does:

    python -m coatlog.core.tests.golden      # after CORE_VERSION was raised
"""

from __future__ import annotations

import gzip
import json
import sys
import tomllib
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

from coatlog.core import CORE_VERSION
from coatlog.core.codec import canonical, content_id, from_plain, to_plain
from coatlog.core.run.entries import Entry
from coatlog.core.run.facts import Facts
from coatlog.core.run.replay import replay
from coatlog.core.run.states import JobState, NextTask
from coatlog.core.run.timeline import Climate

from .samples import PLACE, T0, Log, stepped

__all__ = ["golden_logs", "golden_state", "told"]

HERE = Path(__file__).parent / "golden"
LOGS, STATES = HERE / "logs.json.gz", HERE / "states.toml"
AIR = stepped([(-86400, 21.0), (9 * 3600, 13.0), (20 * 3600, 24.0)], hours=24 * 30)


def golden_logs() -> Iterator[tuple[str, Facts, list[Entry]]]:
    """Name, facts and entries of every log."""
    for row in json.loads(gzip.decompress(LOGS.read_bytes())):
        entries = [from_plain(Entry, e) for e in row["entries"]]
        yield row["name"], from_plain(Facts, row["facts"]), entries


def golden_state(facts: Facts, entries: list[Entry], climate: Climate = AIR) -> JobState:
    return replay({facts.id: facts}, {}, entries, climate, job_id="job")


def told(state: JobState) -> str:
    """The state by hash; the version it was made with is not in it."""
    return content_id(replace(state, core_version=""))


def write_states() -> None:
    lines = [f'core_version = "{CORE_VERSION}"', "", "[states]"]
    lines += [f'"{name}" = "{told(golden_state(f, e))}"' for name, f, e in golden_logs()]
    STATES.write_text("\n".join(lines) + "\n", encoding="utf-8")


def stored() -> dict[str, Any]:
    return tomllib.loads(STATES.read_text(encoding="utf-8"))


def write_logs() -> None:
    """How the logs were written, once: a job of every practice worked through, with its mishaps."""
    from .test_plan_steps import PRACTICES, facts_of

    if LOGS.exists():
        raise SystemExit("The logs stand for what shops have: they are not written again.")
    rows = []
    for i, row in enumerate(PRACTICES):
        facts = facts_of(i, 0.5)
        entries = [to_plain(e) for e in _worked(facts).entries]
        rows.append({"name": row["name"], "facts": to_plain(facts), "entries": entries})
    HERE.mkdir(exist_ok=True)
    LOGS.write_bytes(gzip.compress(canonical(rows).encode(), mtime=0))


def _worked(facts: Facts) -> Log:
    """Steps ticked, one of them failed first; every coat in its window; read, struck, served, taken off."""
    log = Log(facts)
    part = facts.parts[0].id
    at = 600

    def due() -> NextTask | None:
        return next(iter(golden_state(facts, log.entries).next), None)

    log.add("damage_found", 60, part_id=part, text="an old scratch at the edge")
    log.add("climate_read", 120, place_id=PLACE, part_id=part, air_degc=20.5, surface_degc=19.0, rh_frac=0.5)
    works = {w.key: w for w in facts.steps_of(part)}
    failed = False
    for _ in range(60):
        task = due()
        if task is None or task.kind == "unmask":
            break
        at = max(at + 300, (task.opens_at or 0) - T0 + 60)
        if task.kind == "then":
            log.add("step_done", at, part_ids=[part], step=task.steps[0])
            continue
        for key in task.before:
            body = {"part_ids": [part], "step": works[key].log or "other", "check_id": key}
            if not failed and works[key].kind == "clean":
                log.add("step_failed", at, **body)
                failed, at = True, at + 120
            log.add("step_done", at, **body)
            at += 240
        if task.closes_at is not None and task.closes_at - T0 <= at and task.steps:
            for step in task.steps:
                log.add("step_done", at, part_ids=[part], step=step)
                at += 60
        at = _coat(log, facts, task, at)
    log.add("defect", at + 60, part_id=part, type="runs")
    log.add("film_read", at + 90, part_id=part, what="dry_total", um=[180.0, 210.0])
    wrong = log.add("unmasked", at + 3600, part_ids=[part], result="ragged")
    undone = log.add("strike", at + 3700, target_id=wrong.id, reason="another part")
    log.add("strike", at + 3800, target_id=undone.id, reason="it was this one")
    log.add("gate_checked", at + 7200, part_id=part, gate="touch", passed=False)
    log.add("gate_checked", at + 86400, part_id=part, gate="touch", passed=True)
    day = 86400
    log.add("in_service", at + 10 * day, part_ids=[part], claim={"life_s": 365 * day, "text": "a year"})
    log.add("inspected", at + 40 * day, part_ids=[part], ratings=[{"scale_id": "look", "value": 4}])
    log.add("touched_up", at + 41 * day, part_ids=[part], what="a chip")
    return log


def _coat(log: Log, facts: Facts, task: NextTask, at: int) -> int:
    """Mix where it is mixed, coat, pause, read the comb; answers when it is done [s after T0]."""
    assert task.layer_id is not None
    sheet = facts.sheets[facts.layer(task.layer_id).sheet_id]
    coat, batch = f"{task.layer_id}-{task.n}", f"pot-{task.layer_id}-{task.n}"
    batches = []
    if sheet.properties.two_pack:
        parts = [{"role": c.role, "ml": 100.0 * c.parts} for c in sheet.components if c.of == "ratio"]
        for p in parts:
            log.add("pour", at, batch_id=batch, sheet_id=sheet.id, component=p["role"], ml=p["ml"])
        log.add("batch_mixed", at + 60, batch_id=batch, sheet_id=sheet.id, parts=parts,
                hardener_in_at=T0 + at + 60)  # fmt: skip
        batches, at = [batch], at + 120
    ref = {"coat_id": coat, "part_id": task.part_id, "layer_id": task.layer_id, "n": task.n}
    log.add("coat_started", at, coats=[ref], facts_id=facts.id, batch_ids=batches)
    log.add("coat_paused", at + 30, coat_id=coat)
    log.add("coat_resumed", at + 50, coat_id=coat)
    draws = [{"batch_id": b, "ml": 40.0} for b in batches]
    log.add("coat_done", at + 200, coat_ids=[coat], draws=draws)
    if sheet.film is not None:
        log.add("film_read", at + 210, part_id=task.part_id, coat_id=coat, what="wet_comb",
                low_um=75.0, high_um=100.0)  # fmt: skip
    if batches:
        log.add("batch_closed", at + 300, batch_id=batch, why="used")
    return at + 300


if __name__ == "__main__":
    if "logs" in sys.argv:
        write_logs()
    write_states()
