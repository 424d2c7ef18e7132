"""The verbs of ./coat."""

from __future__ import annotations

import sys

from .console import say

__all__ = ["main"]

USAGE = """Coat Log. Verbs:
  ./coat start            set up what is missing, load the demo shop, serve it
  ./coat start --lan      the same for the phones of the shop: HTTPS on the local network
  ./coat backup FILE      write the whole database to a file; FOLDER --keep 14: the newest of many
  ./coat restore FILE     fill an empty database from such a file
  ./coat test [labels]    all tests, or those named
  ./coat check            style, types, import rules, migrations, API drift
  ./coat shots            make docs/screenshots anew
  ./coat bench            speed figures, as ratios measured side by side
  ./coat schema           write docs/openapi.json, docs/job.schema.json and the types anew"""


def main(words: list[str]) -> int:
    verb, rest = (words[0], words[1:]) if words else ("", [])
    if verb == "start" and (not rest or (rest[0] == "--lan" and len(rest) <= 2)):
        from .serve import start

        return start(lan=None if not rest else (rest[1:] or [""])[0])
    from . import backup, tasks

    verbs = {
        "backup": backup.backup,
        "restore": backup.restore,
        "test": tasks.test,
        "check": tasks.check,
        "shots": tasks.shots,
        "bench": tasks.bench,
        "schema": tasks.schema,
    }
    if verb in verbs:
        try:
            return verbs[verb](rest)
        except KeyboardInterrupt:
            return 130
    say(USAGE)
    if verb in ("", "help", "--help", "-h"):
        return 0
    say(f"\nUnknown: {' '.join(words)}")
    return 2


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
