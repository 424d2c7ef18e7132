"""Imports that keep to the published schema, and are nothing anybody would write: never a 500.

What is drawn comes from docs/job.schema.json, so that it reaches fields no example was written for.
"""

from __future__ import annotations

import json
from collections import Counter
from typing import Any

from django.conf import settings as django_settings
from django.test import TestCase
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from coatlog.jobs.models import Job

from .base import ShopMixin
from .exported import elsewhere, take_in

SCHEMA = json.loads((django_settings.BASE_DIR / "docs" / "job.schema.json").read_text(encoding="utf-8"))
DEEPEST = 4
ANYTHING = st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False) | st.text(max_size=8)
#: where in an export what stands by this name of the schema
PLACES: dict[str, tuple[Any, ...]] = {
    "AssetDoc": ("asset",),
    "Part": ("facts", -1, "parts", 0),
    "Layer": ("facts", -1, "layers", 0),
    "Method": ("facts", -1, "methods", "*"),
    "Sheet": ("facts", -1, "sheets", "*"),
    "Component": ("facts", -1, "sheets", "*", "components", 0),
    "GatePoint": ("facts", -1, "sheets", "*", "points", 0),
    "Recoat": ("facts", -1, "sheets", "*", "recoat", 0),
    "PotPoint": ("facts", -1, "sheets", "*", "pot", 0),
    "Limits": ("facts", -1, "sheets", "*", "limits"),
    "Properties": ("facts", -1, "sheets", "*", "properties"),
    "EntryDoc": ("entries", 0),
    "PlanVersion": ("plans", 0),
    "PlaceDoc": ("places", 0),
    "ReadingDoc": ("readings", 0),
}


def drawn(node: dict[str, Any], deep: int = 0) -> st.SearchStrategy[Any]:
    """Something that keeps to a piece of the schema: what has to be there, and of the rest now and then."""
    if "$ref" in node:
        node = SCHEMA["$defs"][node["$ref"].rsplit("/", 1)[1]]
    if "const" in node or "enum" in node:
        return st.sampled_from(node.get("enum", [node.get("const")]))
    if "anyOf" in node:
        ways = [n for n in node["anyOf"] if deep < DEEPEST or n.get("type") == "null"] or node["anyOf"]
        return st.one_of(*(drawn(n, deep + 1) for n in ways))
    low, high = node.get("minimum"), node.get("maximum")
    match node.get("type"):
        case "object":
            own, must = node.get("properties", {}), set(node.get("required", ()))
            if not own:
                of = node.get("additionalProperties")
                inner = drawn(of, deep + 1) if isinstance(of, dict) and deep < DEEPEST else ANYTHING
                return st.dictionaries(st.text(max_size=8), inner, max_size=2)
            each = {k: drawn(n, deep + 1) for k, n in own.items() if deep < DEEPEST or k in must}
            return st.fixed_dictionaries(
                {k: x for k, x in each.items() if k in must},
                optional={k: x for k, x in each.items() if k not in must},
            )
        case "array":
            if "prefixItems" in node:
                return st.tuples(*(drawn(n, deep + 1) for n in node["prefixItems"])).map(list)
            most = node.get("maxItems", 3 if deep < DEEPEST else 0)
            return st.lists(
                drawn(node.get("items", {}), deep + 1), min_size=node.get("minItems", 0), max_size=most
            )
        case "string":
            return st.text(max_size=12) | st.sampled_from(
                ("", "bare_steel", "\u202e", "2026-01-01", "0" * 64)
            )
        case "integer":
            return st.integers(low, high)
        case "number":
            return st.floats(low, high, allow_nan=False, allow_infinity=False)
        case "boolean":
            return st.booleans()
        case "null":
            return st.none()
    return ANYTHING


def put(doc: Any, path: tuple[Any, ...], what: Any) -> bool:
    """Put something in its place; False where the export has nothing there."""
    at = doc
    for i, step in enumerate(path):
        key = next(iter(at), None) if step == "*" else step
        if isinstance(at, dict) and key not in at:
            return False
        if isinstance(at, list) and not at:
            return False
        if i == len(path) - 1:
            at[key] = what
            return True
        at = at[key]
    return False


class FuzzTest(ShopMixin, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client = self.signed_in("owner1")
        self.client.raise_request_exception = False
        self.send(self.client, self.start_entry())
        self.whole = self.client.get(f"/api/jobs/{self.job.pk}/export").content

    def test_no_import_that_keeps_to_the_schema_is_answered_with_a_500(self) -> None:
        answered: Counter[int] = Counter()

        @settings(max_examples=2500, deadline=None, suppress_health_check=list(HealthCheck))
        @given(st.data())
        def taken(data: st.DataObject) -> None:
            doc = json.loads(self.whole)
            name = data.draw(st.sampled_from(sorted(PLACES)))
            if not put(doc, PLACES[name], data.draw(drawn({"$ref": f"#/$defs/{name}"}))):
                return
            before = Job.objects.count()
            r = take_in(self.client, elsewhere(doc))
            answered[r.status_code] += 1
            self.assertIn(r.status_code, (200, 422), (name, r.content[:400]))
            if r.status_code == 422:
                self.assertEqual(Job.objects.count(), before, "refused, and half of it is there")
                self.assertTrue(r.json()["detail"], name)
                return
            at = f"/api/jobs/{r.json()['id']}"
            for page in (at, f"{at}/dossier", f"{at}/export", "/api/now"):
                self.assertEqual(self.client.get(page).status_code, 200, (name, page))

        taken()
        print(answered)
