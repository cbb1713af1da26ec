"""The cure of a resin on the shelf: its times, curves, and what little changes do to them."""

from uuid import UUID

from mildhusk.core.cure.answer import CureQuestions, CureReport, cure_report
from mildhusk.core.cure.model import CureSetup
from mildhusk.services.shelf import find_material, resin_of
from mildhusk.services.transaction import Transaction


def cure_of(
    transaction: Transaction, material_id: UUID, asked: CureSetup, more: CureQuestions
) -> CureReport:
    """Return the cure of a resin on the shelf."""
    return cure_report(resin_of(find_material(transaction, material_id)), asked, more)
