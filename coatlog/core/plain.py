"""JSON from outside: read once, strictly, before anything else looks at it.

A database cannot keep NUL or half a character, a column holds 64 bits, and nothing here nests deeper
than a job document.  What goes beyond is refused at the door, by the name of its field, instead of
failing later where nobody can say which field it was.
"""

from __future__ import annotations

import json
import math
from typing import Any

from .errors import OutOfRange, Underspecified

__all__ = ["MOST_DEEP", "check_plain", "read_json"]

MOST_DEEP = 40
MOST_WHOLE = 2**63 - 1


def read_json(data: bytes | str) -> Any:
    """Plain data of a JSON text in UTF-8.

    Raises Underspecified or OutOfRange naming the field, what stands there and what was expected.
    """
    try:
        text = data.decode("utf-8-sig") if isinstance(data, bytes) else data
        value = json.loads(text)
    except (UnicodeDecodeError, ValueError) as bad:
        raise Underspecified("JSON", str(bad)[:120], "JSON in UTF-8") from None
    except RecursionError:
        raise Underspecified("JSON", "deeply nested", f"at most {MOST_DEEP} levels") from None
    check_plain(value)
    return value


def check_plain(value: Any, path: str = "") -> None:
    """Refuse text and numbers that cannot be kept, anywhere in plain data.

    Raises Underspecified or OutOfRange naming the field.
    """
    open_: list[tuple[Any, str, int]] = [(value, path, 0)]
    while open_:
        item, at, deep = open_.pop()
        if deep > MOST_DEEP:
            raise Underspecified(at[:80], "deeply nested", f"at most {MOST_DEEP} levels")
        if isinstance(item, dict):
            for k, v in item.items():
                _check_text(str(k), at or "JSON")
                open_.append((v, f"{at}.{k}" if at else str(k), deep + 1))
        elif isinstance(item, list | tuple):
            open_ += [(v, f"{at}[{i}]", deep + 1) for i, v in enumerate(item)]
        elif isinstance(item, str):
            _check_text(item, at or "JSON")
        elif isinstance(item, float) and not math.isfinite(item):
            raise OutOfRange(at, str(item), "a number")
        elif isinstance(item, int) and abs(item) > MOST_WHOLE:
            raise OutOfRange(at, f"{item.bit_length()} bits", "a whole number of at most 64 bits")


def _check_text(text: str, at: str) -> None:
    if "\0" in text:
        raise Underspecified(at, text.replace("\0", "?")[:40], "text without NUL")
    try:
        text.encode()
    except UnicodeEncodeError:
        shown = text.encode("utf-8", "replace").decode()[:40]
        raise Underspecified(at, shown, "whole characters: half of one stands there") from None
