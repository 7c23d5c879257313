"""Broken faces through the application: maps and steps, several assessors, what is still to be looked at."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
import pytest
from PIL import Image

from tests.api.test_curves import RIG
from tests.api.test_exchange import bring, export
from tests.api.test_instruments import read
from tests.api.test_photos import send
from tests.core.test_face import drawn
from tests.running import App, open_app

BO = {"Adhaero-Person": "Bo"}


def picture(seed: int, share: float) -> tuple[bytes, float]:
    image, truth = drawn(seed, share)
    out = io.BytesIO()
    Image.fromarray((255 * image).astype(np.uint8)).save(out, "PNG")
    return out.getvalue(), truth


def grid(cells: str, columns: int = 6, rows: int = 4) -> dict[str, Any]:
    return {"columns": columns, "rows": rows, "cells": cells}


@pytest.fixture
def batch(app: App) -> int:
    app.put("/rig", RIG)
    return app.locked("pva-damp", "casein")


def test_a_map_makes_the_wood_failure_and_its_shares(app: App, batch: int) -> None:
    a = app.codes(batch, "joint")[0]
    app.observe(batch, a, low="3000 N", failure_mode="mixed")
    app.post(f"/batches/{batch}/faces/{a}", {"how": "map", "maps": {"A": grid("v" * 6 + "w" * 12 + "g" * 6)}})
    view = app.get(f"/batches/{batch}/faces/{a}")
    assert view["wood_pct"] == 50
    assert view["verdicts"][0]["shares"] == {"glue": 25, "wood": 50, "void": 25}
    assert read(app, batch, a)["wood_failure_pct"] == 50
    marks = [m for t in app.get(f"/batches/{batch}/compare")["treatments"] for m in t["marks"]]
    assert next(m for m in marks if m["code"] == a)["wood_failure_pct"] == 50
    app.post(f"/batches/{batch}/undo", {"stage": "break"})
    assert read(app, batch, a)["wood_failure_pct"] is None


def test_of_each_assessor_the_last_verdict_counts(app: App, batch: int) -> None:
    a, b = app.codes(batch, "joint")[:2]
    app.observe(batch, a, low="3000 N", failure_mode="mixed", wood_failure_pct=20)
    app.observe(batch, b, low="3000 N", failure_mode="mixed", wood_failure_pct=50)
    app.post(f"/batches/{batch}/faces/{a}", {"how": "steps", "wood_pct": 50}, 200, **BO)
    app.post(f"/batches/{batch}/faces/{a}", {"how": "typed", "wood_pct": 40}, 200, **BO)
    view = app.get(f"/batches/{batch}/faces/{a}")
    assert [(v["assessor"], v["wood_pct"], v["counts"]) for v in view["verdicts"]] == [
        ("", 20, True), ("Bo", 50, False), ("Bo", 40, True),
    ]  # fmt: skip
    assert view["wood_pct"] == 30
    found = app.get(f"/batches/{batch}/break")["faces"]["agreement"]
    assert (found["faces"], found["pairs"], found["mean_off"]) == (1, 1, 20)
    # Who judged it at the break thinks again: a verdict of now, over whatever was painted before.
    app.patch(f"/batches/{batch}/observations/{a}", {"wood_failure_pct": 40})
    assert read(app, batch, a)["wood_failure_pct"] == 40


def test_what_nobody_looked_at_is_listed(app: App, batch: int) -> None:
    """Photos of 3 of 5 broken pieces leave 2."""
    codes = app.codes(batch, "joint")[:5]
    for c in codes:
        app.observe(batch, c, low="3000 N", failure_mode="in-glue")
    for c in codes[:3]:
        send(app, "piece", c, picture(1, 0.3)[0])
    assert sorted(app.get(f"/batches/{batch}/break")["faces"]["unexamined"]) == sorted(codes[3:])


def test_a_photo_proposes_and_both_are_kept(app: App, batch: int) -> None:
    a = app.codes(batch, "joint")[0]
    app.observe(batch, a, low="3000 N", failure_mode="mixed")
    data, truth = picture(3, 0.4)
    photo = send(app, "piece", a, data)["id"]
    found = app.post(f"/batches/{batch}/faces/{a}/proposal", {"photo_id": photo})
    share = 100 * found["cells"].count("w") / len(found["cells"])
    assert share == pytest.approx(truth, abs=8)
    mended = "g" * 12 + found["cells"][12:]
    body = {"how": "map", "maps": {"A": grid(mended, 12, 8)}, "proposed": {"A": found["cells"]}}
    app.post(f"/batches/{batch}/faces/{a}", body)
    verdict = app.get(f"/batches/{batch}/faces/{a}")["verdicts"][0]
    assert verdict["proposed_pct"] == pytest.approx(share)
    assert verdict["wood_pct"] < share
    app.post(f"/batches/{batch}/faces/{a}/proposal", {"photo_id": photo + 1}, 404)
    app.post(f"/batches/{batch}/faces/{a}/proposal", {"photo_id": photo, "box": [0.5, 0, 0.2, 1]}, 422)


def test_verdicts_travel_in_the_file(app: App, batch: int, tmp_path: Any) -> None:
    a = app.codes(batch, "joint")[0]
    app.observe(batch, a, low="3000 N", failure_mode="mixed")
    app.post(f"/batches/{batch}/faces/{a}", {"how": "map", "maps": {"B": grid("w" * 6 + "g" * 18)}}, 200, **BO)
    text = export(app, batch)
    with open_app(tmp_path / "other") as other:
        done = bring(other, text)
        assert read(other, done["batch_id"], a)["wood_failure_pct"] == 25


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({"how": "map", "maps": {"A": grid("w" * 23)}}, "maps.A"),
        ({"how": "map", "maps": {"A": grid("." * 24)}}, "maps"),
        ({"how": "steps"}, "wood_pct"),
        ({"how": "typed", "wood_pct": 120}, "wood_pct"),
        ({"how": "map", "maps": {"A": grid("w" * 24)}, "proposed": {"A": "w" * 3}}, "proposed.A"),
    ],
)
def test_what_is_no_verdict_is_refused(app: App, batch: int, body: dict[str, Any], field: str) -> None:
    a, b = app.codes(batch, "joint")[:2]
    app.observe(batch, a, low="3000 N", failure_mode="mixed")
    assert app.post(f"/batches/{batch}/faces/{a}", body, 422)["errors"][0]["field"] == field
    unbroken = app.post(f"/batches/{batch}/faces/{b}", {"how": "typed", "wood_pct": 10}, 422)
    assert "not broken yet" in unbroken["detail"]


def test_only_the_face_in_the_photo_is_judged(app: App, batch: int) -> None:
    """The face fills the right half of its photo; the bench beside it is no part of it."""
    a = app.codes(batch, "joint")[0]
    app.observe(batch, a, low="3000 N", failure_mode="mixed")
    image, truth = drawn(3, 0.4)
    beside = np.full_like(image, 0.9)
    out = io.BytesIO()
    Image.fromarray((255 * np.concatenate([beside, image], axis=1)).astype(np.uint8)).save(out, "PNG")
    photo = send(app, "piece", a, out.getvalue())["id"]
    shares = []
    for box in ([0.5, 0, 1, 1], [0, 0, 0.5, 1]):
        found = app.post(f"/batches/{batch}/faces/{a}/proposal", {"photo_id": photo, "box": box})
        shares.append(100 * found["cells"].count("w") / len(found["cells"]))
    assert shares[0] == pytest.approx(truth, abs=8)
    assert shares[1] == 0
