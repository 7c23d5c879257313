"""Photos of pieces, boards and bottles: sent, read as they were, taken away, refused."""

from __future__ import annotations

import io
from typing import Any

import pytest
from PIL import Image

from tests.api.test_boards import add
from tests.running import App


def picture(form: str, size: tuple[int, int] = (40, 30), **more: Any) -> bytes:
    """A picture of bars in grey, with whatever else is written into it."""
    out = io.BytesIO()
    Image.linear_gradient("L").resize(size).save(out, form, **more)
    return out.getvalue()


JPEG, PNG = picture("JPEG"), picture("PNG")


def send(
    app: App, kind: str, name: str, data: bytes = JPEG, status: int = 201, caption: str = "", key: str = ""
) -> Any:
    headers = {"Content-Type": "image/jpeg", **({"Idempotency-Key": key} if key else {})}
    query = {"kind": kind, "name": name, "caption": caption}
    response = app.client.post("/api/photos", params=query, content=data, headers=headers)
    assert response.status_code == status, response.text
    return response.json()


def shown(app: App, kind: str, name: str) -> Any:
    return app.get(f"/photos?kind={kind}&name={name}")


def test_a_photo_comes_back(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch, "joint")[0]
    made = send(app, "piece", code, caption="knot, 6 mm from the line")
    (photo,) = shown(app, "piece", code)
    assert (photo["id"], photo["caption"], photo["stage"]) == (made["id"], "knot, 6 mm from the line", "cut")
    answer = app.client.get(f"/api/photos/{made['id']}")
    assert answer.headers["content-type"] == "image/jpeg"
    assert Image.open(io.BytesIO(answer.content)).size == (40, 30)
    assert [h["code"] for h in app.get("/search?text=knot line")["hits"]] == [code]
    app.glue(batch)
    send(app, "piece", code, PNG)
    app.observe(batch, code, low="4000 N", failure_mode="in-glue")
    send(app, "piece", code)
    assert [p["stage"] for p in shown(app, "piece", code)] == ["cut", "glue", "break"]
    assert app.client.get(f"/api/photos/{shown(app, 'piece', code)[1]['id']}").headers["content-type"] == "image/png"
    assert shown(app, "piece", app.codes(batch, "joint")[1]) == []


def test_what_a_tablet_sends_twice_counts_once(app: App) -> None:
    add(app, "Ash 1")
    first = send(app, "board", "Ash 1", key="photo-key-1")
    assert send(app, "board", "Ash 1", key="photo-key-1") == first
    assert len(shown(app, "board", "Ash 1")) == 1


def test_one_is_taken_away_and_brought_back(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch, "joint")[0]
    photo = send(app, "piece", code)["id"]
    app.post(f"/photos/{photo}/away")
    assert shown(app, "piece", code) == []
    app.get(f"/photos/{photo}", 404)
    app.post(f"/photos/{photo}/away", status=404)
    app.post(f"/batches/{batch}/undo", {"stage": "cut"})
    assert [p["id"] for p in shown(app, "piece", code)] == [photo]
    app.post(f"/batches/{batch}/undo", {"stage": "cut"})
    assert shown(app, "piece", code) == []


@pytest.mark.parametrize(
    ("kind", "name", "data", "status"),
    [
        ("piece", "ZZZZ", JPEG, 422),
        ("board", "none", JPEG, 422),
        ("moon", "Ash 1", JPEG, 422),
        ("board", "Ash 1", b"<svg xmlns='http://www.w3.org/2000/svg'/>", 422),
        ("board", "Ash 1", b"\xff\xd8\xff", 422),
        ("board", "Ash 1", JPEG + bytes(4 * 1024 * 1024), 422),
        ("board", "Ash 1", JPEG + bytes(6 * 1024 * 1024), 413),
    ],
)
def test_what_is_no_photo_or_of_nothing_is_refused(app: App, kind: str, name: str, data: bytes, status: int) -> None:
    add(app, "Ash 1")
    send(app, kind, name, data, status)
    assert shown(app, "board", "Ash 1") == []


def test_a_photo_keeps_no_place_and_no_more_pixels_than_it_needs(app: App) -> None:
    add(app, "Ash 1")
    exif = Image.Exif()
    exif[0x010F], exif[0x0112] = "Maker", 6
    exif.get_ifd(0x8825)[2] = (48.0, 8.0, 0.0)
    data = picture("JPEG", (3000, 1500), exif=exif)
    assert b"Maker" in data
    made = send(app, "board", "Ash 1", data)
    kept = app.client.get(f"/api/photos/{made['id']}").content
    assert b"Maker" not in kept
    image = Image.open(io.BytesIO(kept))
    assert (image.size, dict(image.getexif())) == ((1000, 2000), {}), "upright, as it was held, and smaller"


def test_of_which_member_a_photo_is(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch, "joint")[0]
    answer = app.client.post(
        "/api/photos", params={"kind": "piece", "name": code, "member": "B"}, content=PNG,
        headers={"Content-Type": "image/png"},
    )  # fmt: skip
    assert answer.status_code == 201
    assert shown(app, "piece", code)[0]["member"] == "B"
    wrong = app.client.post(
        "/api/photos", params={"kind": "piece", "name": code, "member": "X"}, content=PNG,
        headers={"Content-Type": "image/png"},
    )  # fmt: skip
    assert wrong.status_code == 422
