"""./coat test, check, shots, bench: the same verbs here and in CI."""

from __future__ import annotations

import os
import subprocess
import tempfile
from pathlib import Path

from .cluster import throwaway
from .console import StepFailed, run, say, step
from .machine import need_chromium, need_node_modules, need_python, need_web, npm
from .paths import ROOT, WEB, venv_bin
from .serve import web_env

__all__ = ["bench", "check", "schema", "shots", "test"]

OPENAPI = ROOT / "docs" / "openapi.json"
JOB_SCHEMA = ROOT / "docs" / "job.schema.json"
TYPES = WEB / "src" / "api" / "schema.d.ts"


def _test_env(url: str) -> dict[str, str]:
    env = web_env(url, secret="for tests only")
    env |= {
        "COATLOG_TEST_SESSIONS": "on",
        "COATLOG_CLOCK_SETTABLE": "on",
        "PYTHONWARNINGS": "default::DeprecationWarning:coatlog",
    }
    return env


def test(labels: list[str]) -> int:
    """All tests under Django's runner, on a throwaway database."""
    need_python("dev")
    need_chromium()
    need_web()
    with throwaway() as cluster:
        command = [
            venv_bin("python"),
            ROOT / "manage.py",
            "test",
            "--noinput",
            "--timing",
            "--parallel",
            "2",
            *(labels or ["coatlog", "e2e"]),
        ]
        return subprocess.run(
            [str(c) for c in command], cwd=ROOT, env=_test_env(cluster.url), check=False
        ).returncode


def shots(words: list[str]) -> int:
    """docs/screenshots from the demo, time frozen."""
    need_python("dev")
    need_chromium()
    need_web()
    with throwaway() as cluster:
        env = _test_env(cluster.url) | {"COATLOG_SHOTS": str(ROOT / "docs" / "screenshots")}
        command = [venv_bin("python"), ROOT / "manage.py", "test", "--noinput", "e2e.shots", *words]
        return subprocess.run([str(c) for c in command], cwd=ROOT, env=env, check=False).returncode


def bench(words: list[str]) -> int:
    """Speed figures as ratios."""
    need_python("dev")
    need_web()
    with throwaway(durable=True) as cluster:
        env = _test_env(cluster.url)
        command = [
            venv_bin("python"),
            ROOT / "manage.py",
            "test",
            "--noinput",
            "e2e.bench",
            "e2e.bench_first",
            "e2e.bench_full",
            "e2e.bench_kills",
            "e2e.bench_plan",
            "e2e.bench_soak",
            "e2e.bench_stack",
            *words,
        ]
        return subprocess.run([str(c) for c in command], cwd=ROOT, env=env, check=False).returncode


def check(words: list[str]) -> int:
    """Everything that can be checked without running the product."""
    need_python("dev")
    need_node_modules()
    python = venv_bin("python")
    env = web_env("postgres://nobody@127.0.0.1:1/none", secret="for checks only")
    plain = {"cwd": ROOT, "env": env}

    def tool(*command: str | Path, remedy: str) -> None:
        run(command, remedy=remedy, **plain)  # type: ignore[arg-type]

    ruff = venv_bin("ruff")
    step("ruff, style", lambda: tool(ruff, "check", ".", remedy="./.venv/bin/ruff check --fix ."))
    step("ruff, layout", lambda: tool(ruff, "format", "--check", ".", remedy="./.venv/bin/ruff format ."))
    step("mypy, types", lambda: tool(venv_bin("mypy"), remedy="Mend the types named."))
    step(
        "import rules",
        lambda: tool(
            venv_bin("lint-imports"), "--no-cache", remedy="Imports go one way: see docs/decisions."
        ),
    )
    step(
        "migrations",
        lambda: tool(
            python,
            ROOT / "manage.py",
            "makemigrations",
            "--check",
            "--dry-run",
            remedy="Run manage.py makemigrations.",
        ),
    )
    step("API drift", lambda: _drift(env))
    step("svelte-check, types of the interface", lambda: npm("run", "check"))
    step("eslint", lambda: npm("run", "lint"))
    step("no words outside the catalogues", lambda: npm("run", "words"))
    step(
        "what the server says, in every language",
        lambda: tool(
            python, "-m", "ops.sentences", remedy="Add the lines named to web/src/words/served.*.json."
        ),
    )
    step(
        "third-party notices",
        lambda: tool(python, "-m", "ops.notices", "--check", remedy="./.venv/bin/python -m ops.notices"),
    )
    step("prettier", lambda: npm("run", "format"))
    say("All checks passed.")
    return 0


def _write_openapi(target: Path, env: dict[str, str]) -> None:
    run(
        [
            venv_bin("python"),
            ROOT / "manage.py",
            "export_openapi_schema",
            "--api",
            "config.api.api",
            "--sorted",
            "--indent",
            "1",
            "--output",
            target,
        ],
        cwd=ROOT,
        env=env,
        remedy="The API does not import; read the message.",
    )
    target.write_text(target.read_text().rstrip() + "\n")


def _job_schema(env: dict[str, str]) -> str:
    remedy = "The document of a job does not import; read the message."
    return run([venv_bin("python"), ROOT / "manage.py", "job_schema"], cwd=ROOT, env=env, remedy=remedy)


def _drift(env: dict[str, str]) -> None:
    remedy = "Run ./coat schema and commit what it writes."
    with tempfile.TemporaryDirectory() as folder:
        fresh = Path(folder) / "openapi.json"
        _write_openapi(fresh, env)
        if not OPENAPI.exists() or fresh.read_text() != OPENAPI.read_text():
            raise StepFailed("docs/openapi.json is not what the API says.", remedy)
        if not JOB_SCHEMA.exists() or _job_schema(env) != JOB_SCHEMA.read_text():
            raise StepFailed("docs/job.schema.json is not what an exported job is.", remedy)
        types = Path(folder) / "schema.d.ts"
        npm("exec", "--", "openapi-typescript", str(fresh), "-o", str(types))
        if not TYPES.exists() or types.read_text() != TYPES.read_text():
            raise StepFailed("web/src/api/schema.d.ts is not generated from docs/openapi.json.", remedy)


def schema(words: list[str]) -> int:
    """Write the API document, the schema of an exported job, and the types generated from the API."""
    need_python("dev")
    need_node_modules()
    env = web_env(
        os.environ.get("DATABASE_URL", "postgres://nobody@127.0.0.1:1/none"), secret="for checks only"
    )
    step("docs/openapi.json", lambda: _write_openapi(OPENAPI, env))
    step("docs/job.schema.json", lambda: JOB_SCHEMA.write_text(_job_schema(env)))
    step("web/src/api/schema.d.ts", lambda: npm("run", "types"))
    return 0
