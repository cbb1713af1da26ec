"""Uploaded files: kept untouched in stretches, read by a worker."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import timedelta
from hashlib import sha256
from typing import IO, Any

from sqlalchemy import delete, select, update
from sqlalchemy.dialects.postgresql import insert

from mildhusk.core.constants import MAX_MESH_FILE_BYTES
from mildhusk.core.errors import MeshFileError, MeshTooLargeError
from mildhusk.core.geometry.length_units import LengthUnit, guess_unit
from mildhusk.core.geometry.reading import read_shape, too_large_sentence
from mildhusk.core.progress import Tell
from mildhusk.services.errors import ConflictError, NotFoundError
from mildhusk.services.jobs import JobState, newest_jobs, put_job
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import JobKind, MeshChunk, MeshFile, Piece

# An upload nobody made a piece of is kept this long.
_KEEP_UNUSED = timedelta(days=1)
_CHUNK_BYTES = 4_000_000
_LONGEST_NAME = 255


@dataclass(frozen=True, slots=True)
class FileFacts:
    """What a worker read of a file: faces, size in its own unit, and which unit that may be."""

    faces: int
    extents: tuple[float, float, float]
    guessed_unit: LengthUnit
    guess_is_sure: bool


@dataclass(frozen=True, slots=True)
class Upload:
    """An upload: its hash, and the job that reads it; None where it was read before."""

    sha256: str
    job: JobState | None


def take_in_file(transaction: Transaction, file_name: str, stream: IO[bytes]) -> Upload:
    """Keep an upload untouched, a stretch at a time, and ask a worker to read it.

    The same content is kept once.

    Raises
    ------
    MeshTooLargeError
        Above the size limit.
    MeshFileError
        Empty.
    """
    key, size = _hash_of(stream)
    if size > MAX_MESH_FILE_BYTES:
        raise MeshTooLargeError(too_large_sentence(size))
    if size == 0:
        raise MeshFileError("The file is empty; export the shape again.")
    _forget_unused_files(transaction)
    keep_file(transaction, file_name, key, size, stream)
    file = find_file(transaction, key)
    if file.faces is not None:
        return Upload(key, None)
    waiting = newest_jobs(transaction, JobKind.FILE, [key]).get(key)
    if waiting is not None and waiting.is_open:
        return Upload(key, waiting)
    asked = {"mesh_sha256": key}
    return Upload(key, put_job(transaction, JobKind.FILE, file.file_name[:120], asked, key))


def _hash_of(stream: IO[bytes]) -> tuple[str, int]:
    digest, size = sha256(), 0
    for chunk in _chunks(stream):
        digest.update(chunk)
        size += len(chunk)
    stream.seek(0)
    return digest.hexdigest(), size


def _chunks(stream: IO[bytes]) -> Iterator[bytes]:
    while chunk := stream.read(_CHUNK_BYTES):
        yield chunk


def keep_file(
    transaction: Transaction, file_name: str, key: str, size: int, stream: IO[bytes]
) -> None:
    """Keep the stretches of a file under its hash, where they are not kept yet."""
    session, workshop_id = transaction.session, transaction.workshop_id
    fresh = session.execute(
        insert(MeshFile)
        .values(
            workshop_id=workshop_id,
            sha256=key,
            file_name=file_name[-_LONGEST_NAME:],
            size=size,
            uploaded_at=transaction.now,
        )
        # The same file again counts as new, so that it is not swept away under its owner.
        .on_conflict_do_update(
            index_elements=["workshop_id", "sha256"], set_={"uploaded_at": transaction.now}
        )
        .returning(MeshFile.size)
    )
    fresh.scalar_one()
    kept = select(MeshChunk.number).where(
        MeshChunk.workshop_id == workshop_id, MeshChunk.sha256 == key
    )
    if session.scalars(kept.limit(1)).first() is not None:
        return
    for number, chunk in enumerate(_chunks(stream)):
        values = {"workshop_id": workshop_id, "sha256": key, "number": number, "content": chunk}
        session.execute(insert(MeshChunk).values(**values))


def _forget_unused_files(transaction: Transaction) -> None:
    used = select(Piece.mesh_sha256).where(
        Piece.workshop_id == transaction.workshop_id, Piece.mesh_sha256.is_not(None)
    )
    transaction.session.execute(
        delete(MeshFile).where(
            MeshFile.workshop_id == transaction.workshop_id,
            MeshFile.uploaded_at < transaction.now - _KEEP_UNUSED,
            MeshFile.sha256.not_in(used),
        )
    )


def find_file(transaction: Transaction, key: str) -> MeshFile:
    """Return what is known of an uploaded file."""
    found = transaction.session.get(MeshFile, (transaction.workshop_id, key))
    if found is None:
        raise NotFoundError("The uploaded file is no longer there; upload it again.")
    return found


def facts_of(file: MeshFile) -> FileFacts:
    """Return what a worker read of a file.

    Raises
    ------
    ConflictError
        Nothing yet.
    """
    if file.faces is None or file.extents is None or file.guessed_unit is None:
        raise ConflictError("The uploaded file is not read yet; wait for its job.")
    x, y, z = file.extents
    return FileFacts(file.faces, (x, y, z), LengthUnit(file.guessed_unit), bool(file.guess_is_sure))


def content_of(transaction: Transaction, key: str) -> bytes:
    """Return the bytes of an uploaded file; for a worker."""
    find_file(transaction, key)
    chunks = transaction.session.scalars(
        select(MeshChunk.content)
        .where(MeshChunk.workshop_id == transaction.workshop_id, MeshChunk.sha256 == key)
        .order_by(MeshChunk.number)
    )
    return b"".join(chunks)


def read_facts(content: bytes, file_name: str) -> FileFacts:
    """Read what is to be known of a file before its unit is asked.

    Raises
    ------
    MeshFileError
        It is no usable shape.
    """
    read = read_shape(content, file_name)
    mesh = read.mesh
    if not mesh.extents.any():
        raise MeshFileError("The shape has no size: all its corners are at one place.")
    unit, sure = (read.unit, True) if read.unit is not None else guess_unit(mesh)
    x, y, z = mesh.extents.tolist()
    return FileFacts(len(mesh.faces), (x, y, z), unit, sure)


def write_facts(transaction: Transaction, key: str, facts: FileFacts) -> None:
    """Keep what was read of a file."""
    transaction.session.execute(
        update(MeshFile)
        .where(MeshFile.workshop_id == transaction.workshop_id, MeshFile.sha256 == key)
        .values(
            faces=facts.faces,
            extents=list(facts.extents),
            guessed_unit=facts.guessed_unit,
            guess_is_sure=facts.guess_is_sure,
        )
    )


@dataclass(frozen=True, slots=True)
class FileTask:
    """What a worker needs to read an upload; it holds no transaction."""

    file_name: str
    content: bytes = field(repr=False)

    @classmethod
    def read(cls, transaction: Transaction, asked: dict[str, Any]) -> "FileTask":
        """Read what a job asks for."""
        key = asked["mesh_sha256"]
        return cls(find_file(transaction, key).file_name, content_of(transaction, key))

    def compute(self, tell: Tell) -> FileFacts:
        """Read the file."""
        tell(0.1, "reading the file")
        return read_facts(self.content, self.file_name)

    @staticmethod
    def write(transaction: Transaction, asked: dict[str, Any], found: FileFacts) -> dict[str, Any]:
        """Keep what was read."""
        write_facts(transaction, asked["mesh_sha256"], found)
        return {"mesh_sha256": asked["mesh_sha256"]}
