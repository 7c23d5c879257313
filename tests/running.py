"""A workshop for tests: a scratch data file, a clock that stands, seeds that repeat; and ways to move a batch along."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from itertools import count
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from fastapi import FastAPI
from fastapi.testclient import TestClient

from adhaero.api.app import create_app
from adhaero.store.database import Database
from adhaero.workflow.context import AppContext

START = datetime(2026, 11, 23, 8, 30, tzinfo=UTC)
FOUR_GLUES = ("pva-damp", "polyurethane", "epoxy-slow", "urea-resin")
HOST = "http://127.0.0.1"
_APPS: list[FastAPI] = []
_EMPTY: list[bytes] = []
"""An empty data file: made once, since its migrations take longer than most tests."""


@dataclass
class Clock:
    """A clock that stands until it is moved."""

    at: datetime = START

    def __call__(self) -> datetime:
        return self.at

    def pass_(self, **step: float) -> None:
        self.at += timedelta(**step)


@dataclass
class App:
    """A running application without a network, its clock, and short words for what a user does."""

    client: TestClient
    clock: Clock
    context: AppContext
    keys: Iterator[int] = field(default_factory=count)

    def get(self, path: str, status: int = 200) -> Any:
        response = self.client.get(f"/api{path}")
        assert response.status_code == status, response.text
        return response.json()

    def post(self, path: str, body: Any = None, status: int = 200, **headers: str) -> Any:
        if path.endswith("/unclamp") and isinstance(body, dict):
            # The clock of a test stands: its joints leave their clamps early, and that is asked about.
            body = {"confirmed": ["clamps early"], **body}
        response = self.client.post(f"/api{path}", json=body, headers=headers)
        assert response.status_code == status, response.text
        return response.json()

    def patch(self, path: str, body: Any, status: int = 200, **headers: str) -> Any:
        response = self.client.patch(f"/api{path}", json=body, headers=headers)
        assert response.status_code == status, response.text
        return response.json()

    def put(self, path: str, body: Any, status: int = 200) -> Any:
        response = self.client.put(f"/api{path}", json=body)
        assert response.status_code == status, response.text
        return response.json()

    def batch(self, name: str = "Laminations") -> int:
        return int(self.post("/batches", {"name": name}, 201)["id"])

    def draft(self, batch: int, status: int = 200, **changes: Any) -> Any:
        """Change the draft; the answer is the new plan, or the problem."""
        plan = self.get(f"/batches/{batch}/plan")
        body = {"version": plan["version"], "name": plan["name"], "document": {**plan["document"], **changes}}
        return self.put(f"/batches/{batch}/plan", body, status)

    def planned(
        self, *glues: str, name: str = "Laminations", replicates: int = 3, solid: int = 3, **changes: Any
    ) -> int:
        """A batch with glue as its factor, ready to be locked."""
        batch = self.batch(name)
        chosen = glues or FOUR_GLUES
        levels = [{"value": g, "unit": "", "id": f"l{i}"} for i, g in enumerate(chosen, 1)]
        factor = {"key": "glue", "name": "Glue", "levels": levels}
        self.draft(
            batch,
            question="Which glue?",
            factors=[factor],
            control={"glue": "l1"},
            replicates=replicates,
            solid_reference=solid,
            **changes,
        )
        return batch

    def lock(self, batch: int, status: int = 200) -> Any:
        version = self.get(f"/batches/{batch}/plan")["version"]
        return self.post(f"/batches/{batch}/lock", {"version": version}, status)

    def locked(self, *glues: str, **changes: Any) -> int:
        batch = self.planned(*glues, **changes)
        self.lock(batch)
        return batch

    def sizes(self, batch: int, cells: list[tuple[str, str, str]], status: int = 200) -> Any:
        """Type sizes; the answer is the cut sheet afterwards, or the problem."""
        body = {"cells": [{"code": c, "quantity": q, "text": t} for c, q, t in cells]}
        answer = self.post(f"/batches/{batch}/sizes", body, status)
        return self.get(f"/batches/{batch}/cut") if status == 200 else answer

    def codes(self, batch: int, role: str | None = None) -> list[str]:
        return [r["code"] for r in self.get(f"/batches/{batch}/cut")["rows"] if role in (None, r["role"])]

    def glue(self, batch: int, codes: list[str] | None = None, status: int = 200, **more: Any) -> Any:
        """Glue joints, all unless told; the answer is the glue stage afterwards, or the problem."""
        chosen = codes if codes is not None else self.codes(batch, "joint")
        # What tests glue with is the bottle that they have: the question about it is answered beforehand.
        body = {"codes": chosen, "force_n": 400.0, "confirmed": ["other glue"], **more}
        answer = self.post(f"/batches/{batch}/glueups", body, status)
        return self.get(f"/batches/{batch}/glue") if status == 200 else answer

    def observe(self, batch: int, code: str, status: int = 200, **more: Any) -> Any:
        # Most tests break joints that nobody glued: the doubt is answered beforehand.
        body = {"code": code, "kind": "exact", "confirmed": ["early"], **more}
        return self.post(f"/batches/{batch}/observations", body, status)

    def observe_anew(self, batch: int, code: str, **more: Any) -> None:
        """Another reading takes the place of the one that a piece has."""
        self.observe(batch, code, 200, confirmed=["early", "has a result"], **more)

    def break_all(self, batch: int, loads: dict[str, list[float]]) -> None:
        """Break all pieces with the given loads (N) for each treatment letter."""
        left = {k: list(v) for k, v in loads.items()}
        for row in self.get(f"/batches/{batch}/break")["rows"]:
            self.observe(batch, row["code"], low=f"{left[row['treatment']].pop()} N", failure_mode="in-glue")

    def compare(self, batch: int, **query: Any) -> Any:
        text = "&".join(f"{k}={v}" for k, v in query.items())
        return self.get(f"/batches/{batch}/compare?{text}")


def _empty() -> bytes:
    if not _EMPTY:
        with TemporaryDirectory() as folder:
            made = Database(Path(folder) / "adhaero.db")
            made.open_up()
            with closing(sqlite3.connect(made.path)) as conn:
                conn.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            _EMPTY.append(made.path.read_bytes())
    return _EMPTY[0]


@contextmanager
def open_app(folder: Path, hand_port: int | None = None) -> Iterator[App]:
    """A bench on a data file in ``folder``; opened again, it finds what was left there."""
    clock, seeds = Clock(), count(100)
    db = Database(folder / "adhaero.db")
    if not db.path.exists():
        folder.mkdir(parents=True, exist_ok=True)
        db.path.write_bytes(_empty())
    db.open_up()
    context = AppContext(db, clock, lambda: next(seeds), hand_port=hand_port)
    # Making an application takes longer than most tests: one that is done with serves the next workshop.
    served = _APPS.pop() if _APPS else create_app(webroot=Path("no-front-end"))
    served.state.context = context
    with TestClient(served, base_url=HOST, raise_server_exceptions=False) as client:
        yield App(client, clock, context)
    _APPS.append(served)


def overturning(view: Any) -> list[str]:
    """What could overturn the answer of a comparison."""
    return [c["text"] for c in view["caveats"] if c["weight"] == 0]


def fields(problem: Any) -> set[str]:
    """The fields that a problem document names."""
    return {e["field"] for e in problem["errors"]}
