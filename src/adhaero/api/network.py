"""The door, and the shop's network: pairing a device, and who may come in."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import Depends, Request, Response
from pydantic import Field
from starlette.exceptions import HTTPException

from adhaero.api.door import Caller, cookie_name
from adhaero.api.wire import Strict, answer, router_for
from adhaero.core.refusal import refuse
from adhaero.workflow.context import NotFound
from adhaero.workflow.network import Network, NetworkView

router = router_for("network")
DAY_S = 86_400
KEY_FOR_S = 400 * DAY_S
"""As long as browsers keep a cookie; each visit begins the time anew."""


class DoorView(Strict):
    """What anybody may know: whether this device may come in, as which one, and over which kind of connection.

    ``shop`` names the shop for what a device keeps of it; ``secure`` are the addresses of the page with a certificate.
    """

    admitted: bool
    device: str
    shop: str
    at_desk: bool
    secure: list[str]


class JoinIn(Strict):
    """The code that the desk shows, and what to call this device."""

    code: str = Field(max_length=40)
    name: str = Field("", max_length=60)


class RightIn(Strict):
    """What a device may do."""

    right: Literal["bench", "desk"]


class SwitchIn(Strict):
    """Whether the shop's network reaches the program."""

    open: bool


def _network(request: Request) -> Network:
    found: Network | None = request.app.state.network
    if found is None:
        raise HTTPException(404, "This program is not served on a network.")
    return found


def _caller(request: Request) -> Caller:
    found: Caller = request.state.caller
    return found


def _at_desk(who: Annotated[Caller, Depends(_caller)]) -> Caller:
    if not who.at_desk:
        raise refuse("network", "only the computer that Adhaero runs on can change this", "Do it at the desk.")
    return who


Net = Annotated[Network, Depends(_network)]
Who = Annotated[Caller, Depends(_caller)]
Desk = Annotated[Caller, Depends(_at_desk)]


def _stay(response: Response, network: Network, key: str) -> None:
    response.set_cookie(cookie_name(network), key, max_age=KEY_FOR_S, httponly=True, samesite="strict", path="/")


def _door(network: Network, who: Caller) -> DoorView:
    device = who.device.name if who.device else ""
    return DoorView(
        admitted=who.admitted,
        device=device,
        shop=network.devices.admitted.shop,
        at_desk=who.at_desk,
        secure=network.places()[1],
    )


@router.get("/door", response_model=DoorView)
def get_door(request: Request, response: Response, network: Net, who: Who) -> DoorView:
    if who.device is not None:
        _stay(response, network, request.cookies[cookie_name(network)])
    return _door(network, who)


@router.post("/door", response_model=DoorView)
def pair(body: JoinIn, request: Request, response: Response, network: Net, who: Who) -> DoorView:
    address = request.client.host if request.client else ""
    device, key = network.pairing.pair(body.code, body.name, address)
    _stay(response, network, key)
    return _door(network, Caller(who.local, owner=False, device=device))


@router.get("/door/certificate", response_class=Response,
            responses={200: {"content": {"application/x-x509-ca-cert": {}}}})  # fmt: skip
def get_certificate(network: Net) -> Response:
    """The certificate of the shop's own authority: public, and good for addresses of a house network only."""
    if network.ports is None:
        raise HTTPException(404, "The shop's network is shut: there is nothing to trust.")
    named = {"Content-Disposition": 'attachment; filename="adhaero-shop.crt"'}
    return Response(network.authority, media_type="application/x-x509-ca-cert", headers=named)


def _view(network: Network, who: Caller) -> Response:
    return answer(network.view(who.device.id if who.device else None, may_change=who.at_desk))


@router.get("/network", response_model=NetworkView)
def get_network(network: Net, who: Who) -> Response:
    return _view(network, who)


@router.put("/network", response_model=NetworkView)
def switch(body: SwitchIn, network: Net, who: Desk) -> Response:
    if body.open:
        network.open_up()
    else:
        network.shut()
    return _view(network, who)


@router.post("/network/code", response_model=NetworkView)
def new_code(network: Net, who: Desk) -> Response:
    network.pairing.new_code()
    return _view(network, who)


@router.post("/network/devices/{device_id}/right", response_model=NetworkView)
def give_right(device_id: str, body: RightIn, network: Net, who: Desk) -> Response:
    """Say what a device may do: work at the bench, or what the desk may do."""
    if not network.devices.give(device_id, body.right):
        raise NotFound("There is no such device: it was turned away already.")
    return _view(network, who)


@router.post("/network/devices/{device_id}/forget", response_model=NetworkView)
def forget(device_id: str, network: Net, who: Who) -> Response:
    """Turn a device away: from the desk any, from elsewhere only oneself."""
    if not who.at_desk and (who.device is None or who.device.id != device_id):
        raise refuse("network", "only the desk can turn another device away", "Do it at the desk.")
    if not network.devices.remove(device_id):
        raise NotFound("There is no such device: it was turned away already.")
    return _view(network, who)
