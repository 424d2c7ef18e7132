"""Layers on patches: what they take, what is done there, and that the rest of the part does not notice.

Hand take-offs stand beside each; common practice, no published source, where no number follows from areas.
"""

from __future__ import annotations

import unittest

from coatlog.core.errors import OutOfRange
from coatlog.core.quantity import needs_of
from coatlog.core.run.facts import Facts, Layer, Part, Patches, make_facts
from coatlog.core.run.replay import replay
from coatlog.core.stack.findings import StackLayer, Survey
from coatlog.core.stack.step_sequence import step_sequence, with_steps

from .samples import PLACE, T0, Log, sheet, steady
from .test_stack import S

SHEETS = S


def wing(patches: Patches | None) -> Facts:
    """A wing of sound paint, 1.4 m2, with spots of etch under surfacer and a topcoat."""
    part = Part(id="w", name="Wing", area_m2=1.4, substrate="sound_paint", condition="", place_id=PLACE)
    used = [SHEETS[k] for k in ("etch-2k", "urethane-surfacer-2k", "single-stage-2k")]
    layers = tuple(
        Layer(id=f"w{i}", part_id="w", position=i, sheet_id=s.id, target_um=s.usual_um(n), tol_um=5.0,
              coats=n, method_id=s.method_id, patches=patches if i == 0 else None)
        for i, (s, n) in enumerate(zip(used, (1, 2, 2), strict=True))
    )  # fmt: skip
    return make_facts(job_id="job", version=1, parts=(part,), layers=layers, sheets={s.id: s for s in used})


class PatchesTest(unittest.TestCase):
    def test_three_spots_of_30_mm_take_what_three_spots_take(self) -> None:
        """3 x 30 mm x 30 mm = 27 cm2 against 1.4 m2: one part in 519, of film and of spraying time."""
        spots, whole = wing(Patches(n=3, area_m2=0.0027)), wing(None)
        (local, *others), (all_over, *same) = (needs_of(f, {}) for f in (spots, whole))
        self.assertAlmostEqual(all_over.volume.film_ml / local.volume.film_ml, 1.4 / 0.0027, places=3)
        self.assertLess(local.total_ml, 62.0, "what fills the gun, and a thimble of film")
        self.assertEqual([n.total_ml for n in others], [n.total_ml for n in same], "the rest does not notice")
        self.assertEqual((spots.coat_s(spots.layers[0]), whole.coat_s(whole.layers[0])), (60, 168))

    def test_the_part_is_keyed_for_what_covers_it_and_the_spots_are_feathered(self) -> None:
        survey = Survey(substrate="sound_paint")
        etch, surfacer, top = (SHEETS[k] for k in ("etch-2k", "urethane-surfacer-2k", "single-stage-2k"))
        layers = [
            StackLayer(sheet=etch, coats=1, patches_m2=0.0027),
            StackLayer(sheet=surfacer, coats=2),
            StackLayer(sheet=top, coats=2),
        ]
        works = step_sequence(survey, (), with_steps(survey, (), layers), 1.4)
        grits = [w.grit for w in works if w.step == "abrade"]
        low, high = surfacer.properties.key_grit
        self.assertTrue(all(low <= g <= high for g in grits if g), grits)
        local = [w for w in works if "on the patches" in w.name]
        self.assertEqual([w.step for w in local], ["feather", "coat"])
        whole = step_sequence(survey, (), with_steps(survey, (), layers[1:]), 1.4)
        for w in whole:  # whatever the part is done without the spots, it is done with them
            self.assertIn(w.name, [x.name for x in works])

    def test_a_gauge_on_the_part_reads_what_covers_it(self) -> None:
        primer, top = sheet("primer"), sheet("top")
        part = Part(id="p", name="Sill", area_m2=1.0, substrate="bare_steel", condition="", place_id=PLACE)
        layers = tuple(
            Layer(id=f"p{i}", part_id="p", position=i, sheet_id=s.id, target_um=50.0, tol_um=5.0, coats=1,
                  method_id="spray_gun", patches=Patches(n=2, area_m2=0.02) if i == 0 else None)
            for i, s in enumerate((primer, top))
        )  # fmt: skip
        facts = make_facts(job_id="job", version=1, parts=(part,), layers=layers,
                           sheets={s.id: s for s in (primer, top)})  # fmt: skip
        log = Log(facts)
        log.coat("a", "p", "p0", 1, 0, 300)
        log.coat("b", "p", "p1", 1, 5000, 5300)
        log.add("film_read", 9000, part_id="p", what="dry_total", um=[52.0])
        state = replay({facts.id: facts}, {}, log.entries, steady(23.0))
        self.assertEqual(state.parts[0].films[1].dry_um.likely, 52.0)
        self.assertEqual(state.parts[0].films[0].started_at, T0)

    def test_patches_larger_than_their_part_are_refused(self) -> None:
        with self.assertRaises(OutOfRange):
            wing(Patches(n=1, area_m2=1.5))
