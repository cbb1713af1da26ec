"""Materials in and out: JSON for all, CSV kind by kind; an import takes every row or none."""

import csv
import io
import json
from collections.abc import Iterator

from sqlalchemy import select

from mildhusk.core.amounts import Origin
from mildhusk.core.errors import InputError, MaterialError
from mildhusk.core.materials.catalogue import KINDS, AnyMaterial, kind_of, read_material, record_of
from mildhusk.core.materials.cells import columns_of, from_cells, to_cells
from mildhusk.documents.spreadsheet import as_typed, harmless
from mildhusk.services.rows import Row, is_text, read_rows
from mildhusk.services.shelf import material_of, new_row
from mildhusk.services.transaction import Transaction
from mildhusk.store.kept import facts
from mildhusk.store.tables import NAME_LENGTH, Material


def export_json(transaction: Transaction) -> bytes:
    """Return the whole shelf as JSON."""
    records = [facts(record_of(one)) for one in _all(transaction)]
    return json.dumps({"materials": records}, indent=2, ensure_ascii=False).encode("utf-8")


def export_csv(transaction: Transaction, kind: str) -> bytes:
    """Return the materials of a kind as CSV."""
    if kind not in KINDS:
        raise InputError(f"There is no kind '{kind}'; there are: {', '.join(KINDS)}.", "kind")
    text = io.StringIO()
    rows = csv.DictWriter(text, ["kind", *columns_of(kind)])
    rows.writeheader()
    for material in _all(transaction):
        if kind_of(material) == kind:
            cells = {name: harmless(cell) for name, cell in to_cells(material).items()}
            rows.writerow({"kind": kind, **cells})
    return text.getvalue().encode("utf-8-sig")


def _all(transaction: Transaction) -> Iterator[AnyMaterial]:
    mine = select(Material).where(Material.workshop_id == transaction.workshop_id)
    for row in transaction.session.scalars(mine.order_by(Material.kind, Material.key)):
        yield material_of(row)


def import_materials(transaction: Transaction, content: bytes) -> int:
    """Take over every material of a JSON or CSV file, or none; returns how many.

    A known key is changed, a new one added; both are the workshop's own from then on.
    """
    read: dict[str, AnyMaterial] = {}

    def take(row: Row) -> None:
        material = _material(row)
        if material.key in read:
            raise MaterialError(f"The key '{material.key}' stands there twice.", "key")
        read[material.key] = material

    read_rows(content, "materials", ("kind", "key"), take)
    _keep(transaction, read)
    return len(read)


def _material(row: Row) -> AnyMaterial:
    if "sheet" in row:
        values = {**row["sheet"], "key": row["key"], "name": row["name"]}
        material = read_material(row["kind"], {**values, "origin": Origin.OWN_SHEET})
    else:
        if None in row or None in row.values():
            raise MaterialError("It has more or fewer cells than there are columns.")
        cells = {name: as_typed(cell) for name, cell in row.items() if name != "kind"}
        material = from_cells(row["kind"], {**cells, "origin": Origin.OWN_SHEET.value})
    if len(material.key) > 80 or len(material.name) > NAME_LENGTH:
        raise MaterialError(f"Key and name may have 80 and {NAME_LENGTH} characters.", "name")
    if not is_text(json.dumps(facts(record_of(material)), ensure_ascii=False)):
        raise MaterialError("It has characters that are no text.")
    return material


def _keep(transaction: Transaction, read: dict[str, AnyMaterial]) -> None:
    mine = select(Material).where(Material.workshop_id == transaction.workshop_id).with_for_update()
    known = {row.key: row for row in transaction.session.scalars(mine)}
    for key, material in read.items():
        record = record_of(material)
        row = known.get(key)
        if row is None:
            made = new_row(transaction.workshop_id, transaction.now, material)
            transaction.session.add(made)
        elif row.kind != record.kind:
            raise InputError(
                f"'{key}' is a {row.kind} on the shelf and a {record.kind} in the file; give it "
                "another key.",
                "file",
            )
        else:
            row.name, row.sheet = record.name, record.sheet
    transaction.session.flush()
