"""What settling a plan costs: the demo's helmet, 3 mm, on a machine with a lid and by eye.

Wanted: 12 s on a machine, and a first look after 1 s. By hand each coat is led anew, which takes
longer.
"""

import time
from dataclasses import replace

import numpy as np

from mildhusk.core.casting.planner import Piece, settle
from mildhusk.core.casting.wish import CastWish
from mildhusk.core.coating.motion import BY_EYE
from mildhusk.core.coating.rehearsal import rehearse
from mildhusk.core.geometry.reading import read_shape
from mildhusk.core.geometry.survey import survey
from mildhusk.core.geometry.survey_options import SurveyWish
from mildhusk.core.materials.catalogue import shipped_resin
from mildhusk.demo.shapes import helmet_stl

BY_MACHINE = CastWish(wall_m=0.003, room_temperature_k=296.15, motion="machine", lid=True)
BY_HAND = replace(BY_MACHINE, motion=BY_EYE, lid=False)
WANTED_S, LOOK_S = 12.0, 1.0


def main() -> None:
    """Settle each twice, after what is compiled was loaded; print the quicker."""
    rehearse()
    found = survey(read_shape(helmet_stl(), "helmet.stl").mesh.scaled(1e-3), SurveyWish())
    piece = Piece(found.face, np.asarray(found.cut_away), found.measures)
    for way, wish in (("machine, lid", BY_MACHINE), ("by eye, open", BY_HAND)):
        took: list[float] = []
        looked: list[float] = []
        for _ in range(2):
            began = time.perf_counter()

            at: list[float] = []
            sheet = settle(
                piece, shipped_resin("pu-fast-rigid"), wish,
                first_look=lambda _, at=at: at.append(time.perf_counter()),
            ).sheet  # fmt: skip
            took.append(time.perf_counter() - began)
            looked.append(at[0] - began)
        assert sheet.wall is not None
        print(
            f"settled_plan: helmet, {way}, {len(sheet.coats)} coats, "
            f"{sheet.wall.share_under * 100:.1f} % of the face under the wish: {min(took):.1f} s, "
            f"ratio to {WANTED_S:.0f} s {min(took) / WANTED_S:.2f}; first look after "
            f"{min(looked):.1f} s, ratio to {LOOK_S:.0f} s {min(looked) / LOOK_S:.1f}"
        )


if __name__ == "__main__":
    main()
