"""The command `husk materials`."""

import argparse

from mildhusk.core.materials.catalogue import MaterialRecord, record_of, shipped_materials


def add_words(_: argparse.ArgumentParser) -> None:
    """Add no options."""


def run(_: argparse.Namespace) -> tuple[list[MaterialRecord], list[str]]:
    """List the materials that ship."""
    records = [record_of(material) for material in shipped_materials()]
    return records, [f"{one.kind:14} {one.key:24} {one.name}" for one in records]
