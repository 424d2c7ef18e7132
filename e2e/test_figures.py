"""The strip's scale and label placer, run under the pinned Node: numbers in, numbers out."""

from __future__ import annotations

import json
import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from .node import evaluate

H = 3600
LABEL = st.fixed_dictionaries(
    {
        "x": st.floats(0, 600),
        "y": st.sampled_from([14, 27, 60]),
        "text": st.sampled_from(["open", "closes 16:40", "unmask Thu 06:39"]),
        "anchor": st.sampled_from(["start", "end", "middle"]),
        "rank": st.integers(1, 4),
    }
)


def node(expression: str) -> Any:
    return evaluate("figures/scale.ts", expression)


class ScaleTest(unittest.TestCase):
    def test_time_runs_left_to_right_over_every_tear_and_fills_the_width(self) -> None:
        now = 1_790_000_000
        got = node(
            f"(() => {{ const k = m.stripScale({now}, {now - 9 * H}, {now + 3 * H}, {now + 60 * H}, 1000);"
            f" const xs = Array.from({{length: 139}}, (_, i) => k.x({now - 9 * H} + i * {H // 2}));"
            " return {xs, tears: k.tears, ends: [k.x(k.from), k.x(k.to)], ticks: m.ticks(k).map(k.x)}; })()"
        )
        self.assertEqual(got["xs"], sorted(got["xs"]))
        self.assertEqual(len(set(got["xs"])), len(got["xs"]))
        self.assertEqual(got["ends"], [0, 1000])
        self.assertEqual(len(got["tears"]), 2)
        gaps = [b - a for a, b in zip(got["ticks"], got["ticks"][1:], strict=False)]
        self.assertGreater(min(gaps), 40, "hours never run into one another")

    def test_degenerate_pieces_do_not_break_it(self) -> None:
        self.assertIn(node("m.pieceScale([[5, 5, 1]], 300).x(5)"), (0, 300))
        self.assertEqual(node("m.pieceScale([], 300).pieces"), [])
        self.assertEqual(node("m.pieceScale([[0, 10, 1], [10, 10, 1]], 300).tears"), [])

    @settings(max_examples=12, deadline=None)
    @given(st.lists(LABEL, max_size=25))
    def test_no_two_labels_overlap_and_none_of_a_better_rank_gave_way(
        self, labels: list[dict[str, Any]]
    ) -> None:
        kept = node(f"m.placeLabels({json.dumps(labels)}, 12.5, 600)")
        boxes = [self.box(x) for x in kept]
        for i, a in enumerate(boxes):
            self.assertTrue(a[0] >= -2 and a[1] <= 602)
            for b in boxes[i + 1 :]:
                self.assertTrue(a[1] <= b[0] or b[1] <= a[0] or a[3] <= b[2] or b[3] <= a[2], (a, b))
        for lost in (x for x in labels if x not in kept):
            box = self.box(lost)
            if box[0] >= -2 and box[1] <= 602:
                rivals = [k for k, b in zip(kept, boxes, strict=True) if self.touch(box, b)]
                self.assertTrue(any(k["rank"] <= lost["rank"] for k in rivals), lost)

    def box(self, label: dict[str, Any]) -> tuple[float, float, float, float]:
        w = len(label["text"]) * 12.5 * 0.5
        x0 = label["x"] - {"start": 0, "end": w, "middle": w / 2}[label["anchor"]]
        return x0 - 3, x0 + w + 3, label["y"] - 12.5, label["y"] + 3

    def touch(self, a: tuple[float, ...], b: tuple[float, ...]) -> bool:
        return a[0] < b[1] and a[1] > b[0] and a[2] < b[3] and a[3] > b[2]
