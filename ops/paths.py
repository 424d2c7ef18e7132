"""Where things are.  The database and its secrets lie outside the checkout."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path

__all__ = ["ROOT", "VENV", "WEB", "home", "venv_bin"]

ROOT = Path(__file__).resolve().parent.parent
VENV = ROOT / ".venv"
WEB = ROOT / "web"


def venv_bin(name: str) -> Path:
    return VENV / "bin" / name


def home() -> Path:
    """This checkout's own folder for data, logs and secrets.  COATLOG_HOME overrides it."""
    if given := os.environ.get("COATLOG_HOME"):
        return Path(given)
    name = f"{ROOT.name}-{hashlib.sha256(str(ROOT).encode()).hexdigest()[:8]}"
    if os.geteuid() == 0:
        return Path("/var/lib/coatlog") / name
    base = os.environ.get("XDG_DATA_HOME") or str(Path.home() / ".local" / "share")
    return Path(base) / "coatlog" / name
