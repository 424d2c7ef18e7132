"""What turns a surface as it is found into one that can be coated, read from `preps.toml`."""

from __future__ import annotations

import tomllib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from ..codec import from_plain, to_plain
from .step_catalogue import Done, read_step
from .surfaces import SUBSTRATES, Substrate

__all__ = ["PREPS", "Prep", "path_of", "path_words", "prepared"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Prep:
    """From one of `froms` to `to`, by these steps.

    `instead`: what one does otherwise, and when it wins.  `unless`, `only`: features of a part that bar it
    or without which it does not lead there.
    """

    id: str
    name: str
    froms: tuple[str, ...]
    to: str
    steps: tuple[Done, ...]
    instead: str = ""
    unless: tuple[str, ...] = ()
    only: tuple[str, ...] = ()


_DATA = tomllib.loads((Path(__file__).parent / "preps.toml").read_text(encoding="utf-8"))
PREPS: tuple[Prep, ...] = tuple(
    from_plain(Prep, {**row, "steps": [to_plain(read_step(x)) for x in row["steps"]]})
    for row in _DATA["prep"]
)


def prepared(substrate: str, features: tuple[str, ...] = ()) -> Iterator[tuple[Substrate, tuple[Prep, ...]]]:
    """The surface as found, and every one it can be turned into in one or two preparations.

    Each surface once, by its shortest way.
    """
    known = {substrate}
    edge: list[tuple[str, tuple[Prep, ...]]] = [(substrate, ())]
    while edge:
        further = []
        for at, path in edge:
            yield SUBSTRATES[at], path
            for prep in PREPS:
                barred = any(f in features for f in prep.unless)
                barred = barred or not all(f in features for f in prep.only)
                if at in prep.froms and prep.to not in known and not barred and len(path) < 2:
                    known.add(prep.to)
                    further.append((prep.to, (*path, prep)))
        edge = further


def path_words(path: tuple[Prep, ...]) -> str:
    """A way of preparing as a job keeps it: ids, in order."""
    return "+".join(p.id for p in path)


def path_of(substrate: str, words: str, features: tuple[str, ...] = ()) -> tuple[Prep, ...] | None:
    """The way of preparing a job keeps, on this surface; None: it does not lead on from here."""
    for _, path in prepared(substrate, features):
        if path_words(path) == words:
            return path
    return None
