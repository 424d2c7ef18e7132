"""A module of the interface evaluated by the pinned Node: numbers in, numbers out."""

from __future__ import annotations

import json
import subprocess
from typing import Any

from ops.paths import WEB, venv_bin


def evaluate(module: str, expression: str) -> Any:
    """The value of an expression with the exports of web/src/`module` in scope as m."""
    path = (WEB / "src" / module).as_uri()
    code = f'import * as m from "{path}"; console.log(JSON.stringify({expression}));'
    done = subprocess.run(
        [str(venv_bin("node")), "--input-type=module", "--no-warnings", "-e", code],
        capture_output=True,
        text=True,
        timeout=30,
        check=False,
    )
    if done.returncode:
        raise AssertionError(done.stderr)
    return json.loads(done.stdout)
