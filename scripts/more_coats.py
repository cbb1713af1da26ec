"""Writes docs/more-coats.md: what one least wall takes in more coats than the limits ask for.

Eight shapes on a machine with a lid, in the fast resin; the plan, and the same wish in up to four
coats more. Names given on the command line compute only those shapes, and write nothing. Takes
about five minutes on two cores.
"""

import sys
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from pathlib import Path

import numpy as np

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests"))
sys.path.insert(0, str(ROOT / "scripts"))

from mildhusk.core.casting.plan import CastSheet, rolled_coats  # noqa: E402
from mildhusk.core.casting.planner import Piece, settle  # noqa: E402
from mildhusk.core.coating.grid import usual_edge_m  # noqa: E402
from mildhusk.core.geometry.survey import survey  # noqa: E402
from mildhusk.core.geometry.survey_options import SurveyWish  # noqa: E402
from mildhusk.core.materials.catalogue import shipped_resin  # noqa: E402
from settled_plans import SHAPES, WISH  # noqa: E402

PAGE = ROOT / "docs/more-coats.md"
RESIN, MORE = "pu-fast-rigid", 4
HEAD = """# The same wall in more coats

`scripts/more_coats.py` plans, simulates and writes this page. Wish: 3 mm on 95 % of the face,
23 °C, 5 % loss in the cup, on a machine with a lid, fast rigid urethane. In each cell: resin, and
the wall on 95 % of the face over the mean one. The plan is the first; *more than the least* is how
much more resin it takes than the best of those that keep the wish and every limit.

"""


def main() -> None:
    """Settle everything and write the page."""
    wanted = sys.argv[1:] or list(SHAPES)
    with ProcessPoolExecutor(2) as processes:
        rows = list(processes.map(_row, wanted))
    columns = ["piece", "coats", "plan", *(f"{n} more" for n in range(1, MORE + 1))]
    lines = [
        f"| {' | '.join(columns)} | more than the least |",
        f"|{' --- |' * (len(columns) + 1)}",
        *rows,
    ]
    text = HEAD + "\n".join(lines) + "\n"
    print(text)
    if not sys.argv[1:]:
        PAGE.write_text(text, "utf-8")


def _row(name: str) -> str:
    found = survey(SHAPES[name](), SurveyWish())
    piece = Piece(found.face, np.asarray(found.cut_away), found.measures)
    wish = replace(WISH, motion="machine", lid=bool(found.measures.openings))
    resin, edge_m = shipped_resin(RESIN), max(usual_edge_m(found.face), 0.005)
    plan = settle(piece, resin, wish, edge_m=edge_m).sheet
    coats = len(rolled_coats(plan))
    plans = [plan] + [
        settle(piece, resin, replace(wish, coats=coats + more), edge_m=edge_m).sheet
        for more in range(1, MORE + 1)
    ]
    least_kg = min(one.total_charge_kg for one in plans if _keeps(one) or one is plan)
    excess = plan.total_charge_kg / least_kg - 1.0
    cells = " | ".join(_cell(one) for one in plans)
    return f"| {name} | {coats} | {cells} | {excess * 100:.0f} % |"


def _keeps(sheet: CastSheet) -> bool:
    assert sheet.wall is not None
    return sheet.fits and sheet.wall.share_under <= 0.05


def _cell(sheet: CastSheet) -> str:
    assert sheet.wall is not None
    even = sheet.wall.p05_m / sheet.wall.mean_m
    short = "" if _keeps(sheet) else ", not kept"
    return f"{sheet.total_charge_kg * 1e3:,.0f} g, {even:.2f}{short}"


if __name__ == "__main__":
    main()
