"""Patterns to cut, of a piece and of a mould on the shelf."""

from dataclasses import dataclass, field, fields, replace
from typing import Any
from uuid import UUID

import numpy as np

from mildhusk.core.errors import PatternError
from mildhusk.core.mould.handling import handles
from mildhusk.core.mould.outside import standing
from mildhusk.core.mould.plan import chosen_split
from mildhusk.core.patterns.answer import CutPattern
from mildhusk.core.patterns.box import BoxWish, box
from mildhusk.core.patterns.flat import Pattern, PatternKind
from mildhusk.core.patterns.part_line import PartLineWish, part_line
from mildhusk.core.patterns.sheets import SheetSize
from mildhusk.core.patterns.skirt import SkirtWish, skirt
from mildhusk.core.patterns.strips import StripsWish, strips
from mildhusk.core.patterns.trim import TrimWish, trim
from mildhusk.core.patterns.visor import VisorWish, visor
from mildhusk.services.mould_build import build_of, kept_build_of
from mildhusk.services.mould_study import is_studied, study_of
from mildhusk.services.moulds import estimate_of, find_mould
from mildhusk.services.pieces import find_piece, model_of_piece
from mildhusk.services.transaction import Transaction

WISHES = {
    PatternKind.PART_LINE: PartLineWish,
    PatternKind.SKIRT: SkirtWish,
    PatternKind.BOX: BoxWish,
    PatternKind.VISOR: VisorWish,
    PatternKind.STRIPS: StripsWish,
    PatternKind.TRIM: TrimWish,
}
"""What is wanted of each kind."""


@dataclass(frozen=True, slots=True)
class PatternRequest:
    """A kind, the fields of its wish that were given, and the sheets it is cut from."""

    kind: PatternKind
    given: dict[str, Any] = field(default_factory=dict)
    size: SheetSize = SheetSize()  # noqa: RUF009 - a frozen value

    def wish(self, **usual: Any) -> Any:
        """Return the wish of its kind; what was not given is as usual.

        Raises
        ------
        PatternError
            A field that the kind does not have, or a value out of range.
        """
        kind = WISHES[self.kind]
        known = {one.name for one in fields(kind)}
        for name in self.given:
            if name not in known:
                raise PatternError(f"A {self.kind} pattern has no '{name}'; leave it out.", name)
        return kind(**{**usual, **self.given})


@dataclass(frozen=True, slots=True)
class NamedPattern:
    """A pattern, and the name of what it is for."""

    name: str
    cut: CutPattern


def pattern_of_piece(transaction: Transaction, key: UUID, asked: PatternRequest) -> NamedPattern:
    """Draw a pattern of a piece alone.

    Raises
    ------
    PatternError
        One that wants a mould, or that cannot be.
    """
    name = find_piece(transaction, key).name
    return NamedPattern(name, CutPattern.of(_of_piece(transaction, key, asked), asked.size))


def pattern_of_mould(transaction: Transaction, key: UUID, asked: PatternRequest) -> NamedPattern:
    """Draw a pattern of a mould, or of its piece.

    Raises
    ------
    PatternError
        One that cannot be.
    ConflictError
        The piece is not studied for the mould yet.
    """
    row = find_mould(transaction, key)
    build = build_of(row)
    match asked.kind:
        case PatternKind.PART_LINE:
            asked_parts = asked.given.get("parts", kept_build_of(row).parts)
            study = study_of(row)
            split = chosen_split(study, asked_parts)
            needed = handles(estimate_of(row).weight_kg)
            wish = asked.wish(handles=needed)
            # The one place that says in how many parts it is.
            wish = replace(wish, parts=split.parts)
            made = part_line(study.rubber, np.array(study.up), split.angle, wish)
        case PatternKind.STRIPS:
            study = study_of(row)
            split = chosen_split(study, kept_build_of(row).parts)
            made = strips(study.rubber, np.array(study.up), split, build.shell, asked.wish())
        case PatternKind.BOX:
            usual = {
                "margin_m": row.rubber_wall_m,
                "density_kg_m3": build.rubber.density_kg_m3,
            }
            face = model_of_piece(transaction, row.piece_id).face
            curve = study_of(row).curve if is_studied(row) else None
            made = box(standing(face), asked.wish(**usual), curve)
        case _:
            made = _of_piece(transaction, row.piece_id, asked)
    return NamedPattern(row.name, CutPattern.of(made, asked.size))


def _of_piece(transaction: Transaction, key: UUID, asked: PatternRequest) -> Pattern:
    model = model_of_piece(transaction, key)
    match asked.kind:
        case PatternKind.SKIRT:
            return skirt(model.face, asked.wish())
        case PatternKind.BOX:
            return box(standing(model.face), asked.wish())
        case PatternKind.VISOR:
            return visor(model.face, model.cut_away, asked.wish())
        case PatternKind.TRIM:
            return trim(model.face, model.cut_away, asked.wish())
        case _:
            raise PatternError(
                f"A {asked.kind} pattern is of a mould; open the mould of this piece for it.",
                "kind",
            )
