"""The whole workshop as one file, or a piece, sheet or mould of it; out and in."""

import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from flask import Response, send_file
from flask_openapi3 import APIBlueprint, Tag
from werkzeug.datastructures import FileStorage

from mildhusk.api.common import PREFIX, Answer, IdPath, UploadForm, calmly, file_of, transaction
from mildhusk.services.archive import (
    Part,
    TakenArchive,
    part_of_mould,
    part_of_piece,
    part_of_sheet,
    take_in_archive,
    write_archive,
)
from mildhusk.services.transaction import Transaction

blueprint = APIBlueprint("archive", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Archive")])
_ZIP = "application/zip"


class BroughtByArchive(Answer[TakenArchive]):
    """What an archive brings, or brought."""


@blueprint.get("/archive.zip", responses=file_of(_ZIP), summary="The whole workshop as one file")
@calmly
def export() -> Response:  # noqa: D103
    return _sent("workshop", lambda _: None)


@blueprint.get("/pieces/<uuid:id>/archive.zip", responses=file_of(_ZIP),
               summary="A piece, to be taken in elsewhere")  # fmt: skip
@calmly
def export_piece(path: IdPath) -> Response:  # noqa: D103
    return _sent("piece", lambda at: part_of_piece(at, path.id))


@blueprint.get("/sheets/<uuid:id>/archive.zip", responses=file_of(_ZIP),
               summary="A cast sheet with its piece, to be taken in elsewhere")  # fmt: skip
@calmly
def export_sheet(path: IdPath) -> Response:  # noqa: D103
    return _sent("sheet", lambda at: part_of_sheet(at, path.id))


@blueprint.get("/moulds/<uuid:id>/archive.zip", responses=file_of(_ZIP),
               summary="A mould with its piece, to be taken in elsewhere")  # fmt: skip
@calmly
def export_mould(path: IdPath) -> Response:  # noqa: D103
    return _sent("mould", lambda at: part_of_mould(at, path.id))


def _sent(what: str, part_of: Callable[[Transaction], Part | None]) -> Response:
    with tempfile.NamedTemporaryFile(prefix="mildhusk-", suffix=".zip") as made:
        with transaction() as at:
            write_archive(at, Path(made.name), part_of(at))
            name = f"{what}-{at.now:%Y-%m-%d}.zip"
        # It has no name any more, and is gone when whoever sends it closes it.
        file = Path(made.name).open("rb")  # noqa: SIM115 - sent after this
    return send_file(file, mimetype=_ZIP, as_attachment=True, download_name=name)


@blueprint.post(
    "/archive/tries", responses={200: BroughtByArchive}, summary="What an archive would bring"
)
@calmly
def attempt(form: UploadForm) -> dict[str, object]:  # noqa: D103
    with _received(form.file) as path, transaction() as at:
        return BroughtByArchive(take_in_archive(at, path, try_only=True)).told()


@blueprint.post(
    "/archive", responses={200: BroughtByArchive}, summary="Take in an archive, whole or not"
)
@calmly
def take(form: UploadForm) -> dict[str, object]:  # noqa: D103
    with _received(form.file) as path, transaction() as at:
        return BroughtByArchive(take_in_archive(at, path)).told()


@contextmanager
def _received(upload: FileStorage) -> Iterator[Path]:
    """Give an upload as a file that has a name, while it is read."""
    with tempfile.NamedTemporaryFile(prefix="mildhusk-", suffix=".zip") as file:
        upload.save(file)
        upload.close()
        file.flush()
        yield Path(file.name)
