"""Every sentence the server may say, with its values as {0}, {1}: what another language has to have.

Read from the source itself: tables and files of words as they are, sentences in code wherever they stand
but in docstrings and in what a field was expected to hold.
"""

from __future__ import annotations

import ast
import json
import re
import sys
import tomllib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from .paths import WEB

__all__ = ["FRAGMENTS", "faults", "sentences"]

#: before the names of usual things, see served.ts
TEMPLATE = "usual: "
#: what sentences are put together from, with too few words of their own to be found
FRAGMENTS = (
    "{0} on {1}.",
    "{0} over {1}.",
    "{0} in {1}.",
    "{0} here.",
    "{0} against {1}.",
    "{0} exactly",
    "Plan {0}.",
    "{0}: {1} coat {2} of {3}",
    "{0}: unmasking",
    "mix {0}",
    "{0}, assumed",
    "Pot: {0}",
    "{0}: recoat, {1}",
    "in {0}",
    "{0} ago",
    "{0} failed",
    "malformed: {0}",
    "for {0}",
    "after {0}",
    "gun cleaning after {0}",
    "{0}: {1} min later, {2}.",
    "{0}: {1} min earlier, {2}.",
    "{0}: {1} min later, {2}, itself {3} min later, {4}.",
    "{0}: {1} min earlier, {2}, itself {3} min earlier, {4}.",
    "{0}: {1} min later, {2}, because of {3}, itself {4} min later, {5}.",
    "{0}: {1} min earlier, {2}, because of {3}, itself {4} min earlier, {5}.",
    "{0}: {1} min later, {2}, because of {3}, itself still in progress.",
    "{0}: {1} min later, {2}, itself still in progress.",
    "1 coat of {0}",
    "1 coat of {0}: {1}",
    "{0} coats of {1}",
    "{0} coats of {1}: {2}",
    "volume",
    "mass",
    "lengthwise",
    "crosswise",
)

HERE = Path(__file__).resolve().parent.parent / "coatlog"
#: files of words, and which of their fields are read by people
FILES = {
    "core/stack/steps.toml": ("name", "check", "tools", "if_failed", "cautions"),
    "core/stack/preps.toml": ("name", "instead"),
    "core/stack/quick_looks.toml": ("name", "how", "says"),
    "core/stack/alternatives.toml": ("ask", "name", "wins"),
}
SHEETS = ("kind", "hazards", "text", "what", "character", "direction", "step")
#: code whose words are for the shell, the log of the server or the demo, not for a page
SILENT = (
    "demo/estuary.py",
    "demo/past.py",
    "demo/example_names.py",
    "demo/scenes",
    "/tests/",
    "/management/",
    "/migrations/",
    "core/codec.py",
    "core/errors.py",
)
#: strings that no page shows: headers, calendars, queries, units of a file
TECHNICAL = re.compile(
    r"^[/#%]|charset|filename=|max-age|//|^select |\n|no-store|^text/"
    r"|%[a-zA-Z]|_[a-z]+ [a-z]+_|^w/|^DROP |\((C|m/s)\)",
    re.I,
)
#: calls whose strings say what a field was expected to hold: refusals name them beside the field
EXPECTED = ("require", "Underspecified", "OutOfRange", "field", "getattr", "setattr", "Field", "compile")
#: dictionaries of short words that stand on a page by themselves
TABLES = (
    ("coatlog.core.sheet", ("FINISHES", "PLACES", "FAMILIES")),
    ("coatlog.core.stack.surfaces", ("EXPOSURES", "FEATURES")),
)


def sentences() -> list[str]:
    """All of them, each once, in no particular order of use but always the same."""
    found = dict.fromkeys([*_files(), *_templates(), *_sheets(), *_tables(), *_code(), *FRAGMENTS])
    return [x for x in found if any(c.isalpha() for c in x)]


def _files() -> Iterator[str]:
    for name, fields in FILES.items():
        yield from _fields(tomllib.loads((HERE / name).read_text()), fields)


def _sheets() -> Iterator[str]:
    for path in sorted((HERE / "shelf" / "typical").rglob("*.toml")):
        yield from _fields(tomllib.loads(path.read_text()), SHEETS)


def _templates() -> Iterator[str]:
    """Usual things and their parts: marked, as a part of a job may well be called the same."""
    read = _fields(tomllib.loads((HERE / "core/stack/templates.toml").read_text()), ("name",))
    yield from (f"{TEMPLATE}{x}" for x in read)


def _fields(data: Any, fields: tuple[str, ...], under: str = "") -> Iterator[str]:
    if isinstance(data, dict):
        for key, value in data.items():
            yield from _fields(value, fields, under if under == "cautions" else key)
    elif isinstance(data, list) and under != "cautions":  # there they are keys of the texts above
        for value in data:
            yield from _fields(value, fields, under)
    elif isinstance(data, str) and under in fields:
        yield data


def _tables() -> Iterator[str]:
    from importlib import import_module

    for module, names in TABLES:
        for name in names:
            for word in getattr(import_module(module), name, {}).values():
                yield word if isinstance(word, str) else word.name
    from coatlog.core.run.facts import METHODS
    from coatlog.core.sheet import ROLES
    from coatlog.core.stack.surfaces import SUBSTRATES

    yield from (m.name for m in METHODS.values())
    yield from (r.name for r in ROLES.values())
    yield from (s.name for s in SUBSTRATES.values())


def _code() -> Iterator[str]:
    for path in sorted([*HERE.rglob("*.py"), HERE.parent / "config" / "api.py"]):
        if not any(part in str(path) for part in SILENT):
            yield from _Sentences(ast.parse(path.read_text())).found


class _Sentences(ast.NodeVisitor):
    """Strings of a module that read like words: a space between two of them, or a capital and a stop."""

    def __init__(self, tree: ast.Module) -> None:
        self.found: list[str] = []
        self.visit(tree)

    def visit_Expr(self, node: ast.Expr) -> None:
        if not isinstance(node.value, ast.Constant):
            self.generic_visit(node)

    def visit_Call(self, node: ast.Call) -> None:
        name = node.func.attr if isinstance(node.func, ast.Attribute) else getattr(node.func, "id", "")
        if name in EXPECTED:
            return
        self.generic_visit(node)

    def visit_JoinedStr(self, node: ast.JoinedStr) -> None:
        text, n = "", 0
        for part in node.values:
            if isinstance(part, ast.Constant):
                text += str(part.value)
            else:
                text += f"{{{n}}}"
                n += 1
                self.visit(part)
        self._take(text)

    def visit_Constant(self, node: ast.Constant) -> None:
        if isinstance(node.value, str):
            self._take(node.value)

    def _take(self, text: str) -> None:
        words = [w for w in re.sub(r"{\d+}", "", text).split() if any(c.isalpha() for c in w)]
        if len(words) >= 2 and not TECHNICAL.search(text):
            self.found.append(text)


def faults(language: str) -> list[str]:
    """What a language lacks, has too much of, or loses a value of."""
    told = json.loads((WEB / "src" / "words" / f"served.{language}.json").read_text())
    wanted = sentences()
    out = [f"missing: {x}" for x in wanted if x not in told]
    out += [f"no longer said: {x}" for x in told if x not in set(wanted)]
    for english, said in told.items():
        lost = set(re.findall(r"{\d+}", english)) ^ set(re.findall(r"{\d+}", said))
        out += [f"values differ: {english}"] if lost or not said.strip() else []
    return out


if __name__ == "__main__":
    found = [f"{language}: {fault}" for language in ("de",) for fault in faults(language)]
    print("\n".join(found))
    sys.exit(bool(found))
