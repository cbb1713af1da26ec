"""The command line, `husk`: the core without a server."""

import argparse
import json
import sys
from dataclasses import replace
from datetime import date
from decimal import Decimal
from pathlib import Path
from typing import TYPE_CHECKING, Any, NoReturn

from mildhusk.cli_coat import add_coat_words, coat_of, list_motions, read_coat
from mildhusk.cli_cure import add_cure_words, cure_of
from mildhusk.cli_mould import add_mould_words, plan_of
from mildhusk.cli_sheet import add_mix_words, add_sheet_words, mix_of, sheet_of, wish_of
from mildhusk.core.constants import MAX_MESH_FILE_BYTES
from mildhusk.core.errors import HuskError, InputError, MeshFileError, MeshTooLargeError
from mildhusk.core.geometry.asked import SkinChoice, SurveyWish
from mildhusk.core.geometry.length_units import LengthUnit, guess_unit
from mildhusk.core.geometry.measure import FaceMeasures, measure_face
from mildhusk.core.geometry.mesh import Mesh
from mildhusk.core.geometry.reading import read_shape, too_large_sentence
from mildhusk.core.materials.catalogue import (
    shipped_kits,
    shipped_material,
    shipped_materials,
    shipped_resin,
)
from mildhusk.core.materials.compatibility import judge_all, shipped_judge, shipped_rules
from mildhusk.core.planning.buying import plan_purchase
from mildhusk.core.planning.chain import Link, Purpose, Task, decide
from mildhusk.core.planning.document import (
    Document,
    chain_document,
    face_document,
    material_document,
    purchase_document,
    survey_document,
    verdict_document,
)
from mildhusk.core.planning.schools import schools
from mildhusk.core.wording import Quantity, Unit, in_metric

if TYPE_CHECKING:
    from mildhusk.core.geometry.survey import Survey

BAD_INPUT = 2


class _Parser(argparse.ArgumentParser):
    """A parser that answers bad words with one line."""

    def error(self, message: str) -> NoReturn:
        raise InputError(f"{message}; see {self.prog} --help.")


def main(arguments: list[str] | None = None) -> int:
    """Run one command; returns the exit code."""
    try:
        words = sys.argv[1:] if arguments is None else arguments
        given = _parser().parse_args(_joined(words))
        document, lines = given.run(given)
    except HuskError as error:
        print(f"husk: {error}", file=sys.stderr)
        return BAD_INPUT
    if given.json:
        print(json.dumps(document, indent=2, ensure_ascii=False))
    else:
        print("\n".join(lines))
    return 0


def _joined(words: list[str]) -> list[str]:
    """Join `--wall -3mm` to `--wall=-3mm`: argparse takes a leading minus for an option."""
    made: list[str] = []
    for word in words:
        negative = word[:1] == "-" and word[1:2].isdigit()
        if negative and made and made[-1].startswith("--") and "=" not in made[-1]:
            made[-1] = f"{made[-1]}={word}"
        else:
            made.append(word)
    return made


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(prog="husk", description="Plan hollow casts: charge, coats, clock.")
    commands = parser.add_subparsers(required=True, metavar="COMMAND", parser_class=_Parser)

    materials = commands.add_parser("materials", help="list the casting resins that ship")
    materials.set_defaults(run=_materials)

    measure = commands.add_parser("measure", help="measure a shape file")
    sheet = commands.add_parser("sheet", help="plan a cast of a shape file")
    mould = commands.add_parser("mould", help="plan a mould of a shape file")
    add_mould_words(mould)
    coat = commands.add_parser("coat", help="how coats land on a turning mould")
    add_coat_words(coat)
    for command, run in (
        (measure, _measure),
        (sheet, _sheet),
        (mould, _mould),
        (coat, _coat),
    ):
        command.add_argument(
            "file", metavar="FILE", type=Path, nargs="?" if command is coat else None
        )
        command.add_argument("--units", choices=[str(u) for u in LengthUnit], default="mm")
        command.set_defaults(run=run)
        command.add_argument(
            "--skin",
            choices=[str(choice) for choice in SkinChoice],
            default="outer",
            help="of a hollow print count the outer skin, or all faces",
        )
        command.add_argument("--rim", metavar="z=30mm", help="cut off what is below this height")
        command.add_argument("--skirt", metavar="50mm", help="draw the rim out by this length")
        command.add_argument("--ledge", metavar="20mm", help="draw the rim inwards by this length")
        command.add_argument(
            "--close-holes", action="store_true", help="count all openings but the longest closed"
        )
    measure.add_argument(
        "--quick", action="store_true", help="every face as it stands: no repair, skin or V(t)"
    )
    add_sheet_words(sheet)
    mix = commands.add_parser("mix", help="weigh one charge, with what goes into it")
    add_mix_words(mix)
    mix.set_defaults(run=mix_of)
    cure = commands.add_parser("cure", help="when a mix does what, in its cup and as a film")
    add_cure_words(cure)
    cure.set_defaults(run=cure_of)
    chain = commands.add_parser("chain", help="decide backwards from the husk")
    _add_chain_words(chain)
    check = commands.add_parser("check", help="what happens where materials touch")
    check.add_argument("keys", metavar="KEY", nargs="+")
    check.set_defaults(run=_check)
    buy = commands.add_parser("buy", help="which kits to buy at the least cost")
    buy.add_argument("--need", required=True, action="append", metavar="KEY=4.1kg")
    buy.set_defaults(run=_buy)
    for command in (materials, measure, sheet, mix, mould, coat, cure, chain, check, buy):
        command.add_argument("--json", action="store_true", help="print JSON")
    return parser


def _add_chain_words(chain: argparse.ArgumentParser) -> None:
    chain.add_argument("--purpose", choices=[str(p) for p in Purpose], required=True)
    chain.add_argument("--opening-girth", required=True, metavar="330mm")
    chain.add_argument("--widest-girth", required=True, metavar="560mm")
    for question in ("--paint", "--spin"):
        chain.add_argument(question, choices=["yes", "no"], default="no")
    chain.add_argument("--area", default="1500cm^2", metavar="1500cm^2")
    chain.add_argument("--master", metavar="KEY", help="what the master is made of")
    chain.add_argument("--take", action="append", default=[], metavar="LINK=KEY")
    chain.set_defaults(run=_chain)


def _materials(_: argparse.Namespace) -> tuple[list[Document], list[str]]:
    documents = [material_document(material) for material in shipped_materials()]
    return documents, [f"{d['kind']:14} {d['key']:24} {d['name']}" for d in documents]


def _measure(given: argparse.Namespace) -> tuple[Document, list[str]]:
    if given.quick:
        return _measure_quickly(given)
    found, hints = _survey(given)
    face = found.measures
    lines = [
        *_measure_lines(face),
        f"skin      {found.skin_said}",
        *(f"repaired  {one.sentence}" for one in found.repairs),
        *(
            f"narrow    {in_metric(Quantity(one.width_m, Unit.LENGTH))} wide, "
            f"{in_metric(Quantity(one.volume_m3, Unit.VOLUME))}: it fills solid"
            for one in found.narrow
        ),
        *hints,
    ]
    document = {**face_document(face), **survey_document(found)}
    return document, lines + [f"{f['severity']}: {f['text']}" for f in document["findings"]]


def _measure_quickly(given: argparse.Namespace) -> tuple[Document, list[str]]:
    """Measure every face as it stands: no repair, no skin, no V(t)."""
    mesh, unit, hints = _read(given)
    face = measure_face(mesh.scaled(unit.metres))
    document = face_document(face)
    said = [f"{f['severity']}: {f['text']}" for f in document["findings"]]
    return document, [*_measure_lines(face), *hints, *said]


def _measure_lines(face: FaceMeasures) -> list[str]:
    opened = ", ".join(in_metric(Quantity(o.perimeter_m, Unit.LENGTH)) for o in face.openings)
    size = " x ".join(f"{extent * 1e3:.1f}" for extent in face.extents_m)
    return [
        f"area      {in_metric(Quantity(face.area_m2, Unit.AREA))}",
        f"holds     {in_metric(Quantity(face.volume_m3, Unit.VOLUME))}",
        f"size      {size} mm",
        f"faces     {face.faces:,}",
        f"openings  {opened or 'none'}",
    ]


def _sheet(given: argparse.Namespace) -> tuple[Document, list[str]]:
    # What is wished for is read first: a survey takes seconds.
    wish_of(given)
    shipped_resin(given.resin)
    found, hints = _survey(given)
    planned: tuple[Document, list[str]] = sheet_of(given, found, hints)
    return planned


def _coat(given: argparse.Namespace) -> Any:
    if given.list_motions:
        return list_motions()
    if given.file is None:
        raise InputError("Give the file of the piece; see husk coat --help.", "file")
    asked = read_coat(given)
    found, hints = _survey(given)
    return coat_of(given, asked, found.face, hints)


def _mould(given: argparse.Namespace) -> tuple[Document, list[str]]:
    found, hints = _survey(given)
    document: tuple[Document, list[str]] = plan_of(given, found, hints)
    return document


def _chain(given: argparse.Namespace) -> tuple[Document, list[str]]:
    from mildhusk.quantities import read_quantity

    def girth(text: str, name: str) -> float:
        return read_quantity(text, "m", "mm", name=f"The {name} girth", field=f"{name}_girth_m")

    task = Task(
        purpose=Purpose(given.purpose),
        opening_girth_m=girth(given.opening_girth, "opening"),
        widest_girth_m=girth(given.widest_girth, "widest"),
        painted=given.paint == "yes",
        spun=given.spin == "yes",
        area_m2=read_quantity(given.area, "m^2", "cm^2", name="The area", field="area_m2"),
        master=None if given.master is None else shipped_material(given.master),
    )
    taken = dict(_taken(words) for words in given.take)
    shelf = shipped_materials()
    decided = decide(task, shelf, shipped_judge, taken)
    document = chain_document(task, decided, schools(task, shelf, decided))
    lines = [f"needed stretch {document['needed_stretch'] * 100:.0f} %"]
    for link, candidates in document["links"].items():
        for one in candidates:
            lines.append(f"{link:8} {one['verdict']:9} {one['key']}")
            lines += [f"{'':19}{reason}" for reason in one["reasons"]]
    for school in document["schools"]:
        lines.append(school["question"])
        for way in school["ways"]:
            lines += [f"    {way['name']}: + {gain}" for gain in way["gains"]]
            lines += [f"    {way['name']}: - {cost}" for cost in way["costs"]]
    return document, lines


def _taken(words: str) -> tuple[Link, str]:
    link, _, key = words.partition("=")
    if link not in list(Link) or not key:
        raise InputError(f"'{words}' is not LINK=KEY; the links are {', '.join(Link)}.", "take")
    return Link(link), key


def _check(given: argparse.Namespace) -> tuple[list[Document], list[str]]:
    if len(given.keys) < 2:
        raise InputError("Give at least two materials to compare.", "keys")
    touching = tuple(shipped_material(key) for key in given.keys)
    documents = [verdict_document(one) for one in judge_all(touching, shipped_rules())]
    lines = []
    for one in documents:
        lines.append(f"{' + '.join(one['pair'])}: {one['verdict']}")
        lines += [f"    {rule['id']}: {rule['reason']} {rule['remedy']}" for rule in one["rules"]]
        if not one["rules"]:
            lines.append("    No rule covers it: make a dab test.")
    return documents, lines


def _buy(given: argparse.Namespace) -> tuple[Document, list[str]]:
    from mildhusk.quantities import read_quantity

    purchases = []
    for words in given.need:
        key, _, amount = words.partition("=")
        need = read_quantity(amount, "kg", "kg", name=f"The need of {key}", field="need")
        offers = shipped_kits(shipped_material(key).key)
        # The command line knows no lots; they are the workshop's.
        purchases.append(purchase_document(key, need, plan_purchase(need, (), offers, date.max)))
    total = sum((Decimal(one["cost"]) for one in purchases), Decimal("0.00"))
    lines = []
    for one in purchases:
        kits = ", ".join(f"{k['count']} x {k['name']} {k['mass_kg']} kg" for k in one["kits"])
        left = f"{one['left_over_kg']:.2f} kg left over"
        lines.append(f"{one['key']}: {kits} for {one['cost']}, {left}")
        lines.append(f"    {one['why_not_bigger']}")
    return {"purchases": purchases, "cost": str(total)}, [*lines, f"together {total}"]


def _survey(given: argparse.Namespace) -> tuple["Survey", list[str]]:
    # Distances and rays are slow to load, and only a survey needs them.
    from mildhusk.core.geometry.survey import survey

    mesh, unit, hints = _read(given)
    return survey(mesh.scaled(unit.metres), _survey_wish(given)), hints


def _read(given: argparse.Namespace) -> tuple[Mesh, LengthUnit, list[str]]:
    mesh = read_shape(_read_bytes(given.file), given.file.name)
    unit = LengthUnit(given.units)
    guess, sure = guess_unit(mesh)
    hints = [f"note: the size looks like {guess}, not {unit}"] if sure and guess != unit else []
    return mesh, unit, hints


def _survey_wish(given: argparse.Namespace) -> SurveyWish:
    wish = SurveyWish(SkinChoice(given.skin), close_holes=given.close_holes)
    if given.rim is None and given.skirt is None and given.ledge is None:
        return wish
    # The units library is slow to load and seldom needed here.
    from mildhusk.quantities import read_quantity

    if given.rim is not None:
        axis, _, height = given.rim.partition("=")
        if axis != "z" or not height:
            raise InputError(f"The rim '{given.rim}' is not z=HEIGHT; write for instance z=30mm.")
        rim = read_quantity(height, "m", "mm", name="The rim", field="rim")
        wish = replace(wish, rim_z_m=rim)
    if given.skirt is not None:
        skirt = read_quantity(given.skirt, "m", "mm", name="The skirt", field="skirt")
        wish = replace(wish, skirt_m=skirt)
    if given.ledge is not None:
        ledge = read_quantity(given.ledge, "m", "mm", name="The ledge", field="ledge")
        wish = replace(wish, ledge_m=ledge)
    return wish


def _read_bytes(path: Path) -> bytes:
    try:
        size = path.stat().st_size
        if size > MAX_MESH_FILE_BYTES:
            raise MeshTooLargeError(too_large_sentence(size))
        return path.read_bytes()
    except OSError as error:
        raise MeshFileError(f"{path}: {error.strerror or error}.") from error


if __name__ == "__main__":
    sys.exit(main())
