"""Weights hung on pieces, pieces loaded more than once, and what is noted of them with one tap."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from tests.api.test_exchange import bring, export, rows_of
from tests.api.test_instruments import read
from tests.running import App, open_app

G = 9.80665
RACK = {"weights": [{"mass_g": 10000, "count": 2}, {"mass_g": 5000, "count": 2}], "hanger_g": 1400}


@pytest.fixture
def batch(app: App) -> int:
    app.put("/rack", RACK)
    return app.locked("pva-damp", "casein")


def hang(app: App, batch: int, code: str, *kilos: float) -> Any:
    for kg in kilos:
        app.post(f"/batches/{batch}/weights/{code}", {"mass_g": round(1000 * kg)})
    return app.get(f"/batches/{batch}/weights/{code}")


def ends(app: App, batch: int, code: str, how: str, **more: Any) -> None:
    app.observe(batch, code, kind="between", weights=how, source="weights", **more)


def test_a_piece_breaks_between_two_totals(app: App, batch: int) -> None:
    code = app.codes(batch, "joint")[0]
    view = hang(app, batch, code, 10, 5, 5)
    assert (view["now"]["mass_g"], view["borne"]["mass_g"], view["largest"]["mass_g"]) == (21400, 16400, 31400)
    assert [t["mass_g"] for t in view["next"]] == [31400]
    assert [s["total_g"] for s in view["steps"]] == [11400, 16400, 21400]
    assert "less than this piece is expected to bear" in view["short"]
    assert app.post(f"/batches/{batch}/weights/{code}", {"mass_g": 5000}, 422)["errors"][0]["field"] == "mass"
    ends(app, batch, code, "adding", failure_mode="in-glue")
    found = read(app, batch, code)
    assert (found["kind"], found["low_n"], found["high_n"]) == (
        "between", pytest.approx(16.4 * G), pytest.approx(21.4 * G),
    )  # fmt: skip
    assert app.get(f"/batches/{batch}/weights/{code}")["steps"] == [], "the next loading begins with nothing on it"


def test_a_vessel_is_filled_until_it_breaks(app: App, batch: int) -> None:
    """Its capacity is held against the forecast beforehand; weighed after the break it is an exact load."""
    app.put("/rack", {"weights": [], "vessel_g": 20000})
    code = app.codes(batch, "joint")[0]
    assert "The vessel holds 20 kg: less than" in app.get(f"/batches/{batch}/weights/{code}")["short"]
    app.observe(batch, code, weights="filled", source="vessel", low="17.3", failure_mode="in-glue")
    found = read(app, batch, code)
    assert (found["kind"], found["low_n"]) == ("exact", pytest.approx(17.3 * G))
    other = app.codes(batch, "joint")[1]
    refused = app.observe(batch, other, 422, weights="filled", source="vessel", low="", failure_mode="in-glue")
    assert refused["errors"][0]["field"] == "low"


def test_a_rack_changed_in_the_middle_leaves_what_hangs(app: App, batch: int) -> None:
    code = app.codes(batch, "joint")[0]
    hang(app, batch, code, 10, 5)
    app.put("/rack", {"weights": [{"mass_g": 20000, "count": 1}], "hanger_g": 1400})
    assert hang(app, batch, code, 20)["now"]["mass_g"] == 36400
    hang(app, batch, code, -5)
    ends(app, batch, code, "holds")
    # 5 kg were taken off a piece that was whole under 36.4 kg.
    assert read(app, batch, code)["low_n"] == pytest.approx(36.4 * G)


def test_undo_takes_one_weight_off_again(app: App, batch: int) -> None:
    code = app.codes(batch, "joint")[0]
    hang(app, batch, code, 10, 5)
    app.post(f"/batches/{batch}/undo", {"stage": "break"})
    assert app.get(f"/batches/{batch}/weights/{code}")["now"]["mass_g"] == 11400


def test_the_rack_runs_out_and_the_piece_is_hung_again(app: App, batch: int) -> None:
    code = app.codes(batch, "joint")[0]
    assert hang(app, batch, code, 10, 10, 5, 5)["runs_out"] is True
    ends(app, batch, code, "holds")
    assert read(app, batch, code)["kind"] == "at_least"
    longer = {"name": "Lever", "fixture": "Yoke", "capacity": 2000, "step": 1, "instrument": {"lever": 4}}
    app.put("/rig", longer)
    hang(app, batch, code, 10, 5)
    ends(app, batch, code, "adding", failure_mode="in-glue", again=True)
    found = read(app, batch, code)
    assert (found["kind"], found["low_n"]) == ("between", pytest.approx(4 * 11.4 * G))
    assert [(x["number"], x["kind"], x["counts"]) for x in found["loadings"]] == [
        (1, "at_least", False), (2, "between", True),
    ]  # fmt: skip
    assert "loaded before" in str(found["flags"])
    assert "loaded before" in [f["kind"] for f in app.compare(batch)["flags"]]
    # Another one may count, with a reason; and that is undone like anything.
    assert app.post(f"/batches/{batch}/loadings/{code}", {"loading": 1, "reason": ""}, 422)
    app.post(f"/batches/{batch}/loadings/{code}", {"loading": 1, "reason": "the yoke was crooked"})
    assert read(app, batch, code)["kind"] == "at_least"
    assert "loaded before" not in str(read(app, batch, code)["flags"])
    # A correction is one of the loading that counts.
    app.patch(f"/batches/{batch}/observations/{code}", {"note": "steady"})
    assert [x["kind"] for x in read(app, batch, code)["loadings"]] == ["at_least", "between"]
    for _ in range(2):
        app.post(f"/batches/{batch}/undo", {"stage": "break"})
    assert read(app, batch, code)["kind"] == "between"
    app.post(f"/batches/{batch}/undo", {"stage": "break"})
    assert (read(app, batch, code)["kind"], read(app, batch, code)["loadings"]) == ("at_least", [])


def test_all_loadings_and_tags_travel(app: App, batch: int, tmp_path: Path) -> None:
    code, other_code = app.codes(batch, "joint")[:2]
    app.observe(batch, code, kind="at_least", low="1400 N")
    app.observe(batch, code, low="2000 N", failure_mode="in-glue", again=True)
    app.observe(batch, other_code, low="1000 N", failure_mode="in-glue")
    app.post(f"/batches/{batch}/tags", {"code": other_code, "what": "slipped"})
    app.post(f"/batches/{batch}/tags", {"code": other_code, "what": "squeaked loudly"})
    text = export(app, batch)
    with open_app(tmp_path / "elsewhere") as elsewhere:
        taken = bring(elsewhere, text)["batch_id"]
        found = read(elsewhere, taken, code)
        assert [(x["kind"], x["low_n"], x["counts"]) for x in found["loadings"]] == [
            ("at_least", 1400.0, False), ("exact", 2000.0, True),
        ]  # fmt: skip
        assert read(elsewhere, taken, other_code)["tags"] == ["slipped", "squeaked loudly"]
        same = ("loadings", "events", "load_low_n", "flags")
        again, before = rows_of(export(elsewhere, taken)), rows_of(text)
        assert [[r[k] for k in same] for r in again] == [[r[k] for k in same] for r in before]
    broken = text.replace('""counts"":2', '""counts"":1')
    with open_app(tmp_path / "third") as third:
        assert "loadings" in str(bring(third, broken, 422)["errors"])


def test_a_tag_is_of_its_loading(app: App, batch: int) -> None:
    """What happened while the piece was first loaded is no flag of the reading that counts now."""
    code = app.codes(batch, "joint")[0]
    app.post(f"/batches/{batch}/tags", {"code": code, "what": "slipped"})
    app.observe(batch, code, kind="at_least", low="1400 N")
    assert "slipped" in str(read(app, batch, code)["flags"])
    app.post(f"/batches/{batch}/tags", {"code": code, "what": "crushed", "again": True})
    assert "crushed" not in str(read(app, batch, code)["flags"])
    app.observe(batch, code, low="2000 N", failure_mode="in-glue", again=True)
    flags = str(read(app, batch, code)["flags"])
    assert ("slipped" in flags, "crushed" in flags) == (False, True)
    assert read(app, batch, code)["tags"] == ["slipped", "crushed"], "both stay on record"


def test_a_tag_is_a_flag_and_a_filter(app: App, batch: int) -> None:
    codes = app.codes(batch, "joint")
    for code in codes:
        app.observe(batch, code, low="3000 N", failure_mode="in-glue")
    app.post(f"/batches/{batch}/tags", {"code": codes[0], "what": "slipped", "note": "at 0:42"})
    assert "slipped in the rig: at 0:42" in read(app, batch, codes[0])["flags"]
    kinds = {f["kind"]: f["codes"] for f in app.compare(batch)["flags"]}
    assert kinds["slipped"] == [codes[0]]
    without = app.get(f"/batches/{batch}/compare?without=slipped")
    assert sum(t["n"] for t in without["treatments"]) == len(codes) - 1
    assert app.post(f"/batches/{batch}/tags", {"code": codes[0], "what": " "}, 422)
