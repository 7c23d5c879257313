"""The door: a code that counts once, keys, who may change what, and guesses that come to nothing."""

from __future__ import annotations

import errno
import json
import ssl
from collections.abc import Callable
from datetime import timedelta
from pathlib import Path

import pytest
from cryptography import x509
from fastapi.testclient import TestClient

from adhaero.api import peer
from adhaero.api.app import create_app
from adhaero.core.house_network import in_house
from adhaero.core.refusal import Refusal
from adhaero.store.certificates import Secured, certificate
from adhaero.store.database import Database
from adhaero.store.devices import Devices, Ports
from adhaero.workflow.context import AppContext
from adhaero.workflow.network import Network, own_name
from adhaero.workflow.pairing import LETTERS, Pairing, plain
from tests.running import Clock

DESK, TABLET = "192.168.7.2", "192.168.7.31"


class Ear:
    """Listens to nothing, and remembers what it was asked."""

    def __init__(self) -> None:
        self.heard: list[str] = []

    def start(self, wanted: Ports, secured: Secured) -> Ports:
        self.heard.append("start")
        return wanted

    def renew(self, secured: Secured) -> None:
        self.heard.append("renew")

    def stop(self) -> None:
        self.heard.append("stop")


class House:
    """A shop with its door, and the devices that come to it."""

    def __init__(self, folder: Path) -> None:
        self.clock, self.ear, self.addresses = Clock(), Ear(), [DESK]
        db = Database(folder / "adhaero.db")
        db.open_up()
        self.context = AppContext(db, self.clock, lambda: 1)
        self.network = Network(folder, self.clock, 8137, self.ear, find_addresses=lambda: self.addresses)
        self.app = create_app(self.context, self.network, webroot=Path("no-front-end"))

    def device(self, address: str = TABLET) -> TestClient:
        """A device on the shop's network."""
        app = self.at(DESK)
        return TestClient(app, base_url=f"http://{DESK}:8147", client=(address, 40_000))

    def desk(self) -> TestClient:
        """A browser on the computer itself."""
        return TestClient(self.app, base_url="http://127.0.0.1:8137", client=("127.0.0.1", 40_001))

    def at(self, server: str) -> Callable[..., object]:
        async def called(scope, receive, send):  # type: ignore[no-untyped-def]
            await self.app({**scope, "server": (server, 8147)}, receive, send)

        return called


@pytest.fixture
def house(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> House:
    monkeypatch.setattr("adhaero.api.door.is_same_user", lambda client, server: client[1] == 40_001)
    return House(tmp_path)


def paired(house: House, name: str = "Tablet") -> TestClient:
    """A device that was let in."""
    code = house.desk().post("/api/network/code").json()["code"]["text"]
    device = house.device()
    assert device.post("/api/door", json={"code": code, "name": name}).status_code == 200
    return device


def test_who_is_not_paired_neither_reads_nor_writes(house: House) -> None:
    stranger = house.device()
    for path in ("/api/today", "/api/shop", "/api/batches/1/plan", "/api/network", "/api/openapi.json"):
        assert stranger.get(path).status_code == 401, path
    refused = stranger.post("/api/batches", json={"name": "Mine"})
    assert (refused.status_code, refused.json()["type"]) == (401, "/problems/not-paired")
    assert stranger.get("/api/door").json()["admitted"] is False
    assert house.desk().get("/api/today").json()["batches"] == []


def test_a_code_lets_one_device_in_and_a_second_one_not(house: House) -> None:
    code = house.desk().post("/api/network/code").json()["code"]["text"]
    typed = f" {code[:4].lower()}-{code[4:]} "
    first, second = house.device(), house.device("192.168.7.32")
    assert first.post("/api/door", json={"code": typed, "name": "At the window"}).json()["device"] == "At the window"
    assert first.get("/api/today").status_code == 200
    assert second.post("/api/door", json={"code": code}).status_code == 422
    assert second.get("/api/today").status_code == 401


def test_a_code_ends_after_ten_minutes(house: House) -> None:
    code = house.desk().post("/api/network/code").json()["code"]["text"]
    house.clock.pass_(minutes=10)
    assert house.device().post("/api/door", json={"code": code}).status_code == 422
    assert house.desk().get("/api/network").json()["code"] is None


def test_ten_thousand_wrong_codes_come_to_nothing(house: House) -> None:
    code = house.desk().post("/api/network/code").json()["code"]["text"]
    stranger = house.device()
    found = [stranger.post("/api/door", json={"code": f"{LETTERS[i % 30]}{i:07}"}).status_code for i in range(400)]
    assert found[:5] == [422] * 5
    assert set(found[5:]) == {429}
    pairing = house.network.pairing
    for i in range(10_000):
        # From ever another address, as somebody might who knows of the limit for each.
        with pytest.raises(Refusal):
            pairing.pair(f"A{i:07}", "", f"10.0.{i // 250}.{i % 250}")
    assert pairing.withdrawn
    assert house.desk().get("/api/network").json()["withdrawn"] is True
    house.clock.pass_(minutes=2)
    assert house.device().post("/api/door", json={"code": code}).status_code == 422, "the right one, too late"
    assert paired(house).get("/api/today").status_code == 200


def test_a_refused_address_is_told_how_long(house: House) -> None:
    device = house.device()
    for _ in range(5):
        device.post("/api/door", json={"code": "WRONG"})
    house.clock.pass_(seconds=20)
    refused = device.post("/api/door", json={"code": "WRONG"})
    assert (refused.status_code, refused.headers["Retry-After"]) == (429, "40")
    house.clock.pass_(seconds=41)
    assert device.post("/api/door", json={"code": "WRONG"}).status_code == 422


def test_keys_outlive_a_restart_and_revoking_outlives_it_too(house: House, tmp_path: Path) -> None:
    device = paired(house)
    key = device.cookies[f"adhaero-{house.network.devices.admitted.shop}"]
    again = House(tmp_path)
    assert again.network.devices.holder(key, again.clock()) is not None
    mine = again.desk().get("/api/network").json()["devices"][0]
    assert again.desk().post(f"/api/network/devices/{mine['id']}/forget").json()["devices"] == []
    assert House(tmp_path).network.devices.holder(key, again.clock()) is None


def test_a_device_that_is_turned_away_is_refused_at_once(house: House) -> None:
    device = paired(house)
    own = house.desk().get("/api/network").json()["devices"][0]["id"]
    house.desk().post(f"/api/network/devices/{own}/forget")
    assert device.get("/api/today").status_code == 401
    assert device.post("/api/batches", json={"name": "Late"}).status_code == 401


def test_a_device_lets_nobody_in_and_turns_only_itself_away(house: House) -> None:
    one, other = paired(house, "One"), paired(house, "Other")
    ids = {d["name"]: d["id"] for d in one.get("/api/network").json()["devices"]}
    house.desk().post("/api/network/code")
    assert one.get("/api/network").json()["code"] is None, "the code is for eyes at the desk"
    assert one.post("/api/network/code").status_code == 422
    assert one.put("/api/network", json={"open": False}).status_code == 422
    assert one.post(f"/api/network/devices/{ids['Other']}/forget").status_code == 422
    assert one.post(f"/api/network/devices/{ids['One']}/forget").status_code == 200
    assert (one.get("/api/today").status_code, other.get("/api/today").status_code) == (401, 200)


def test_another_user_of_this_computer_needs_a_code_as_well(house: House) -> None:
    other = TestClient(house.app, base_url="http://127.0.0.1:8137", client=("127.0.0.1", 40_002))
    assert other.get("/api/today").status_code == 401
    code = house.desk().post("/api/network/code").json()["code"]
    assert code["address"] == f"http://127.0.0.1:8137/pair#{code['text']}"
    other.post("/api/door", json={"code": code["text"]})
    assert other.get("/api/network").json()["may_change"] is True, "it sits at the desk"


def test_what_a_program_in_between_passes_on_is_not_the_desk(house: House) -> None:
    assert house.desk().get("/api/today", headers={"X-Forwarded-For": "203.0.113.9"}).status_code == 401


@pytest.mark.parametrize("host", [f"{DESK}:8147", own_name(), f"{own_name()}.local:8147"])
def test_the_names_of_the_desk_are_known(house: House, host: str) -> None:
    assert house.device().get("/api/door", headers={"Host": host}).status_code == 200


@pytest.mark.parametrize("host", ["192.168.7.3:8147", "evil.example", "127.0.0.1.evil.example"])
def test_other_names_are_refused_also_with_a_key(house: House, host: str) -> None:
    assert paired(house).get("/api/today", headers={"Host": host}).status_code == 403


def test_pages_of_other_sites_write_nothing_through_a_paired_device(house: House) -> None:
    refused = paired(house).post("/api/batches", json={"name": "X"}, headers={"Origin": "http://192.168.7.9"})
    assert refused.status_code == 403


def test_an_address_outside_of_house_networks_is_not_served(house: House) -> None:
    app = house.at("198.51.100.7")
    device = TestClient(app, base_url="http://198.51.100.7:8147", client=("198.51.100.9", 1))  # type: ignore[arg-type]
    assert device.get("/api/door").status_code == 403
    assert [in_house(a) for a in ("10.1.2.3", "172.31.0.1", "172.32.0.1", "8.8.8.8", "fe80::1", "x")] == [
        True, True, False, False, False, False,
    ]  # fmt: skip


def test_the_switch_is_kept_and_the_certificate_follows_the_address(house: House, tmp_path: Path) -> None:
    desk = house.desk()
    assert desk.put("/api/network", json={"open": True}).json()["addresses"] == [f"http://{DESK}:8147"]
    assert House(tmp_path).network.devices.admitted.open is True
    house.addresses[:] = ["192.168.7.99"]
    given = house.device().get("/api/door/certificate")
    assert x509.load_pem_x509_certificate(given.content).subject.rfc4514_string().startswith("CN=Adhaero on")
    assert desk.get("/api/network").json()["secure"] == ["https://192.168.7.99:8148"]
    assert house.ear.heard == ["start", "renew"]
    assert desk.put("/api/network", json={"open": False}).json()["addresses"] == []
    assert house.ear.heard[-1] == "stop"
    assert House(tmp_path).network.devices.admitted.open is False


def test_a_certificate_that_was_broken_off_or_is_of_another_authority_is_made_anew(tmp_path: Path) -> None:
    now = Clock()()
    first = certificate(tmp_path, "desk", [DESK], now)
    page = first.page.read_bytes()
    assert certificate(tmp_path, "desk", [DESK], now).page.read_bytes() == page, "what is good stays"
    first.page.write_bytes(page[: len(page) // 2])
    again = certificate(tmp_path, "desk", [DESK], now)
    ssl.create_default_context(ssl.Purpose.CLIENT_AUTH).load_cert_chain(again.page)
    assert again.authority == first.authority
    # The authority is gone: its page would be trusted by nobody.
    (tmp_path / "authority.pem").unlink()
    other = certificate(tmp_path, "desk", [DESK], now)
    assert other.authority != first.authority
    signed, signer = (x509.load_pem_x509_certificate(d) for d in (other.page.read_bytes(), other.authority))
    signed.verify_directly_issued_by(signer)
    assert (tmp_path / "page.pem").stat().st_mode & 0o077 == 0


def test_a_damaged_list_of_devices_lets_nobody_in(house: House, tmp_path: Path) -> None:
    device = paired(house)
    key = device.cookies[f"adhaero-{house.network.devices.admitted.shop}"]
    (tmp_path / "devices.json").write_text('{"shop": "x", "devi')
    assert Devices(tmp_path).holder(key, house.clock()) is None
    assert (tmp_path / "devices.damaged.json").read_text().startswith('{"shop"')


def test_a_page_of_another_shop_writes_nothing_here(house: House, tmp_path: Path) -> None:
    desk = house.desk()
    own = desk.get("/api/door").json()["shop"]
    refused = desk.post("/api/batches", json={"name": "Of the demo"}, headers={"Adhaero-Shop": "0000aaaa"})
    assert (refused.status_code, refused.json()["type"]) == (421, "/problems/other-shop")
    assert desk.get("/api/door", headers={"Adhaero-Shop": "0000aaaa"}).json()["shop"] == own
    assert desk.post("/api/batches", json={"name": "Own"}, headers={"Adhaero-Shop": own}).status_code == 201
    assert House(tmp_path).network.devices.admitted.shop == own, "the same after a restart"


def test_keys_are_kept_as_digests_for_the_owner_of_the_file_only(house: House, tmp_path: Path) -> None:
    device = paired(house)
    key = device.cookies[f"adhaero-{house.network.devices.admitted.shop}"]
    path = tmp_path / "devices.json"
    assert key not in path.read_text()
    assert path.stat().st_mode & 0o077 == 0
    seen = json.loads(path.read_text())["devices"][0]["seen_at"]
    house.clock.pass_(minutes=3)
    device.get("/api/today")
    assert json.loads(path.read_text())["devices"][0]["seen_at"] > seen


def test_codes_have_no_letters_that_are_taken_for_others(tmp_path: Path) -> None:
    pairing = Pairing(Devices(tmp_path), Clock())
    found = {c for _ in range(300) for c in pairing.new_code().text}
    assert found == set(LETTERS)
    assert not found & set("ILOU01")
    assert plain("ab cd-ef.gh") == "ABCDEFGH"
    assert pairing.new_code(lasting=True).until is None
    assert pairing.new_code().until == Clock()() + timedelta(minutes=10)


def test_the_kernel_tells_whose_a_connection_is(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """As in proc(5): addresses in the bytes of the machine (here of a little-endian one), the state, the user."""
    monkeypatch.setattr("os.geteuid", lambda: 1000)
    monkeypatch.setattr("sys.byteorder", "little")
    table = tmp_path / "tcp"
    row = "   0: 0100007F:{port:04X} 0100007F:1FC9 {state} 00000000:00000000 00:00000000 00000000 {user:5}        0 1"
    rows = [
        row.format(port=p, state=s, user=u) for p, s, u in ((4001, "01", 1000), (4002, "01", 1001), (4003, "06", 0))
    ]
    table.write_text("  sl  local_address rem_address\n" + "\n".join(rows))
    monkeypatch.setattr(peer, "TABLES", (table, tmp_path / "none"))
    own = [peer.is_same_user(("127.0.0.1", port), ("127.0.0.1", 8137)) for port in (4001, 4002, 4003, 4004)]
    assert own == [True, False, False, False]
    table.unlink()
    assert not peer.can_tell()
    assert not peer.is_same_user(("127.0.0.1", 4001), ("127.0.0.1", 8137)), "who can't be told needs a key"


def test_every_answer_says_when_it_was_made(house: House) -> None:
    """A device goes by the desk's clock, and learns it from whatever it asks, refused or not."""
    device, stranger = paired(house), house.device("192.168.7.40")
    house.clock.pass_(minutes=3)
    now = house.context.stamp()
    for who in (house.desk(), device, stranger):
        for path in ("/api/door", "/api/today", "/api/shop", "/api/rig/live", "/api/batches/9/break", "/api/nothing"):
            assert who.get(path).headers["Adhaero-Now"] == now, path


def test_a_full_disk_keeps_no_device_out(house: House, monkeypatch: pytest.MonkeyPatch) -> None:
    device = paired(house)

    def full(*_: object) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr("adhaero.store.devices.write_private", full)
    house.clock.pass_(hours=1)
    assert device.get("/api/today").status_code == 200


def test_a_device_works_at_the_bench_until_the_desk_gives_it_more(house: House) -> None:
    """Copies and the rig's address are the desk's; the right is given, and taken back, at the desk only."""
    tablet, desk = paired(house), house.desk()
    rig = {"name": "Press", "fixture": "A", "capacity": 20_000, "step": 1}

    def tries() -> list[int]:
        return [
            tablet.get("/api/copies").status_code,
            tablet.post("/api/copies/back", json={"name": "x"}).status_code,
            tablet.put("/api/rig", json={**rig, "port": "socket://192.168.7.9:4545"}).status_code,
        ]

    assert tries() == [403, 403, 422]
    assert tablet.put("/api/rig", json={**rig, "port": ""}).status_code == 200, "another fixture is the bench's work"
    assert tablet.get("/api/today").status_code == 200
    (own,) = desk.get("/api/network").json()["devices"]
    path = f"/api/network/devices/{own['id']}/right"
    assert tablet.post(path, json={"right": "desk"}).status_code == 422
    assert desk.post(path, json={"right": "desk"}).json()["devices"][0]["right"] == "desk"
    assert tries()[0] == 200
    desk.put("/api/rig", json={**rig, "port": ""})
    desk.post(path, json={"right": "bench"})
    assert tries()[0] == 403


@pytest.mark.parametrize(
    ("port", "fine"),
    [
        ("/dev/ttyUSB0", True), ("COM3", True), ("socket://192.168.7.9:4545", True), ("socket://press.local:1", True),
        ("/dev/../etc/passwd", False), ("/dev/mem", False), ("socket://example.com:80", False),
        ("socket://8.8.8.8:53", False), ("socket://192.168.7.9:99999", False), ("loop://", False),
    ],
)  # fmt: skip
def test_a_rig_is_a_serial_device_or_on_this_network(house: House, port: str, fine: bool) -> None:
    rig = {"name": "Press", "fixture": "A", "capacity": 20_000, "step": 1, "port": port}
    assert house.desk().put("/api/rig", json=rig).status_code == (200 if fine else 422)
    house.desk().put("/api/rig", json={**rig, "port": ""})
