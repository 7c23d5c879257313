"""A server that is killed in the middle of pulls, and what is on disk afterwards."""

from __future__ import annotations

import json
import random
import sqlite3
import time
import urllib.error
import urllib.request
from contextlib import closing
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from adhaero.store import curves
from tests.e2e.server import Rig, Server
from tests.rig.harness import wait_for


@dataclass
class Kill:
    """One kill: what the server had said of the pull just before, and what was found after it."""

    code: str
    acknowledged: int
    received_s: float
    stored: int = 0
    stored_s: float = 0.0
    alive: bool = False
    readings: int = 0


@dataclass
class Workshop:
    """A server and a rig as processes, with a batch of joints to break."""

    folder: Path
    rig: Rig
    server: Server = field(init=False)
    batch: int = 0

    def __post_init__(self) -> None:
        self.server = Server(self.folder, self.rig)
        self.server.start()
        rig = {"name": "Press", "port": self.rig.url, "capacity": 20000, "step": 1, "fixture": "Shear 1"}
        self.call("PUT", "/rig", rig)
        self.batch = self.call("POST", "/batches", {"name": "Killed"})["id"]
        plan = self.call("GET", f"/batches/{self.batch}/plan")
        levels = [{"value": g, "unit": "", "id": f"l{i}"} for i, g in enumerate(("pva-damp", "casein"), 1)]
        document = plan["document"] | {
            "question": "Which?", "factors": [{"key": "glue", "name": "Glue", "levels": levels}],
            "control": {"glue": "l1"}, "replicates": 30, "solid_reference": 0,
        }  # fmt: skip
        body = {"version": plan["version"], "name": plan["name"], "document": document}
        version = self.call("PUT", f"/batches/{self.batch}/plan", body)["version"]
        self.call("POST", f"/batches/{self.batch}/lock", {"version": version})
        self.left = [r["code"] for r in self.call("GET", f"/batches/{self.batch}/break")["rows"]]

    def call(self, method: str, path: str, body: Any = None, key: str = "") -> Any:
        headers = {"Content-Type": "application/json", **({"Idempotency-Key": key} if key else {})}
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(self.server.url + "/api" + path, data, headers, method=method)
        with urllib.request.urlopen(request, timeout=30) as answer:
            return json.loads(answer.read() or b"null")

    def try_to(self, method: str, path: str, body: Any = None, key: str = "") -> Any:
        try:
            return self.call(method, path, body, key)
        except (OSError, urllib.error.HTTPError):
            return None

    def live(self) -> Any:
        return self.call("GET", "/rig/live")

    def kill_in_a_pull(self, rng: random.Random) -> Kill:
        """Begin a pull, kill the server at a random moment of it (or while its reading is saved), and start again."""
        code = self.left.pop()
        body = {"code": code, "confirmed": ["early"]}
        # The rig pulls on while the server is away: a pull begins once it is at rest again.
        begun = wait_for(lambda: self.try_to("POST", f"/batches/{self.batch}/pulls", body), "a rig at rest")
        self.call("POST", f"/batches/{self.batch}/hand", {"do": "pull", "code": code, "seconds": 0.6})
        time.sleep(rng.uniform(0.05, 1.5))
        pull = self.live()["pull"]
        reading = {"code": code, "kind": "exact", "low": "3000 N", "failure_mode": "in-glue", "confirmed": ["early"]}
        key = f"reading-of-{code}"
        if pull["state"] == "ended":
            self.try_to("POST", f"/batches/{self.batch}/observations", {**reading, "pull_id": begun["id"]}, key)
        self.server.kill()
        self.server.start()
        found = Kill(code, pull["saved_samples"], pull["seconds"])
        with closing(sqlite3.connect(self.folder / "adhaero.db")) as conn:
            conn.row_factory = sqlite3.Row
            rows = curves.curve(conn, begun["id"])
        found.stored, found.stored_s = len(rows), float(rows[-1, 0]) if len(rows) else 0.0
        wait_for(lambda: self.live()["status"] == "live", "the reader after the kill")
        found.alive = True
        # Sent once more, as a tablet does that got no answer: once on record, whatever the kill left of it.
        again = {**reading, "pull_id": begun["id"]} if pull["state"] == "ended" else reading
        self.try_to("POST", f"/batches/{self.batch}/observations", again, key)
        with closing(sqlite3.connect(self.folder / "adhaero.db")) as conn:
            (found.readings,) = conn.execute(
                "SELECT COUNT(*) FROM observation o JOIN specimen s ON s.id = o.specimen_id WHERE s.code = ?", (code,)
            ).fetchone()
        return found

    def close(self) -> None:
        self.server.stop()
        self.rig.stop()
