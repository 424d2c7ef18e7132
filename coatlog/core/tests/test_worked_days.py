"""Worked days of the trade, as data: what each must look like stands in its file, with its source."""

from __future__ import annotations

import dataclasses
import itertools
import tomllib
import unittest
from pathlib import Path
from typing import Any

from coatlog.core.codec import to_plain
from coatlog.core.plan.build_problem import Room, problem
from coatlog.core.plan.plan import SIDE_KINDS, Task
from coatlog.core.plan.problem import Problem, merge
from coatlog.core.plan.solver import solve
from coatlog.core.plan.stopping import finish_before
from coatlog.core.run.facts import PLANNED, Facts, Layer, Part, make_facts
from coatlog.core.run.replay import replay
from coatlog.core.run.timeline import Timeline
from coatlog.core.sheet import Sheet, make_sheet

from .planned import broken
from .samples import PLACE, T0, Log, steady

DAYS = Path(__file__).parent / "days"
SHELF = Path(__file__).parents[2] / "shelf" / "typical"


def shelf() -> dict[str, Sheet]:
    sheets = [make_sheet(tomllib.loads(f.read_text())) for f in SHELF.glob("*.toml")]
    return {s.material_id: s for s in sheets}


S = shelf()


def waiting(sheet: Sheet, minutes: float | None) -> Sheet:
    """The sheet with another wait between its own coats."""
    if minutes is None:
        return sheet
    window = {"from_s": round(minutes * 60), "at_degc": 20.0}
    return make_sheet({**plain(sheet), "recoat": [{"next": "same", "windows": [window]}]})


def plain(sheet: Sheet) -> dict[str, Any]:
    return to_plain(sheet)


class Day:
    """One day's file as facts, problem and plan."""

    def __init__(self, path: Path) -> None:
        self.doc = tomllib.loads(path.read_text())
        self.expect = self.doc["expect"]
        self.climate = steady(self.doc.get("air_degc", 20.0), hours=24 * 12)
        jobs = list(dict.fromkeys(p.get("job", "job") for p in self.doc["parts"]))
        self.facts = {j: self._facts(j) for j in jobs}
        self.p = merge([self._problem(j) for j in jobs])
        self.plan = solve(self.p, limit_s=1.0)
        self.at = {t.key: t for t in self.plan.tasks}

    def _facts(self, job: str) -> Facts:
        parts, layers, sheets = [], [], {}
        for p in self.doc["parts"]:
            if p.get("job", "job") != job:
                continue
            ground = p.get("substrate", self.doc.get("substrate", "epoxy_on_steel"))
            parts.append(Part(id=p["id"], name=p["id"], area_m2=p["m2"], substrate=ground, condition="",
                              place_id=PLACE, shape=p.get("shape", "")))  # fmt: skip
            for i, x in enumerate(p["layers"]):
                sheet = waiting(S[x["sheet"]], x.get("wait_min"))
                sheets[sheet.id] = sheet
                um = None if sheet.film is None else sheet.film.dry_um_min * x["coats"]
                layers.append(
                    Layer(id=f"{p['id']}{i}", part_id=p["id"], position=i, sheet_id=sheet.id, target_um=um,
                          tol_um=10.0, coats=x["coats"], method_id=sheet.method_id)
                )  # fmt: skip
        steps = {"steps": PLANNED} if self.doc.get("steps") else {}
        return make_facts(
            job_id=job, version=1, parts=tuple(parts), layers=tuple(layers), sheets=sheets, choices=steps
        )

    def _problem(self, job: str) -> Problem:
        facts = self.facts[job]
        state = replay({facts.id: facts}, {}, Log(facts).entries, self.climate, job_id=job)
        airs = {p.id: Timeline(self.climate, PLACE, None, ()) for p in facts.parts}
        hours = tuple((T0 + a * 60, T0 + b * 60) for a, b in self.doc.get("hours_min", ()))
        room = Room(name="the bay", holds=self.doc.get("bay_holds"))
        return problem(facts, state, airs, now=T0, hours=hours, painters=self.doc.get("painters", 1),
                       rooms={PLACE: room})  # fmt: skip

    def task(self, short: str) -> Task:
        """left/2: second coat of the part left; left/step/x as it stands."""
        part, _, n = short.partition("/")
        return self.at[short] if short in self.at else self.at[f"{part}/{part}0/{n}"]

    def sheet(self, t: Task) -> Sheet:
        sheet_id = self.p.tasks[t.key].sheet_id
        return next(f.sheets[sheet_id] for f in self.facts.values() if sheet_id in f.sheets)

    def coats(self) -> list[Task]:
        return [t for t in self.plan.tasks if t.kind == "coat"]


def short(t: Task) -> str:
    part, _, n = t.key.split("/")
    return f"{part}/{n}"


class WorkedDays(unittest.TestCase):
    def test_days(self) -> None:
        paths = sorted(DAYS.glob("*.toml"))
        self.assertEqual(len(paths), 13)
        for path in paths:
            day = Day(path)
            with self.subTest(day.doc["title"]):
                self.assertEqual(broken(day.plan, day.p), [])
                self.assertEqual(
                    {t.key for t in day.plan.tasks if t.kind not in SIDE_KINDS}, set(day.p.tasks)
                )
                known = {k for k in day.expect if not hasattr(self, f"want_{k}")}
                self.assertEqual(known, set())
                if "foreman_min" in day.doc:
                    self.beside_the_foreman(day)
                for name, wanted in day.expect.items():
                    getattr(self, f"want_{name}")(day, wanted)

    def beside_the_foreman(self, day: Day) -> None:
        """What a foreman would take, worked out by hand in the file, and how far the plan is from it."""
        minutes = ((day.plan.finish_at or 0) - T0) / 60
        off = minutes / day.doc["foreman_min"] - 1
        self.assertLessEqual(abs(off), day.doc["within_frac"], (day.doc["title"], minutes))

    def want_side_by_side(self, day: Day, wanted: int) -> None:
        self.assertEqual({1 + len(t.others) for t in day.coats()}, {wanted})

    def want_no_mix_dies(self, day: Day, wanted: bool) -> None:
        """Each pot is used up before it dies; `broken` has looked at it, here there must be some."""
        self.assertTrue(any(b.use_by_at for b in day.plan.batches))

    def want_once(self, day: Day, wanted: list[str]) -> None:
        for word in wanted:
            told = [t.label for t in day.plan.tasks if word in t.label.lower()]
            self.assertEqual(len(told), 1, told)

    def want_order(self, day: Day, wanted: list[str]) -> None:
        self.assertEqual([short(t) for t in day.coats()], wanted)

    def want_rounds(self, day: Day, wanted: list[list[str]]) -> None:
        names = [short(t) for t in day.coats()]
        for i, group in enumerate(wanted):
            self.assertEqual(sorted(names[i * len(group) : (i + 1) * len(group)]), sorted(group))

    def want_directions(self, day: Day, wanted: list[str]) -> None:
        for part in {t.part_id for t in day.coats()}:
            self.assertEqual([t.direction for t in day.coats() if t.part_id == part], wanted)

    def want_another_angle_each_coat(self, day: Day, wanted: bool) -> None:
        for part in {t.part_id for t in day.coats()}:
            ways = [t.direction for t in day.coats() if t.part_id == part]
            self.assertTrue(all(a and a != b for a, b in itertools.pairwise(ways)), ways)

    def want_takes_min(self, day: Day, wanted: float) -> None:
        self.assertEqual({(t.end_at - t.start_at) / 60 for t in day.coats()}, {wanted})

    def want_waits_min(self, day: Day, wanted: list[dict[str, Any]]) -> None:
        for w in wanted:
            minutes = (day.task(w["to"]).start_at - day.task(w["from"]).end_at) / 60
            self.assertGreaterEqual(minutes, w["least"])
            self.assertLessEqual(minutes, w.get("most", 1e9))

    def want_finish_min(self, day: Day, wanted: list[float]) -> None:
        minutes = ((day.plan.finish_at or 0) - T0) / 60
        self.assertTrue(wanted[0] <= minutes <= wanted[1], minutes)

    def want_last_coat_min(self, day: Day, wanted: list[float]) -> None:
        minutes = (day.coats()[-1].start_at - T0) / 60
        self.assertTrue(wanted[0] <= minutes <= wanted[1], minutes)

    def want_status(self, day: Day, wanted: str) -> None:
        self.assertEqual(day.plan.status, wanted)

    def want_mixes(self, day: Day, wanted: int) -> None:
        self.assertEqual(len(day.plan.batches), wanted)

    def want_stirred_every_min(self, day: Day, wanted: float) -> None:
        for b in day.plan.batches:
            self.assertGreaterEqual(len(b.stir_at), 3)
            self.assertEqual({y - x for x, y in itertools.pairwise(b.stir_at)}, {wanted * 60})

    def want_within_hours(self, day: Day, wanted: bool) -> None:
        self.assertLessEqual(day.plan.finish_at, day.p.hours[0][1])

    def want_gate_min(self, day: Day, wanted: dict[str, Any]) -> None:
        """Logged as planned and replayed: when the gate is reached, from the first coat's start."""
        facts = day.facts["job"]
        log = Log(facts)
        for t in day.coats():
            part, layer, n = t.key.split("/")
            log.coat(t.key, part, layer, int(n), t.start_at - T0, t.end_at - T0)
        state = replay({facts.id: facts}, {}, log.entries, day.climate, job_id="job")
        gate = next(g for g in state.parts[0].gates if g.name == wanted["gate"])
        minutes = (gate.likely_at - day.coats()[0].start_at) / 60
        self.assertTrue(wanted["between"][0] <= minutes <= wanted["between"][1], minutes)

    def want_leave(self, day: Day, wanted: list[dict[str, Any]]) -> None:
        for w in wanted:
            leave_at = T0 + w["minutes"] * 60
            lead = {k: day.facts["job"].lead_s(day.facts["job"].layers[0]) for k in day.p.tasks}
            told = finish_before(day.p, leave_at, leave_at + 3600, lead_s=lead)
            self.assertEqual((told.parts[0].done, told.parts[0].safe), (w["done"], w["safe"]), w)
            self.assertLessEqual(max(t.end_at for t in told.tasks), leave_at)

    def want_one_at_a_time(self, day: Day, wanted: bool) -> None:
        """The second object's first task begins when the first can be moved, not a second before."""
        first, second = (
            min(t.start_at for t in day.plan.tasks if t.job_id == j) for j in ("first", "second")
        )
        early = "first" if first < second else "second"
        last = max((t for t in day.coats() if t.job_id == early), key=lambda t: t.end_at)
        movable = last.end_at + max(p.s for p in day.sheet(last).points if p.gate == "handle")
        self.assertGreaterEqual(max(first, second), movable)
        free = solve(dataclasses.replace(day.p, bays={}), limit_s=1.0)
        self.assertLess(free.finish_at, day.plan.finish_at)
