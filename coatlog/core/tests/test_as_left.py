"""What a job leaves to the next: surface, film and finish.  Common practice, no published source."""

from __future__ import annotations

import unittest

from coatlog.core.run.as_left import as_left
from coatlog.core.run.facts import Facts, Layer, Part, make_facts
from coatlog.core.run.replay import replay
from coatlog.core.stack.findings import StackLayer, Survey
from coatlog.core.stack.rules import judge
from coatlog.core.stack.surfaces import SUBSTRATES

from .samples import PLACE, T0, Log, steady
from .test_stack import S

DAY = 86400


def done(ground: str, *materials: str, gauge: float | None = None) -> tuple[Facts, Log]:
    """One part of a surface with one coat of each material on it, a week apart."""
    part = Part(id="p", name="Part", area_m2=1.0, substrate=ground, condition="", place_id=PLACE,
                features=("dents",), bare_mm=20.0)  # fmt: skip
    used = [S[m] for m in materials]
    layers = tuple(
        Layer(id=f"p{i}", part_id="p", position=i, sheet_id=s.id, target_um=s.usual_um(1), tol_um=1.0,
              coats=1, method_id=s.method_id)
        for i, s in enumerate(used)
    )  # fmt: skip
    facts = make_facts(job_id="job", version=1, parts=(part,), layers=layers, sheets={s.id: s for s in used})
    log = Log(facts)
    for i in range(len(used)):
        log.coat(f"c{i}", "p", f"p{i}", 1, i * 7 * DAY, i * 7 * DAY + 600)
        if gauge is not None:
            log.add("film_read", i * 7 * DAY + 2 * DAY, part_id="p", what="dry_total", um=[gauge * (i + 1)])
    return facts, log


def left(facts: Facts, log: Log, days: int = 400) -> Facts:
    state = replay({facts.id: facts}, {}, log.entries, steady(20.0))
    return as_left(facts, state, T0 + days * DAY)


class AsLeftTest(unittest.TestCase):
    def test_every_kind_of_finish_is_found_as_what_it_is(self) -> None:
        for ground, materials, found in (
            ("bare_steel", ("epoxy-primer-2k", "single-stage-2k"), "glossy_paint"),
            ("bare_steel", ("epoxy-barrier",), "epoxy_on_steel"),
            ("bare_aluminium", ("epoxy-primer-2k",), "epoxy_on_aluminium"),
            ("gelcoat", ("epoxy-barrier", "hard-antifouling"), "old_hard_antifouling"),
            ("gelcoat", ("epoxy-barrier", "eroding-antifouling"), "old_eroding_antifouling"),
            ("wood", ("varnish",), "varnished_wood"),
            ("glossy_paint", ("gloss-peelable",), "glossy_paint"),
            ("woven_fabric", ("fabric-protectant",), "woven_fabric"),
        ):
            facts = left(*done(ground, *materials))
            (part,) = facts.parts
            self.assertEqual(part.substrate, found, (ground, materials))
            self.assertIn(part.substrate, SUBSTRATES)
            self.assertEqual(
                (part.features, part.bare_mm, part.there_um), ((), None, None), "nobody measured"
            )
        self.assertEqual(
            left(*done("bare_steel", "single-stage-2k"), days=9).parts[0].substrate, "fresh_paint"
        )

    def test_the_film_comes_along_where_it_was_measured_and_the_finish_goes_on_again(self) -> None:
        facts = left(*done("bare_steel", "epoxy-primer-2k", "single-stage-2k", gauge=60.0))
        self.assertEqual(facts.parts[0].there_um, 120.0)
        self.assertEqual([facts.sheets[x.sheet_id].material_id for x in facts.layers], ["single-stage-2k"])
        self.assertEqual(facts.layers[0].position, 0)

    def test_old_epoxy_of_enough_film_is_the_barrier_under_copper(self) -> None:
        """A steel hull with old epoxy at 280 µm; 90 µm of it is none, and what nobody measured neither."""
        copper = [StackLayer(sheet=S["copper-epoxy"], coats=4, target_um=240.0)]
        for um, stopped in ((280.0, False), (90.0, True), (None, True)):
            survey = Survey(substrate="epoxy_on_steel", must_survive=("immersion",), there_um=um)
            rules = {f.rule_id for f in judge(survey, copper)}
            self.assertEqual("copper.barrier" in rules, stopped, um)

    def test_a_gauge_over_old_film_says_what_came_on_top(self) -> None:
        s = S["single-stage-2k"]
        part = Part(id="p", name="Door", area_m2=1.0, substrate="sound_paint", condition="", place_id=PLACE,
                    there_um=110.0)  # fmt: skip
        layer = Layer(id="p0", part_id="p", position=0, sheet_id=s.id, target_um=60.0, tol_um=5.0, coats=1,
                      method_id=s.method_id)  # fmt: skip
        facts = make_facts(job_id="job", version=1, parts=(part,), layers=(layer,), sheets={s.id: s})
        log = Log(facts)
        log.coat("c", "p", "p0", 1, 0, 600)
        log.add("film_read", DAY, part_id="p", what="dry_total", um=[172.0])
        state = replay({facts.id: facts}, {}, log.entries, steady(20.0))
        self.assertEqual(state.parts[0].films[0].dry_um.likely, 62.0)
