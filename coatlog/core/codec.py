"""Frozen dataclasses to plain data and back, one canonical JSON, one content hash.

`from_plain` is strict: unknown and missing fields, wrong types, NaN and infinities are refused
with the path of the field. It is the only door through which documents and entry bodies come in.
`from_stored` reads again what came in by that door. Both build with msgspec; what it cannot build, or
would build from too much, is walked through field by field, to be refused in words.
"""

from __future__ import annotations

import dataclasses
import hashlib
import json
import math
import threading
import types
from collections.abc import Mapping, Sequence
from functools import lru_cache
from typing import Any, Literal, TypeVar, Union, get_args, get_origin, get_type_hints

import msgspec

from .errors import Underspecified

__all__ = ["LATER", "canonical", "content_id", "from_plain", "from_stored", "to_plain"]

T = TypeVar("T")


#: metadata of a field that came after documents were named by their hash: unset, it is not in them
LATER = {"later": True}


def to_plain(value: Any) -> Any:
    """Dataclasses, tuples and mappings to dicts and lists; a LATER field that is not set is left out."""
    if dataclasses.is_dataclass(value) and not isinstance(value, type):
        if not _says_later(type(value)):
            return _lists(msgspec.to_builtins(value))
        return {
            f.name: to_plain(getattr(value, f.name))
            for f in dataclasses.fields(value)
            if not (f.metadata.get("later") and getattr(value, f.name) == f.default)
        }
    if isinstance(value, Mapping):
        return {str(k): to_plain(v) for k, v in value.items()}
    if isinstance(value, (list, tuple)):
        return [to_plain(v) for v in value]
    return value


def _lists(value: Any) -> Any:
    """Tuples to lists, all the way down."""
    if isinstance(value, dict):
        return {k: v if type(v) in _LEAVES else _lists(v) for k, v in value.items()}
    if isinstance(value, (list, tuple)):
        return [v if type(v) in _LEAVES else _lists(v) for v in value]
    return value


_LEAVES = frozenset((str, int, float, bool, type(None)))


@lru_cache(maxsize=512)
def _says_later(cls: type) -> bool:
    """Whether a dataclass, or any it may hold, has fields that came later."""
    seen: set[Any] = set()
    open_: list[Any] = [cls]
    while open_:
        hint = open_.pop()
        if hint is Any or hint in seen:
            continue
        seen.add(hint)
        open_ += get_args(hint)
        if dataclasses.is_dataclass(hint) and isinstance(hint, type):
            if any(f.metadata.get("later") for f in dataclasses.fields(hint)):
                return True
            open_ += get_type_hints(hint).values()
    return False


def canonical(value: Any) -> str:
    """JSON with sorted keys and no spaces. Raises ValueError on NaN or infinity."""
    return json.dumps(
        to_plain(value), sort_keys=True, separators=(",", ":"), allow_nan=False, ensure_ascii=False
    )


def content_id(value: Any) -> str:
    """sha256 of the canonical JSON, hexadecimal."""
    return hashlib.sha256(canonical(value).encode()).hexdigest()


def from_plain(cls: type[T], data: Any, path: str = "") -> T:
    """Build dataclass `cls` from plain data.  Raises Underspecified naming the field."""
    built = _converted(cls, data)
    # Equal when turned back: nothing was there that is not kept, and no NaN, which equals nothing.
    if built is not None and _lists(msgspec.to_builtins(built)) == data:
        return built
    walked: T = _build(cls, data, path)
    return walked


def from_stored(cls: type[T], data: Any) -> T:
    """Build dataclass `cls` from a document that came in by `from_plain` and was kept since.

    What was asked at the door is not asked again.  Raises Underspecified naming the field.
    """
    built = _converted(cls, data)
    if built is not None:
        return built
    walked: T = _build(cls, data, "")
    return walked


def _converted(cls: type[T], data: Any) -> T | None:
    if not _known(cls):
        return None
    try:
        return msgspec.convert(data, cls)
    except (msgspec.ValidationError, TypeError):
        return None


_BUILT: dict[Any, bool] = {}
_BUILDING = threading.Lock()


def _known(cls: type) -> bool:
    """Whether msgspec can build `cls`; the first to ask has it learn the type, and the others wait.

    It writes down what it has learnt of a type before it is through with it: a second thread that came upon
    that took the whole process down, in the moment after a start when every phone asks at once.
    """
    if cls not in _BUILT:
        with _BUILDING:
            if cls not in _BUILT:
                _BUILT[cls] = _learnt(cls)
    return _BUILT[cls]


def _learnt(cls: type) -> bool:
    try:
        msgspec.convert(None, cls)
    except msgspec.ValidationError:
        return True
    except TypeError:
        return False
    return True


@lru_cache(maxsize=256)
def _fields(cls: type) -> tuple[tuple[str, Any, bool], ...]:
    hints = get_type_hints(cls)
    return tuple(
        (
            f.name,
            hints[f.name],
            f.default is dataclasses.MISSING and f.default_factory is dataclasses.MISSING,
        )
        for f in dataclasses.fields(cls)
    )


def _build(hint: Any, data: Any, path: str) -> Any:
    where = path or "document"
    if hint is Any:  # checked by who knows more: the body of an entry by its kind
        return data
    if dataclasses.is_dataclass(hint):
        return _build_object(hint, data, path)
    origin = get_origin(hint)
    if origin in (Union, types.UnionType):
        if data is None and type(None) in get_args(hint):
            return None
        options = [a for a in get_args(hint) if a is not type(None)]
        # An exact type first: 720 stays a whole number where a union also allows fractions.
        options.sort(key=lambda option: option is not type(data))
        return _build_first(options, data, path)
    if origin is Literal:
        if data in get_args(hint) and not isinstance(data, bool):
            return data
        raise Underspecified(where, data, "one of " + ", ".join(map(str, get_args(hint))))
    if origin is tuple:
        if isinstance(data, str) or not isinstance(data, Sequence):
            raise Underspecified(where, data, "a list")
        (item, *_) = get_args(hint)
        return tuple(_build(item, v, f"{path}[{i}]") for i, v in enumerate(data))
    if origin is dict:
        if not isinstance(data, Mapping):
            raise Underspecified(where, data, "an object")
        _, item = get_args(hint)
        return {str(k): _build(item, v, f"{path}.{k}" if path else str(k)) for k, v in data.items()}
    return _build_scalar(hint, data, where)


def _build_object(cls: Any, data: Any, path: str) -> Any:
    if not isinstance(data, Mapping):
        raise Underspecified(path or "document", data, "an object")
    out = {}
    known = set()
    for name, hint, needed in _fields(cls):
        known.add(name)
        at = f"{path}.{name}" if path else name
        if name in data:
            out[name] = _build(hint, data[name], at)
        elif needed:
            raise Underspecified(at, None, "a value")
    for key in data:
        if key not in known:
            at = f"{path}.{key}" if path else str(key)
            raise Underspecified(at, data[key], "no such field; known: " + ", ".join(sorted(known)))
    return cls(**out)


def _build_first(options: list[Any], data: Any, path: str) -> Any:
    for option in options:
        try:
            return _build(option, data, path)
        except Underspecified as refusal:
            last = refusal
    raise last


_WORDS = {float: "a number", int: "a whole number", str: "text", bool: "true or false"}


def _build_scalar(hint: Any, data: Any, where: str) -> Any:
    is_number = isinstance(data, (int, float)) and not isinstance(data, bool)
    if hint is float and is_number and math.isfinite(data):
        return float(data)
    if hint is int and is_number and math.isfinite(data) and int(data) == data:
        return int(data)
    if hint is str and isinstance(data, str):
        return data
    if hint is bool and isinstance(data, bool):
        return data
    raise Underspecified(where, data, _WORDS.get(hint, str(hint)))
