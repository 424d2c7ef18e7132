"""What a coat went on: the surface as its steps left it, against the surface the list means it to be.

Acid, water or grease under a coat ruins it; no key or the wrong grit is a risk.  Where nothing of a part's
preparation is on the log that is said once: what nobody wrote down is not known, and not known is no yes.
Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Iterator

from ..sheet import Sheet
from ..stack.step_catalogue import AT_FIRST
from .facts import Layer
from .part_log import PRACTICE, PartLog, Values, of_coat
from .states import LogFinding
from .step_list import before_coat
from .surface import AFTER_COAT, grit_off, ground_after, ground_listed, keys_or_cleans

__all__ = ["judge_preparation"]

GRACE_S = 60  # assumed: a tick that comes so late was meant for before


def judge_preparation(log: PartLog, i: int, sheet: Sheet, layer: Layer) -> Iterator[LogFinding]:
    """The surface coat `i` of a part went on."""
    record = log.records[i]
    if not log.listed:
        return
    start = record.started_at
    first = all(r.layer_id != record.layer_id for r in log.records[:i])
    works = before_coat(log.listed, layer.position) if first else ()
    if i == 0 and layer.position > 0:
        works = (*before_coat(log.listed, 0), *works)
    since = None if i == 0 else log.records[i - 1].done_at or log.records[i - 1].started_at
    deeds = [d for d in log.deeds if d.at <= start + GRACE_S and (since is None or d.at >= since)]
    at_first = AT_FIRST if i == 0 else AFTER_COAT
    want, got = ground_listed(works, at_first), ground_after(deeds, log.listed, at_first)

    def found(code: str, severity: str, **values: float | int | str) -> LogFinding:
        told: Values = values
        return of_coat(log, record, code, severity, start, values=told, why=PRACTICE)

    if keys_or_cleans(works) and not got.worked:
        if i == 0:
            yield found("prep.none", "risks")
        elif "keyed" in want.marks:
            yield found("prep.not_keyed", "risks")
        return
    if "neutral" not in got.marks:
        yield found("prep.acid", "ruins")
    if "dry" in want.marks and not got.dry_by(start):
        yield found("prep.wet", "ruins", wet_s=max(0, start - (got.wet_at or start)))
    if "degreased" in want.marks and "degreased" not in got.marks:
        yield found("prep.soiled", "ruins")
    elif got.ground_in and not want.ground_in:
        yield found("prep.ground_in", "risks")
    if "dustless" in want.marks and "dustless" not in got.marks:
        yield found("prep.dusty", "risks")
    if "keyed" in want.marks and "keyed" not in got.marks:
        yield found("prep.not_keyed", "risks")
    elif off := grit_off(got.grit, want.grit, sheet):
        listed = want.grit or sheet.properties.key_grit[-1]
        yield found(f"prep.{off}", "risks", got=got.grit or 0, wanted=listed)
