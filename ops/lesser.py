"""Who the web server and the planner run as: nobody in particular, where the machine lets them."""

from __future__ import annotations

import os
import pwd
import subprocess
from collections.abc import Callable
from typing import TypedDict

from .paths import ROOT, venv_bin

__all__ = ["Rights", "lesser_rights"]

NOBODY = "nobody"


class Rights(TypedDict, total=False):
    """For a new process: whose rights it has; empty: those of who starts it."""

    user: int
    group: int
    extra_groups: list[int]


def lesser_rights(
    env: dict[str, str],
    *,
    uid: int | None = None,
    can_read: Callable[[Rights, dict[str, str]], bool] | None = None,
) -> Rights:
    """Rights of nobody for one who is root, if nobody can read the program; else one's own."""
    if (os.geteuid() if uid is None else uid) != 0:
        return {}
    who = pwd.getpwnam(NOBODY)
    lesser: Rights = {"user": who.pw_uid, "group": who.pw_gid, "extra_groups": []}
    return lesser if (can_read or _can_read)(lesser, env) else {}


def _can_read(lesser: Rights, env: dict[str, str]) -> bool:
    try:
        done = subprocess.run(
            [str(venv_bin("python")), "-c", "import config.wsgi"],
            cwd=ROOT, env=env, stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
            timeout=60, check=False, **lesser,
        )  # fmt: skip
    except (OSError, subprocess.SubprocessError):
        return False
    return done.returncode == 0
