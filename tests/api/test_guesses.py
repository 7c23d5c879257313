"""Guesses of several people: sealed until the first break, then scored; and bottles held against each other."""

from __future__ import annotations

from urllib.parse import quote

import pytest

from adhaero.core.compare.guesses import pairs_in_order, shares_off
from tests.running import App, fields

LOADS = {"A": [3000.0, 3100.0, 3200.0], "B": [4000.0, 4100.0, 4200.0], "C": [2000.0, 2100.0, 2200.0],
         "D": [1000.0, 1100.0, 1200.0], "E": [5000.0, 5100.0, 5200.0]}  # fmt: skip


def guess(app: App, batch: int, who: str, status: int = 200, **body: object) -> object:
    return app.post(f"/batches/{batch}/guess", body, status, **{"Adhaero-Person": quote(who)})


def test_an_order_counts_its_pairs() -> None:
    found = {"A": 3.0, "B": 4.0, "C": 2.0, "D": 2.0}
    assert pairs_in_order(["B", "A", "C"], found) == (3, 3)
    assert pairs_in_order(["A", "B", "C", "D"], found) == (4.5, 6)
    assert pairs_in_order(["A", "X"], found) == (0, 0)


def test_shares_are_of_the_control() -> None:
    # B is 133.3 % and C 66.7 % of A: 13.3 and 16.7 points off.
    assert shares_off({"B": 120.0, "C": 50.0}, {"A": 3.0, "B": 4.0, "C": 2.0}, "A") == pytest.approx(15.0)
    assert shares_off({"B": 120.0}, {"B": 4.0}, "A") is None


def test_guesses_are_sealed_until_the_first_break_and_then_scored(app: App) -> None:
    batch = app.locked()
    assert fields(guess(app, batch, "", 422, how="rank", order=["A", "B"])) == {"person"}
    guess(app, batch, "Ines", how="rank", order=["B", "A", "C", "D"])
    guess(app, batch, "Ole", how="share", values={"B": 120, "C": 50})
    guess(app, batch, "Ole", how="outcome", words="the ash  splits first")
    app.clock.pass_(minutes=5)
    guess(app, batch, "Ines", how="rank", order=["A", "B"])
    view = app.get(f"/batches/{batch}/plan")
    assert view["can_guess"]
    assert {(g["person"], g["how"], g["words"]) for g in view["guesses"]} == {
        ("Ines", "rank", ""), ("Ole", "share", ""), ("Ole", "outcome", ""),
    }  # fmt: skip
    assert len({g["at"] for g in view["guesses"]}) == 2
    app.break_all(batch, LOADS)
    opened = app.get(f"/batches/{batch}/plan")
    assert not opened["can_guess"]
    assert {g["words"] for g in opened["guesses"]} == {"A > B", "B 120 %, C 50 %", "the ash splits first"}
    late = guess(app, batch, "Ines", 422, how="rank", order=["A", "B"])
    assert fields(late) == {"how"}
    said = app.compare(batch)["guesses"]
    assert "Ines put 0 of 1 pair in the right order." in said
    # 4100 and 2100 of 3100 are 132.3 and 67.7 %.
    assert any(x.startswith("Ole put 1 of 1 pair") and "off by 15 % points" in x for x in said)
    assert "Ole guessed: the ash splits first." in said


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({"how": "rank", "order": ["A"]}, "order"),
        ({"how": "rank", "order": ["A", "A"]}, "order"),
        ({"how": "rank", "order": ["A", "Z"]}, "order"),
        ({"how": "load", "values": {}}, "values"),
        ({"how": "load", "values": {"E": 100}}, "values.E"),
        ({"how": "share", "values": {"B": 5000}}, "values.B"),
        ({"how": "outcome", "words": " "}, "words"),
    ],
)
def test_what_is_no_guess_is_named(app: App, body: dict[str, object], field: str) -> None:
    assert fields(guess(app, app.locked(), "Ines", 422, **body)) == {field}


def test_bottles_of_different_age_and_state_are_told_at_planning(app: App) -> None:
    for label, opened in (("Old", "2025-01-10"), ("New", "2026-11-01")):
        app.post("/bottles", {"label": label, "family": "pva-damp", "opened_on": opened,
                              "expires_on": "2026-10-01" if label == "Old" else None})  # fmt: skip
    number = next(b["bottle"]["id"] for b in app.get("/shop")["bottles"] if b["bottle"]["label"] == "New")
    app.post(f"/bottles/{number}/events", {"kind": "frozen", "note": ""})
    batch = app.planned("Old", "New")
    said = " ".join(c["text"] for c in app.get(f"/batches/{batch}/plan")["forecast"]["caveats"])
    # From 10 January 2025 and from 1 November 2026 to 23 November 2026.
    assert "Old has been open for 682 days, New for 22" in said
    assert "Old is past its date by 53 days: discard it, or test it against a fresh one" in said
    assert "New was frozen once" in said
