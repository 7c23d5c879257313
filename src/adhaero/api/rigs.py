"""Rigs over HTTP: set-ups, the instrument behind each, check weights, and what a foreign indicator sends."""

from __future__ import annotations

from typing import Any

from fastapi import Request, Response
from pydantic import Field

from adhaero.api.door import Caller
from adhaero.api.wire import Id, Key, Person, Shop, Strict, answer, router_for
from adhaero.core.breaking.instrument import Instrument, Measures
from adhaero.core.breaking.rack import Rack
from adhaero.core.refusal import refuse
from adhaero.workflow import rigs, shop
from adhaero.workflow.breaking.rack_of_shop import save_rack
from adhaero.workflow.rigs import Preview
from adhaero.workflow.shop import ShopView

router = router_for("rigs")


class KnownIn(Strict):
    """A known weight, and what was shown, as typed."""

    known: str = Field(max_length=100)
    shown: str = Field(max_length=100)


class InstrumentIn(Strict):
    """What a rig measures; ``piston_mm2``, ``arm_mm``, ``tare_n`` in base units."""

    measures: Measures = Measures.FORCE
    unit: str = Field("N", max_length=20)
    piston_mm2: float | None = None
    arm_mm: float | None = None
    lever: float = 1.0
    tare_n: float = 0.0
    own_n: float = 0.0
    own_at: float = 0.0

    def instrument(self) -> Instrument:
        """Without a calibration."""
        return Instrument(
            self.measures, self.unit, self.piston_mm2, self.arm_mm, self.lever, self.tare_n, own_n=self.own_n,
            own_at=self.own_at,
        )  # fmt: skip


class RigIn(Strict):
    """The rig; any change or a reason starts a new set-up. ``capacity`` and ``step`` are in the base unit of what it
    measures (N, MPa, N m, mm). ``calibration``: none keeps that of the set-up in use, an empty list takes it off.
    """

    name: str = Field(max_length=80)
    port: str = Field("", max_length=200)
    capacity: float
    step: float
    working_share: float = 0.8
    fixture: str = Field(max_length=120)
    reason: str = Field("", max_length=500)
    instrument: InstrumentIn = InstrumentIn(unit="N")
    pattern: str = Field("", max_length=200)
    calibration: list[KnownIn] | None = Field(None, max_length=100)
    load_point: str = Field("", max_length=120)
    weakest: str = Field("", max_length=120)
    weakest_n: float | None = None


class CheckIn(Strict):
    """A check weight that was read: what it weighs, and what was shown, as typed."""

    known: str = Field(max_length=100)
    shown: str = Field(max_length=100)
    note: str = Field("", max_length=500)


class InspectedIn(Strict):
    """The rig was looked over."""

    note: str = Field("", max_length=500)


class PreviewIn(Strict):
    """How lines would be read; without ``lines`` the last ones that came."""

    instrument: InstrumentIn = InstrumentIn(unit="N")
    pattern: str = Field("", max_length=200)
    lines: list[str] = Field([], max_length=50)


class KindOfWeight(Strict):
    """So many weights of one mass, g."""

    mass_g: int
    count: int


class RackIn(Strict):
    """The weights at hand, what hangs with them, and what a vessel holds; g."""

    weights: list[KindOfWeight] = Field(max_length=40)
    hanger_g: int = 0
    vessel_g: int = 0


@router.put("/rack", response_model=ShopView)
def put_rack(w: Shop, body: RackIn, key: Key = None) -> Response:
    save_rack(w, Rack(tuple((x.mass_g, x.count) for x in body.weights), body.hanger_g, body.vessel_g), key)
    return answer(shop.view(w))


@router.put("/rig", response_model=ShopView)
def put_rig(w: Shop, body: RigIn, person: Person, request: Request, key: Key = None) -> Response:
    who: Caller | None = getattr(request.state, "caller", None)
    if who is not None and not who.has_desk and body.port.strip() != rigs.port_in_use(w):
        remedy = "Change it at the desk, or give this device the desk's rights there."
        raise refuse("port", "only the desk says where the rig is", remedy)
    made = rigs.set_up(
        body.name, body.fixture, rigs.calibrated(w, body.name, body.instrument.instrument(), _rows(body), person),
        capacity=body.capacity, step=body.step, working_share=body.working_share, reason=body.reason,
        pattern=body.pattern.strip(), load_point=body.load_point, weakest=body.weakest, weakest_n=body.weakest_n,
    )  # fmt: skip
    rigs.use(w, made, body.port.strip(), key)
    return answer(shop.view(w))


def _rows(body: RigIn) -> list[tuple[str, str]] | None:
    return None if body.calibration is None else [(c.known, c.shown) for c in body.calibration]


@router.post("/rig/again/{setup_id}", response_model=ShopView)
def post_again(w: Shop, setup_id: int, key: Key = None) -> Response:
    """Take an earlier set-up up again, as it was."""
    rigs.take_up(w, setup_id, key)
    return answer(shop.view(w))


@router.post("/rig/check", response_model=Id, status_code=201)
def post_check(w: Shop, body: CheckIn, person: Person, key: Key = None) -> dict[str, Any]:
    return rigs.tell(w, "check", person, key, known=body.known, shown=body.shown, note=body.note)


@router.post("/rig/inspected", response_model=Id, status_code=201)
def post_inspected(w: Shop, body: InspectedIn, person: Person, key: Key = None) -> dict[str, Any]:
    return rigs.tell(w, "inspected", person, key, note=body.note)


@router.post("/rig/preview", response_model=Preview)
def post_preview(w: Shop, body: PreviewIn) -> Response:
    return answer(rigs.preview(w, body.instrument.instrument(), body.pattern.strip(), body.lines))
