"""Writes docs/choices.md: twelve tasks with the chain that is taken, beside an old hand's."""

import sys
from pathlib import Path

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from core.test_chain import BY_KEY, OLD_HAND, TASK  # noqa: E402 - the tests' answers
from mildhusk.core.choosing.chain import decide  # noqa: E402
from mildhusk.core.choosing.task import Link, Standing, Task  # noqa: E402
from mildhusk.core.materials.catalogue import shipped_materials  # noqa: E402
from mildhusk.core.materials.compatibility import shipped_judge  # noqa: E402

PAGE = """# Twelve choices

`scripts/choices_table.py` decides and writes this page. The task is a worn helmet, painted and spun
on a machine, whose opening of 330 mm has to pass 560 mm, but for what the first column says. *An
old hand* is what somebody with years at it would take (common practice, no source); the same table
stands as a test in `tests/core/test_chain.py`.

| task | resin | rubber | mould | shell | release | sealer | an old hand |
| --- | --- | --- | --- | --- | --- | --- | --- |
{table}
"""


def main() -> None:
    """Decide all twelve, and write the page."""
    shelf = shipped_materials()
    rows = []
    for change, *old_hand in OLD_HAND:
        master = BY_KEY.get(str(change.get("master")))
        links = decide(Task(**{**TASK, **change, "master": master}), shelf, shipped_judge)
        taken = [
            next(one.key for one in links[link] if one.verdict is Standing.TAKE) for link in Link
        ]
        same = "the same" if taken[:3] == old_hand else ", ".join(old_hand)
        said = ", ".join(_in_words(name, value) for name, value in change.items()) or "as it is"
        rows.append(f"| {said} | {' | '.join(taken)} | {same} |")
    page = PAGE.format(table="\n".join(rows))
    (ROOT / "docs" / "choices.md").write_text(page, "utf-8")
    print(page)


def _in_words(name: str, value: object) -> str:
    if isinstance(value, bool):
        return name if value else f"not {name}"
    return f"opening {1e3 * value:.0f} mm" if isinstance(value, float) else str(value)


if __name__ == "__main__":
    main()
