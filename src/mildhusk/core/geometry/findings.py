"""Findings about a measured piece: what will not go well with it, in plain sentences."""

from collections.abc import Iterator

from mildhusk.core.findings import Finding, Severity
from mildhusk.core.geometry.measure import FaceMeasures
from mildhusk.core.wording import Unit, sentence

# Closed surfaces whose mean half thickness is below this share of their size are hollow prints.
_HOLLOW_SHARE = 0.08


def piece_findings(face: FaceMeasures) -> tuple[Finding, ...]:
    """Return what a measured piece will not do well."""
    return tuple(_about_piece(face))


def _about_piece(face: FaceMeasures) -> Iterator[Finding]:
    thickness = 2.0 * face.volume_m3 / face.area_m2
    if face.watertight and thickness < _HOLLOW_SHARE * min(face.extents_m):
        yield Finding(
            "hollow-print",
            Severity.WARNING,
            sentence(
                "The file looks like a hollow print with both skins, {thickness} thick: the inner "
                "skin is counted as casting face too, so grams come out about twice too high. "
                "Export the outer skin alone.",
                thickness=(thickness, Unit.LENGTH),
            ),
        )
    elif not face.openings:
        yield Finding(
            "no-opening",
            Severity.NOTE,
            sentence(
                "The piece has no opening, so all of its face is counted, a flat base or a closed "
                "neck too. Delete those faces if the mould is open there."
            ),
        )
    if face.bodies > 1:
        yield Finding(
            "several-bodies",
            Severity.WARNING,
            sentence(
                "The file holds {bodies} separate surfaces; each is counted. Delete loose crumbs "
                "and inner skins.",
                bodies=(face.bodies, Unit.COUNT),
            ),
        )
    faulty = face.branching_edges + face.clashing_edges + face.folded_edges
    if faulty:
        yield Finding(
            "faulty-edges",
            Severity.WARNING,
            sentence(
                "At {edges} edges the faces branch, fold back or disagree about outside; there the "
                "bend of the face is left out, and the grams are less certain. Repair the mesh.",
                edges=(faulty, Unit.COUNT),
            ),
        )
    if face.flat_faces:
        yield Finding(
            "flat-faces",
            Severity.NOTE,
            sentence(
                "{faces} faces have no area and were left out.",
                faces=(face.flat_faces, Unit.COUNT),
            ),
        )
    if face.flipped:
        yield Finding(
            "flipped",
            Severity.NOTE,
            sentence("The file had inside and outside exchanged; it is measured the right way."),
        )
