"""Every view of the application on the demo, and what is measured on it at each size."""

import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from browser.chromium import Person
from browser.lookup import fetch, post, sheet_named, start_pour


@dataclass(frozen=True)
class View:
    """Where a view is, given the server's address, and words that it shows when it stands."""

    path: Callable[[str], str]
    words: str
    press: str = ""
    """What opens it on its page, where it is a dialog."""

    def open(self, person: Person, address: str) -> None:
        """Go there, and wait until it stands."""
        person.go(self.path(address))
        if self.press:
            person.presses(self.press)
        person.sees(self.words)


@dataclass(frozen=True)
class Size:
    """A window in CSS pixels; at twice the scale for who reads at 200 %."""

    width: int
    height: int
    scale: float = 1.0

    @property
    def by_finger(self) -> bool:
        """Whether a tablet or a telephone is likely."""
        return self.width <= 1024 and self.scale == 1.0


MAIN = ("1280", "820", "390")
"""The sizes that are gone through with every change; scripts/walk_views.py goes through all."""
SIZES = {
    "1920": Size(1920, 1080),
    "1280": Size(1280, 800),
    "1024": Size(1024, 768),
    "820": Size(820, 1180),
    "390": Size(390, 844),
    "200 %": Size(640, 400, 2.0),
}


def _first(address: str, what: str) -> str:
    return str(fetch(address, f"/{what}")[what][0]["id"])


def _mask(address: str) -> str:
    return f"/sheets/{sheet_named(address, 'chorus')['id']}"


def _piece(address: str) -> str:
    named = (one for one in fetch(address, "/pieces")["pieces"] if "helmet" in one["name"])
    return f"/pieces/{next(named)['id']}"


def _beside(address: str) -> str:
    pours = fetch(address, "/pours?search=souvenir")["pours"][:3]
    return "/log/beside?" + "&".join(f"pour={one['id']}" for one in pours)


def _rubber(address: str) -> str:
    return f"/shelf/supplies/{fetch(address, '/supplies?kind=rubber')['supplies'][0]['id']}"


def _run(address: str) -> str:
    runs = fetch(address, "/runs")["runs"]
    if runs:
        return f"/log/runs/{runs[0]['id']}"
    sheet = sheet_named(address, "souvenir")
    mould = next(
        one for one in fetch(address, "/moulds")["moulds"] if one["piece_id"] == sheet["piece_id"]
    )
    body = {
        "name": "Souvenirs for spring", "sheet_id": sheet["id"], "mould_ids": [mould["id"]],
        "wanted": 20, "due_on": "2030-03-01",
    }  # fmt: skip
    post(address, "/runs", body)
    return f"/log/runs/{_first(address, 'runs')}"


def _cast(address: str) -> str:
    cast = next(one for one in fetch(address, "/pours")["pours"] if one["status"] == "cast")
    return f"/log/{cast['id']}"


VIEWS = {
    "today": View(lambda _: "/today", "Add a job"),
    "board": View(lambda _: "/today/board", "People"),
    "offers": View(lambda _: "/today/offers", "Somebody asks for twelve"),
    "how it went": View(lambda _: "/today/went", "No plan is saved yet"),
    "at the bench today": View(lambda _: "/today/bench", "Leave"),
    "pieces": View(lambda _: "/pieces", "Lamplighter helmet"),
    "piece": View(_piece, "Casting face"),
    "piece by hand": View(lambda _: "/pieces/by-hand", "more girths make it surer"),
    "moulds": View(lambda _: "/moulds", "Lamplighter, two parts"),
    "mould": View(lambda a: f"/moulds/{_first(a, 'moulds')}", "Rubber to mix"),
    "patterns": View(lambda a: f"{_piece(a)}/patterns", "Take it to the bench"),
    "shelf": View(lambda _: "/shelf", "Slow epoxy"),
    "resin": View(lambda a: f"/shelf/{_first(a, 'materials')}", "Working time"),
    "own resin": View(lambda _: "/shelf/new", "Start from"),
    "everything else": View(lambda _: "/shelf/supplies", "Firm addition-cure rubber"),
    "a rubber": View(_rubber, "Kits on offer"),
    "own consumable": View(lambda _: "/shelf/supplies/new/consumable", "Used a coat"),
    "lots": View(lambda _: "/shelf/lots", "Polyester, by the door"),
    "chain": View(lambda _: "/shelf/chain", "Medium rigid urethane"),
    "new lot": View(lambda _: "/shelf/lots", "Leave it empty if nobody remembers", "Add a lot"),
    "dab tests": View(lambda _: "/shelf/dabs", "Add a dab"),
    "new dab": View(lambda _: "/shelf/dabs", "Start its clock", "Add a dab"),
    "what to buy": View(lambda _: "/shelf/buy", "How many casts?"),
    "sheets": View(lambda _: "/sheets", "Marsh bird, chorus copy"),
    "sheet": View(_mask, "Resin to mix"),
    "how it cures": View(_mask, "A puddle this deep", "How it cures"),
    "ways to divide it": View(_mask, "Way, and when to take it", "Other ways to divide it"),
    "asked before it is deleted": View(_piece, "The file goes with it", "Delete"),
    "keys": View(lambda _: "/workshop", "this list", "Keys ?"),
    "upload": View(lambda _: "/pieces", "Drop a shape here", "Upload a shape"),
    "cost": View(lambda a: f"{_mask(a)}/cost", "Together"),
    "other ways to turn it": View(lambda a: f"{_mask(a)}/wall", "Wall"),
    "new sheet": View(lambda _: "/sheets/new", "Resin to mix"),
    "what was learned": View(lambda a: f"{_mask(a)}/learned", "Loss in cup and on stick"),
    "before the pour": View(lambda a: f"{_mask(a)}/pour", "Start a pour"),
    "pour station": View(lambda _: "/pour", "Start from a cast sheet"),
    "bench": View(lambda a: f"/pour/{start_pour(a, 'shop window')['id']}", "Measure out"),
    "log": View(lambda _: "/log", "Harbour mistress"),
    "log entry": View(_cast, "Coat by coat"),
    "finish": View(lambda a: f"{_cast(a)}/finish", "Paint"),
    "runs": View(lambda _: "/log/runs", "Plan a run"),
    "new run": View(lambda _: "/log/runs", "Moulds, in rotation", "Plan a run"),
    "run": View(_run, "Souvenirs for spring"),
    "pours beside each other": View(_beside, "What came of it"),
    "practice tray": View(lambda _: "/practice", "Begin"),
    "new mould": View(lambda _: "/moulds/new", "What it is built of"),
    "workshop": View(lambda _: "/workshop", "Largest mixing cup"),
    "who did what": View(lambda _: "/workshop/trail", "What was changed, by whom"),
    "invited": View(lambda _: "/join", "This link is not whole"),
    "nowhere": View(lambda _: "/nowhere/at/all", "There is nothing at this address"),
}

_MEASURE = r"""
const across = document.documentElement.clientWidth, [byFinger] = arguments;
const said = (one) => (one.innerText || one.getAttribute("aria-label") || one.value || one.id ||
  one.className.toString()).trim().replace(/\s+/g, " ").slice(0, 60);
const where = (one) => `${one.tagName.toLowerCase()}.${one.className.toString().split(" ")
  .slice(0, 2).join(".")} "${said(one)}"`;
const shown = (one) => one.checkVisibility({visibilityProperty: true, opacityProperty: true});
const away = (one) => one.closest(
  // Headings of a table that is stacked, and blocks drawn to the scale of time: both are told whole
  // to who listens, and a press on a block tells it in full.
  ".out-of-sight, .skip, [aria-hidden=true], .ant-select-dropdown, thead, .board-block, " +
  ".due-press");

const wide = [];
if (document.documentElement.scrollWidth > across + 1) {
  const out = [...document.body.querySelectorAll("*")].filter((one) => shown(one) && !away(one) &&
    one.getBoundingClientRect().right > across + 1);
  wide.push(`page ${document.documentElement.scrollWidth - across} px: ` +
    out.filter((one) => !out.some((other) => other !== one && one.contains(other)))
      .slice(0, 4).map(where).join("; "));
}
for (const one of document.body.querySelectorAll("*")) {
  if (!shown(one) || away(one) || one.tagName === "TEXTAREA" || one.tagName === "INPUT") continue;
  const {overflowX} = getComputedStyle(one);
  if ((overflowX === "auto" || overflowX === "scroll") && one.scrollWidth > one.clientWidth + 1)
    wide.push(`inside ${one.scrollWidth - one.clientWidth} px: ${where(one)}`);
}

const cut = new Set();
const words = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
for (let node = words.nextNode(); node; node = words.nextNode()) {
  const holder = node.parentElement;
  if (!node.data.trim() || !shown(holder) || away(holder)) continue;
  const range = document.createRange();
  range.selectNodeContents(node);
  const rects = [...range.getClientRects()].filter(({width}) => width > 0);
  for (let box = holder; box && box !== document.body; box = box.parentElement) {
    const style = getComputedStyle(box);
    if (style.overflowX === "visible" && style.overflowY === "visible") continue;
    const {left, right, top, bottom} = box.getBoundingClientRect();
    const hides = (flow) => flow === "hidden" || flow === "clip";
    if (rects.some((one) =>
      (hides(style.overflowX) && (one.right > right + 2 || one.left < left - 2)) ||
      (hides(style.overflowY) && (one.bottom > bottom + 5 || one.top < top - 5)))) {
      cut.add(where(holder));
      break;
    }
  }
}
const texts = "input:not([type=checkbox], [type=radio], [type=range])";
for (const field of document.querySelectorAll(texts))
  if (shown(field) && !away(field) && field.value && field.scrollWidth > field.clientWidth + 2)
    cut.add(where(field));

const small = new Set();
if (byFinger) {
  const pressed = "a, button, input, textarea, select, summary, [role=button], [role=tab], " +
    "[tabindex='0']";
  for (const one of document.querySelectorAll(pressed)) {
    if (!shown(one) || away(one) || one.tagName === "MAIN" || one.type === "file") continue;
    // A handle in a drawing stands beside a field for the same.
    if (one instanceof SVGElement) continue;
    // A link in a sentence is as high as its line.
    const line = one.tagName === "A" && getComputedStyle(one).display === "inline" &&
      one.parentElement.innerText.trim() !== one.innerText.trim();
    if (line) continue;
    const whole = one.closest("label, .ant-select, .ant-input-affix-wrapper, .ant-picker, " +
      ".ant-input-number, .ant-radio-button-wrapper, .ant-segmented-item, .ant-switch, " +
      ".ant-slider") ?? one;
    const {width, height} = whole.getBoundingClientRect();
    if (width > 0 && (width < 43.5 || height < 43.5))
      small.add(`${where(one)} ${Math.round(width)} x ${Math.round(height)}`);
  }
}
return {wide, cut: [...cut], small: [...small]};
"""


_PARTED = r"""
// SI Brochure, 9th edition, 5.4.3: a space stands between number and unit; no line may end there.
const units = "mm|cm|m|cm²|m²|in²|ml|l|fl oz|g|kg|oz|lb|g/ml|kg/m³|s|min|h|days?|weeks?|hours?|" +
  "minutes?|seconds?|°C|°F|K|%|rpm|mPa s|Pa s|EUR|coats?|casts?|pours?|pieces?|faces|parts?|kB|MB";
const parted = new RegExp(
  String.raw`[^\n\t]{0,40}\d[\d.,]* (?:${units})(?![\p{L}\d])`, "gu");
return [...new Set(document.body.innerText.match(parted) ?? [])];
"""


def parted(person: Person) -> list[str]:
    """Numbers that a line may part from their units."""
    found: list[str] = person.driver.execute_script(_PARTED)
    return found


def at_size(person: Person, size: Size, dark: bool = False) -> None:
    """Give the window a size, and the system a theme."""
    person.driver.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        {
            "width": size.width, "height": size.height, "deviceScaleFactor": size.scale,
            "mobile": False,
        },
    )  # fmt: skip
    features = [
        {"name": "prefers-reduced-motion", "value": "reduce"},
        {"name": "prefers-color-scheme", "value": "dark" if dark else "light"},
    ]
    person.driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": features})


_SETTLES_S = 3.0
"""A page that is given another size is laid out anew, and its fields get another height."""


def faults(person: Person, size: Size) -> dict[str, list[str]]:
    """What scrolls sideways, is cut off or is too small for a finger on the page as it is."""
    ends = time.monotonic() + _SETTLES_S
    while True:
        found: dict[str, Any] = person.driver.execute_script(_MEASURE, size.by_finger)
        if not any(found.values()) or time.monotonic() > ends:
            return {kind: list(told) for kind, told in found.items()}
        time.sleep(0.1)
