"""What joints go through before they are broken: paths, the air of their stay, looks on the way, minutes out."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

import pytest

from tests.workshop import Bench, fields

H = 3600


def exposed(bench: Bench, path: str, **changes: Any) -> tuple[int, list[str]]:
    """A batch whose joints go through ``path``, glued and out of their clamps."""
    batch = bench.planned("pva-damp", "casein", solid=2, **changes)
    constants = bench.get(f"/batches/{batch}/plan")["document"]["constants"]
    bench.draft(batch, constants={**constants, "conditioning": {"value": path, "unit": ""}})
    bench.lock(batch)
    codes = bench.codes(batch, "joint")
    bench.glue(batch, codes)
    bench.clock.pass_(hours=5)
    bench.post(f"/batches/{batch}/unclamp", {"codes": codes})
    return batch, codes


def tell(bench: Bench, batch: int, kind: str, codes: list[str], status: int = 200, **value: Any) -> Any:
    return bench.post(f"/batches/{batch}/told", {"kind": kind, "codes": codes, "value": value}, status)


def test_a_path_is_reckoned_and_followed(bench: Bench) -> None:
    batch, codes = exposed(bench, "soak 6 h at 18 °C, dry 12 h, soak 6 h")
    words = bench.get(f"/batches/{batch}/glue")["pieces"][0]["conditioning"]
    assert words == "soak 6 h at 18 °C, dry 12 h, soak 6 h (24 h in all, 2 wet phases)"
    bench.clock.pass_(hours=67)
    bench.post(f"/batches/{batch}/condition", {"codes": codes, "way": "in"})
    tasks = bench.get(f"/batches/{batch}/guide")["tasks"]
    change = next(t for t in tasks if t["kind"] == "change")
    assert change["what"] == "The next phase begins: dry"
    assert change["at"] == (bench.clock.at + timedelta(hours=6)).strftime("%Y-%m-%dT%H:%M:%S.000Z")
    bench.clock.pass_(hours=7)
    tasks = bench.get(f"/batches/{batch}/guide")["tasks"]
    assert next(t for t in tasks if t["kind"] == "change")["what"] == "The next phase begins: soak"
    due = next(t for t in tasks if t["kind"] == "break")
    assert due["at"] == (bench.clock.at + timedelta(hours=17)).strftime("%Y-%m-%dT%H:%M:%S.000Z")


def test_treatments_with_other_paths_are_other_treatments(bench: Bench) -> None:
    batch = bench.batch("Paths")
    paths = ("soak 6 h", "soak 6 h, dry 12 h, soak 6 h")
    levels = [{"value": p, "unit": ""} for p in paths]
    constants = bench.get(f"/batches/{batch}/plan")["document"]["constants"]
    constants = {**constants, "glue": {"value": "pva-damp", "unit": ""}}
    bench.draft(batch, question="?", factors=[{"key": "conditioning", "name": "Conditioning", "levels": levels}],
                constants={k: v for k, v in constants.items() if k != "conditioning"})  # fmt: skip
    bench.lock(batch)
    pieces = bench.get(f"/batches/{batch}/glue")["pieces"]
    assert {(p["treatment"], p["conditioning"]) for p in pieces} == {
        ("A", "soak 6 h (6 h in all, 1 wet phase)"),
        ("B", "soak 6 h, dry 12 h, soak 6 h (24 h in all, 2 wet phases)"),
    }


def test_words_without_times_are_minded_at_the_plan(bench: Bench) -> None:
    batch = bench.planned("pva-damp", "casein")
    constants = bench.get(f"/batches/{batch}/plan")["document"]["constants"]
    view = bench.draft(batch, constants={**constants, "conditioning": {"value": "salt spray", "unit": ""}})
    texts = [c["text"] for c in view["outlook"]["caveats"]]
    assert any("'salt spray' states no times" in t for t in texts)


def test_minutes_out_of_the_bath(bench: Bench) -> None:
    batch, codes = exposed(bench, "soak 24 h")
    bench.clock.pass_(hours=67)
    bench.post(f"/batches/{batch}/condition", {"codes": codes, "way": "in"})
    bench.clock.pass_(hours=24)
    bench.post(f"/batches/{batch}/condition", {"codes": codes[:2], "way": "out"})
    bench.clock.pass_(minutes=15)
    bench.observe(batch, codes[0], low="3000 N", failure_mode="in-glue")
    bench.clock.pass_(minutes=22)
    bench.observe(batch, codes[1], low="3000 N", failure_mode="in-glue")
    text = next(t for t in bench.compare(batch)["along"] if "leaving the conditioning" in t)
    assert f"{codes[1]} 37 min" in text
    assert codes[0] not in text


def test_looks_on_the_way_step_down(bench: Bench) -> None:
    batch, codes = exposed(bench, "weather 365 d", replicates=10)
    rows = {r["code"]: r["treatment"] for r in bench.get(f"/batches/{batch}/break")["rows"]}
    own = [c for c in codes if rows[c] == "A"]
    bench.clock.pass_(hours=-5)
    for days, whole in ((10, 10), (20, 7), (30, 2)):
        bench.clock.pass_(days=days)
        for state, some in (("whole", own[:whole]), ("apart", own[whole:])):
            if some:
                tell(bench, batch, "inspected", some, whole=state)
    (text,) = bench.compare(batch)["inspected"]
    assert "10 of 10 whole on day 10, 7 of 10 whole on day 30, 2 of 10 whole on day 60" in text
    assert "lost 3 from day 10 to 30, 5 from day 30 to 60" in text


def hourly(bench: Bench, days: int) -> str:
    lines = ["Time,Temperature (°C),Humidity (%)"]
    for n in range(24 * days):
        at = bench.clock.at + timedelta(hours=n)
        lines.append(f"{at:%Y-%m-%d %H:%M},{10 + n / 24:.2f},{50 + 12 * (n // 24 % 2)}")
    return "\n".join(lines)


def test_a_piece_has_the_air_of_its_own_stay(bench: Bench) -> None:
    batch, codes = exposed(bench, "dry")
    answer = bench.post("/climate", {"place": "Shelf A", "text": hourly(bench, 40)})
    assert [(p["place"], p["readings"]) for p in answer["places"]] == [("Shelf A", 960)]
    bench.clock.pass_(days=10)
    tell(bench, batch, "place", codes[:1], where="Shelf A")
    bench.clock.pass_(days=10)
    tell(bench, batch, "place", codes[:1], where="the attic")
    bench.clock.pass_(days=10)
    stood = bench.get(f"/batches/{batch}/pieces/{codes[0]}")["stood"]
    assert stood[0][0] == "Shelf A"
    # Ten days from the tenth on: 20 to 30 degrees of a ramp of one a day.
    assert stood[0][1].startswith("20 to 30 °C (mean 25), 50 to 62 % humidity (mean 56)")
    assert stood[1] == ["the attic", "nothing was read"]
    assert bench.get(f"/batches/{batch}/pieces/{codes[1]}")["stood"] == []


@pytest.mark.parametrize(
    ("text", "field"),
    [("", "text"), ("a,b\n1,2", "text"), ("time,temperature\n2026-01-01 00:00,hot", "row 2"),
     ("time;humidity\n2026-01-01 00:00;52,5\n2026-01-01 01:00;150", "row 3")],
)  # fmt: skip
def test_a_file_with_a_wrong_row_leaves_nothing_behind(bench: Bench, text: str, field: str) -> None:
    assert fields(bench.post("/climate", {"place": "Shelf A", "text": text}, 422)) == {field}
    assert bench.get("/climate")["places"] == []


def test_a_logger_without_a_zone_writes_the_time_of_the_shop(bench: Bench) -> None:
    pace = bench.get("/bench")["pace"]
    bench.put("/bench", {"weekly": [[0, 60, 120]], "zone": "Europe/Helsinki", "pace": pace})
    text = "time;temperature;humidity\n2026-01-01 00:00;17,5;52\n2026-01-01T00:00:00Z;18;53"
    (place,) = bench.post("/climate", {"place": "Bath", "text": text})["places"]
    assert (place["first"], place["last"]) == ("2025-12-31T22:00:00.000Z", "2026-01-01T00:00:00.000Z")
