"""The whole workshop as one file, or a piece, sheet or mould of it; out and in."""

import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO

from flask import Response
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
from mildhusk.services.trail import note
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import TrailAction

blueprint = APIBlueprint("archive", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Archive")])
_ZIP = "application/zip"
_STRETCH = 1_000_000


class BroughtByArchive(Answer[TakenArchive]):
    """What an archive brings, or brought."""


@blueprint.get("/archive.zip", responses=file_of(_ZIP), summary="The whole workshop as one file")
@calmly
def export() -> Response:  # noqa: D103
    return _sent("workshop", lambda _: None)


@blueprint.get("/pieces/<uuid:id>/archive.zip", responses=file_of(_ZIP),
               summary="A piece, to be imported elsewhere")  # fmt: skip
@calmly
def export_piece(path: IdPath) -> Response:  # noqa: D103
    return _sent("piece", lambda at: part_of_piece(at, path.id))


@blueprint.get("/sheets/<uuid:id>/archive.zip", responses=file_of(_ZIP),
               summary="A cast sheet with its piece, to be imported elsewhere")  # fmt: skip
@calmly
def export_sheet(path: IdPath) -> Response:  # noqa: D103
    return _sent("sheet", lambda at: part_of_sheet(at, path.id))


@blueprint.get("/moulds/<uuid:id>/archive.zip", responses=file_of(_ZIP),
               summary="A mould with its piece, to be imported elsewhere")  # fmt: skip
@calmly
def export_mould(path: IdPath) -> Response:  # noqa: D103
    return _sent("mould", lambda at: part_of_mould(at, path.id))


def _sent(what: str, part_of: Callable[[Transaction], Part | None]) -> Response:
    """Send an archive a stretch at a time; what it is written to is gone with the last of them."""
    file = tempfile.NamedTemporaryFile(prefix="mildhusk-", suffix=".zip")  # noqa: SIM115
    try:
        with transaction() as at:
            write_archive(at, Path(file.name), part_of(at))
            name = f"{what}-{at.now:%Y-%m-%d}.zip"
    except BaseException:
        file.close()
        raise
    response = Response(_stretches(file), mimetype=_ZIP)
    response.content_length = Path(file.name).stat().st_size
    response.headers["Content-Disposition"] = f"attachment; filename={name}"
    # Also where whoever asked went away before it was sent.
    response.call_on_close(file.close)
    return response


def _stretches(file: IO[bytes]) -> Iterator[bytes]:
    with file:
        while stretch := file.read(_STRETCH):
            yield stretch


@blueprint.post(
    "/archive/tries",
    responses={200: BroughtByArchive},
    summary="What importing an archive would bring",
)
@calmly
def attempt(form: UploadForm) -> dict[str, object]:  # noqa: D103
    with _received(form.file) as path, transaction() as at:
        return BroughtByArchive(take_in_archive(at, path, try_only=True)).told()


@blueprint.post(
    "/archive", responses={200: BroughtByArchive}, summary="Import an archive, all or nothing"
)
@calmly
def take(form: UploadForm) -> dict[str, object]:  # noqa: D103
    with _received(form.file) as path, transaction() as at:
        taken = take_in_archive(at, path)
        note(at, TrailAction.IMPORTED, "archive", taken.of or taken.workshop)
    return BroughtByArchive(taken).told()


@contextmanager
def _received(upload: FileStorage) -> Iterator[Path]:
    """Give an upload as a file that has a name, while it is read."""
    with tempfile.NamedTemporaryFile(prefix="mildhusk-", suffix=".zip") as file:
        upload.save(file)
        upload.close()
        file.flush()
        yield Path(file.name)
