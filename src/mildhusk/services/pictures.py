"""Pictures: kept small, and made anew so that nothing of camera and place is left in them."""

import io
from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import undefer

from mildhusk.core.errors import InputError
from mildhusk.services.errors import ConflictError, NotFoundError
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import Pour, PourFault, PourPicture

LARGEST_BYTES = 20_000_000
_MOST_PIXELS = 100_000_000
MOST_PICTURES = 30
"""Of one pour."""
_LONGEST_SIDE, _QUALITY = 1600, 85
KIND = "image/jpeg"


@dataclass(frozen=True, slots=True)
class SmallPicture:
    """A JPEG with nothing but light in it. [pixels]"""

    content: bytes
    width: int
    height: int


def small_picture(content: bytes) -> SmallPicture:
    """Return a picture made anew: upright, small, without what a camera wrote into it.

    Raises
    ------
    InputError
        It is too large, or no picture.
    """
    from PIL import Image, ImageOps, UnidentifiedImageError

    if len(content) > LARGEST_BYTES:
        raise InputError(
            f"The picture has {len(content) / 1e6:.0f} MB; up to {LARGEST_BYTES / 1e6:.0f} MB are "
            "taken. Make it smaller.",
            "file",
        )
    try:
        with Image.open(io.BytesIO(content), formats=("JPEG", "PNG", "WEBP")) as opened:
            if opened.width * opened.height > _MOST_PIXELS:
                raise InputError(
                    f"The picture has {opened.width * opened.height / 1e6:.0f} million pixels; up "
                    f"to {_MOST_PIXELS / 1e6:.0f} million are taken. Make it smaller.",
                    "file",
                )
            opened.draft("RGB", (_LONGEST_SIDE, _LONGEST_SIDE))
            upright = ImageOps.exif_transpose(opened)
            # What lets light through stands on white.
            picture = Image.new("RGB", upright.size, "white")
            layer = upright.convert("RGBA")
            picture.paste(layer, mask=layer.getchannel("A"))
    except Image.DecompressionBombError as error:
        raise InputError("The picture has too many pixels; make it smaller.", "file") from error
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError) as error:
        raise InputError("This is no picture; give a JPEG, a PNG or a WebP.", "file") from error
    picture.thumbnail((_LONGEST_SIDE, _LONGEST_SIDE))
    written = io.BytesIO()
    picture.save(written, "JPEG", quality=_QUALITY, optimize=True)
    return SmallPicture(written.getvalue(), picture.width, picture.height)


def add_picture(
    transaction: Transaction, pour_id: UUID, content: bytes, caption: str, fault_id: UUID | None
) -> PourPicture:
    """Keep a picture of what came of a pour, or of one of its faults."""
    pour = transaction.find(Pour, pour_id, "pour", lock=True)
    if fault_id is not None:
        fault = transaction.find(PourFault, fault_id, "fault")
        if fault.pour_id != pour.id:
            raise InputError("That fault is of another pour.", "fault_id")
    if transaction.count(PourPicture, PourPicture.pour_id == pour_id) >= MOST_PICTURES:
        raise ConflictError(f"A pour keeps up to {MOST_PICTURES} pictures; take one off first.")
    small = small_picture(content)
    row = PourPicture(
        workshop_id=transaction.workshop_id,
        created_at=transaction.now,
        pour_id=pour_id,
        fault_id=fault_id,
        caption=caption,
        width=small.width,
        height=small.height,
        content=small.content,
    )
    transaction.session.add(row)
    transaction.session.flush()
    return row


def list_pictures(transaction: Transaction, pour_id: UUID) -> Sequence[PourPicture]:
    """Return the pictures of a pour, the oldest first, without what is in them."""
    transaction.find(Pour, pour_id, "pour")
    return transaction.session.scalars(
        select(PourPicture)
        .where(PourPicture.pour_id == pour_id)
        .order_by(PourPicture.created_at, PourPicture.id)
    ).all()


def content_of_picture(transaction: Transaction, key: UUID) -> bytes:
    """Return a picture's JPEG."""
    row = transaction.session.get(PourPicture, key, options=[undefer(PourPicture.content)])
    if row is None or row.workshop_id != transaction.workshop_id:
        raise NotFoundError("There is no such picture; it may have been deleted.")
    return row.content


def remove_picture(transaction: Transaction, key: UUID) -> UUID:
    """Take a picture off; returns the pour it was of."""
    row = transaction.find(PourPicture, key, "picture", lock=True)
    transaction.session.delete(row)
    transaction.session.flush()
    return row.pour_id
