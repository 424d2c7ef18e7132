"""Replay does what its version did: a changed reading of the log comes with a changed version."""

from __future__ import annotations

import unittest

from coatlog.core import CORE_VERSION

from .golden import golden_logs, golden_state, stored, told

AGAIN = "raise CORE_VERSION, so that shops replay their logs, then: python -m coatlog.core.tests.golden"


class GoldenTest(unittest.TestCase):
    def test_a_reading_that_differs_has_another_version(self) -> None:
        was = stored()
        differs = [
            name for name, f, e in golden_logs() if told(golden_state(f, e)) != was["states"].get(name)
        ]
        if was["core_version"] == CORE_VERSION:
            self.assertEqual(differs, [], f"Replay reads these logs otherwise: {AGAIN}")
        else:
            self.fail(f"The states kept are those of version {was['core_version']}: {AGAIN}")

    def test_the_logs_hold_what_shops_log(self) -> None:
        kinds = {e.kind for _, _, entries in golden_logs() for e in entries}
        self.assertGreaterEqual(len(kinds), 18)
        for _, facts, entries in golden_logs():
            state = golden_state(facts, entries)
            self.assertTrue(state.parts[0].films and not state.parts[0].due_layer_id)
            self.assertFalse([x for x in state.ledger if x.outcome == "unknown_kind"])
