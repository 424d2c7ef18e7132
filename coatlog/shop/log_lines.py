"""One line of JSON for each thing the server has to say, for a machine that collects them."""

from __future__ import annotations

import json
import logging
from datetime import UTC, datetime

__all__ = ["JsonLines"]


class JsonLines(logging.Formatter):
    """Time in UTC, level, who says it, what; with the traceback where there is one.  No request bodies."""

    def format(self, record: logging.LogRecord) -> str:
        """A record as one line."""
        line: dict[str, object] = {
            "at": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname.lower(),
            "by": record.name,
            "says": record.getMessage(),
        }
        status = getattr(record, "status_code", None)
        if status is not None:
            line["status"] = status
        if record.exc_info:
            line["trace"] = self.formatException(record.exc_info)
        return json.dumps(line, ensure_ascii=False, default=str)
