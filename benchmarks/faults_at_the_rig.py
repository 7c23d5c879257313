"""Faults at the rig: how often a false load is called exact, and how often a clean pull is not.

``python -m benchmarks.faults_at_the_rig [draws]`` plays every fault at three rates and two paces, 20 draws each unless
told otherwise, through the application's own reader, tracker and judgement, and prints what was recorded. The true peak
is 3,000 N throughout. A pull of 50 s at 1,000 lines a second takes two to four seconds to be played.
"""

from __future__ import annotations

import random
import sys
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from adhaero.core.breaking.proposal import Proposal, judged, propose
from adhaero.core.breaking.quiet import is_quiet
from adhaero.core.breaking.signal import SignalTracker
from adhaero.rig.reader import Reader, Sample

PEAK_N = 3000.0
CAPACITY_N, STEP_N, NOISE_N, OFFSET_N = 20_000.0, 0.5, 2.0, 37.0
RATES_HZ = (10, 80, 1000)
PACES_S = {"slow": 20.0, "fast": 6.0}
QUIET_S, AFTER_S, CHUNK_S = 1.5, 2.5, 0.05
DRAWS = 20


@dataclass
class Play:
    """A pull to be played: when each sample is taken (s), the true load and what is shown (N), whether a line is sent,
    what else is sent before a line, and when somebody presses "Start loading".
    """

    rng: random.Random
    rate_hz: float
    pull_s: float
    t: np.ndarray = field(init=False)
    load: np.ndarray = field(init=False)
    shown: np.ndarray = field(init=False)
    sent: np.ndarray = field(init=False)
    ms: np.ndarray = field(init=False)
    lines: dict[int, str] = field(default_factory=dict)
    pressed_s: float = QUIET_S
    held: bool = False
    true_n: float = PEAK_N

    def __post_init__(self) -> None:
        jitter = self.rng.uniform(0, 1 / self.rate_hz)
        self.t = np.arange(0, QUIET_S + self.pull_s + AFTER_S, 1 / self.rate_hz) + jitter
        self.ms = np.round(1000 * self.t)
        self.sent = np.ones(len(self.t), dtype=bool)
        self.take(self.ramp(PEAK_N))

    def ramp(self, peak: float) -> np.ndarray:
        """Quiet, a straight rise, and a break."""
        x = (self.t - QUIET_S) / self.pull_s
        return np.where(x > 1, 0.004 * peak, peak * np.clip(x, 0, 1))

    def take(self, load: np.ndarray) -> None:
        """Play this true load; what is shown follows from it."""
        self.load = load
        gauss = np.random.default_rng(self.rng.randrange(2**32)).normal(0, NOISE_N, len(load))
        self.shown = np.round((load + OFFSET_N + gauss) / STEP_N) * STEP_N

    def at(self, share: float) -> int:
        """The sample at a share of the way to the break."""
        return int(np.searchsorted(self.t, QUIET_S + share * self.pull_s))

    @property
    def end(self) -> int:
        """The first sample after the break."""
        return self.at(1.0) if self.t[self.at(1.0)] > QUIET_S + self.pull_s else self.at(1.0) + 1

    def span(self, seconds: float) -> int:
        return max(1, round(seconds * self.rate_hz))


def clean(p: Play) -> None: ...


def spike_at_peak(p: Play) -> None:
    n = p.span(0.025)
    p.shown[p.end - n : p.end] += p.rng.choice((300, 2000, 5000))


def spike_in_ramp(p: Play) -> None:
    i = p.at(p.rng.uniform(0.3, 0.9))
    p.shown[i : i + p.span(p.rng.uniform(0.02, 0.12))] += p.rng.choice((2000, 5000, 9000))


def stands_with_its_counter(p: Play) -> None:
    i = p.at(p.rng.uniform(0.4, 0.9))
    for row in (p.shown, p.ms):
        row[i:] = row[i]


def stands_while_counting(p: Play) -> None:
    i = p.at(p.rng.uniform(0.4, 0.9))
    p.shown[i : p.end + p.span(0.6)] = p.shown[i]


def stands_for_a_while(p: Play) -> None:
    i = p.at(p.rng.uniform(0.3, 0.6))
    p.shown[i : i + p.span(0.5)] = p.shown[i]


def drops_out(p: Play) -> None:
    i = p.at(p.rng.uniform(0.3, 0.85))
    p.shown[i : i + p.span(0.5)] = 0.0


def drops_out_at_the_break(p: Play) -> None:
    p.shown[p.end - p.span(0.4) :] = 0.0


def lines_lost_in_ramp(p: Play) -> None:
    i = p.at(p.rng.uniform(0.3, 0.7))
    p.sent[i : i + p.span(0.3)] = False


def lines_lost_at_the_break(p: Play) -> None:
    n = max(4, p.span(0.095)) if p.rate_hz > 10 else 2
    p.sent[p.end - n : p.end] = False


def garbage_at_the_break(p: Play) -> None:
    lines_lost_at_the_break(p)
    for i in np.flatnonzero(~p.sent):
        p.lines[int(i)] = p.rng.choice(("#!&", "12,", "x,y,z", "1e400,5", ",,,"))


def two_peaks(p: Play) -> None:
    """Breaks at 3,000 N, is low for 0.6 s, and is carried on to 3,600 N."""
    x = (p.t - QUIET_S) / p.pull_s
    again = p.t - (QUIET_S + 0.7 * p.pull_s + 0.6)
    rise = PEAK_N / (0.7 * p.pull_s)
    load = np.where(x < 0.7, PEAK_N * np.clip(x / 0.7, 0, 1), np.where(again > 0, 100 + 1.5 * rise * again, 100.0))
    over = np.flatnonzero(load > 3600)
    if len(over):
        load[over[0] :] = 12.0
    p.take(load)
    p.true_n = 3600.0


def clipped(p: Play) -> None:
    """The amplifier is flat at 97.5 % of the capacity; the piece bears 25 kN."""
    p.take(p.ramp(25_000.0))
    p.shown = np.minimum(p.shown, 0.975 * CAPACITY_N)
    p.true_n = 25_000.0


def another_capacity(p: Play) -> None:
    p.lines[p.at(0.6)] = "# adhaero-rig 1 name=press unit=N capacity=2000 resolution=0.5 rate=80"


def another_unit(p: Play) -> None:
    p.lines[p.at(0.6)] = "# adhaero-rig 1 name=press unit=lbf capacity=20000 resolution=0.5 rate=80"


def let_go_before(p: Play) -> None:
    """A load of 500 N is let go of 0.1 s before somebody starts."""
    p.pressed_s = QUIET_S - p.rng.uniform(0.08, 0.12)
    p.shown[p.t < QUIET_S - 0.2] += 500.0
    shift = p.span(2.5)
    p.take(np.concatenate([np.zeros(shift), p.load[:-shift]]))
    p.shown[p.t < QUIET_S - 0.2] += 500.0


def drifts(p: Play) -> None:
    p.shown = np.round((p.shown + p.rng.choice((-1, 1)) * 0.02 * PEAK_N * p.t / p.t[-1]) / STEP_N) * STEP_N


def let_go_by_hand(p: Play) -> None:
    """Not broken: held at 3,000 N and let go of."""
    p.held = True


FAULTS: dict[str, Callable[[Play], None]] = {
    f.__name__: f
    for f in (
        clean, spike_at_peak, spike_in_ramp, stands_with_its_counter, stands_while_counting, stands_for_a_while,
        drops_out, drops_out_at_the_break, lines_lost_in_ramp, lines_lost_at_the_break, garbage_at_the_break, two_peaks,
        clipped, another_capacity, another_unit, let_go_before, drifts,
    )
}  # fmt: skip


@dataclass
class _Pull:
    """The pull as the application keeps it: it ends with its connection."""

    start_s: float = 0.0
    rows: list[tuple[float, float]] = field(default_factory=list)
    tracker: SignalTracker = field(default_factory=lambda: SignalTracker(STEP_N))
    began: bool = False
    cut_off: bool = False

    def samples(self, new: Sequence[Sample], connection: int) -> None:
        rows = [(s.t_s, s.force_n) for s in new]
        if self.cut_off or (self.began and self.tracker.is_over):
            return
        self.rows += rows
        if self.began:
            self.tracker.feed([t - self.start_s for t, _ in rows], [f for _, f in rows])

    def lost(self) -> None:
        self.cut_off = self.began

    def begin(self) -> bool:
        """Begin with at least half a second of quiet; else wait."""
        quiet = [r for r in self.rows if r[0] >= self.rows[-1][0] - 0.6]
        t, f = np.array(quiet).T
        if not is_quiet(t, f, STEP_N, CAPACITY_N):
            return False
        self.began, self.start_s, self.rows = True, quiet[0][0], quiet
        self.tracker.feed(t - self.start_s, f)
        return True


def played(fault: Callable[[Play], None], rate_hz: float, pull_s: float, seed: int) -> tuple[Play, Proposal | None]:
    """One pull with a fault, and what the application makes of it; ``None`` where it did not begin."""
    p = Play(random.Random(f"{fault.__name__} {rate_hz} {pull_s} {seed}"), rate_hz, pull_s)
    fault(p)
    now, pull = 0.0, _Pull()
    reader = Reader("", pull, clock=lambda: now)
    came, handed = "# adhaero-rig 1 name=press unit=N capacity=20000 resolution=0.5 rate=80\n", 0.0
    for i, t in enumerate(p.t.tolist()):
        now = t
        came += f"{p.lines[i]}\n" if i in p.lines else ""
        came += f"{p.ms[i]:.0f},{p.shown[i]:g}\n" if p.sent[i] else ""
        if t - handed >= CHUNK_S:
            reader.take(came.encode())
            came, handed = "", t
            if not pull.began and t >= p.pressed_s and pull.rows:
                pull.begin()
    reader.take(came.encode())
    if not pull.began:
        return p, None
    rows = np.array(pull.rows) - [pull.start_s, 0.0]
    found = propose(pull.tracker.reading(ended_by_silence=pull.cut_off), CAPACITY_N)
    return p, judged(found, np.column_stack([rows, np.full(len(rows), np.nan)]), STEP_N, CAPACITY_N) if found else None


@dataclass(frozen=True)
class Row:
    """What became of the draws of one fault at one rate and pace: kinds, what was asked about, worst error (N) of what
    is called exact, how many of these are off by more than the uncertainty, and of limits that do not hold the truth.
    """

    kinds: Counter[str]
    asked: int = 0
    worst_n: float = 0.0
    false: int = 0
    outside: int = 0


def row(fault: Callable[[Play], None], rate_hz: float, pull_s: float, draws: int = DRAWS) -> Row:
    """The draws of one fault."""
    found = Row(Counter())
    for seed in range(draws):
        p, proposal = played(fault, rate_hz, pull_s, seed)
        kind = (proposal.kind or "nothing") if proposal else "refused"
        found.kinds[kind] += 1
        if proposal is None or proposal.kind is None:
            continue
        low, high = proposal.low_n or 0.0, proposal.high_n
        found = replace(found, asked=found.asked + bool(proposal.loadings))
        margin = 4 * NOISE_N + STEP_N
        if kind == "exact":
            off = abs(proposal.reading.peak_n - p.true_n)
            allowed = proposal.uncertainty_n or 0.0
            found = replace(found, worst_n=max(found.worst_n, off), false=found.false + (off > allowed))
        elif p.true_n < low - margin or (high is not None and p.true_n > high + margin):
            found = replace(found, outside=found.outside + 1)
    return found


def main() -> None:
    """Print the table."""
    print(f"{'fault':26} {'rate':>5} {'pace':>5}  recorded as (asked: which peak counts)      worst exact   false")
    draws = int(sys.argv[1]) if len(sys.argv) > 1 else DRAWS
    false, outside = 0, 0
    for name, fault in FAULTS.items():
        for rate in RATES_HZ:
            for pace, seconds in PACES_S.items():
                r = row(fault, rate, seconds, draws)
                kinds = ", ".join(f"{n} {k.replace('_', ' ')}" for k, n in r.kinds.most_common())
                kinds += f" ({r.asked} asked)" if r.asked else ""
                worst = f"{r.worst_n:8.1f} N" if r.kinds["exact"] else "         -"
                print(f"{name:26} {rate:5} {pace:>5}  {kinds:46} {worst}   {r.false} + {r.outside}", flush=True)
                false, outside = false + r.false, outside + r.outside
    print(f"exact but off by more than its uncertainty: {false}; limits that do not hold the truth: {outside}")


if __name__ == "__main__":
    main()
