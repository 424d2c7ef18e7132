"""Visible steps, and failures that say which step, why, and what to do."""

from __future__ import annotations

import subprocess
import sys
import time
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TypeVar

__all__ = ["StepFailed", "run", "say", "step"]

T = TypeVar("T")


class StepFailed(Exception):
    """A step that did not work: what, why, and what to do about it."""

    def __init__(self, why: str, remedy: str) -> None:
        self.why, self.remedy = why, remedy
        super().__init__(why)


def say(text: str = "") -> None:
    print(text, flush=True)


def step(name: str, work: Callable[[], T], *, quiet_under_s: float = 0.0) -> T:
    """Run one named step and print how long it took.  Exits with words when it fails."""
    started = time.monotonic()
    if not quiet_under_s:
        print(f"  {name} ...", end="", flush=True)
    try:
        out = work()
    except StepFailed as failure:
        say("" if quiet_under_s else " failed")
        say(f"\nStopped at: {name}\nWhy: {failure.why}\nDo this: {failure.remedy}")
        sys.exit(1)
    took = time.monotonic() - started
    if not quiet_under_s:
        say(f" {took:.1f} s" if took >= 0.05 else " done")
    return out


def run(
    command: Sequence[str | Path],
    *,
    remedy: str,
    cwd: Path | None = None,
    env: dict[str, str] | None = None,
    timeout_s: int = 1800,
    follow: bool = False,
    said: str | None = None,
) -> str:
    """Run a command quietly; on failure raise StepFailed with the end of what it printed.

    `follow`: what it says on its error stream, progress among it, is shown as it comes.  `said`: what it is
    told on its standard input.
    """
    try:
        done = subprocess.run(
            [str(c) for c in command],
            cwd=cwd,
            env=env,
            input=said or "",
            stdout=subprocess.PIPE,
            stderr=None if follow else subprocess.STDOUT,
            text=True,
            timeout=timeout_s,
            check=False,
        )
    except FileNotFoundError:
        raise StepFailed(f"{command[0]} is not there.", remedy) from None
    except subprocess.TimeoutExpired:
        raise StepFailed(f"{command[0]} took longer than {timeout_s} s.", remedy) from None
    if done.returncode != 0:
        tail = "\n     ".join(done.stdout.strip().splitlines()[-12:])
        raise StepFailed(f"{Path(str(command[0])).name} ended with {done.returncode}:\n     {tail}", remedy)
    return done.stdout
