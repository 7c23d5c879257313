"""The weights that the shop has to hang on a piece."""

from __future__ import annotations

import sqlite3
from dataclasses import replace
from typing import Any

from adhaero.core.breaking import rack as racks
from adhaero.core.breaking.rack import Rack
from adhaero.store import shop
from adhaero.workflow.context import Act, AppContext


def rack(conn: sqlite3.Connection) -> Rack:
    """The weights of the shop."""
    said = shop.settings(conn).get("rack", {})
    weights = tuple((int(m), int(n)) for m, n in said.get("weights", ()))
    return Rack(weights, said.get("hanger_g", 0), said.get("vessel_g", 0))


def save_rack(w: AppContext, r: Rack, key: str | None) -> None:
    """Keep another rack."""
    sorted_ = replace(r, weights=tuple(sorted(r.weights, reverse=True)))
    clean = racks.checked(sorted_)

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        said = {"weights": [list(x) for x in clean.weights], "hanger_g": clean.hanger_g, "vessel_g": clean.vessel_g}
        shop.save_settings(conn, {"rack": said}, action_id)
        return {}

    w.perform(Act("shop", "rack", f"Rack of {sum(n for _, n in clean.weights)} weights", key=key, request=f"{r}"), body)
