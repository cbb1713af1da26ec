"""Goes round every view at six sizes and in two lights, and prints what is wrong with any.

Sideways scroll, text that is cut off, targets too small for a finger, what the accessibility scan
finds (all impacts), the window's title, where the focus is after somebody went there, the console.
It ends with 1 where it printed anything.
"""

import sys
from pathlib import Path

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from browser.chromium import Person, chromium_browser  # noqa: E402
from browser.views import SIZES, VIEWS, at_size, faults, parted  # noqa: E402 - the tests' words
from served import demo_server  # noqa: E402


def main() -> int:
    """Walk; returns how many views had something wrong, at most 1."""
    with demo_server() as address, chromium_browser() as driver:
        found = _walked(Person(driver, address), address)
    print("\n".join(found) or f"{len(VIEWS)} views, {len(SIZES)} sizes, two lights: all clean")
    return min(len(found), 1)


def _walked(person: Person, address: str) -> list[str]:
    found = []
    for name, view in VIEWS.items():
        at_size(person, SIZES["1280"])
        view.open(person, address)
        heading = str(person.one("h1").get_attribute("textContent"))
        if person.driver.title.replace("\u00a0", " ") != f"{heading} – Mild Husk".replace(
            "\u00a0", " "
        ):
            found.append(f"{name}: the window is called {person.driver.title!r}")
        found += [f"{name}: a number parted from its unit: {one}" for one in parted(person)]
        for dark in (False, True):
            light = "dark" if dark else "light"
            for called, size in SIZES.items():
                at_size(person, size, dark)
                for kind, told in faults(person, size).items():
                    found += [f"{name}, {called}, {light}: {kind}: {one}" for one in told]
            at_size(person, SIZES["1280"], dark)
            found += [f"{name}, {light}: {one}" for one in person.complaints("minor")]
        found += [f"{name}: console: {one}" for one in person.console_errors()]
        print(f"{name}: done", file=sys.stderr)
    return found


if __name__ == "__main__":
    sys.exit(main())
