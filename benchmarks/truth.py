"""Random studies of every kind of question with a known truth: what their answers say, held against it.

Run: python -m benchmarks.truth [studies of each kind] [seed]
"""

from __future__ import annotations

import math
import random
import re
import sys
from collections import Counter
from dataclasses import dataclass, field

from adhaero.core.claims.claim import contradictions
from adhaero.core.claims.judge import Judge
from adhaero.core.inference import Inference
from adhaero.core.piece_record import Known
from adhaero.core.questions.decide import decide
from adhaero.core.questions.question import NEED_WITHIN, OWN, SOLID, Answer, Line, Question, QuestionKind, Standing
from adhaero.core.questions.study import GLUE, WOOD, Cell, Factor, Level, Sample, Study, Unit
from adhaero.core.wording.render import render
from adhaero.core.wording.say import MOST_SIGNS, Say, three_digits

K = QuestionKind
NAMES = ("Hide glue", "Fish glue", "Casein", "White PVA", "Yellow PVA", "Epoxy", "Resorcinol", "Urea resin", "Nothing",
         "15 %")  # fmt: skip
WOODS = ("Ash", "Oak")
MARGIN = 0.1


@dataclass
class Made:
    """A study with its question and what is true of it: the true mean of each level (in its last state: ``after``)."""

    study: Study
    question: Question
    mean: dict[str, float]
    after: dict[str, float] = field(default_factory=dict)
    n: int = 0
    cv: float = 0.0


def made(kind: QuestionKind, rng: random.Random) -> Made:
    """Draw a study for a kind: two to eight levels, one to twelve pieces of each, some lost, some only bounds."""
    k, n, cv = rng.randint(2, 8), rng.choice((1, 2, 3, 3, 4, 6, 12)), rng.uniform(0.04, 0.25)
    amounts = kind is K.HOW_MUCH_IS_ENOUGH
    texts = [f"{2**i} h" for i in range(k)] if amounts else rng.sample(NAMES, k)
    levels = tuple(Level(f"l{i}", t, 3600.0 * 2**i if amounts else None) for i, t in enumerate(texts))
    spread = rng.choice((0.0, 0.1, 0.4, 0.8))
    mean = {x.id: 4000 * math.exp(rng.gauss(0, spread)) for x in levels}
    if amounts:
        mean = {x.id: 4000 * (1 - math.exp(-(2**i) / rng.choice((1.0, 3.0, 8.0)))) for i, x in enumerate(levels)}
    factors = [Factor("glue", "Clamp time" if amounts else "Glue", levels)]
    states: tuple[Level, ...] = ()
    kept = {x.id: 1.0 for x in levels}
    if kind in (K.WHAT_IS_LEFT, K.DOES_IT_LAST):
        ages = kind is K.DOES_IT_LAST
        states = tuple(Level(f"s{i}", t, s) for i, (t, s) in enumerate(
            (("1 mo", 1.0), ("1 y", 12.0), ("5 y", 60.0)) if ages else (("dry", None), ("soaked", None))))  # fmt: skip
        kept = {x.id: rng.choice((1.0, 0.95, 0.7, 0.4)) for x in levels}
        factors.append(Factor("state", "State", states))
    woods = tuple(Level(w, w) for w in WOODS) if rng.random() < 0.4 or kind in NEED_WITHIN else ()
    if woods:
        factors.append(Factor("species", "Wood", woods))
    rng.shuffle(factors)
    solid_mean = 4000.0
    cells = []
    for x in levels:
        for i, s in enumerate(states or (Level("", ""),)):
            for w in woods or (Level("", ""),):
                share = kept[x.id] ** (i / max(1, len(states) - 1)) if states else 1.0
                real = mean[x.id] * share * (0.6 if w.id == "Oak" else 1.0)
                own = {"glue": x.id, **({"state": s.id} if states else {}), **({"species": w.id} if woods else {})}
                cells.append(_cell(own, real, n, cv, rng))
    solid = {}
    if kind is K.CLOSE_TO_SOLID:
        units = tuple(_unit(solid_mean, cv, rng) for _ in range(max(3, n)))
        solid = {"": Sample(units)}
        cells = [c for c in cells if c.levels.get("species") != "Oak"]
    cost = {x.id: round(rng.uniform(0.05, 1.0), 2) for x in levels}
    study = Study(tuple(factors), tuple(cells), solid, "", cost)
    base = rng.choice(levels).id
    fixed = {K.BETTER_THAN: base, K.DOES_IT_MATTER: rng.choice((base, "")), K.DOES_IT_DEPEND: base, K.IS_IT_TRUE: base,
             K.IS_IT_WORTH_IT: rng.choice((base, "")), K.CLOSE_TO_SOLID: SOLID}  # fmt: skip
    against = fixed.get(kind, OWN if states else "")
    q = Question(kind, "glue", against, "state" if states else "", "species" if kind in NEED_WITHIN else "")
    after = {x: m * kept[x] for x, m in mean.items()} if states else {}
    return Made(study, q, mean, after, n, cv)


def _cell(levels: dict[str, str], mean: float, n: int, cv: float, rng: random.Random) -> Cell:
    what = rng.random()
    if what < 0.03:
        return Cell(levels, unbroken=n)
    if what < 0.05:
        return Cell(levels, left_out=n)
    return Cell(levels, tuple(_unit(mean, cv, rng) for _ in range(n)))


def _unit(mean: float, cv: float, rng: random.Random) -> Unit:
    if rng.random() < 0.01:
        return Unit(Known.BELOW, 0.0, 0.0, GLUE, False)
    load = max(50.0, round(rng.gauss(mean, cv * mean), -1))
    mode = WOOD if rng.random() < 0.2 else GLUE
    if rng.random() < 0.03:
        return Unit(Known.AT_LEAST, 0.9 * load, math.inf, mode, 0.9 * load >= 3000 or None)
    return Unit(Known.EXACT, load, load, mode, load >= 3000)


def false_statements(m: Made, a: Answer) -> list[str]:
    """What an answer says that is not so."""
    q = m.question
    found = []
    best = max(m.mean.values())
    for x in a.lines:
        if x.level not in m.mean or x.standing is Standing.BASE:
            continue
        own = m.mean[x.level]
        if q.kind in (K.BETTER_THAN, K.DOES_IT_DEPEND) or (
            q.against in m.mean and q.kind not in (K.WHICH_IS_BEST, K.IS_IT_TRUE)
        ):
            found += _against(x, own / m.mean[q.against])
        elif q.kind is K.WHICH_IS_BEST and x.standing is Standing.WEAKER and own == best:
            found.append(f"{x.level} is the best and told as weaker")
        elif q.kind is K.IS_IT_TRUE:
            share = own / m.mean[q.against]
            if (x.standing is Standing.ENOUGH and share < q.share) or (
                x.standing is Standing.TOO_LITTLE and share > q.share and not x.fallen
            ):
                found.append(f"{x.level} has {share:.2f} of the base and is told as {x.standing}")
        elif q.kind is K.CLOSE_TO_SOLID:
            found += _against(x, own / 4000)
        elif q.kind in (K.WHAT_IS_LEFT, K.DOES_IT_LAST) and x.within == _last(m):
            kept = m.after[x.level] / own
            if (x.standing is Standing.LASTS and kept < q.share - 1e-9) or (
                x.standing is Standing.LOSES and kept > q.share
            ):
                found.append(f"{x.level} keeps {kept:.2f} and is told as {x.standing}")
        elif q.kind is K.HOW_MUCH_IS_ENOUGH and a.base in m.mean:
            share = own / m.mean[a.base]
            if (x.standing is Standing.ENOUGH and share < q.share) or (
                x.standing is Standing.TOO_LITTLE and share > q.share
            ):
                found.append(f"{x.level} has {share:.2f} of the base and is told as {x.standing}")
    return found


def _last(m: Made) -> str:
    return next(f for f in m.study.factors if f.key == "state").levels[-1].id


def _against(x: Line, ratio: float) -> list[str]:
    wrong = (
        (x.standing is Standing.STRONGER and ratio <= 1)
        or (x.standing is Standing.WEAKER and ratio >= 1)
        or (x.standing is Standing.ALIKE and abs(ratio - 1) > MARGIN * 1.02)
    )
    return [f"{x.level} has {ratio:.2f} of its base and is told as {x.standing}"] if wrong else []


def overwhelming_untold(m: Made, a: Answer) -> list[str]:
    """Differences of a factor of three, in six pieces or more of small scatter, of which nothing is said."""
    q = m.question
    if m.n < 6 or m.cv > 0.15 or q.kind not in (K.BETTER_THAN, K.WHICH_IS_BEST):
        return []
    base = m.mean.get(q.against) or max(m.mean.values())
    return [x.level for x in a.lines
            if x.n >= 6 and x.standing is Standing.UNCLEAR and not 1 / 3 < m.mean[x.level] / base < 3]  # fmt: skip


def figures_apart(a: Answer, text: str, say: Say) -> list[str]:
    """Percentages and loads of a sentence that its table does not have."""
    shares = [v for x in a.lines for v in (x.ratio, x.ratio_low, x.ratio_high) if v is not None]
    shares += [v for c in a.claims for v in (c.ratio, c.low, c.high) if v is not None]
    known = {round_half_up(100 * v) for s in shares for v in (s, abs(1 - s), s - 1, 1 / s - 1 if s else 0)}
    known |= {10, 19, 75, 90, 95, 15, round_half_up(100 * a.question.share)}
    loads = {say.show(v) for x in a.lines for v in (x.figure, x.high, x.lowest, x.bears, x.mean_low, x.mean_high)
             if v is not None}  # fmt: skip
    loads |= {say.show((x.figure + x.high) / 2) for x in a.lines if x.figure is not None and x.high is not None}
    found = [p for p in re.findall(r"(\d+)(?:–\d+)? %", text) if int(p) not in known]
    return found + [n for n in re.findall(r"\d[\d,.]* N", text) if n not in loads]


def round_half_up(v: float) -> int:
    """As sentences round."""
    return math.floor(v + 0.5)


def main(each: int, seed: int) -> int:
    """Print, for each kind, what is wrong in how many of its studies."""
    print(f"{each} studies of each kind, seed {seed}")
    print(f"{'':24}{'false':>7}{'untold':>8}{'silent':>8}{'against':>9}{'long':>6}{'apart':>7}")
    total: Counter[str] = Counter()
    for kind in (k for k in K if k is not K.HOW_LONG_DOES_IT_HOLD):
        rng, wrong = random.Random(f"{seed} {kind}"), Counter[str]()
        for n in range(each):
            m = made(kind, rng)
            inference = Inference(margin=MARGIN)
            a = decide(m.question, m.study, Judge(m.study, inference))
            say = Say(m.study, lambda v: f"{three_digits(v):,.10g} N", inference=inference)
            text = render(say, a)
            faults = {
                "false": false_statements(m, a), "untold": overwhelming_untold(m, a),
                "silent": [] if re.search(r"\d", text) or not any(x.n for x in a.lines) else [text],
                "against": contradictions(a.claims),
                "long": [s for s in re.split(r"(?<=[.?])\s+(?=[A-Z“\d])", text) if len(s) > MOST_SIGNS],
                "apart": figures_apart(a, text, say),
            }  # fmt: skip
            for what, found in faults.items():
                wrong[what] += bool(found)
                if found and "-v" in sys.argv and what != "false":
                    print(f"   {kind} {n} {what}: {found} {text}")
        total.update(wrong)
        print(f"  {kind:22}" + "".join(f"{wrong[w]:>{s}}" for w, s in (
            ("false", 7), ("untold", 8), ("silent", 8), ("against", 9), ("long", 6), ("apart", 7))))  # fmt: skip
    return 0


if __name__ == "__main__":
    given = [int(x) for x in sys.argv[1:] if x.isdigit()]
    sys.exit(main(given[0] if given else 100, given[1] if len(given) > 1 else 1))
