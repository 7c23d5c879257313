"""Names, figures and shares as answers say them: each is rounded here, once, from the unrounded figure."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from decimal import ROUND_HALF_UP, Decimal

from adhaero.core.inference import Inference
from adhaero.core.plan.judging import WordScale
from adhaero.core.questions.question import Line, Standing
from adhaero.core.questions.study import Study

MOST_NAMES, MOST_SIGNS, MOST_SENTENCES, ROOM = 5, 220, 3, 135
"""Names with figures in a row, signs of a sentence, sentences of an answer; signs that a row of names may take."""
_BARE = re.compile(r"[\d.,/ ]+\s*%?")
_NO_NAMES = ("nothing", "none", "no", "not", "yes", "little", "some", "much", "plenty", "without", "any", "all", "both",
             "neither", "never", "always", "other", "others")  # fmt: skip
"""Words that a sentence reads otherwise than as the name of a level."""


def percent(share: float) -> str:
    """A share in whole percent, halves rounded up: 0.625 is 63 %."""
    return f"{Decimal(str(100 * share)).quantize(Decimal(1), ROUND_HALF_UP)} %"


def three_digits(value: float) -> float:
    """A value rounded to three digits, as many as a mean deserves."""
    if not value or not math.isfinite(value):
        return value
    return float(
        Decimal(repr(value)).quantize(Decimal(1).scaleb(math.floor(math.log10(abs(value))) - 2), ROUND_HALF_UP)
    )


@dataclass(frozen=True)
class FigureWords:
    """How more and less of a figure are said, of one and of several, and how it was seen."""

    more: str = "stronger"
    less: str = "weaker"
    tops: str = "holds most"
    top: str = "hold most"
    topped: str = "held most"
    least: str = "least"


OF_A_PROPERTY = FigureWords("higher", "lower", "is highest", "are highest", "was highest", "lowest")


@dataclass
class Say:
    """How things of a study are called. ``show`` writes a figure with its unit, ``time`` a time, ``money`` a cost."""

    study: Study
    show: Callable[[float], str]
    time: Callable[[float], str] = str
    money: Callable[[float], str] = lambda cost: f"{cost:.2f}"
    inference: Inference = field(default_factory=Inference)
    words: FigureWords = field(default_factory=FigureWords)
    scale: WordScale | None = None

    def sized(self, lines: Sequence[Line], word: str) -> str:
        """``word`` with how much before it ("clearly weaker"), where the plan has words for sizes and one fits all."""
        if self.scale is None or not lines:
            return word
        found = {self.scale.word(x.ratio) if x.ratio else "" for x in lines}
        much = found.pop() if len(found) == 1 else ""
        return f"{much} {word}" if much in ("slightly", "clearly", "far") else word

    @property
    def margin(self) -> str:
        """The smallest difference that counts."""
        return percent(self.inference.margin)

    def name(self, factor: str, level: str) -> str:
        """A level in a sentence: one that is a number, a percentage or a word like Nothing is set off by its factor."""
        f = self.study.factor(factor)
        text = f.level(level).text
        words = text.lower().split()
        bare = (
            _BARE.fullmatch(text) is not None or (bool(words) and words[0] in _NO_NAMES) or text.lower() == "a little"
        )
        return f"{lower_first(f.name)} “{text}”" if bare else text

    def figure(self, x: Line) -> str:
        """The figure of a line; a bound is told as one, and what lies between two steps as about their middle."""
        if x.figure is None:
            return "no load"
        if x.at_least:
            return f"at least {self.show(x.figure)}"
        if x.high is not None:
            return f"about {self.show((x.figure + x.high) / 2)}"
        return self.show(x.figure)

    def with_figures(
        self, factor: str, lines: Sequence[Line], more: Callable[[Line], str] = lambda _: "", room: int = ROOM
    ) -> str:
        """Names with their figures in a row: "A (4,250 N), B (3,900 N, 8 % less) and C (2,100 N)"."""
        return row([f"{self.name(factor, x.level)} ({self.figure(x)}{more(x)})" for x in lines], room)

    def place(self, factor: str, level: str) -> str:
        """Where or when: "at 2 h" for a level with a size, "in Oak" for one that is a word."""
        sized = self.study.factor(factor).level(level).size is not None
        return f"{'at' if sized else 'in'} {self.name(factor, level)}"

    def state(self, factor: str, level: str) -> str:
        """A state that a piece is in: "at 1 mo", "dry"."""
        sized = self.study.factor(factor).level(level).size is not None
        return f"at {self.name(factor, level)}" if sized else lower_first(self.name(factor, level))

    def fallen(self, x: Line) -> str:
        """The words after a figure if some pieces fell apart; else empty."""
        return f", {x.fallen} of {x.fallen + x.n} fell apart" if x.fallen and x.n else ""


def lower_first(text: str) -> str:
    """A word in mid sentence; one in capitals stays as it is."""
    return text if len(text) > 1 and text[:2].isupper() else text[:1].lower() + text[1:]


def upper_first(text: str) -> str:
    """The beginning of a sentence."""
    return text[:1].upper() + text[1:]


def joined(parts: Sequence[str], last: str = "and") -> str:
    """Parts in a row."""
    return parts[0] if len(parts) == 1 else ", ".join(parts[:-1]) + f" {last} " + parts[-1] if parts else ""


def row(parts: Sequence[str], room: int = ROOM) -> str:
    """As many parts as a sentence has room for, five at most, and how many more there are."""
    shown: list[str] = []
    used = 0
    for part in parts[:MOST_NAMES]:
        used += len(part) + 2
        if shown and used > room:
            break
        shown.append(part)
    more = len(parts) - len(shown)
    return joined([*shown, *([f"{more} more"] if more else [])])


def less(ratio: float) -> str:
    """How far below or above a ratio is, in words that name no base."""
    if ratio >= 1.95:
        return f"{ratio:.1f} times as much"
    return f"{percent(abs(1 - ratio))} {'less' if ratio < 1 else 'more'}"


def is_or_are(lines: Sequence[object]) -> str:
    """The verb after so many names."""
    return "is" if len(lines) == 1 else "are"


def apart(say: Say, factor: str, lines: Sequence[Line]) -> list[str]:
    """Return a phrase for each group of levels that can't be judged: fell apart, too few, left out, not broken."""

    def of(*standings: Standing) -> list[Line]:
        return [x for x in lines if x.standing in standings]

    def names(own: Sequence[Line]) -> str:
        told = [say.name(factor, x.level) for x in own[:MOST_NAMES]]
        return joined([*told, *([f"{len(own) - MOST_NAMES} more"] if len(own) > MOST_NAMES else [])])

    found = []
    gone = of(Standing.NOTHING_LEFT)
    if gone:
        counts = joined([f"all {x.fallen}" if x.fallen > 1 else "the only one" for x in gone[:MOST_NAMES]])
        found.append(f"nothing is left of {names(gone)} ({counts} fell apart)")
    few = of(Standing.NOT_ENOUGH_DATA)
    if few:
        told = say.with_figures(factor, [x for x in few if x.n]) if any(x.n for x in few) else names(few)
        found.append(f"there are too few pieces of {told} to judge")
    out = of(Standing.LEFT_OUT)
    if out:
        found.append(f"{names(out)} {'was' if len(out) == 1 else 'were'} left out")
    wait = of(Standing.STILL_TO_BREAK)
    if wait:
        found.append(f"{names(wait)} {is_or_are(wait)} still to break")
    unheld = of(Standing.NOT_COMPARED)
    if unheld:
        found.append(f"{say.with_figures(factor, unheld)} {is_or_are(unheld)} not compared")
    return found


def sentences(parts: Sequence[str]) -> list[str]:
    """Parts as sentences, up to three, none over ``MOST_SIGNS``: a longer one ends at its last whole part."""
    found = []
    for part in parts:
        text = part.strip()
        if not text:
            continue
        while len(text) > MOST_SIGNS and "; " in text:
            text = text.rpartition("; ")[0]
        found.append(upper_first(text.rstrip(".")) + ".")
    return found[:MOST_SENTENCES]


def packed(start: str, parts: Sequence[str], most: int = 2) -> list[str]:
    """Parts after a beginning, parted by semicolons, in up to ``most`` sentences that are none too long; of what finds
    no room the number is told.
    """
    found = [start]
    fresh = True
    for i, part in enumerate(parts):
        longer = found[-1] + ("" if fresh else "; ") + part
        if len(longer) < MOST_SIGNS - 15 or (fresh and len(found) == most):
            found[-1], fresh = longer, False
        elif len(found) < most:
            found.append(part)
            fresh = False
        else:
            found[-1] += f"; {len(parts) - i} more"
            break
    return found
