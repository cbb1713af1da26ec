"""Deciding backwards on the workshop's own shelf."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial
from uuid import UUID

from sqlalchemy import select

from mildhusk.core.choosing.answer import Chain, decided
from mildhusk.core.choosing.task import Link, Purpose, Task
from mildhusk.core.errors import InputError
from mildhusk.core.materials.catalogue import AnyMaterial
from mildhusk.core.materials.compatibility import (
    PairVerdict,
    judge_all,
    judge_pair,
    shipped_rules,
)
from mildhusk.services.dabs import judged_dabs
from mildhusk.services.pieces import face_of, find_piece
from mildhusk.services.shelf import material_of
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import Material


@dataclass(frozen=True, slots=True)
class Question:
    """What is asked: a piece gives the area, a key the master."""

    purpose: Purpose
    opening_girth_m: float
    widest_girth_m: float
    painted: bool
    spun: bool
    piece_id: UUID | None
    master_key: str | None


def decide_backwards(transaction: Transaction, asked: Question, taken: dict[Link, str]) -> Chain:
    """Rank the candidates of every link on the workshop's shelf, and say who disagrees."""
    shelf = _shelf(transaction)
    task = Task(
        purpose=asked.purpose,
        opening_girth_m=asked.opening_girth_m,
        widest_girth_m=asked.widest_girth_m,
        painted=asked.painted,
        spun=asked.spun,
        master=None if asked.master_key is None else _with_key(shelf, asked.master_key),
    )
    if asked.piece_id is not None:
        task = replace(task, area_m2=_area(transaction, asked.piece_id))
    judge = partial(judge_pair, rules=shipped_rules(), dabs=judged_dabs(transaction))
    return decided(task, shelf, judge, taken)


def check_together(transaction: Transaction, keys: Sequence[str]) -> tuple[PairVerdict, ...]:
    """Judge every pair of some materials of the shelf."""
    shelf = _shelf(transaction)
    touching = tuple(_with_key(shelf, key) for key in keys)
    return judge_all(touching, shipped_rules(), judged_dabs(transaction))


def _area(transaction: Transaction, piece_id: UUID) -> float:
    return face_of(find_piece(transaction, piece_id)).area_m2


def _shelf(transaction: Transaction) -> tuple[AnyMaterial, ...]:
    rows = transaction.session.scalars(
        select(Material).where(Material.workshop_id == transaction.workshop_id)
    )
    return tuple(material_of(row) for row in rows)


def _with_key(shelf: tuple[AnyMaterial, ...], key: str) -> AnyMaterial:
    for material in shelf:
        if material.key == key:
            return material
    raise InputError(f"There is no material '{key}' on the shelf.", "key")
