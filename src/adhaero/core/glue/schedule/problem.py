"""What is to be scheduled, in raw facts: joints, clamps, the user's pace and hours. Times in whole seconds."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from adhaero.core.glue.pressing import CLAMPLESS, OWN_FORCE
from adhaero.core.glue.schedule.hours import Stretch


@dataclass(frozen=True)
class Joint:
    """A joint to be glued. ``clamp_s`` and ``cure_s`` run from pressure to release and from closing to conditioning (or
    to the break), each within its tolerance; ``wet_s`` and ``dry_s`` are a conditioning that ends at the break.
    ``breaks``: whether it goes to the rig (spares and dummies do not). ``clamps`` press on it side by side along
    its line, sharing ``force_n``. ``means`` is how it is pressed where that is stated (core.glue.pressing): what
    takes no clamp has no clamp time either. A panel is sawn into ``sections``, which are broken one after the
    other. What is one for a whole glue-up is named by ``apart``: joints that differ in it share no mix.
    """

    code: str
    treatment: str
    glue: str
    force_n: float
    clamp_s: int
    cure_s: int
    clamp_tol_s: int
    cure_tol_s: int
    wet_s: int = 0
    dry_s: int = 0
    wet_tol_s: int = 0
    breaks: bool = True
    replicate: int = 1
    clamps: int = 1
    means: str = ""
    sections: int = 1
    apart: str = ""

    @property
    def clampless(self) -> bool:
        """Pressed by tape, by hand or by nothing: no clamp holds it."""
        return self.means in CLAMPLESS


@dataclass(frozen=True)
class Clamps:
    """Clamps of one kind: ``count`` of them, ``places`` joints in each at once, each pressing with up to ``most_n``.

    A weight or a spring presses with exactly its force: ``least_n`` equals ``most_n``. ``means`` is what they are.
    """

    key: str
    label: str
    count: int
    places: int = 1
    most_n: float | None = None
    least_n: float = 0.0
    means: str = "screw"

    def gives(self, total_n: float) -> bool:
        """Whether one of them can press with this force (a fifth less counts as given; a weight that is a fiftieth
        lighter than what is wanted does, too, since pieces are never quite alike).
        """
        over = 1.02 if self.least_n else 1.001
        return total_n >= 0.8 * self.least_n and (self.most_n is None or total_n <= self.most_n * over)

    def dummies(self, joint: Joint, joints: int = 1, mean_n: float | None = None) -> int | None:
        """With how many dummies beside them it presses so many joints as they are wanted; ``None`` if with none.

        What gives its own force, and is asked for by name alone, presses as hard as it does. ``mean_n`` is the mean
        force that the joints want, where they are not all like this one.
        """
        if (joint.means and joint.means != self.means) or (not joint.means and self.means in CLAMPLESS):
            return None
        if joint.clampless or (joint.means in OWN_FORCE and not joint.force_n):
            return 0
        force = (joint.force_n if mean_n is None else mean_n) / joint.clamps
        return next((k for k in range(self.places - joints + 1) if self.gives(force * (joints + k))), None)


@dataclass(frozen=True)
class Pace:
    """How long hands take, s: set-up and mixing of a run, one joint, one clamp off, in or out of the bath, a break, a
    cut of the saw.
    """

    mix_s: int = 180
    joint_s: int = 120
    unclamp_s: int = 30
    soak_s: int = 120
    break_s: int = 180
    saw_s: int = 60

    def sawing_s(self, joint: Joint) -> int:
        """How long it takes to saw a panel into its sections; nothing for a single joint."""
        return joint.sections * self.saw_s if joint.sections > 1 else 0

    def at_rig_s(self, joint: Joint) -> int:
        """From taking a joint, or a panel to be sawn, to the end of its last break."""
        return self.sawing_s(joint) + joint.sections * self.break_s


@dataclass(frozen=True)
class GlueLimits:
    """How long a glue may wait: spread and open, and mixed; s."""

    open_s: int
    pot_s: int | None = None


@dataclass(frozen=True)
class Problem:
    """Everything that a schedule has to respect. ``hours`` are stretches; ``busy`` is what hands already do in them,
    ``held`` (kind, from, to, clamps) are clamps that are in use.
    """

    joints: tuple[Joint, ...]
    clamps: tuple[Clamps, ...]
    glues: Mapping[str, GlueLimits]
    hours: tuple[Stretch, ...]
    pace: Pace = Pace()
    busy: tuple[Stretch, ...] = ()
    held: tuple[tuple[str, int, int, int], ...] = field(default=())

    def limits(self, glue: str) -> GlueLimits:
        """Limits of a glue; one that is not known is taken as patient as most."""
        return self.glues.get(glue, GlueLimits(600))

    def kind(self, key: str) -> Clamps:
        """The kind of clamps of that key."""
        return next(c for c in self.clamps if c.key == key)
