"""The laws of replay, over any multiset of entries hypothesis can think of."""

from __future__ import annotations

import dataclasses
import unittest
from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from coatlog.core.codec import canonical
from coatlog.core.run.entries import BODIES, Entry
from coatlog.core.run.replay import replay
from coatlog.core.run.states import JobState
from coatlog.core.run.view import current_span, view

from .samples import PLACE, T0, Log, steady, stepped, two_layer_facts

#: two parts, one of them with a system of its own and its primer on spots alone
FACTS = two_layer_facts(part_count=2, spots=True)
CLIMATE = stepped([(0, 22.0), (6 * 3600, 11.0), (12 * 3600, 24.0)], hours=48)
PRIMER = FACTS.layers[0].sheet_id
IDS = [f"e{i}" for i in range(12)]

parts = st.sampled_from(["p0", "p1", "nowhere"])
coats = st.sampled_from(["c1", "c2", "c3", "c4"])
batches = st.sampled_from(["b1", "b2"])


def bodies(kind: str) -> st.SearchStrategy[dict[str, Any]]:
    """Bodies of a kind: mostly sound, some pointing nowhere."""
    layer = st.sampled_from(["p0a", "p0b", "p1a", "p1b"])
    ref = st.builds(
        lambda c, x, n: {"coat_id": c, "part_id": x[:2], "layer_id": x, "n": n},
        coats,
        layer,
        st.integers(1, 3),
    )
    table: dict[str, st.SearchStrategy[dict[str, Any]]] = {
        "facts_adopted": st.just({"facts_id": FACTS.id}),
        "plan_adopted": st.fixed_dictionaries({"plan_id": st.sampled_from(["plan", "none"])}),
        "step_done": st.fixed_dictionaries(
            {"part_ids": st.lists(parts, max_size=2), "step": st.sampled_from(["abrade", "wipe"])}
        ),
        "pour": st.fixed_dictionaries(
            {
                "batch_id": batches,
                "sheet_id": st.just(PRIMER),
                "component": st.sampled_from(["base", "hardener"]),
                "ml": st.floats(1, 900),
            }
        ),
        "batch_mixed": st.fixed_dictionaries(
            {
                "batch_id": batches,
                "sheet_id": st.just(PRIMER),
                "parts": st.just([{"role": "base", "ml": 400.0}]),
            }
        ),
        "batch_closed": st.fixed_dictionaries({"batch_id": batches, "why": st.just("used")}),
        "coat_started": st.builds(
            lambda r, b: {"coats": r, "facts_id": FACTS.id, "batch_ids": b},
            st.lists(ref, min_size=1, max_size=2),
            st.lists(batches, max_size=1),
        ),
        "coat_done": st.builds(
            lambda c, b: {"coat_ids": c, "draws": [{"batch_id": x, "ml": 90.0} for x in b]},
            st.lists(coats, min_size=1, max_size=2),
            st.lists(batches, max_size=1),
        ),
        "coat_paused": st.fixed_dictionaries({"coat_id": coats}),
        "moved": st.fixed_dictionaries(
            {"part_ids": st.lists(parts, max_size=2), "place_id": st.sampled_from([PLACE, "yard"])}
        ),
        "coat_removed": st.fixed_dictionaries(
            {"coat_ids": st.lists(coats, max_size=1), "how": st.just("sanded")}
        ),
        "film_read": st.fixed_dictionaries(
            {
                "part_id": parts,
                "coat_id": coats,
                "what": st.just("wet_comb"),
                "low_um": st.just(75.0),
                "high_um": st.just(100.0),
            }
        ),
        "climate_read": st.fixed_dictionaries(
            {"place_id": st.just(PLACE), "air_degc": st.floats(-5, 40), "rh_frac": st.floats(0.2, 1)}
        ),
        "gate_checked": st.fixed_dictionaries(
            {"part_id": parts, "gate": st.sampled_from(["touch", "full"]), "passed": st.booleans()}
        ),
        "unmasked": st.fixed_dictionaries(
            {"part_ids": st.lists(parts, max_size=2), "result": st.sampled_from(["clean", "lifted"])}
        ),
        "in_service": st.fixed_dictionaries({"part_ids": st.lists(parts, max_size=2)}),
        "inspected": st.fixed_dictionaries(
            {
                "part_ids": st.lists(parts, max_size=2),
                "ratings": st.just([{"scale_id": "look", "value": 4}]),
                "care_key": st.sampled_from(["look", None]),
            }
        ),
        "cleaned": st.fixed_dictionaries(
            {"part_ids": st.lists(parts, max_size=2), "care_key": st.sampled_from(["brush", "look"])}
        ),
        "touched_up": st.fixed_dictionaries({"part_ids": st.lists(parts, max_size=2)}),
        "strike": st.fixed_dictionaries({"target_id": st.sampled_from(IDS), "reason": st.just("wrong")}),
    }
    return table.get(kind, st.dictionaries(st.text(max_size=5), st.integers(), max_size=2))


MORE_OFTEN = ("coat_started", "coat_done", "coat_done", "in_service", "strike")


@st.composite
def logs(draw: st.DrawFn) -> list[Entry]:
    """Up to a dozen entries from two devices whose clocks may run back, after the facts."""
    kinds = st.sampled_from([*BODIES, *MORE_OFTEN, "from_the_future"])
    out = [entry("facts", "facts_adopted", {"facts_id": FACTS.id}, 0, "phone", 0)]
    for i in range(draw(st.integers(0, 11))):
        kind = draw(kinds)
        out.append(
            entry(
                IDS[i],
                kind,
                draw(bodies(kind)),
                draw(st.integers(0, 40 * 3600)),
                draw(st.sampled_from(["phone", "desk"])),
                i + 1,
            )
        )
    return out


def entry(entry_id: str, kind: str, body: dict[str, Any], at: int, device: str, n: int) -> Entry:
    return Entry(
        id=entry_id,
        job_id="job",
        kind=kind,
        at=T0 + at,
        at_true=T0 + at,
        device_id=device,
        n=n,
        seq=n,
        body=body,
    )


def run(entries: list[Entry], plans: dict[str, object] | None = None) -> JobState:
    return replay({FACTS.id: FACTS}, plans or {}, entries, CLIMATE, job_id="job")


def apart_from_ledger(state: JobState) -> str:
    return canonical(dataclasses.replace(state, ledger=(), through_seq=0))


MANY = 40
LAW = settings(max_examples=MANY, deadline=None, suppress_health_check=[HealthCheck.too_slow])


class LawTest(unittest.TestCase):
    @LAW
    @given(logs(), st.randoms())
    def test_total_and_the_same_in_any_order_with_any_repeats(self, log: list[Entry], random: Any) -> None:
        shuffled = log + [e for e in log if random.random() < 0.4]
        random.shuffle(shuffled)
        self.assertEqual(canonical(run(shuffled)), canonical(run(log)))

    @LAW
    @given(logs(), st.data())
    def test_a_strike_is_as_if_it_had_not_been_and_striking_the_strike_restores(
        self, log: list[Entry], data: st.DataObject
    ) -> None:
        target = data.draw(st.sampled_from(log))
        strike = entry("s", "strike", {"target_id": target.id, "reason": "wrong"}, 50 * 3600, "desk", 99)
        without = [e for e in log if e.id != target.id]
        self.assertEqual(apart_from_ledger(run([*log, strike])), apart_from_ledger(run([*without, strike])))
        again = entry("t", "strike", {"target_id": "s", "reason": "was right"}, 50 * 3600 + 60, "desk", 100)
        nothing = entry("s", "note", {"text": "-"}, 50 * 3600, "desk", 99)
        quiet = entry("t", "note", {"text": "-"}, 50 * 3600 + 60, "desk", 100)
        self.assertEqual(
            apart_from_ledger(run([*log, strike, again])), apart_from_ledger(run([*log, nothing, quiet]))
        )

    @LAW
    @given(logs())
    def test_the_ledger_names_each_entry_once(self, log: list[Entry]) -> None:
        self.assertEqual(sorted(x.entry_id for x in run(log).ledger), sorted(e.id for e in log))

    @LAW
    @given(logs())
    def test_a_later_plan_changes_no_span(self, log: list[Entry]) -> None:
        plan = entry("pl", "plan_adopted", {"plan_id": "plan"}, 45 * 3600, "desk", 98)
        with_plan, without = run([*log, plan], {"plan": None}), run(log, {"plan": None})
        self.assertEqual(
            canonical([p.films for p in with_plan.parts]), canonical([p.films for p in without.parts])
        )

    @LAW
    @given(logs())
    def test_spans_follow_one_another_and_view_has_no_gap(self, log: list[Entry]) -> None:
        state = run(log)
        for part in state.parts:
            for film in part.films:
                self.assertEqual(film.spans[0].from_at, film.started_at)
                for a, b in zip(film.spans, film.spans[1:], strict=False):
                    self.assertEqual(a.to_at, b.from_at)
                    self.assertLess(a.from_at, b.from_at)
                    self.assertEqual(current_span(film, b.from_at - 1)[0], a)
                    self.assertEqual(current_span(film, b.from_at)[0], b)
        view(state, T0 + 3600)


class TimesTest(unittest.TestCase):
    def one_coat(self, climate: Any, facts: Any = FACTS) -> JobState:
        log = Log(facts)
        log.coat("c1", "p0", "p0a", 1, 0, 600)
        return replay({facts.id: facts}, {}, log.entries, climate)

    def test_windows_at_the_sheets_own_temperature_are_the_sheets_own_times(self) -> None:
        film = self.one_coat(steady(23.0)).parts[0].films[0]
        at = {s.state: s.from_at - T0 for s in film.spans}
        self.assertEqual(at["flash"], 600 + 600)
        self.assertEqual(at["open"], 600 + 3600)
        self.assertEqual(at["over_age"], 28800)

    def test_a_cold_night_moves_gates_by_the_integral(self) -> None:
        """Steady 23 degC against a night at 10 degC, then 23: rate 0.394 (ASTM C1074, re-derived)."""
        import math

        night = 4 * 3600
        warm, cold = self.finished(steady(23.0)), self.finished(stepped([(-3600, 10.0), (night, 23.0)]))
        rate = math.exp(-50000 / 8.314462618 * (1 / 283.15 - 1 / 296.15))
        self.assertAlmostEqual(rate, 0.394, places=3)
        done = 5400
        lost = (night - done) * (1 - rate)
        for name in ("touch", "full"):
            a, b = (next(g for g in s.parts[0].gates if g.name == name) for s in (warm, cold))
            expected = min(lost, (a.likely_at - T0 - done) * (1 / rate - 1))
            self.assertAlmostEqual(b.likely_at - a.likely_at, expected, delta=2, msg=name)

    def finished(self, climate: Any) -> JobState:
        facts = two_layer_facts(liner_coats=1)
        log = Log(facts)
        log.coat("c1", "p0", "p0a", 1, 0, 300)
        log.coat("c2", "p0", "p0b", 1, 5000, 5400)
        return replay({facts.id: facts}, {}, log.entries, climate)

    def test_five_hours_without_a_reading_are_shown_as_assumed(self) -> None:
        climate = steady(23.0)
        series = climate.places[PLACE]
        keep = [i for i, t in enumerate(series.t_at) if not 7200 < t - T0 <= 7200 + 5 * 3600]
        gap = dataclasses.replace(
            series,
            **{
                f.name: tuple(getattr(series, f.name)[i] for i in keep)
                for f in dataclasses.fields(series)
                if getattr(series, f.name)
            },
        )
        state = self.finished(dataclasses.replace(climate, places={PLACE: gap}))
        full = next(g for g in state.parts[0].gates if g.name == "full")
        self.assertEqual(full.assumed_s, 5 * 3600)
        self.assertEqual(
            next(g for g in self.finished(climate).parts[0].gates if g.name == "full").assumed_s, 0
        )

    def test_a_sheet_edited_in_every_number_leaves_a_finished_job_as_it_is(self) -> None:
        before = self.finished(steady(23.0))
        facts = two_layer_facts(liner_coats=1)
        edited = two_layer_facts(
            liner_coats=1, use_frac=0.6, ea_j_per_mol=61000.0, stops_below_degc=7.0,
            points=[{"gate": "full", "at_degc": 21.0, "s": 90000}],
            recoat=[{"next": "any", "windows": [{"from_s": 60, "to_s": 61, "at_degc": 21.0}]}],
            pot=[{"at_degc": 21.0, "s": 60}],
        )  # fmt: skip
        self.assertNotEqual(facts.id, edited.id)
        log = Log(facts)
        log.coat("c1", "p0", "p0a", 1, 0, 300)
        log.coat("c2", "p0", "p0b", 1, 5000, 5400)
        after = replay({facts.id: facts, edited.id: edited}, {}, log.entries, steady(23.0))
        self.assertEqual(canonical(before), canonical(after))

    def test_over_age_opens_again_only_after_every_fix_step_and_for_as_long_as_the_key_is_good(self) -> None:
        log = Log(FACTS)
        log.coat("c1", "p0", "p0a", 1, 0, 600)
        log.add("step_done", 30000, part_ids=["p0"], step="abrade")

        def run_at(t: int) -> str | None:
            return view(replay({FACTS.id: FACTS}, {}, log.entries, steady(23.0)), T0 + t).parts[0].state

        self.assertEqual(run_at(31000), "over_age")
        log.add("step_done", 32000, part_ids=["p0"], step="wipe")
        self.assertEqual(run_at(31999), "over_age")
        self.assertEqual(run_at(32001), "open")
        self.assertEqual(run_at(32000 + 86400 + 1), "over_age")

    def test_below_the_sheets_lowest_temperature_nothing_ripens(self) -> None:
        state = self.one_coat(dataclasses.replace(steady(3.0), default_air_degc=2.0))
        self.assertEqual([s.state for s in state.parts[0].films[0].spans], ["wet"])

    def test_two_tablets_on_one_coat_are_a_clash_counted_from_the_careful_ends(self) -> None:
        log = Log(FACTS)
        ref = {"coat_id": "c1", "part_id": "p0", "layer_id": "p0a", "n": 1}
        log.add("coat_started", 0, coats=[ref], facts_id=FACTS.id)
        log.add("coat_started", 120, device="phone", coats=[{**ref, "coat_id": "c2"}], facts_id=FACTS.id)
        log.add("coat_done", 600, coat_ids=["c1"])
        log.add("coat_done", 900, device="phone", coat_ids=["c2"])
        state = replay({FACTS.id: FACTS}, {}, log.entries, steady(23.0))
        (film,) = state.parts[0].films
        self.assertEqual((film.started_at - T0, film.done_at - T0), (0, 900))
        self.assertIn("log.twice", {f.code for f in state.findings})

    def test_a_clock_that_went_back_lengthens_waits_until_corrected(self) -> None:
        log = Log(FACTS)
        log.coat("c1", "p0", "p0a", 1, 1000, 1600)
        log.add("coat_paused", 4000, coat_id="c1")
        log.coat("c2", "p1", "p1a", 1, 1700, 2000)
        state = replay({FACTS.id: FACTS}, {}, log.entries, steady(23.0))
        self.assertIn("log.clock", {f.code for f in state.findings})
        opens = next(s.from_at for s in state.parts[1].films[0].spans if s.state == "open")
        self.assertEqual(opens - T0, 4000 + 3600)

    def test_a_coats_film_is_known_best_from_gauge_then_comb_then_volume_then_plan(self) -> None:
        log = Log(FACTS)
        log.coat("c1", "p0", "p0a", 1, 0, 600)
        sources = []
        for kind, body in (
            ("note", {"text": "-"}),
            ("coat_done", {"coat_ids": ["c1"], "draws": [{"batch_id": "b", "ml": 130.0}]}),
            (
                "film_read",
                {"part_id": "p0", "coat_id": "c1", "what": "wet_comb", "low_um": 75.0, "high_um": 100.0},
            ),
            ("film_read", {"part_id": "p0", "what": "dry_total", "um": [52.0, 56.0]}),
        ):
            log.add(kind, 600, **body)
            film = replay({FACTS.id: FACTS}, {}, log.entries, steady(23.0)).parts[0].films[0]
            sources.append((film.dry_from, round(film.dry_um.likely, 1)))
        self.assertEqual(sources, [("plan", 50.0), ("draw", 50.7), ("wet", 52.5), ("gauge", 54.0)])

    def test_a_thumb_beats_the_formula(self) -> None:
        facts = two_layer_facts(liner_coats=1)
        log = Log(facts)
        log.coat("c1", "p0", "p0a", 1, 0, 300)
        log.coat("c2", "p0", "p0b", 1, 5000, 5400)
        log.add("gate_checked", 20000, part_id="p0", gate="touch", passed=False)

        def gate() -> Any:
            state = replay({facts.id: facts}, {}, log.entries, steady(23.0))
            return next(g for g in state.parts[0].gates if g.name == "touch")

        self.assertEqual((gate().likely_at, gate().failed_at), (None, T0 + 20000))
        log.add("gate_checked", 22000, part_id="p0", gate="touch", passed=True)
        self.assertEqual((gate().by, gate().likely_at), ("checked", T0 + 22000))
        # Another coat lies on it now: the thumb that was on the one before knows nothing of it.
        log.coat("c3", "p0", "p0b", 2, 30000, 30400)
        again = gate()
        self.assertEqual(again.by, "computed")
        self.assertGreater(again.likely_at, T0 + 30400)

    def test_the_pot_clock_starts_with_the_hardener(self) -> None:
        log = Log(FACTS)
        log.add("pour", 0, batch_id="b", sheet_id=PRIMER, component="base", ml=400.0)
        log.add("pour", 60, batch_id="b", sheet_id=PRIMER, component="hardener", ml=100.0)
        (batch,) = replay({FACTS.id: FACTS}, {}, log.entries, steady(23.0)).batches
        self.assertEqual(batch.gels_at - T0, 60 + 3600)
        self.assertEqual(batch.use_by_at - T0, 60 + 2700)
        self.assertEqual(batch.total_ml, 500.0)
