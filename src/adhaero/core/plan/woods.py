"""What a species of a plan bears: by the handbook, or by figures of the user's own for a wood that is not listed."""

from __future__ import annotations

import math

from adhaero.core.materials.wood import WOODS, Wood
from adhaero.core.plan.document import Plan


def wood_of(plan: Plan, species: str) -> Wood | None:
    """The wood of that name: a listed one, or the user's own (a sheet material too); ``None`` for one of which nothing
    is known. Of an own one, what is not stated is taken to do no harm: it neither crushes nor moves.
    """
    listed, own = WOODS.get(species), plan.woods.get(species)
    if listed is not None or own is None or own.shear_mpa is None or own.bending_mpa is None:
        return listed
    return Wood(
        key=species,
        name=species,
        density_kg_m3=own.density_kg_m3 or 0.0,
        shear_mpa=own.shear_mpa,
        crush_across_mpa=math.inf if own.crush_across_mpa is None else own.crush_across_mpa,
        bending_mpa=own.bending_mpa,
        shrink_radial_pct=own.shrink_tangential_pct or 0.0,
        shrink_tangential_pct=own.shrink_tangential_pct or 0.0,
        plies=own.plies,
        source=own.source or "your own figures",
    )
