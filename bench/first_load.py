"""What a first visit loads before a page is seen, and when it is seen, on a slow line.

Largest contentful paint under 2.5 s at 1.6 Mbit/s and 150 ms is wanted, and under 250 kB before
anything is drawn in three dimensions.
"""

import sys
from pathlib import Path

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from browser.chromium import Person, chromium_browser  # noqa: E402 - the tests' own browser
from browser.lookup import fetch  # noqa: E402
from served import demo_server  # noqa: E402

SLOW = {"offline": False, "latency": 150, "downloadThroughput": 2e5, "uploadThroughput": 1e5}
WANTED_MS, WANTED_KB = 2500.0, 250.0
_READ = """
const done = arguments[0];
new PerformanceObserver((list) => {
  const parts = performance.getEntriesByType("resource").filter((one) => /js|css/.test(one.name));
  const paint = list.getEntries().at(-1).startTime;
  done([paint, parts.reduce((sum, one) => sum + one.encodedBodySize, 0) / 1e3, parts.length]);
}).observe({type: "largest-contentful-paint", buffered: true});
"""


def main() -> None:
    """Visit pages with an empty browser each; print paint, scripts and styles."""
    with demo_server() as address:
        sheet = fetch(address, "/sheets")["sheets"][0]["id"]
        for path in ("/today", "/pour", f"/sheets/{sheet}/pour", "/log", f"/sheets/{sheet}"):
            with chromium_browser() as driver:
                driver.execute_cdp_cmd("Network.enable", {})
                driver.execute_cdp_cmd("Network.emulateNetworkConditions", SLOW)
                person = Person(driver, address)
                person.go(path)
                person.one("h1, .sheet-name, .headline")
                paint_ms, size_kb, parts = driver.execute_async_script(_READ)
            name = path.replace(sheet, "SHEET")
            print(f"{name}: largest paint after {paint_ms / 1e3:.1f} s, ratio "
                  f"{paint_ms / WANTED_MS:.2f}; {size_kb:.0f} kB of scripts and styles in "
                  f"{parts} files, ratio {size_kb / WANTED_KB:.2f} (wanted: 1)")  # fmt: skip


if __name__ == "__main__":
    main()
