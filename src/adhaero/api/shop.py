"""Today, shop, and what the screens need to know about units, woods, glues and methods."""

from __future__ import annotations

from fastapi import Response
from fastapi.responses import FileResponse
from pydantic import Field

from adhaero.api.wire import Key, Shop, Strict, When, answer, built_once, router_for
from adhaero.core.cut.layout import Rect
from adhaero.store.boards import StoredBoard
from adhaero.store.bottles import Bottle
from adhaero.workflow import catalogue, copies, shop, today
from adhaero.workflow.catalogue import CatalogueView, ParsedQuantity
from adhaero.workflow.copies import CopiesView
from adhaero.workflow.cut import boards
from adhaero.workflow.demo_process import DEMO
from adhaero.workflow.glue import air
from adhaero.workflow.glue.air import AirView
from adhaero.workflow.shop import ShopView
from adhaero.workflow.today import TodayView

router = router_for("shop")
built_once(ShopView)


class CopyNameIn(Strict):
    """Which copy."""

    name: str = Field(max_length=80)


class QuantityIn(Strict):
    """What somebody typed into a quantity field; ``unit`` is that of a bare number."""

    text: str = Field(max_length=10_000)
    dimension: str = Field(max_length=40)
    unit: str = Field(max_length=20)


class SettingsIn(Strict):
    """Settings to change; what is left out stays."""

    units: dict[str, str] | None = None
    person: str | None = Field(None, max_length=200)
    currency: str | None = Field(None, max_length=40)
    safe_length_mm: float | None = None


class BottleIn(Strict):
    """A new bottle of glue."""

    label: str = Field(max_length=500)
    family: str = Field(max_length=80)
    lot: str = Field("", max_length=80)
    opened_on: str | None = Field(None, max_length=20)
    expires_on: str | None = Field(None, max_length=20)
    note: str = Field("", max_length=500)
    limits: dict[str, float] = Field({}, max_length=12)
    price: float | None = None
    pack_g: float | None = None


class BottleEventIn(Strict):
    """Something that happened to a bottle, now or at a time stated."""

    kind: str = Field(max_length=20)
    at: When | None = None
    note: str = Field("", max_length=200)


class ClimateIn(Strict):
    """What a logger wrote at a place: a table with time, temperature and humidity."""

    place: str = Field(max_length=200)
    text: str = Field(max_length=20_000_000)


class RectIn(Strict):
    """A defect on a board, mm from its left lower corner: x along the grain, y across."""

    x: float
    y: float
    length: float
    width: float


class BoardIn(Strict):
    """A new board, rough size in mm."""

    label: str = Field(max_length=500)
    species: str = Field(max_length=80)
    length_mm: float
    width_mm: float
    thickness_mm: float
    moisture_pct: float | None = None
    density_kg_m3: float | None = None
    price: float | None = Field(None, ge=0)
    source: str = Field("", max_length=200)
    note: str = Field("", max_length=500)
    defects: list[RectIn] = Field([], max_length=60)


@router.get("/today", response_model=TodayView)
def get_today(w: Shop) -> Response:
    return answer(today.view(w))


@router.get("/catalogue", response_model=CatalogueView)
def get_reference() -> Response:
    return answer(catalogue.view())


@router.post("/quantities", response_model=ParsedQuantity)
def parse_quantity(body: QuantityIn) -> Response:
    return answer(catalogue.parse_typed(body.text, body.dimension, body.unit))


@router.get("/shop", response_model=ShopView)
def get_shop(w: Shop) -> Response:
    return answer(shop.view(w))


@router.put("/settings", response_model=ShopView)
def put_settings(w: Shop, body: SettingsIn, key: Key = None) -> Response:
    shop.save_settings(w, body.units, body.person, key, body.currency, body.safe_length_mm)
    return answer(shop.view(w))


@router.post("/bottles", response_model=ShopView)
def post_bottle(w: Shop, body: BottleIn, key: Key = None) -> Response:
    shop.add_bottle(w, Bottle(0, **body.model_dump()), key)
    return answer(shop.view(w))


@router.post("/bottles/{bottle_id}/events", response_model=ShopView)
def post_bottle_event(w: Shop, bottle_id: int, body: BottleEventIn, key: Key = None) -> Response:
    shop.tell_of_bottle(w, bottle_id, body.kind, body.at, body.note, key)
    return answer(shop.view(w))


@router.get("/climate", response_model=AirView)
def get_climate(w: Shop) -> Response:
    return answer(air.view(w))


@router.post("/climate", response_model=AirView)
def post_climate(w: Shop, body: ClimateIn, key: Key = None) -> Response:
    air.take_in(w, body.place, body.text, key)
    return answer(air.view(w))


@router.post("/boards", response_model=ShopView)
def post_board(w: Shop, body: BoardIn, key: Key = None) -> Response:
    defects = tuple(Rect(d.x, d.y, d.length, d.width) for d in body.defects)
    boards.add_board(w, StoredBoard(0, **body.model_dump(exclude={"defects"}), defects=defects), key)
    return answer(shop.view(w))


@router.post("/boards/{board_id}/retire", response_model=ShopView)
def post_retire(w: Shop, board_id: int, key: Key = None) -> Response:
    boards.retire_board(w, board_id, key)
    return answer(shop.view(w))


@router.get("/copies", response_model=CopiesView)
def get_copies(w: Shop) -> Response:
    return answer(copies.view(w))


@router.post("/copies", response_model=CopiesView)
def post_copy(w: Shop) -> Response:
    return answer(copies.take(w))


@router.post("/copies/back", response_model=CopiesView)
def post_put_back(w: Shop, body: CopyNameIn) -> Response:
    """Put a copy in the place of the data; the present state is copied before."""
    return answer(copies.put_back(w, body.name))


@router.get("/copies/{name}", response_class=Response, responses={200: {"content": {"application/vnd.sqlite3": {}}}})
def get_copy(w: Shop, name: str) -> Response:
    return FileResponse(copies.file_of(w, name), filename=name, media_type="application/vnd.sqlite3")


class DemoView(Strict):
    """Where the demo workshop is."""

    address: str


@router.post("/demo", response_model=DemoView)
def post_demo() -> DemoView:
    """Start the demo workshop beside this one, if it does not run."""
    return DemoView(address=DEMO.start())
