"""Exports changed by hand, as another shop might send them: under other ids, their facts signed anew."""

from __future__ import annotations

import json
import uuid
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client

from coatlog.core.codec import content_id

__all__ = ["elsewhere", "signed", "take_in"]


def elsewhere(doc: dict[str, Any]) -> dict[str, Any]:
    """The same job under ids not in use, its facts signed anew."""
    new = json.loads(json.dumps(doc).replace(doc["id"], str(uuid.uuid4())))
    for e in new["entries"]:
        e["id"] = str(uuid.uuid4())
    return signed(new)


def signed(doc: dict[str, Any]) -> dict[str, Any]:
    """Its facts under the ids their content has."""
    for f in doc["facts"]:
        old = f["id"]
        f["id"] = content_id({k: v for k, v in f.items() if k != "id"})
        doc["entries"] = json.loads(json.dumps(doc["entries"]).replace(old, f["id"]))
    return doc


def take_in(client: Client, doc: dict[str, Any]) -> Any:
    """The answer to its import."""
    file = SimpleUploadedFile("j.json", json.dumps(doc).encode())
    return client.post("/api/jobs/import", {"file": file})
