"""Drawings: small pictures of pieces, moulds and walls, made by a worker for the lists."""

import io
from collections.abc import Mapping
from dataclasses import dataclass, field
from hashlib import sha256
from typing import Any
from uuid import UUID

import numpy as np
from sqlalchemy import ColumnElement, case, delete, literal, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import InstrumentedAttribute

from mildhusk.core.geometry.face_kinds import FaceKind
from mildhusk.core.geometry.mesh import Floats, Mesh
from mildhusk.core.geometry.picture import shaded
from mildhusk.core.progress import Tell
from mildhusk.documents.model import PieceModel, unpack_model
from mildhusk.documents.wall_files import colours_of, unpack_wall
from mildhusk.services.errors import NotFoundError
from mildhusk.services.jobs import newest_jobs, put_job
from mildhusk.services.mould_study import is_studied, study_of
from mildhusk.services.sheets import question_of, settling_key
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import (
    CastSheetRow,
    CoatRunRow,
    Drawing,
    JobKind,
    JobStatus,
    MouldRow,
    Pictured,
    Piece,
)

KIND = "image/webp"
SIZE = (320, 240)
"""Of a drawing, twice of what a list shows. [points]"""
_STYLE = "1"
"""Another word when drawings come out differently, so that no list shows an old one."""
_MOST = 60
"""So many are made by one job; the next list asks for the rest."""
_PARTS = {
    FaceKind.CUT_AWAY: (109, 143, 139),
    FaceKind.IN_QUESTION: (77, 63, 122),
    FaceKind.CLOSED: (47, 102, 144),
    FaceKind.REPAIRED: (93, 124, 58),
}
_FACE, _RUBBER, _LOCKED = (211, 199, 176), (201, 189, 166), (161, 35, 24)
_TABLES: dict[str, type[Pictured]] = {"pieces": Piece, "moulds": MouldRow, "sheets": CastSheetRow}


def draw_soon(transaction: Transaction, what: str, stale: Mapping[UUID, str]) -> bool:
    """Ask a worker for what a list has no drawing of, or an old one; returns whether it is waited.

    Parameters
    ----------
    transaction : Transaction
    what : str
        "pieces", "moulds" or "sheets".
    stale : mapping of UUID to str
        What each drawing is to be made from, in the list's own words; it is kept beside it.
    """
    if not stale or transaction.queue is None:
        return False
    key = f"draw {what}"
    last = newest_jobs(transaction, JobKind.DRAW, [key]).get(key)
    if last is not None and last.is_open:
        return True
    asked = {"what": what, "of": {str(one): of for one, of in list(stale.items())[:_MOST]}}
    if last is not None and last.status is JobStatus.REFUSED and last.job.asked == asked:
        # The same again would come to the same; a list without pictures is a list all the same.
        return False
    put_job(transaction, JobKind.DRAW, f"Drawings of {what}", asked, key)
    return True


@dataclass(frozen=True, slots=True, eq=False)
class _Figure:
    """A mesh, the colour of each of its faces, and which way of it points up."""

    mesh: Mesh
    colours: Floats = field(repr=False)
    up: Floats | None = None

    @property
    def key(self) -> str:
        """What hashes all that it is drawn from."""
        up = b"" if self.up is None else self.up.tobytes()
        parts = (self.mesh.vertices.tobytes(), np.asarray(self.mesh.faces).tobytes())
        content = b"|".join((_STYLE.encode(), *parts, self.colours.tobytes(), up))
        return sha256(content).hexdigest()


@dataclass(frozen=True, slots=True)
class DrawTask:
    """What a worker draws for a list; `figures` is None where there is nothing to draw."""

    figures: dict[UUID, _Figure | None]

    @classmethod
    def read(cls, transaction: Transaction, asked: dict[str, Any]) -> "DrawTask":
        """Read what is still there of what a job asks for."""
        found: dict[UUID, _Figure | None] = {}
        for key in map(UUID, asked["of"]):
            row = transaction.session.get(_TABLES[asked["what"]], key)
            if isinstance(row, Piece):
                found[key] = _piece(row)
            elif isinstance(row, MouldRow):
                found[key] = _mould(row)
            elif isinstance(row, CastSheetRow):
                found[key] = _sheet(transaction, row)
        return cls(found)

    def compute(self, tell: Tell) -> dict[UUID, tuple[str, bytes]]:
        """Draw each; returns the key and the WebP of each, both empty where there is none."""
        drawn: dict[str, bytes] = {}
        made = {}
        for at, (key, figure) in enumerate(self.figures.items()):
            tell(at / len(self.figures), "drawing")
            name = "" if figure is None else figure.key
            if figure is not None and name not in drawn:
                drawn[name] = _webp(figure)
            made[key] = (name, drawn.get(name, b""))
        return made

    @staticmethod
    def write(
        transaction: Transaction, asked: dict[str, Any], found: dict[UUID, tuple[str, bytes]]
    ) -> dict[str, Any]:
        """Keep the drawings; what no row shows any more is thrown away."""
        drawn = {key: content for key, content in found.values() if key}
        if drawn:
            rows = [
                {"workshop_id": transaction.workshop_id, "key": key, "content": content}
                for key, content in drawn.items()
            ]
            transaction.session.execute(insert(Drawing).values(rows).on_conflict_do_nothing())
        table = _TABLES[asked["what"]]
        if found:
            # Past the version: a drawing is no edit that a person could lose.
            keys = {one: literal(key) for one, (key, _) in found.items()}
            stamps = {one: literal(asked["of"][str(one)]) for one in found}
            transaction.session.execute(
                update(table)
                .where(table.id.in_(list(found)))
                .values(
                    picture=case(keys, value=table.id), picture_of=case(stamps, value=table.id)
                ),
                execution_options={"synchronize_session": False},
            )
        transaction.session.execute(
            delete(Drawing).where(
                Drawing.workshop_id == transaction.workshop_id,
                *(_unshown(one.picture) for one in _TABLES.values()),
            ),
            execution_options={"synchronize_session": False},
        )
        return {"drawn": len(drawn)}


def _unshown(picture: InstrumentedAttribute[str]) -> ColumnElement[bool]:
    return ~select(literal(1)).where(picture == Drawing.key).exists()


def content_of_drawing(transaction: Transaction, key: str) -> bytes:
    """Return a drawing's WebP."""
    row = transaction.session.get(Drawing, (transaction.workshop_id, key))
    if row is None:
        raise NotFoundError("There is no such drawing; load the list again.")
    return row.content


def _piece(row: Piece) -> _Figure | None:
    return _face(unpack_model(row.face)) if row.face else None


def _face(model: PieceModel) -> _Figure:
    colours = np.tile(np.array(_FACE, dtype=float), (len(model.face.faces), 1))
    for kind, colour in _PARTS.items():
        colours[model.kinds == kind] = colour
    return _Figure(model.face, colours)


def _mould(row: MouldRow) -> _Figure | None:
    """Return the outside of the rubber; of a mould that is not studied yet, its piece."""
    if not is_studied(row):
        return _piece(row.piece)
    study = study_of(row)
    wanted = row.build.get("parts")
    split = next((one for one in study.splits if one.parts == wanted), study.splits[0])
    colours = np.tile(np.array(_RUBBER, dtype=float), (len(study.rubber.faces), 1))
    colours[split.locked] = _LOCKED
    return _Figure(study.rubber, colours, np.array(study.up))


def _sheet(transaction: Transaction, row: CastSheetRow) -> _Figure | None:
    """Return the wall as it was settled; of a sheet that is not simulated, its piece."""
    asked = question_of(row)
    key = settling_key(transaction, asked)
    run = (
        None
        if key is None
        else transaction.session.scalars(
            select(CoatRunRow).where(
                CoatRunRow.workshop_id == transaction.workshop_id, CoatRunRow.key == key
            )
        ).first()
    )
    if run is None:
        return _piece(row.piece)
    wall = unpack_wall(run.model)
    return _Figure(wall.mesh, colours_of(wall.wall_m, asked.wish.wall_m))


def _webp(figure: _Figure) -> bytes:
    from PIL import Image

    written = io.BytesIO()
    drawn = Image.fromarray(shaded(figure.mesh, figure.colours, SIZE, figure.up))
    drawn.save(written, "WEBP", quality=82, method=6)
    return written.getvalue()
