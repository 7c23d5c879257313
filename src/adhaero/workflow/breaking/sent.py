"""Loads that a logger or a script sends: by the piece's code alone, with a unit, and no harm in sending twice."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import datetime
from typing import Any

from adhaero.core.observation import Kind, Observation
from adhaero.core.plan.codes import read_code
from adhaero.core.refusal import refuse
from adhaero.store import specimens
from adhaero.workflow.breaking import observing
from adhaero.workflow.context import AppContext


def take_load(
    w: AppContext, code: str, o: Observation, load: str, *, person: str, key: str | None, at: datetime | None,
    confirmed: Sequence[str],
) -> dict[str, Any]:  # fmt: skip
    """Write down what an instrument showed at the break of a piece of any batch. ``load`` has its unit: a script knows
    nothing of the units of the shop. Raises ``Refusal`` without one, and without an idempotency key.
    """
    if key is None:
        raise refuse("Idempotency-Key", "is missing", "Send a header with a key of your own for each reading.")
    if o.kind not in (Kind.FELL_APART, Kind.VOID) and re.fullmatch(r"[-+\d.,\s]*", load):
        raise refuse("load", f"{load.strip()!r} has no unit", "Send it with its unit, like 3480 N.")
    with w.db.read() as conn:
        found = specimens.find_code(conn, read_code(code))
    if found is None:
        raise refuse("code", f"there is no piece {code}", "Read the label again.")
    return observing.observe(w, found[1], code, o, pull_id=None, source="typed", person=person, key=key, at=at,
                             confirmed=confirmed, typed=(load, ""))  # fmt: skip
