"""A life of work: 500 batches of 24 pieces. The start of the program, the screens, and a search, in one run."""

from __future__ import annotations

import random
import statistics
import time
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path

from fastapi.testclient import TestClient

from adhaero.api.app import create_app
from adhaero.core.observation import Kind, Observation
from adhaero.store import observations, specimens
from adhaero.store.actions import Act, record
from adhaero.store.database import Database
from adhaero.store.observations import Observed
from adhaero.workflow.context import AppContext, iso
from adhaero.workflow.glue import after, glueup_entry
from adhaero.workflow.glue.glueup_entry import NewGlueup
from adhaero.workflow.plan import planning

BATCHES, EACH, SEED = 500, 6, 20417
GLUES = ("pva-indoor", "pva-damp", "polyurethane", "epoxy-slow")
NOW = datetime(2026, 11, 23, 9, tzinfo=UTC)
WORDS = ("window open", "sat crooked", "resin", "beech", "glue-up 17")


def _shop(db: Database, seed: int) -> AppContext:
    rng = random.Random(seed)
    return AppContext(db, lambda: NOW, lambda: rng.randrange(2**31))


def fill(folder: Path) -> None:
    """Plan, glue and break the batches; the last one is left with four pieces to break."""
    db = Database(folder / "adhaero.db")
    db.migrate()
    w, rng = _shop(db, SEED), random.Random(SEED)
    for n in range(BATCHES):
        batch = int(planning.create(w, f"Study {n + 1}")["id"])
        view = planning.view(w, batch)
        plan = {
            **view.document, "question": f"Which glue holds best in study {n + 1}?", "replicates": EACH,
            "solid_reference": 0, "control": {"glue": "l1"},
            "factors": [{"key": "glue", "name": "Glue", "levels": [{"value": g, "unit": ""} for g in GLUES]}],
        }  # fmt: skip
        planning.save_draft(w, batch, 1, f"Study {n + 1}", plan, None)
        planning.lock(w, batch, 2, "", None)
        with db.read() as conn:
            pieces = sorted(specimens.specimens(conn, batch), key=lambda s: s.break_order)
        codes = [s.code for s in pieces]
        early = NOW - timedelta(days=4)
        note = rng.choice(("window was open", "bottle nearly empty", "warm day", ""))
        new = NewGlueup(codes, "", early, 18.0, 50.0, "", 400.0, 1, "estimated", None, "one", note)
        glueup_entry.add_glueup(w, batch, new, None)
        after.unclamp(w, batch, codes, early + timedelta(hours=5), "", "", None)
        left = 4 if n == BATCHES - 1 else 0
        with db.write() as conn:
            for piece in pieces[: len(pieces) - left]:
                load = rng.gauss(5000, 700)
                o = Observation(Kind.EXACT, load, load, failure_mode="in-glue", wood_failure_pct=20.0,
                                note=rng.choice(("sat crooked", "", "", "")))  # fmt: skip
                action = record(conn, Act("break", "observe", "Broke", batch), iso(NOW))
                observations.add(conn, Observed(0, piece.id, None, None, o, None, "typed", iso(NOW), ""), action)


def life_of_work(folder: Path) -> None:
    """Print what it takes with everything on record, beside a call that needs no data."""
    fill(folder)
    print(f"\nA life of work: {BATCHES} batches, {BATCHES * EACH * len(GLUES):,} pieces")
    for start in ("first start ever", "a start"):
        w = _shop(Database(folder / "adhaero.db"), SEED + 1)
        with TestClient(create_app(w), base_url="http://127.0.0.1") as client:
            calls: dict[str, Callable[[], object]] = {
                "Today": lambda c=client: c.get("/api/today"),
                "plan": lambda c=client: c.get(f"/api/batches/{BATCHES}/plan"),
                "search": lambda c=client: c.get("/api/search?text=window+open"),
            }
            print("  " + start + ": " + ", ".join(f"{name} {_once(call):.0f} ms" for name, call in calls.items()))
            if start == "a start":
                _screens(client)


def _once(call: Callable[[], object]) -> float:
    begun = time.perf_counter()
    call()
    return 1000 * (time.perf_counter() - begun)


def _screens(client: TestClient) -> None:
    rng = random.Random(3)
    bare = statistics.median(_once(lambda: client.post("/api/levels", json={"text": "1 mm"})) for _ in range(50))
    size = {"label": "Jug", "family": "pva-damp"}
    print(f"  {'each of another batch':32}{'median ms':>10}{'p95 ms':>9}{'x bare':>8}{'after a write':>15}")
    paths = {
        "today": "/api/today", "plan": "/api/batches/{b}/plan", "cut": "/api/batches/{b}/cut",
        "glue": "/api/batches/{b}/glue", "break": "/api/batches/{b}/break", "compare": "/api/batches/{b}/compare",
        "specimens.csv": "/api/batches/{b}/specimens.csv", "search": "/api/search?text={q}",
    }  # fmt: skip
    for name, path in paths.items():

        def call(path: str = path) -> None:
            found = client.get(path.format(b=rng.randint(1, BATCHES), q=rng.choice(WORDS)))
            assert found.status_code == 200, found.text[:200]

        times = sorted(_once(call) for _ in range(60))
        after_write = []
        for n in range(20):
            client.post("/api/bottles", json={**size, "label": f"Jug {name} {n}"})
            after_write.append(_once(call))
        late = sorted(after_write)[18]
        print(f"  {name:32}{times[30]:10.1f}{times[57]:9.1f}{times[30] / bare:8.1f}{late:15.1f}")
