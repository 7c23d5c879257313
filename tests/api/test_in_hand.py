"""Two screens at one queue: no two are offered the same piece, and none is withheld for long."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from adhaero.workflow.breaking.in_hand import InHand, Screen
from tests.running import START, App, Clock

OTHER = "another window of the desk"
PIECES = [f"P{i}" for i in range(6)]


def looked(app: App, batch: int, screen: str, took: str = "") -> tuple[str | None, dict[str, str]]:
    """What a screen is offered, and what it is told of the others."""
    view = app.get(f"/batches/{batch}/break?screen={screen}&took={took}&early=true")
    return view["next"], view["elsewhere"]


def test_each_screen_is_offered_a_piece_of_its_own_and_keeps_it(app: App) -> None:
    batch = app.locked("epoxy-slow", "polyurethane", replicates=3, solid=0)
    first, second, *_ = [r["code"] for r in app.get(f"/batches/{batch}/break")["rows"]]
    assert looked(app, batch, "tablet") == (first, {})
    assert looked(app, batch, "desk") == (second, {first: OTHER})
    for _ in range(3):
        app.clock.pass_(seconds=4)
        assert looked(app, batch, "tablet") == (first, {second: OTHER})
        assert looked(app, batch, "desk")[0] == second
    app.observe(batch, second, low="900 N", failure_mode="in-glue")
    assert app.get(f"/batches/{batch}/history")[0]["summary"] == f"Broke {second}", "offered first or not, it was shown"
    second = looked(app, batch, "desk")[0]
    app.observe(batch, first, low="900 N", failure_mode="in-glue")
    third, elsewhere = looked(app, batch, "tablet")
    assert third not in {first, second}
    assert elsewhere == {second: OTHER}
    # Who does not say which screen it is, a script, sees the plain order and holds nothing.
    assert app.get(f"/batches/{batch}/break?early=true")["next"] == second


def test_a_screen_that_no_longer_looks_holds_nothing(app: App) -> None:
    batch = app.locked("epoxy-slow", "polyurethane", replicates=1, solid=0)
    first, _ = looked(app, batch, "asleep")
    assert looked(app, batch, "desk")[0] != first
    app.clock.pass_(seconds=13)
    assert looked(app, batch, "another")[0] == first


def test_a_piece_taken_out_of_turn_is_told_to_who_was_offered_it(app: App) -> None:
    batch = app.locked("epoxy-slow", "polyurethane", replicates=2, solid=0)
    first, _ = looked(app, batch, "desk")
    assert first is not None
    _, told = looked(app, batch, "tablet", took=first)
    assert told == {first: OTHER}, "it is on a screen already"
    assert looked(app, batch, "desk") == (first, {first: OTHER}), "it stays, and says that another has it too"


def test_the_last_piece_is_offered_to_all(app: App) -> None:
    batch = app.locked("epoxy-slow", "polyurethane", replicates=1, solid=0)
    one, other = (r["code"] for r in app.get(f"/batches/{batch}/break")["rows"])
    app.observe(batch, one, low="900 N", failure_mode="in-glue")
    assert looked(app, batch, "desk") == (other, {})
    assert looked(app, batch, "tablet") == (other, {other: OTHER})


@given(
    steps=st.lists(
        st.tuples(st.sampled_from("abc"), st.sampled_from(["look", "take", "break"]), st.integers(0, 5)), max_size=40
    )
)
def test_no_two_screens_are_offered_one_piece_while_there_are_others(steps: list[tuple[str, str, int]]) -> None:
    hands, clock, left = InHand(), Clock(START), list(PIECES)
    shown: dict[str, str] = {}
    took: dict[str, str] = {}
    for screen, what, which in steps:
        clock.pass_(seconds=0.2)
        if what == "take" and which < len(left):
            took[screen] = left[which]
        if what == "break" and shown.get(screen) in left:
            left.remove(shown[screen])
        took = {s: p for s, p in took.items() if p in left}
        offered, _ = hands.offer(1, Screen(screen, screen, took.get(screen, "")), clock(), set(left), left)
        assert (offered is None) == (not left)
        seen = took.get(screen, offered)
        before = shown.pop(screen, None)
        shown = {s: p for s, p in shown.items() if p in left}
        # What a screen showed before another took it, out of turn, stays there.
        if screen not in took and len(left) > len(shown) and offered != before:
            assert offered not in shown.values()
        if seen is not None:
            shown[screen] = seen


def test_another_device_goes_by_its_name() -> None:
    hands = InHand()
    hands.offer(1, Screen("a", "Tablet at the rig"), START, {"P0", "P1"}, ["P0", "P1"])
    assert hands.offer(1, Screen("b", "the desk"), START, {"P0", "P1"}, ["P0", "P1"]) == (
        "P1", {"P0": "Tablet at the rig"},
    )  # fmt: skip
