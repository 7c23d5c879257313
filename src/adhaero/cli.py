"""The ``adhaero`` command: serve, demo, rig-sim, backup, restore, check.

Each command imports what it needs when it runs: the simulated rig must not wait for the numerical libraries.
"""

from __future__ import annotations

import argparse
import asyncio
import gc
import os
import random
import secrets
import signal
import socket
import sqlite3
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Coroutine, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING

import platformdirs

if TYPE_CHECKING:
    from adhaero.workflow.context import AppContext
    from adhaero.workflow.network import Network

FILE = "adhaero.db"
SEED = 20417


def _now() -> datetime:
    return datetime.now(UTC).astimezone()


def _new_seed() -> int:
    return secrets.randbelow(2**31)


def _own_folder() -> Path:
    return Path(platformdirs.user_data_dir("adhaero", appauthor=False))


def _free_port(wanted: int) -> int:
    """``wanted``, or the next free port after it."""
    for port in range(wanted, wanted + 20):
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind(("127.0.0.1", port))
                return port
            except OSError:
                continue
    raise SystemExit(f"No free port between {wanted} and {wanted + 19}: end another program or give --port.")


def _has_screen() -> bool:
    """Whether a browser can be opened here: at a terminal, under a desktop."""
    desktop = sys.platform in ("win32", "darwin") or any(os.environ.get(v) for v in ("DISPLAY", "WAYLAND_DISPLAY"))
    return desktop and sys.stdout.isatty()


def _opens(args: argparse.Namespace) -> bool:
    return not args.no_browser and _has_screen()


def _open_browser(port: int, address: str) -> None:
    """Open the page once it answers."""
    import webbrowser

    for _ in range(200):
        with socket.socket() as probe:
            probe.settimeout(0.1)
            if probe.connect_ex(("127.0.0.1", port)) == 0:
                webbrowser.open(address)
                return
        time.sleep(0.1)


def _own_address(network: Network) -> str:
    """The address for this computer's own browser; with a code where the system can't tell whose browser it is."""
    from adhaero.api.peer import can_tell

    plain = f"http://127.0.0.1:{network.port}"
    return plain if can_tell() else f"{plain}/pair#{network.pairing.new_code(lasting=True).text}"


def _open_shop(network: Network, *, asked: bool) -> None:
    """Listen on the shop's network, as ``asked`` now or left so before, and say how a tablet comes in."""
    import segno

    from adhaero.core.refusal import Refusal

    try:
        network.open_up(stays=False)
    except Refusal as refusal:
        why = f"The shop's network: {refusal.problems[0].message}. {refusal.problems[0].remedy}"
        if asked:
            raise SystemExit(why) from None
        # The desk itself works all the same, and its page Shop says that the network is shut.
        print(f"  {why}\n", flush=True)
        return
    plain, secure = network.places()
    # The code of this computer's own browser stays the one that counts: tablets get theirs from the page.
    own = network.pairing.code()
    code = own or network.pairing.new_code()
    if not plain:
        print("  This computer is on no network of a house or shop: no tablet will find it.\n", flush=True)
        return
    how = "on the page Shop" if own else f"within ten minutes: {plain[0]}/pair, code {code.text}"
    print(f"  On the shop's network: {', '.join(plain)}\n  With the shop's certificate: {', '.join(secure)}\n"
          f"  Pair a device {how}\n", flush=True)  # fmt: skip
    if sys.stdout.isatty() and not own:
        segno.make(f"{plain[0]}/pair#{code.text}", micro=False).terminal(compact=True)


def _run(context: AppContext, args: argparse.Namespace, say: str) -> None:
    # What is read now stays for good: collecting meanwhile only delays the start. Serving turns it on again.
    gc.disable()
    from adhaero.api.app import create_app
    from adhaero.serving import HouseListener, serve
    from adhaero.workflow.copies import keep_daily
    from adhaero.workflow.network import Network

    port = _free_port(args.port)
    listener = HouseListener()
    network = Network(context.db.path.parent, _now, port, listener)
    listener.app = create_app(context, network)
    served = context.db.path.with_suffix(".address")
    served.write_text(f"http://127.0.0.1:{port}")
    ended = threading.Event()
    keep_daily(context, ended)
    address = _own_address(network)
    print(f"\n  {say}\n  Open {address}  (end with Ctrl+C)\n", flush=True)
    if args.shop or network.devices.admitted.open:
        _open_shop(network, asked=args.shop)
    if _opens(args):
        threading.Thread(target=_open_browser, args=(port, address), daemon=True).start()
    try:
        serve(listener.app, port)
    finally:
        ended.set()
        served.unlink(missing_ok=True)


@contextmanager
def _alone(path: Path) -> Iterator[None]:
    """Hold the data file for this server: two on one file would take each other's pulls for broken off."""
    import filelock

    path.parent.mkdir(parents=True, exist_ok=True)
    lock = filelock.FileLock(path.with_suffix(".lock"))
    try:
        lock.acquire(timeout=0)
    except filelock.Timeout:
        address = path.with_suffix(".address")
        where = f" at {address.read_text()}" if address.exists() else ""
        raise SystemExit(f"Adhaero already serves {path.parent}{where}: open that, or end it first.") from None
    try:
        yield
    finally:
        lock.release()


def _serve(args: argparse.Namespace) -> None:
    from adhaero.store.database import Database
    from adhaero.workflow.context import AppContext

    folder = args.data or _own_folder()
    db = Database(folder / FILE)
    with _alone(db.path):
        db.open_up()
        context = AppContext(db, _now, _new_seed, hand_port=args.hand_port)
        _run(context, args, f"Adhaero, your own data in {folder}")


def _start_rig(seed: int) -> tuple[subprocess.Popen[str], int, int]:
    """The simulated rig as a process of its own; returns it with its signal and hand ports."""
    command = [sys.executable, "-m", "adhaero", "rig-sim", "--port", "0", "--hand-port", "0", "--seed", str(seed)]
    rig = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    assert rig.stdout is not None
    words = rig.stdout.readline().replace(",", " ").split()
    ports = [int(word.rpartition(":")[2]) for word in words if word.startswith("127.0.0.1:")]
    return rig, ports[0], ports[1]


def fill_demo(path: Path, rig_port: int, now: Callable[[], datetime] = _now) -> None:
    """Load the demo workshop into a new file; a file made on another day, or of an older demo, is put aside first."""
    from adhaero.demo import workshop as demo
    from adhaero.store import rigs
    from adhaero.store.database import Database
    from adhaero.workflow.context import AppContext

    url = f"socket://127.0.0.1:{rig_port}"
    made_by = f"{now().date().isoformat()} {demo.REVISION}"
    if path.exists():
        made = datetime.fromtimestamp(path.stat().st_ctime, UTC).astimezone().date()
        stamp = path.with_suffix(".day")
        same_day = stamp.exists() and stamp.read_text() == made_by
        if same_day:
            db = Database(path)
            db.open_up()
            with db.write() as conn:
                rigs.move_port(conn, url)
            return
        Database(path).backup(path.with_suffix(f".{made}.db"))
        beside = (path.with_name(path.name + end) for end in ("-wal", "-shm"))
        for old in (path, *beside, Database(path).note):
            old.unlink(missing_ok=True)
    db = Database(path)
    db.open_up()
    rng, clock = random.Random(SEED), demo.Clock(now())
    demo.load(AppContext(db, clock, lambda: rng.randrange(2**31)), clock, "")
    with db.write() as conn:
        rigs.move_port(conn, url)
    path.with_suffix(".day").write_text(made_by)


def _end_with_parent(parent: int) -> None:
    """End as by Ctrl+C once the program that started this one is gone."""
    while os.getppid() == parent:
        time.sleep(1)
    os.kill(os.getpid(), signal.SIGINT)


def _demo(args: argparse.Namespace) -> None:
    from adhaero.store.database import Database
    from adhaero.workflow.context import AppContext

    folder = args.data or Path(platformdirs.user_cache_dir("adhaero", appauthor=False)) / "demo"
    if args.with_parent:
        threading.Thread(target=_end_with_parent, args=(os.getppid(),), daemon=True).start()
    with _alone(folder / FILE):
        rig, port, hand_port = _start_rig(SEED)
        try:
            fill_demo(folder / FILE, port)
            context = AppContext(Database(folder / FILE), _now, _new_seed, hand_port=hand_port)
            _run(context, args, "Adhaero with the demo workshop (scratch data) and a simulated rig")
        finally:
            rig.terminate()
            rig.wait(timeout=5)


def _rig_sim(args: argparse.Namespace) -> None:
    from adhaero.rig.simulator import Simulator, serve

    simulator = Simulator(seed=args.seed, rate_hz=args.rate, capacity_n=args.capacity, pump_s=args.pump)
    asyncio.run(_with_parent(serve(simulator, args.port, args.hand_port)))


async def _with_parent(work: Coroutine[None, None, None]) -> None:
    """End with the process that started this one, also when that one was killed."""
    parent = os.getppid()
    task = asyncio.create_task(work)
    while not task.done():
        await asyncio.wait([task], timeout=1)
        if os.getppid() != parent:
            task.cancel()
            return
    await task


def _backup(args: argparse.Namespace) -> None:
    from adhaero.store.database import Database

    source = Database((args.data or _own_folder()) / FILE)
    if not source.path.exists():
        raise SystemExit(f"There is no data in {source.path.parent}.")
    source.inspect()
    source.backup(args.target)
    print(f"Copied to {args.target}")


def _restore(args: argparse.Namespace) -> None:
    from adhaero.core.refusal import Refusal
    from adhaero.store import copies
    from adhaero.store.database import Database

    db = Database((args.data or _own_folder()) / FILE)
    own = {c.name: copies.folder_of(db) / c.name for c in copies.listed(db)}
    if args.copy is None:
        print("\n".join(own) or f"There are no copies in {copies.folder_of(db)}.")
        return
    path = own.get(args.copy, Path(args.copy))
    if not path.is_file():
        raise SystemExit(f"There is no copy {args.copy}: adhaero restore lists them.")
    with _alone(db.path):
        try:
            present = copies.put_back(db, path, _now())
        except Refusal as refusal:
            raise SystemExit(f"{refusal.problems[0].message}. {refusal.problems[0].remedy}") from None
    aside = sorted(db.path.parent.glob(f"{FILE}.damaged-*"))
    where = f" What was there is in {present.name}." if present else ""
    if present is None and aside:
        where = f" What was there can't be read, and is kept as {aside[-1].name}."
    print(f"Put back {path.name}.{where}")


def _check(args: argparse.Namespace) -> None:
    from adhaero.store.database import Database

    db = Database((args.data or _own_folder()) / FILE)
    if not db.path.exists():
        raise SystemExit(f"There is no data in {db.path.parent}.")
    db.inspect()
    found = db.check()
    print("\n".join(found) or "Everything is in order.")
    if found:
        raise SystemExit(1)


def _port(text: str) -> int:
    """A port as it is given on the command line."""
    if not text.isdigit() or not 0 <= int(text) <= 65535:
        raise argparse.ArgumentTypeError(f"{text!r} is no port: give a number from 1 to 65535")
    return int(text)


def main(argv: list[str] | None = None) -> None:
    """Run the command."""
    from adhaero.store.database import Unusable

    parser = argparse.ArgumentParser(prog="adhaero", description="Plan, make, break and compare glued wood joints.")
    commands = parser.add_subparsers(required=True)

    def command(name: str, what: Callable[[argparse.Namespace], None], text: str) -> argparse.ArgumentParser:
        sub = commands.add_parser(name, help=text, description=text)
        sub.set_defaults(run=what)
        if name != "rig-sim":
            sub.add_argument("--data", type=Path, help="folder of the data file")
        return sub

    for name, what, text in (
        ("serve", _serve, "serve your own data"),
        ("demo", _demo, "serve the demo workshop beside a simulated rig"),
    ):
        sub = command(name, what, text)
        sub.add_argument("--port", type=_port, default=8137)
        sub.add_argument("--hand-port", type=_port, default=None, help=argparse.SUPPRESS)
        if name == "demo":
            sub.add_argument("--with-parent", action="store_true", help=argparse.SUPPRESS)
        sub.add_argument("--shop", action="store_true", help="let tablets on the shop's network in, once paired")
        sub.add_argument("--no-browser", action="store_true", help="do not open the page in a browser")
    rig = command("rig-sim", _rig_sim, "run the simulated rig alone")
    rig.add_argument("--port", type=_port, default=4545)
    rig.add_argument("--hand-port", type=_port, default=4546)
    rig.add_argument("--seed", type=int, default=SEED)
    rig.add_argument("--rate", type=float, default=80.0)
    rig.add_argument("--pump", type=float, default=3.0, help="seconds from nothing to the break")
    rig.add_argument("--capacity", type=float, default=20_000.0)
    copy = command("backup", _backup, "copy the data file while the program runs")
    copy.add_argument("target", type=Path)
    back = command("restore", _restore, "put a copy of the data in its place, or list the copies")
    back.add_argument("copy", nargs="?", help="a copy from the list, or a file")
    command("check", _check, "check the data file")
    args = parser.parse_args(argv)
    try:
        args.run(args)
    except KeyboardInterrupt:
        print("\nEnded.")
    except Unusable as error:
        # What cannot be used is said in one sentence; a traceback helps nobody at a bench.
        raise SystemExit(str(error)) from None
    except sqlite3.DatabaseError as error:
        remedy = "run adhaero restore to see the copies, and put one back"
        raise SystemExit(f"The data file is damaged ({error}): {remedy}.") from None
    except OSError as error:
        where = f"{error.filename}: " if error.filename else ""
        remedy = "Give another folder with --data, or change its rights"
        raise SystemExit(f"{where}{error.strerror or error}. {remedy}.") from None
