"""A seeded batch of 32 glues x 40 pieces, planned, measured, glued and broken."""

from __future__ import annotations

import random
from datetime import UTC, datetime, timedelta
from pathlib import Path

from adhaero.core.observation import Kind, Observation
from adhaero.core.plan.document import Factor, Level, first_plan
from adhaero.store import observations, specimens
from adhaero.store.actions import Act, record
from adhaero.store.database import Database
from adhaero.store.observations import Observed
from adhaero.workflow.context import AppContext, iso
from adhaero.workflow.cut import cutting
from adhaero.workflow.cut.cutting import Typed
from adhaero.workflow.glue import after, glueup_entry
from adhaero.workflow.glue.glueup_entry import NewGlueup
from adhaero.workflow.plan import planning

SEED = 20417
PIECES = 1280


def big_batch(folder: Path) -> tuple[AppContext, int]:
    """A workshop with one batch of 1,280 joints in 8 glues x 16 pressures, all broken but the last ten."""
    rng = random.Random(SEED)
    now = datetime(2026, 11, 23, 9, tzinfo=UTC)
    db = Database(folder / "adhaero.db")
    db.migrate()
    w = AppContext(db, lambda: now, lambda: SEED)
    batch = int(planning.create(w, "A thousand pieces")["id"])
    glues = ("pva-indoor", "pva-damp", "pva-wet", "polyurethane", "epoxy-slow", "urea-resin", "casein", "hide-hot")
    factors = (
        Factor("glue", "Glue", tuple(Level(g) for g in glues)),
        Factor("pressure_mpa", "Clamp pressure", tuple(Level(0.1 + 0.1 * i, "MPa") for i in range(16))),
    )
    base = first_plan()
    constants = {k: v for k, v in base.constants.items() if k != "pressure_mpa"}
    plan = {**base.to_json(), "question": "How hard to clamp which glue?", "replicates": PIECES // 128,
            "solid_reference": 0, "control": {f.key: "l1" for f in factors}}  # fmt: skip
    plan["factors"] = [{"key": f.key, "name": f.name, "levels": [vars(v) for v in f.levels]} for f in factors]
    plan["constants"] = {k: vars(v) for k, v in constants.items()}
    planning.save_draft(w, batch, 1, "A thousand pieces", plan, None)
    planning.lock(w, batch, 2, "", None)
    rows = cutting.view(w, batch).rows
    cells = [
        Typed(r.code, q, f"{n + rng.gauss(0, 0.1):.1f}") for r in rows for q, n in (("width", 20), ("overlap", 25))
    ]
    cutting.measure(w, batch, cells, "", None)
    early = now - timedelta(days=4)
    new = NewGlueup([r.code for r in rows], "", early, 18.0, 50.0, "", 400.0, 1, "estimated", None, "one", "")
    glueup_entry.add_glueup(w, batch, new, None)
    after.unclamp(w, batch, [r.code for r in rows], early + timedelta(hours=5), "", "", None)
    with db.write() as conn:
        for piece in sorted(specimens.specimens(conn, batch), key=lambda s: s.break_order)[:-10]:
            load = rng.gauss(5000, 700)
            o = Observation(Kind.EXACT, load, load, failure_mode="in-glue", wood_failure_pct=20.0)
            action = record(conn, Act("break", "observe", "Broke", batch), iso(now))
            observations.add(conn, Observed(0, piece.id, None, None, o, None, "typed", iso(now), ""), action)
    return w, batch
