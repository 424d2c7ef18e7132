"""Forty-two logs: twenty-six with something wrong, which is said, sixteen awkward days, none accused.

What is expected was written down before the program was asked.  Common practice, no published source.
"""

from __future__ import annotations

import dataclasses
import unittest
from collections.abc import Callable, Mapping
from typing import Any

from coatlog.core.run.facts import PLANNED, UNLOGGED, Facts, Layer, Part, make_facts
from coatlog.core.run.replay import replay
from coatlog.core.run.states import JobState, NextTask
from coatlog.core.run.step_list import before_coat
from coatlog.core.run.timeline import Climate
from coatlog.core.sheet import Component, Sheet
from coatlog.core.stack.step_sequence import usual_layer

from .samples import PLACE, T0, Log, steady, stepped
from .test_plan_steps import PRACTICES, facts_of
from .test_stack import S

H, D = 3600, 86400
COLOUR = ("base-coat", "clear-coat-2k")
CUP_ML = 1500.0
YARD = "yard"
AIR = steady(20.0)


def with_yard(indoors: Climate, outside: Climate, *, rain_at: int | None = None) -> Climate:
    """A bay and a yard beside it."""
    series = outside.places[PLACE]
    rain = tuple(2.0 if rain_at is not None and t == T0 + rain_at else 0.0 for t in series.t_at)
    series = dataclasses.replace(series, rain_mm=rain, wind_m_s=(1.0,) * len(rain))
    return dataclasses.replace(indoors, places={**indoors.places, YARD: series}, outdoors=(YARD,))


class Day:
    """One part on which all is done as listed and when it may be, but for what a case changes."""

    def __init__(
        self, ground: str, *names: str, prep: str = "", air: Climate = AIR, place: str = PLACE,
        survives: tuple[str, ...] = (), steps_log: str = "", coats: Mapping[str, int] | None = None,
    ) -> None:  # fmt: skip
        part = Part(id="p", name="Part", area_m2=1.0, substrate=ground, condition="", place_id=place,
                    must_survive=survives)  # fmt: skip
        layers = []
        for k, name in enumerate(names):
            x = usual_layer(S[name])
            n = (coats or {}).get(name, x.coats)
            um = None if x.target_um is None else x.target_um * n / x.coats
            layers.append(Layer(id=f"l{k}", part_id="p", position=k, sheet_id=x.sheet.id, target_um=um,
                                tol_um=1.0, coats=n, method_id=x.sheet.method_id))  # fmt: skip
        self.facts: Facts = make_facts(
            job_id="job", version=1, parts=(part,), layers=tuple(layers),
            sheets={S[n].id: S[n] for n in names},
            choices={"prep": prep, "steps": PLANNED, "steps_log": steps_log},
        )  # fmt: skip
        self.begin(air)

    def begin(self, air: Climate) -> None:
        self.air, self.log, self.at = air, Log(self.facts), 600
        self.works = self.facts.steps_of("p")

    @classmethod
    def of(cls, facts: Facts) -> Day:
        """A day on facts made elsewhere."""
        day = cls.__new__(cls)
        day.facts = facts
        day.begin(AIR)
        return day

    def state(self) -> JobState:
        return replay({self.facts.id: self.facts}, {}, self.log.entries, self.air, job_id="job")

    def due(self) -> NextTask:
        return next(t for t in self.state().next if t.kind == "coat")

    def prepare(
        self, *, skip: tuple[str, ...] = (), grit: str = "", order: Callable[[Any], Any] | None = None
    ) -> Day:
        """Tick the steps listed before the coat that is due."""
        task = self.due()
        layer = self.facts.layer(task.layer_id or "")
        if task.n > 1:
            return self
        todo = [
            w
            for w in before_coat(self.works, layer.position)
            if w.step not in skip and (w.must or w.kind != "look")
        ]
        films = self.state().parts[0].films
        if films and any(w.kind == "abrade" for w in todo):
            sheet = self.facts.sheets[films[-1].sheet_id]
            self.at = max(self.at, (films[-1].done_at or 0) - T0 + sheet.points_for("sand")[0][1] + 120)
        for w in sorted(todo, key=order) if order else todo:
            more = {"grit": grit} if grit and w.kind == "abrade" else {}
            self.log.add("step_done", self.at, part_ids=["p"], step=w.log or "other", check_id=w.key, **more)
            self.at += 240
        return self

    def coat(
        self, *, at: int | None = None, late: int = 60, mix: Mapping[str, float] | None = None,
        can: Mapping[str, Any] | None = None, stand: int | None = None, ended: bool = True, **more: Any,
    ) -> Day:  # fmt: skip
        """The coat that is due, mixed as its sheet says; `late`: how long after its window opens [s]."""
        task = self.due()
        sheet = self.facts.sheets[self.facts.layer(task.layer_id or "").sheet_id]
        opens = (task.opens_at or 0) - T0
        start = at if at is not None else max(self.at + 300, opens + late)
        if at is None and task.opens_at is not None and late <= 0:
            start = opens + late
        coat, batches = f"{task.layer_id}-{task.n}", []
        in_cups = any(c.role in ("hardener", "thinner") for c in sheet.components)
        if in_cups and mix != {}:
            pot = f"pot-{coat}"
            parts: list[dict[str, Any]] = []
            stood = sheet.induction_s + 60 if stand is None else stand
            for c in sheet.components:
                if c.of != "ratio":
                    continue
                ml = self.ml(c, sheet) * (mix or {}).get(c.role, 1.0)
                parts.append({"role": c.role, "ml": ml})
                body = {"batch_id": pot, "sheet_id": sheet.id, "component": c.role, "ml": ml}
                body |= {"can": can} if can and c.role == "hardener" else {}
                if ml:
                    self.log.add("pour", start - stood, at_from="typed", **body)
            self.log.add("batch_mixed", start - stood, batch_id=pot, sheet_id=sheet.id, parts=parts,
                         hardener_in_at=T0 + start - stood, at_from="typed")  # fmt: skip
            batches = [pot]
        ref = {"coat_id": coat, "part_id": "p", "layer_id": task.layer_id, "n": task.n}
        body = {"breathing": "air_fed"} | more
        self.log.add("coat_started", start, coats=[ref], facts_id=self.facts.id, batch_ids=batches, **body)
        self.at = start + 300
        if ended:
            self.log.add("coat_done", self.at, coat_ids=[coat])
        return self

    @staticmethod
    def ml(c: Component, sheet: Sheet) -> float:
        """As much of a component as its sheet asks for, by volume or by mass."""
        whole = sum(x.parts for x in sheet.components if x.of == "ratio")
        return CUP_ML * c.parts / whole / (c.density_g_per_ml if c.by == "mass" else 1.0)

    def upto(self, layer_id: str) -> Day:
        """Everything below a layer, and what is done before it."""
        while self.due().layer_id != layer_id:
            self.prepare().coat()
        return self.prepare()

    def all(self, **more: Any) -> Day:
        """All the rest of it."""
        while any(t.kind == "coat" for t in self.state().next):
            self.prepare().coat(**more)
        return self

    def after(self, seconds: int, kind: str, **body: Any) -> Day:
        self.at += seconds
        self.log.add(kind, self.at, **body)
        return self

    def said(self) -> set[tuple[str, str]]:
        return {(f.code, f.severity) for f in self.state().findings if f.met_at is None}


def metal() -> Day:
    return Day("bare_steel", "epoxy-primer-2k", "textured-liner-2k")


def colour() -> Day:
    return Day("sound_paint", *COLOUR)


def ladder() -> Day:
    return Day("sound_paint", "urethane-surfacer-2k", "base-coat", "clear-coat-2k")


def antifouled() -> Day:
    return Day(
        "old_hard_antifouling", "hard-antifouling", survives=("immersion",), coats={"hard-antifouling": 3}
    )


def worked_backwards(w: Any) -> tuple[bool, int]:
    return (w.kind != "abrade", 0)


YARD_MILD = with_yard(AIR, steady(15.0))
YARD_COLD = with_yard(AIR, steady(6.0))
NIGHT = stepped([(-H, 20.0), (6 * H, 2.0), (14 * H, 18.0)], hours=80)
RAIN = with_yard(AIR, steady(18.0), rain_at=9 * H)

#: name, the day, what is to be said of it
WRONG: tuple[tuple[str, Callable[[], Day], set[tuple[str, str]]], ...] = (
    ("acid gel on, never rinsed", lambda: Day("rusty_steel", "epoxy-primer-2k", prep="gel").prepare(
        skip=("rinse_ph",)).coat().all(), {("prep.acid", "ruins")}),
    ("no preparation at all on gloss paint", lambda: Day("glossy_paint", *COLOUR, prep="key")
        .coat().all(), {("prep.none", "risks")}),
    ("surfacer never sanded", lambda: ladder().prepare().coat().coat().prepare(
        skip=("level", "wipe", "tack")).coat().all(), {("prep.not_keyed", "risks")}),
    ("keyed with P80 under base", lambda: colour().prepare(grit="P80").coat().all(),
        {("prep.coarse", "risks")}),
    ("keyed with P1500 under liner's primer", lambda: metal().prepare(grit="P1500").coat().all(),
        {("prep.fine", "risks")}),
    ("boot rinsed and sealed while wet", lambda: Day("sealed_rubber", "boot-sealant", prep="strip_sealant")
        .prepare(skip=("dry",)).coat().all(), {("prep.wet", "ruins")}),
    ("never degreased", lambda: metal().prepare(skip=("degrease", "wipe")).coat().all(),
        {("prep.soiled", "ruins"), ("prep.dusty", "risks")}),
    ("sanding dust left on", lambda: Day("bare_steel", "epoxy-primer-2k").prepare(
        skip=("wipe",)).coat().all(), {("prep.dusty", "risks")}),
    ("sanded before it was degreased", lambda: Day("bare_steel", "epoxy-primer-2k").prepare(
        order=worked_backwards).coat().all(), {("prep.ground_in", "risks")}),
    ("a fifth of the hardener missing", lambda: metal().prepare().coat(mix={"hardener": 0.8}).all(),
        {("mix.ratio", "ruins")}),
    ("twice the thinner in the base", lambda: colour().prepare().coat(mix={"thinner": 2.0}).all(),
        {("mix.thinned", "risks")}),
    ("no thinner in the base", lambda: colour().prepare().coat(mix={"thinner": 0.0}).all(),
        {("mix.short", "risks")}),
    ("hardener of the clear in the primer", lambda: metal().prepare().coat(
        can={"lot": "7", "of": S["clear-coat-2k"].id, "product": "Clear hardener"}).all(),
        {("pour.wrong_product", "ruins")}),
    ("two-pack coat and no mix told", lambda: Day("bare_steel", "epoxy-primer-2k", coats={
        "epoxy-primer-2k": 1}).prepare().coat(mix={}), {("mix.unlogged", "note")}),
    ("two-pack etch used before it had stood", lambda: Day("bare_steel", "etch-2k").prepare().coat(stand=120),
        {("mix.induction", "risks")}),
    ("clear used after it had gelled", lambda: colour().upto("l1").coat(stand=12 * H).all(),
        {("pot.gelled", "ruins")}),
    ("carried into the yard while it was soft", lambda: Day(
        "sound_paint", *COLOUR, air=YARD_MILD).all().after(
        H, "moved", part_ids=["p"], place_id=YARD), {("moved.early", "risks")}),
    ("cold in the first night", lambda: Day("bare_steel", "epoxy-primer-2k", air=NIGHT, coats={
        "epoxy-primer-2k": 1}).prepare().coat(), {("cure.cold", "note")}),
    ("rain on a fresh film", lambda: Day("sound_paint", "alkyd-enamel", air=RAIN, place=YARD, coats={
        "alkyd-enamel": 1}).prepare().coat(at=7 * H), {("air.rain", "risks")}),
    ("second coat on wet paint", lambda: metal().prepare().coat().coat(late=-26 * 60),
        {("coat.on_wet", "ruins")}),
    ("base left for two days under its clear", lambda: colour().prepare().coat().coat().after(
        2 * D, "note", text="weekend").coat().all(), {("coat.late", "ruins")}),
    ("the base forgotten under the clear", lambda: skipping(ladder()), {("layer.skipped", "risks")}),
    ("enamel sanded after three hours", lambda: Day("sound_paint", "alkyd-enamel").all().after(
        3 * H, "step_done", part_ids=["p"], step="abrade"), {("sanded.early", "risks")}),
    ("launched with one coat of three", lambda: antifouled().prepare().coat().after(
        3 * D, "in_service", part_ids=["p"]), {("system.unfinished", "risks")}),
    ("driven on base without clear", lambda: colour().prepare().coat().coat().after(
        3 * D, "in_service", part_ids=["p"]), {("system.unfinished", "ruins")}),
    ("isocyanate through a cartridge", lambda: colour().upto("l1").coat(breathing="cartridge").all(),
        {("painter.air", "risks")}),
)  # fmt: skip

CLEAN: tuple[tuple[str, Callable[[], Day]], ...] = (
    ("each coat on the second its window opens", lambda: colour().all(late=0)),
    ("each coat ten seconds before it", lambda: colour().all(late=-10)),
    ("on the second its window closes", lambda: closing(colour().upto("l1"))),
    ("a warm booth", lambda: Day(
        "bare_steel", "epoxy-primer-2k", "textured-liner-2k", air=steady(29.0)).all()),
    ("washed, left overnight, nobody ticked that it was dry", lambda: Day(
        "sealed_rubber", "boot-sealant", prep="strip_sealant").prepare(skip=("dry",)).after(
        14 * H, "note", text="next morning").coat().all()),
    ("surfacer sanded three days later as listed", lambda: ladder().prepare().coat().coat().after(
        3 * D, "note", text="waited for the colour").all()),
    ("steps told in the evening, with their times", lambda: told_later()),
    ("nobody tapped that the coat was done", lambda: unended()),
    ("moved out when it is hard, and the yard is cold", lambda: Day(
        "sound_paint", *COLOUR, air=YARD_COLD).all().after(
        9 * D, "moved", part_ids=["p"], place_id=YARD)),
    ("a shop that keeps no log of its steps", lambda: unlogged()),
    ("thinner a twelfth over", lambda: colour().prepare().coat(mix={"thinner": 1.08}).all()),
    ("hardener four in a hundred over", lambda: metal().prepare().coat(mix={"hardener": 1.04}).all()),
    ("a hood, washed and dried", lambda: Day("woven_fabric", "fabric-protectant").all()),
    ("boots, three coats", lambda: Day("sealed_rubber", "boot-sealant", prep="strip_sealant").all()),
    ("encapsulator keyed a day later", lambda: keyed_after(Day("rusty_steel", "rust-encapsulator"))),
    ("a grit beside the one listed", lambda: colour().prepare(grit="P400").coat().all()),
)  # fmt: skip


def skipping(day: Day) -> Day:
    """Surfacer and clear, the base between them left out."""
    day.upto("l1")
    clear = day.facts.layers[-1]
    ref = {"coat_id": "c", "part_id": "p", "layer_id": clear.id, "n": 1}
    day.at += 6 * H
    day.log.add("batch_mixed", day.at - 60, batch_id="b", sheet_id=clear.sheet_id,
                hardener_in_at=T0 + day.at - 60,
                parts=[{"role": "base", "ml": 200.0}, {"role": "hardener", "ml": 100.0}])  # fmt: skip
    day.log.add(
        "coat_started", day.at, coats=[ref], facts_id=day.facts.id, batch_ids=["b"], breathing="air_fed"
    )
    day.log.add("coat_done", day.at + 300, coat_ids=["c"])
    return day


def closing(day: Day) -> Day:
    return day.coat(at=(day.due().closes_at or 0) - T0)


def told_later() -> Day:
    day = metal()
    works = [w for w in before_coat(day.works, 0) if w.kind != "look"]
    day.coat(at=4 * H)
    for i, w in enumerate(works):
        day.log.add(
            "step_done", 600 + 300 * i, at_from="typed", part_ids=["p"], step=w.log or "other", check_id=w.key
        )
    return day.all()


def unended() -> Day:
    day = metal().prepare()
    day.coat(ended=False)
    day.log.add("note", day.at, text="off to the phone")
    day.at += 3 * H
    ref = {"coat_id": "x", "part_id": "p", "layer_id": "l1", "n": 1}
    for w in (w for w in before_coat(day.works, 1) if w.kind != "look"):
        day.log.add("step_done", day.at - 300, part_ids=["p"], step=w.log or "other", check_id=w.key)
    day.log.add("batch_mixed", day.at - 60, batch_id="b", sheet_id=day.facts.layers[1].sheet_id,
                parts=[{"role": "base", "ml": 1200.0}, {"role": "hardener", "ml": 400.0}],
                hardener_in_at=T0 + day.at - 60)  # fmt: skip
    day.log.add(
        "coat_started", day.at, coats=[ref], facts_id=day.facts.id, batch_ids=["b"], breathing="air_fed"
    )
    day.log.add("coat_done", day.at + 600, coat_ids=["x"])
    return day


def unlogged() -> Day:
    day = Day("glossy_paint", *COLOUR, prep="key", steps_log=UNLOGGED)
    while any(t.kind == "coat" for t in day.state().next):
        day.coat()
    return day


def keyed_after(day: Day) -> Day:
    day.prepare().coat()
    day.at += D
    for step in ("abrade", "wipe"):
        day.log.add("step_done", day.at, part_ids=["p"], step=step)
        day.at += 300
    return day.coat()


class FortyLogsTest(unittest.TestCase):
    def test_everything_wrong_is_said_and_nothing_else(self) -> None:
        for name, day, expected in WRONG:
            with self.subTest(name):
                self.assertEqual(day().said(), expected)

    def test_awkward_days_are_not_accused(self) -> None:
        #: what the log itself leaves open is said, and accuses nobody
        open_ends = {"nobody tapped that the coat was done": {("log.no_end", "note")}}
        for name, day in CLEAN:
            with self.subTest(name):
                self.assertEqual(day().said(), open_ends.get(name, set()))

    def test_every_practice_done_as_it_is_listed_is_not_accused(self) -> None:
        """All of the trade's practices, end to end, each coat when its window opens."""
        for i, row in enumerate(PRACTICES):
            with self.subTest(row["name"]):
                day = Day.of(facts_of(i, 0.5))
                self.assertEqual(day.all().said(), set())

    def test_a_part_that_moves_keeps_its_past(self) -> None:
        """The air of before is that of where it stood; the cold of the yard is none of its first hours."""
        facts = colour().facts
        still = Day("sound_paint", *COLOUR, air=YARD_COLD).all()
        gone = Day("sound_paint", *COLOUR, air=YARD_COLD).all().after(
            9 * D, "moved", part_ids=["p"], place_id=YARD
        )  # fmt: skip
        self.assertEqual(len(facts.parts), 1)
        a, b = still.state().parts[0], gone.state().parts[0]
        self.assertEqual([f.spans for f in a.films[:-1]], [f.spans for f in b.films[:-1]])
        self.assertEqual((a.place_id, b.place_id), (PLACE, YARD))
        full = {g.name: g.likely_at for g in b.gates}["full"]
        self.assertGreater(full or 2**62, {g.name: g.likely_at for g in a.gates}["full"] or 0)

    def test_the_surface_is_known_before_the_coat(self) -> None:
        """What would ruin the coat is told before it is begun: acid, grease, water that has not gone yet."""
        day = Day("rusty_steel", "epoxy-primer-2k", prep="gel").prepare(skip=("rinse_ph",))
        self.assertTrue(day.state().parts[0].surface.acid)
        wet = Day("sealed_rubber", "boot-sealant", prep="strip_sealant").prepare(skip=("dry",))
        until = wet.state().parts[0].surface.wet_until_at
        assert until is not None
        self.assertTrue(T0 + wet.at < until <= T0 + wet.at + 3 * H)
        clean = metal().prepare().state().parts[0].surface
        self.assertEqual(
            (clean.acid, clean.soiled, clean.wet_until_at, clean.keyed), (False, False, None, True)
        )
