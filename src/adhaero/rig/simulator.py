"""The simulated load rig: a process of its own that speaks the rig's protocol over TCP.

One port carries the signal, exactly as hardware would send it. A second one is the hand at the lever: it takes one
JSON object a line (``seat``, ``pump``, ``hang``, ``fill``, ``release``, ``fault``, ``look``), so that a demo or a test
can do what a person does at a real rig. The
application reads only the signal; what was drawn for a piece never leaves this process before it is broken.
"""

from __future__ import annotations

import asyncio
import contextlib
import json
import random
import time
from dataclasses import dataclass, field
from typing import Any

from adhaero.core.quantity import Dimension, unit
from adhaero.rig.behaviour import LEFT, Behaviour, behaviour
from adhaero.rig.strength_model import Fate, Piece, draw

N_PER_G = unit("kgf", Dimension.FORCE).to_base(0.001)
DRIFT = 0.002
"""Share of the capacity by which a drifting zero wanders in a second."""
RELEASE_S = 0.6
USUAL_MM = 3.0
"""The way to its peak of a piece that nobody said more of."""
STAYS = 0.06
"""Share of the way that does not spring back after a release."""
AFTER_HANG_S = 1.5
"""How long a piece stands a weight that is too much for it."""
BUFFER_S = 5.0
"""As much of the signal the rig keeps for a computer that is too busy to take it; what is older is lost."""


@dataclass
class Simulator:
    """The rig's state. Forces in N, times in s on the loop's clock.

    ``faults`` says until when each fault lasts; ``faults_from`` at which load one begins, and for how long.
    """

    seed: int = 20417
    capacity_n: float = 20_000.0
    resolution_n: float = 1.0
    rate_hz: float = 80.0
    pump_s: float = 3.0
    offset_n: float = 37.0
    noise_n: float = 3.0
    travel: bool = True
    fate: Fate | None = None
    behaviour: Behaviour | None = None
    broken: Fate | None = None
    pumped_at: float | None = None
    released: tuple[float, float] | None = None
    hung_n: float = 0.0
    hung_at: float | None = None
    flow_n_s: float = 0.0
    stays_mm: float = 0.0
    faults: dict[str, float] = field(default_factory=dict)
    faults_from: dict[str, tuple[float, float]] = field(default_factory=dict)
    paused: bool = False
    clients: set[asyncio.StreamWriter] = field(default_factory=set)
    _started: float = field(default_factory=time.monotonic)
    _rng: random.Random = field(default_factory=random.Random)
    _fates: random.Random = field(default_factory=random.Random)

    def __post_init__(self) -> None:
        self._rng.seed(self.seed)
        self._fates.seed(f"fates {self.seed}")

    # The signal ------------------------------------------------------------------------------------------------------

    def _way(self, now: float) -> float:
        """How far the hand has moved, in ways to the peak. A moment that is sent late may lie before what the hand did
        since: then it has not moved yet.
        """
        if self.released is not None:
            at, way = self.released
            return way * min(1.0, max(0.0, 1 - (now - at) / RELEASE_S))
        return max(0.0, now - self.pumped_at) / self.pump_s if self.pumped_at is not None else 0.0

    def _load(self, now: float) -> float:
        """True force on the piece."""
        if self.fate is None:
            return 0.0
        self.behaviour = self.behaviour or Behaviour(USUAL_MM)
        if self.hung_at is not None:
            return self._weights(now, self.hung_at)
        x = self._way(now)
        if self.released is None and x >= self.behaviour.end:
            peak = self.fate.load_n
            self._breaks()
            return LEFT * peak
        force = self.fate.load_n * self.behaviour.share(x)
        crack = self.fate.crack_n
        if crack is not None and crack < force < 1.06 * crack and x < 1:
            # It gives a tenth, and is back on its way a little later.
            force = 0.9 * crack + (0.16 / 0.06) * (force - crack)
        return force

    def _weights(self, now: float, since: float) -> float:
        """What hangs, or what a vessel weighs that is being filled."""
        assert self.fate is not None
        hung_s = max(0.0, now - since)
        load = self.hung_n + self.flow_n_s * hung_s
        waited = hung_s >= AFTER_HANG_S
        if load >= self.fate.load_n and (waited or self.flow_n_s):
            self._breaks()
            return 0.0
        return load

    def _breaks(self) -> None:
        self.broken, self.fate, self.behaviour, self.pumped_at = self.fate, None, None, None
        self.hung_n, self.hung_at, self.flow_n_s, self.stays_mm = 0.0, None, 0.0, 0.0

    def _travel_mm(self, now: float) -> float:
        if self.behaviour is None:
            return 0.0
        return self.stays_mm + self._way(now) * (self.behaviour.travel_mm - self.stays_mm)

    def line(self, now: float) -> bytes:
        """What the rig sends at a moment of its clock."""
        travel = self._travel_mm(now)
        load = self._load(now)
        for name, (from_n, seconds) in tuple(self.faults_from.items()):
            if load >= from_n:
                del self.faults_from[name]
                self._begin(name, now + seconds)
        force = load + self.offset_n + self._rng.gauss(0, self.noise_n)
        if self._fault("drift", now):
            self.offset_n += DRIFT * self.capacity_n / self.rate_hz
        if self._fault("spike", now) and self._rng.random() < 0.02:
            force += self._rng.choice((-1, 1)) * 0.3 * self.capacity_n
        force = min(force, self.capacity_n)
        ms = round((now - self._started) * 1000)
        if self._fault("wrap", now):
            ms = (ms + 2**32 - 2000) % 2**32
        shown = round(force / self.resolution_n) * self.resolution_n
        if self._fault("garbage", now) and self._rng.random() < 0.3:
            return bytes(self._rng.randrange(128) for _ in range(9)) + b"\n"
        if self._fault("backward", now) and self._rng.random() < 0.1:
            ms -= 500
        if self._fault("wrong", now) and self._rng.random() < 0.2:
            return self._rng.choice((b"12,nan\n", b"1e400,5\n", b"13,1e308\n", b"14,-\n", b",,,\n"))
        if self._fault("half", now) and self._rng.random() < 0.2:
            return f"{ms},{shown:g}\n".encode()[: self._rng.randrange(1, 5)] + b"\n"
        if self._fault("stand", now):
            ms = 4711
        if self._fault("nostamp", now):
            return f"{shown:g}\n".encode()
        moved = f",{travel + self._rng.gauss(0, 0.002):.3f}" if self.travel else ""
        return f"{ms},{shown:g}{moved}\n".encode()

    def _begin(self, name: str, until: float) -> None:
        self.faults[name] = until
        if name == "restart":
            self._started = time.monotonic()
        if name in ("drop", "restart"):
            for writer in tuple(self.clients):
                writer.close()

    def _fault(self, name: str, now: float) -> bool:
        return self.faults.get(name, 0.0) > now

    def identity(self) -> bytes:
        """The line a rig answers to ``?``."""
        return (
            f"# adhaero-rig 1 name=simulated-press unit=N capacity={self.capacity_n:g} "
            f"resolution={self.resolution_n:g} rate={self.rate_hz:g}\n"
        ).encode()

    async def signal(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        """Serve one reader of the signal: its commands are taken while lines go out."""
        if self._fault("drop", time.monotonic()):
            writer.close()
            return
        self.clients.add(writer)
        writer.write(self.identity())
        commands = asyncio.create_task(self._commands(reader, writer))
        due = time.monotonic()
        try:
            while not writer.is_closing():
                now = time.monotonic()
                if not self.paused and not self._fault("silence", now):
                    # Sampled on time even where the line goes out late, as a controller with a buffer does.
                    writer.write(self.line(due))
                await writer.drain()
                due = max(due + 1 / self.rate_hz, now - BUFFER_S)
                await asyncio.sleep(max(0.0, due - time.monotonic()))
        except ConnectionError:
            pass
        finally:
            commands.cancel()
            self.clients.discard(writer)
            writer.close()

    async def _commands(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        with contextlib.suppress(ConnectionError):
            while line := await reader.readline():
                match line.decode("ascii", "replace").split():
                    case ["?"]:
                        writer.write(self.identity())
                    case ["Z"]:
                        self.offset_n = 0.0
                    case ["R", hz] if hz.replace(".", "", 1).isdigit() and 10 <= float(hz) <= 1000:
                        self.rate_hz = float(hz)
                    case ["S"]:
                        self.paused = False
                    case ["P"]:
                        self.paused = True

    # The hand --------------------------------------------------------------------------------------------------------

    def hand_does(self, order: dict[str, Any]) -> dict[str, Any]:
        """Do what a person at the rig does; returns what that person sees."""
        now = time.monotonic()
        match order.get("do"):
            case "seat":
                self.fate = draw(Piece(**order["piece"]), self._fates)
                self.behaviour = behaviour(self.fate, str(order.get("manner", "")))
                self.pumped_at = self.broken = self.released = self.hung_at = None
                self.hung_n, self.flow_n_s, self.stays_mm = 0.0, 0.0, 0.0
            case "pump":
                if self.fate is None:
                    return {"ok": False, "why": "nothing is seated"}
                self.pump_s = max(0.2, float(order.get("seconds", self.pump_s)))
                self.pumped_at, self.released = now, None
            case "release" | "hang" | "fill":
                if self.behaviour is None:
                    return {"ok": False, "why": "nothing is seated"}
                self._handles(order, now, self.behaviour)
            case "fault":
                name, seconds = str(order["name"]), float(order.get("seconds", 2.0))
                if "from_n" in order:
                    self.faults_from[name] = float(order["from_n"]), seconds
                else:
                    self._begin(name, now + seconds)
            case "look":
                if self.broken is None:
                    return {"ok": False, "why": "nothing is broken"}
                return {
                    "ok": True,
                    "failure_mode": self.broken.failure_mode,
                    "wood_failure_pct": self.broken.wood_failure_pct,
                }
            case other:
                return {"ok": False, "why": f"cannot do {other!r}"}
        return {"ok": True}

    def _handles(self, order: dict[str, Any], now: float, b: Behaviour) -> None:
        """Let go of the lever, hang a weight, or open the tap over a vessel."""
        match order["do"]:
            case "release":
                way = self._way(now)
                self.released, self.stays_mm = (now, way), STAYS * way * b.travel_mm
            case "hang":
                self.hung_n += float(order["mass_g"]) * N_PER_G
                self.hung_at = now
            case _:
                self.flow_n_s, self.hung_at = float(order["g_per_s"]) * N_PER_G, now

    async def hand(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        """Serve one hand: a JSON object a line, answered by one."""
        with contextlib.suppress(ConnectionError):
            while line := await reader.readline():
                try:
                    answer = self.hand_does(json.loads(line))
                except (ValueError, KeyError, TypeError) as error:
                    answer = {"ok": False, "why": str(error)}
                    if not line.lstrip().startswith(b"{"):
                        # A web page that posts here sends headers first: it is no hand.
                        break
                writer.write(json.dumps(answer).encode() + b"\n")
                await writer.drain()
        writer.close()


async def serve(simulator: Simulator, port: int, hand_port: int, host: str = "127.0.0.1") -> None:
    """Run the rig until cancelled. Port 0 takes any free one; both are printed once they listen."""
    signal = await asyncio.start_server(simulator.signal, host, port)
    hand = await asyncio.start_server(simulator.hand, host, hand_port)
    ports = [s.sockets[0].getsockname()[1] for s in (signal, hand)]
    print(f"simulated rig: signal on {host}:{ports[0]}, hand on {host}:{ports[1]}", flush=True)
    async with signal, hand:
        await asyncio.Future()
