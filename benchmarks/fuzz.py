"""Random calls over all operations of a demo shop: none may fail inside.

Run: python -m benchmarks.fuzz [calls] [seed]
"""

from __future__ import annotations

import random
import sys
import tempfile
import traceback
from collections import Counter
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from fastapi.testclient import TestClient

from adhaero import cli
from adhaero.api.app import create_app
from adhaero.store.database import Database
from adhaero.workflow.context import AppContext

NASTY = (
    "", " ", "\x00", "a\u202eb", "0", "-1", "1e309", "NaN", "0.1 + 0.2", "9" * 40, "'; DROP TABLE batch; --", "🪵",
    "null", "1 d" + " " * 300, "(((((((((", "\ud7ff", "=1+1", "3/4 in", "12 kN", "soak 6 h at 18 °C", "../../etc",
    "x" * 3000, "\r\n", "raw/0", "2**9**9", "dry", "l1", "A", "exact", "2026-05-03", "<b>", "{", "[]", "%s", "ä" * 200,
)  # fmt: skip
NUMBERS = (0, 1, -1, 2, 3, 7, 1e9, -1e9, 1e308, 2**31, 2**63, 2**70, 0.5, 1e-9, -0.0)
LEFT_OUT = ("/api/rig/stream", "/api/shop/end")
"""Operations that go on for ever, or end the program."""


class Fuzz:
    """Calls made up from the description of the interface, with ids and codes of the shop among them."""

    def __init__(self, client: TestClient, seed: int) -> None:
        self.client, self.rng = client, random.Random(seed)
        self.description = client.get("/api/openapi.json").json()
        self.operations = [
            (method, path, told)
            for path, ways in self.description["paths"].items()
            for method, told in ways.items()
            if path not in LEFT_OUT
        ]
        self.known: list[str] = []
        self.learn()

    def learn(self) -> None:
        """Codes, letters and ids that are there now."""
        self.known = []
        for b in self.client.get("/api/today").json().get("batches", []):
            rows = self.client.get(f"/api/batches/{b['batch']['id']}/break").json().get("rows", [])
            self.known += [r["code"] for r in rows[:20]]

    def call(self) -> tuple[str, int]:
        """Make one call; return its operation and its status."""
        method, path, told = self.rng.choice(self.operations)
        query: dict[str, Any] = {}
        where, headers = path, {}
        for p in told.get("parameters", []):
            value = self.value(p.get("schema", {}), 0)
            if p["in"] == "path":
                where = where.replace("{" + p["name"] + "}", self.in_path(p["name"], value))
            elif p["in"] == "query" and (p.get("required") or self.rng.random() < 0.5):
                query[p["name"]] = value
            elif p["in"] == "header" and self.rng.random() < 0.2:
                headers[p["name"]] = self.rng.choice(("k" * 12, "other-key-of-mine"))
        more: dict[str, Any] = {}
        content = told.get("requestBody", {}).get("content", {})
        if "application/json" in content:
            more["json"] = self.value(content["application/json"]["schema"], 0)
        elif content:
            more["content"] = str(self.rng.choice(NASTY)).encode("utf-8", "replace")
        query = {k: v for k, v in query.items() if v is not None}
        found = self.client.request(method, where, params=query, headers=headers, **more)
        return f"{method.upper()} {path}", found.status_code

    def in_path(self, name: str, value: Any) -> str:
        """A part of a path: mostly of something that is there."""
        if name == "code" and self.known:
            return self.rng.choice(self.known)
        if self.rng.random() < 0.85 and name.endswith("id"):
            return str(self.rng.randint(1, 6))
        text = str(value).replace("/", "").replace("?", "").replace("#", "")
        return "".join(c for c in text if c.isprintable())[:60] or "x"

    def value(self, schema: dict[str, Any], depth: int) -> Any:
        """A value of a schema, or sometimes none of it."""
        rng = self.rng
        if "$ref" in schema:
            return self.value(self.description["components"]["schemas"][schema["$ref"].rsplit("/", 1)[1]], depth)
        if rng.random() < 0.02:
            return rng.choice((None, [], {}, *NUMBERS[:4], *NASTY[:8]))
        for many in ("anyOf", "oneOf", "allOf"):
            if many in schema:
                return self.value(rng.choice(schema[many]), depth)
        if "enum" in schema:
            return rng.choice(schema["enum"])
        if "const" in schema:
            return schema["const"]
        match schema.get("type"):
            case "object" if "properties" in schema:
                needed = set(schema.get("required", ()))
                return {k: self.value(v, depth + 1) for k, v in schema["properties"].items()
                        if k in needed or rng.random() < 0.5}  # fmt: skip
            case "object":
                inner = schema.get("additionalProperties", {})
                keys = [rng.choice((*self.known, *NASTY, "width", "glue", "l1")) for _ in range(rng.randint(0, 3))]
                return {k: self.value(inner if isinstance(inner, dict) else {}, depth + 1) for k in keys}
            case "array":
                longest = 3 if depth < 6 else 0
                inner = schema.get("items", {})
                if "prefixItems" in schema:
                    return [self.value(x, depth + 1) for x in schema["prefixItems"]]
                return [self.value(inner, depth + 1) for _ in range(rng.randint(0, longest))]
            case "integer":
                return rng.choice((rng.randint(0, 12), *(int(n) for n in NUMBERS)))
            case "number":
                return rng.choice((rng.uniform(0, 100), *NUMBERS))
            case "boolean":
                return rng.random() < 0.5
            case "null":
                return None
        return rng.choice((*self.known, *NASTY)) if rng.random() < 0.7 else f"{rng.uniform(1, 900):.1f}"


def main(calls: int, seed: int) -> int:
    """Print how many calls were answered how, and every failure inside."""
    with tempfile.TemporaryDirectory() as folder:
        data = Path(folder) / "adhaero.db"
        cli.fill_demo(data, 4545, lambda: datetime.now(UTC))
        db = Database(data)
        rng = random.Random(seed)
        w = AppContext(db, lambda: datetime.now(UTC), lambda: rng.randrange(2**31))
        statuses: Counter[int] = Counter()
        failed: Counter[str] = Counter()
        with TestClient(create_app(w), base_url="http://127.0.0.1", raise_server_exceptions=True) as client:
            fuzz = Fuzz(client, seed)
            for n in range(calls):
                try:
                    told, status = fuzz.call()
                except Exception as error:
                    last = traceback.extract_tb(error.__traceback__)[-1]
                    told, status = f"{type(error).__name__}: {str(error)[:120]} at {last.filename}:{last.lineno}", 500
                statuses[status] += 1
                if status >= 500:
                    failed[told] += 1
                if n % 500 == 499:
                    fuzz.learn()
    print(f"{calls} calls, seed {seed}: {dict(sorted(statuses.items()))}")
    for told, n in failed.most_common(40):
        print(f"  {n} x {told}")
    return 1 if failed else 0


if __name__ == "__main__":
    given = [int(a) for a in sys.argv[1:]]
    sys.exit(main(given[0] if given else 10_000, given[1] if len(given) > 1 else 1))
