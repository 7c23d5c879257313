"""The wood of the pieces in labels and in the comparison: as a covariate and as a filter."""

from __future__ import annotations

from tests.api.test_boards import add, lay_out
from tests.running import App, fields, overturning

LIGHT, HEAVY = 640.0, 760.0


def laid_out(app: App, share: str = "all") -> tuple[int, dict[str, str]]:
    """A batch of two glues on a light and a heavy board, and the board of each piece."""
    for label, density in (("Light", LIGHT), ("Heavy", HEAVY)):
        add(app, label, density_kg_m3=density, moisture_pct=9.5, length_mm=600)
    batch = app.locked("pva-damp", "casein", replicates=6, solid=0)
    view = lay_out(app, batch, share=share)
    return batch, {b["code"]: m["board"]["label"] for m in view["layout"]["maps"] for b in m["blanks"]}


def broken(app: App, share: str = "all") -> tuple[int, dict[str, str]]:
    """The same, broken: casein holds 200 N more, the heavy board 600 N more."""
    batch, home = laid_out(app, share)
    for i, row in enumerate(app.get(f"/batches/{batch}/cut")["rows"]):
        heavy, other = home[row["code"]] == "Heavy", row["treatment"] == "B"
        load = 3000 + 200 * other + 600 * heavy + (-15, 0, 15)[i % 3]
        app.observe(batch, row["code"], low=f"{load} N", failure_mode="in-glue")
    return batch, home


def test_a_label_says_what_is_known_of_the_wood(app: App) -> None:
    batch, home = laid_out(app)
    for label in app.get(f"/batches/{batch}/labels"):
        board = home[label["text"].rsplit("-", 1)[0]]
        density = HEAVY if board == "Heavy" else LIGHT
        assert (label["board"], label["wood"]) == (board, f"9.5 %, {density:g} kg/m³")


def test_a_piece_says_its_board_and_what_is_known_of_it(app: App) -> None:
    batch, home = laid_out(app)
    for code, label in list(home.items())[:4]:
        density = HEAVY if label == "Heavy" else LIGHT
        if code:
            assert app.get(f"/batches/{batch}/pieces/{code}")["board"] == f"{label}, 9.5 %, {density:g} kg/m³"


def test_pieces_and_boards_are_found_by_their_wood(app: App) -> None:
    _, home = laid_out(app)
    hits = app.get("/search?text=760 kg/m³")["hits"]
    assert {h["code"] for h in hits if h["code"]} == {c for c, b in home.items() if b == "Heavy" and c}
    assert [h["text"][:5] for h in hits if not h["code"]] == ["Heavy"]


def test_the_figure_that_goes_along_with_density_is_told(app: App) -> None:
    batch, _ = broken(app)
    (said,) = [x for x in overturning(app.compare(batch, figure="load")) if "density" in x]
    # 600 N for 120 kg/m3 is 500 N for 100.
    assert "Within treatments the figure rises with density" in said
    assert "by 500 N for 100 kg/m³" in said or "by 499 N" in said or "by 501 N" in said


def test_treatments_of_different_wood_are_told(app: App) -> None:
    batch, _ = broken(app, "treatment")
    said = " ".join(overturning(app.compare(batch, figure="load")))
    assert "density of 760 kg/m³" in said
    assert "640 kg/m³: part of a difference may be the wood" in said
    # Each glue has its one density: nothing can be said of density within them.
    assert "Within treatments" not in said


def test_a_comparison_without_a_board(app: App) -> None:
    batch, home = broken(app)
    whole = app.compare(batch, figure="load")
    light = next(b for b in whole["boards"] if b["label"] == "Light")
    assert set(light["codes"]) == {c for c, b in home.items() if b == "Light"}
    heavy = app.compare(batch, figure="load", boards="Light")
    assert heavy["without_boards"] == ["Light"]
    for before, after in zip(whole["treatments"], heavy["treatments"], strict=True):
        assert after["n"] == before["n"] - sum(m["code"] in light["codes"] for m in before["marks"])
        assert {m["code"] for m in after["marks"] if m["hollow"]} == {
            m["code"] for m in before["marks"] if m["code"] in light["codes"]
        }
    # All that is left is of one board: its density runs along with nothing.
    assert not any("density" in x for x in overturning(heavy))


def test_a_board_of_none_of_the_pieces_is_refused(app: App) -> None:
    batch, _ = broken(app)
    assert fields(app.get(f"/batches/{batch}/compare?boards=None", 422)) == {"boards"}
