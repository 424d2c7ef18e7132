"""THIRD-PARTY.md: what is shipped with the product or runs it, with version and licence of each.

Taken from what is installed: Python packages by the pins of requirements/base.txt, what the interface is
built from by its lock file.  `python -m ops.notices --check` says what is out of date.
"""

from __future__ import annotations

import json
import re
import sys
from collections.abc import Iterator
from importlib.metadata import PackageNotFoundError, metadata

from .paths import ROOT, WEB

__all__ = ["notices"]

TARGET = ROOT / "THIRD-PARTY.md"
HEAD = """# Third-party notices

Coat Log stands on the work of others. What is listed here is installed by `./coat start` or built into
the interface; each stands under its own licence, whose text is in the package. Written by
`python -m ops.notices`.
"""


def notices() -> str:
    """The file as it ought to be."""
    out = [HEAD]
    for title, rows in (
        ("Python", sorted(_python())),
        ("Interface", sorted(_interface())),
    ):
        out.append(f"\n## {title}\n\n| Package | Version | Licence |\n|---|---|---|\n")
        out += [f"| {name} | {version} | {licence} |\n" for name, version, licence in rows]
    return "".join(out)


def _python() -> Iterator[tuple[str, str, str]]:
    pins = (ROOT / "requirements" / "base.txt").read_text(encoding="utf-8")
    for name, version in re.findall(r"^([A-Za-z0-9_.\[\]-]+)==([^\s\\;]+)", pins, re.MULTILINE):
        bare = name.split("[")[0]
        try:
            yield bare, version, _licence(bare)
        except PackageNotFoundError:
            yield bare, version, "for another platform"


def _licence(name: str) -> str:
    about = metadata(name)
    said = about["License-Expression"] or ""
    kinds = [c.rsplit(" :: ", 1)[1] for c in about.get_all("Classifier", []) if c.startswith("License :: ")]
    text = said or ", ".join(k for k in kinds if k != "OSI Approved") or (about["License"] or "")
    text = " ".join(text.split())
    if "Permission is hereby granted, free of charge" in text:
        return "MIT"
    return text if 0 < len(text) <= 80 else "see the package"


def _interface() -> Iterator[tuple[str, str, str]]:
    lock = json.loads((WEB / "package-lock.json").read_text(encoding="utf-8"))
    for path, package in lock["packages"].items():
        if not path or package.get("dev") or package.get("optional"):
            continue
        name = path.rsplit("node_modules/", 1)[1]
        yield name, package["version"], package.get("license", "see the package")


if __name__ == "__main__":
    told = notices()
    if "--check" in sys.argv:
        if not TARGET.exists() or TARGET.read_text(encoding="utf-8") != told:
            print("THIRD-PARTY.md is not what is installed.")
            sys.exit(1)
    else:
        TARGET.write_text(told, encoding="utf-8")
