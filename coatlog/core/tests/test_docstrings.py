"""What a stranger is told: every public thing of the core says what it is, in which units, what it refuses.

A rule of the stack is told by its own words, which the interface shows; it needs no second telling.
"""

from __future__ import annotations

import ast
import unittest
from collections.abc import Iterator
from pathlib import Path

CORE = Path(__file__).parents[1]
UNITS = tuple(
    f"_{u}"
    for u in [
        "um",
        "ml",
        "g",
        "m2",
        "m",
        "mm",
        "degc",
        "k",
        "frac",
        "s",
        "min",
        "at",
        "kpa",
        "kg",
        "g_per_ml",
        "g_per_l",
        "m2_per_l",
        "m2_per_min",
        "m_s",
        "j_per_mol",
        "per_s",
        "cv",
    ]
)
#: numbers that count or point, by their name alone
COUNTS = [
    "n",
    "i",
    "count",
    "coats",
    "position",
    "version",
    "painters",
    "times",
    "digits",
    "points",
    "passes",
    "seed",
    "amount",
    "shift",
    "grit",
    "value",
    "limit",
    "start",
    "index",
    "ratio",
    "parts",
]
Function = ast.FunctionDef


def modules() -> Iterator[tuple[str, ast.Module]]:
    for path in sorted(CORE.rglob("*.py")):
        if "tests" not in path.parts:
            yield str(path.relative_to(CORE)), ast.parse(path.read_text(encoding="utf-8"))


def public(tree: ast.Module) -> Iterator[tuple[str, Function | ast.ClassDef]]:
    """Functions, classes and methods others may use, by their names in the module."""
    names: list[str] | None = None
    for node in tree.body:
        if isinstance(node, ast.Assign) and getattr(node.targets[0], "id", "") == "__all__":
            names = [str(ast.literal_eval(e)) for e in node.value.elts]  # type: ignore[attr-defined]
    for node in tree.body:
        if not isinstance(node, (Function, ast.ClassDef)) or _is_rule(node):
            continue
        if node.name.startswith("_") or (names is not None and node.name not in names):
            continue
        yield node.name, node
        for inner in node.body if isinstance(node, ast.ClassDef) else ():
            if isinstance(inner, Function) and not inner.name.startswith("_"):
                yield f"{node.name}.{inner.name}", inner


def _is_rule(node: Function | ast.ClassDef) -> bool:
    return any(getattr(getattr(d, "func", None), "id", "") == "rule" for d in node.decorator_list)


def _refuses(node: Function) -> bool:
    """Whether it raises itself what its caller may have to answer for."""
    for x in ast.walk(node):
        if isinstance(x, ast.Raise):
            return True
        if isinstance(x, ast.Call) and getattr(x.func, "id", "") == "require":
            return True
    return False


def _numbers(node: Function) -> Iterator[str]:
    """Parameters that are a plain number."""
    for a in (*node.args.args, *node.args.kwonlyargs):
        kind = ast.unparse(a.annotation) if a.annotation is not None else ""
        if kind in ("float", "int", "float | None", "int | None", "npt.ArrayLike"):
            yield a.arg


class DocstringTest(unittest.TestCase):
    def test_every_public_thing_says_what_it_is(self) -> None:
        silent = [
            f"{m}: {name}" for m, tree in modules() for name, x in public(tree) if not ast.get_docstring(x)
        ]
        silent += [m for m, tree in modules() if tree.body and not ast.get_docstring(tree)]
        self.assertEqual(silent, [])

    def test_what_refuses_says_so(self) -> None:
        silent = [
            f"{m}: {name}"
            for m, tree in modules()
            for name, x in public(tree)
            if isinstance(x, Function) and _refuses(x) and "Raises" not in (ast.get_docstring(x) or "")
        ]
        self.assertEqual(silent, [])

    def test_every_number_has_its_unit_in_its_name_or_is_told(self) -> None:
        silent = [
            f"{m}: {name}({number})"
            for m, tree in modules()
            for name, x in public(tree)
            if isinstance(x, Function)
            for number in _numbers(x)
            if not number.endswith(UNITS)
            and number not in COUNTS
            and number not in (u.lstrip("_") for u in UNITS)
            and f"`{number}`" not in (told := ast.get_docstring(x) or "")
            and f"{number} :" not in told
            and f"{number}," not in told
        ]
        self.assertEqual(silent, [])
