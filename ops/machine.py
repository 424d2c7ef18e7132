"""Bringing a bare machine up: Debian packages, the Python environment, the built front end."""

from __future__ import annotations

import glob
import hashlib
import os
import shutil
import sys
from collections.abc import Iterable
from pathlib import Path

from .console import StepFailed, run, step
from .paths import ROOT, VENV, WEB, venv_bin

__all__ = ["CHROMIUM", "need_chromium", "need_postgres", "need_python", "need_web"]

CHROMIUM = Path("/usr/bin/chromium")
_updated = False


def _apt(*packages: str) -> None:
    global _updated
    as_root = [] if os.geteuid() == 0 else ["sudo"]
    remedy = f"Run: apt-get update && apt-get install {' '.join(packages)}"
    if as_root and shutil.which("sudo") is None:
        raise StepFailed("This user may not install packages and sudo is not there.", remedy)
    env = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    if not _updated:
        run([*as_root, "apt-get", "update", "-qq"], remedy=remedy, env=env)
        _updated = True
    run(
        [*as_root, "apt-get", "install", "-y", "-qq", "--no-install-recommends", *packages],
        remedy=remedy,
        env=env,
    )


def postgres_bin() -> Path | None:
    """The newest of Debian's PostgreSQL server folders."""
    found = glob.glob("/usr/lib/postgresql/*/bin/initdb")
    newest = sorted(found, key=lambda p: int(Path(p).parts[4]))
    return Path(newest[-1]).parent if newest else None


def need_postgres() -> Path:
    if postgres_bin() is None:
        step("Installing PostgreSQL", lambda: _apt("postgresql"))
    found = postgres_bin()
    assert found is not None
    return found


def need_chromium() -> None:
    if not CHROMIUM.exists():
        step("Installing Chromium", lambda: _apt("chromium"))


def _digest(paths: Iterable[Path]) -> str:
    h = hashlib.sha256()
    for p in sorted(paths):
        h.update(str(p.relative_to(ROOT)).encode() + b"\0" + p.read_bytes())
    return h.hexdigest()


def need_python(which: str) -> None:
    """The environment with requirements/<which>.txt; `dev` holds all of `base`."""
    lock = ROOT / "requirements" / f"{which}.txt"
    marks = [VENV / ".has-dev"] if which == "dev" else [VENV / ".has-base", VENV / ".has-dev"]
    for mark in marks:
        wanted = _digest([ROOT / "requirements" / f"{mark.name[5:]}.txt"])
        if mark.exists() and mark.read_text() == wanted and venv_bin("python").exists():
            return
    if not venv_bin("pip").exists():
        step("Making the Python environment", _make_venv)

    def install() -> None:
        for pins in (ROOT / "requirements" / "tools.txt", lock):  # what installs is pinned as well
            words = ["-m", "pip", "install", "-q", "--disable-pip-version-check", "--require-hashes", "-r"]
            run(
                [venv_bin("python"), *words, pins],
                remedy="Check that the package registry can be reached, then start again.",
            )

    step(f"Installing Python packages ({which}), some minutes the first time", install)
    (VENV / f".has-{which}").write_text(_digest([lock]))


def _make_venv() -> None:
    command = [sys.executable, "-m", "venv", "--clear", str(VENV)]
    remedy = "Install python3-venv, then start again."
    try:
        run(command, remedy=remedy)
    except StepFailed:
        _apt("python3-venv")
        run(command, remedy=remedy)


def _web_env() -> dict[str, str]:
    return {**os.environ, "PATH": f"{VENV / 'bin'}:{os.environ['PATH']}", "CI": "true"}


def need_node_modules() -> None:
    mark = WEB / "node_modules" / ".coatlog-lock"
    wanted = _digest([WEB / "package-lock.json"])
    if mark.exists() and mark.read_text() == wanted:
        return
    step(
        "Installing front-end packages",
        lambda: run(
            [venv_bin("npm"), "ci", "--no-audit", "--no-fund", "--ignore-scripts"],
            cwd=WEB,
            env=_web_env(),
            remedy="Check that the package registry can be reached, then start again.",
        ),
    )
    mark.write_text(wanted)


def need_web() -> None:
    """The built interface, rebuilt when a source file changed."""
    sources = [p for n in ("src", "sw", "public") for p in (WEB / n).rglob("*") if p.is_file()]
    sources += [WEB / n for n in ("index.html", "vite.config.ts", "package-lock.json", "svelte.config.js")]
    wanted = _digest(sources)
    mark = WEB / "dist" / ".built-from"
    if mark.exists() and mark.read_text() == wanted:
        return
    need_node_modules()
    step("Building the interface", _build_web)
    mark.write_text(wanted)


def _build_web() -> None:
    npm("run", "build")
    # Each file once more in the two forms browsers unpack: phones on a slipway have little reception.
    run(
        [venv_bin("python"), "-m", "whitenoise.compress", "-q", WEB / "dist"],
        remedy="Read the message above it.",
    )


def npm(*words: str) -> str:
    return run([venv_bin("npm"), *words], cwd=WEB, env=_web_env(), remedy="Read the message above it.")
