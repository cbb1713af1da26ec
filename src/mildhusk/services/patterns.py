"""Patterns to cut, of a piece and of a mould on the shelf."""

from dataclasses import dataclass, replace
from uuid import UUID

import numpy as np
from sqlalchemy import ColumnElement, select

from mildhusk.core.errors import PatternError
from mildhusk.core.mould.handling import handles
from mildhusk.core.mould.outside import standing
from mildhusk.core.mould.plan import chosen_split
from mildhusk.core.patterns.answer import CutPattern
from mildhusk.core.patterns.box import box
from mildhusk.core.patterns.flat import Pattern, PatternKind
from mildhusk.core.patterns.part_line import part_line
from mildhusk.core.patterns.request import PatternRequest
from mildhusk.core.patterns.skirt import skirt
from mildhusk.core.patterns.strips import strips
from mildhusk.core.patterns.trim import trim
from mildhusk.core.patterns.visor import visor
from mildhusk.services.mould_build import build_of, kept_build_of
from mildhusk.services.mould_study import is_studied, study_of
from mildhusk.services.moulds import estimate_of, find_mould
from mildhusk.services.pieces import find_piece, model_of_piece
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import KeptPattern, MouldRow, Piece
from mildhusk.store.values import PATTERNS


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
            study = study_of(row)
            wish = asked.wish(handles=handles(estimate_of(row).weight_kg))
            parts = wish.parts if "parts" in asked.given else kept_build_of(row).parts
            split = chosen_split(study, parts)
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


def kept_of_piece(transaction: Transaction, key: UUID) -> tuple[PatternRequest, ...]:
    """Return what is kept of patterns of a piece alone."""
    find_piece(transaction, key)
    return _kept(transaction, KeptPattern.piece_id == key)


def kept_of_mould(transaction: Transaction, key: UUID) -> tuple[PatternRequest, ...]:
    """Return what is kept of patterns of a mould and its piece."""
    find_mould(transaction, key)
    return _kept(transaction, KeptPattern.mould_id == key)


def keep_of_piece(transaction: Transaction, key: UUID, asked: PatternRequest) -> None:
    """Keep what is wanted of a pattern with its piece, in place of what was kept of its kind."""
    # Two who keep at once stand in a row at their piece.
    transaction.find(Piece, key, "piece", lock=True)
    _keep(transaction, asked, KeptPattern.piece_id == key, KeptPattern(piece_id=key))


def keep_of_mould(transaction: Transaction, key: UUID, asked: PatternRequest) -> None:
    """Keep what is wanted of a pattern with its mould, in place of what was kept of its kind."""
    transaction.find(MouldRow, key, "mould", lock=True)
    _keep(transaction, asked, KeptPattern.mould_id == key, KeptPattern(mould_id=key))


def _kept(transaction: Transaction, of: ColumnElement[bool]) -> tuple[PatternRequest, ...]:
    rows = transaction.session.scalars(select(KeptPattern).where(of).order_by(KeptPattern.kind))
    return tuple(PATTERNS.read(row.asked) for row in rows)


def _keep(
    transaction: Transaction, asked: PatternRequest, of: ColumnElement[bool], fresh: KeptPattern
) -> None:
    found = select(KeptPattern).where(of, KeptPattern.kind == asked.kind)
    row = transaction.session.scalars(found).one_or_none()
    if row is None:
        row = fresh
        row.workshop_id, row.created_at = transaction.workshop_id, transaction.now
        row.kind = asked.kind
        transaction.session.add(row)
    row.asked = PATTERNS.write(asked)
    transaction.session.flush()
