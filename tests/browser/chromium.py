"""Headless Chromium from Debian's packages, and words for what a person does with it."""

import os
import shutil
import signal
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import TypeVar

from selenium import webdriver
from selenium.common.exceptions import NoSuchElementException, StaleElementReferenceException
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

_FLAGS = """
--headless=new --no-sandbox --disable-gpu --use-angle=swiftshader --enable-unsafe-swiftshader
--disable-quic --no-first-run --no-default-browser-check --disable-background-networking
--disable-component-update --disable-sync --disable-extensions --disable-dev-shm-usage
--hide-scrollbars --force-device-scale-factor=1 --lang=en-GB --window-size=1280,800
"""
AXE = Path(__file__).parents[2] / "frontend/node_modules/axe-core/axe.min.js"
PATIENCE_S = 40.0
_STILL_FOR_S = 0.03
_IMPACTS = ("minor", "moderate", "serious", "critical")
T = TypeVar("T")


@contextmanager
def chromium_browser(*more: str) -> Iterator[webdriver.Chrome]:
    """A browser at 1280 x 800, for someone who wants things to stand still; with flags more."""
    profile = tempfile.mkdtemp(prefix="mildhusk-chromium-")
    driver = _started(profile, *more)
    try:
        yield driver
    finally:
        driver.quit()
        shutil.rmtree(profile, ignore_errors=True)


@contextmanager
def tablet(clock_ahead_s: float = 0.0) -> Iterator["Tablet"]:
    """A browser that can be killed and started again, on a machine whose clock is wrong."""
    profile = tempfile.mkdtemp(prefix="mildhusk-tablet-")
    made = Tablet(profile, clock_ahead_s)
    try:
        yield made
    finally:
        made.kill()
        shutil.rmtree(profile, ignore_errors=True)


class Tablet:
    """A browser with what it keeps."""

    def __init__(self, profile: str, clock_ahead_s: float) -> None:
        self._profile, self._ahead_ms = profile, round(clock_ahead_s * 1e3)
        self.driver = self._start()

    def _start(self) -> webdriver.Chrome:
        driver = _started(self._profile)
        shift = (
            "{const own = Date, ahead = %d; Date = class extends own {"
            "constructor(...a) { if (a.length) super(...a); else super(own.now() + ahead); }"
            "static now() { return own.now() + ahead; } };}"
        )
        source = {"source": shift % self._ahead_ms}
        driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", source)
        return driver

    def kill(self) -> None:
        """End it as a dead battery does."""
        for one in _pids_with(self._profile):
            with suppress(ProcessLookupError):
                os.kill(one, signal.SIGKILL)
        with suppress(Exception):
            self.driver.quit()

    def switch_on(self) -> webdriver.Chrome:
        """Start it again with what it kept."""
        # The lock of the one that was killed.
        for left in Path(self._profile).glob("Singleton*"):
            left.unlink()
        self.driver = self._start()
        return self.driver


def _pids_with(word: str) -> list[int]:
    found = []
    for line in Path("/proc").glob("[0-9]*/cmdline"):
        with suppress(OSError):
            said = line.read_text("utf-8", "replace")
            if f"--user-data-dir={word}" in said and "chromedriver" not in said:
                found.append(int(line.parent.name))
    return found


def _started(profile: str, *more: str) -> webdriver.Chrome:
    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    for flag in (*_FLAGS.split(), *more):
        options.add_argument(flag)
    options.add_argument(f"--user-data-dir={profile}")
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    size = {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False}
    driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
    driver.execute_cdp_cmd("Emulation.setLocaleOverride", {"locale": "en-GB"})
    still = {"features": [{"name": "prefers-reduced-motion", "value": "reduce"}]}
    driver.execute_cdp_cmd("Emulation.setEmulatedMedia", still)
    return driver


_CHOOSE = """
Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(...arguments);
arguments[0].dispatchEvent(new Event("input", {bubbles: true}));
"""
_SMALL = """
return [...document.querySelectorAll(arguments[0] + " :is(a, button, input, [role=button])")]
  .filter((one) => one.checkVisibility({visibilityProperty: true}))
  .map((one) => [one, (one.closest(".ant-input-affix-wrapper") ?? one).getBoundingClientRect()])
  .filter(([, {width, height}]) => width > 0 && (width < 44 || height < 44))
  .map(([one, {width, height}]) => `${one.innerText || one.className}: ${width} x ${height}`);
"""


class Person:
    """Someone at the application: goes somewhere, reads, types, presses, waits."""

    def __init__(self, driver: webdriver.Chrome, address: str) -> None:
        self.driver = driver
        self.address = address

    def go(self, path: str) -> None:
        self.driver.get(self.address.rstrip("/") + path)

    @contextmanager
    def far_away(self, latency_ms: int) -> Iterator[None]:
        """Every answer takes so much longer."""
        self.driver.set_network_conditions(latency=latency_ms, throughput=10**8)
        try:
            yield
        finally:
            self.driver.delete_network_conditions()

    def until(self, look: Callable[[], T | None], what: str, patience: float = PATIENCE_S) -> T:
        """What a look gives as soon as it gives something."""
        end, pause = time.monotonic() + patience, 0.02
        while True:
            try:
                found = look()
                if found:
                    return found
            except (NoSuchElementException, StaleElementReferenceException):
                pass
            assert time.monotonic() < end, f"never saw {what}; the page reads: {self.text()[:3000]}"
            # What takes long is not slowed down by looking.
            time.sleep(pause)
            pause = min(1.3 * pause, 0.5)

    def text(self) -> str:
        # What is seen of the page; the driver's own way of asking takes the page 0.1 s.
        seen = str(self.driver.execute_script("return document.body.innerText"))
        return seen.replace("\t", " ").replace("\u00a0", " ")

    def sees(self, words: str) -> None:
        self.until(lambda: words in self.text(), repr(words))

    def one(self, selector: str) -> WebElement:
        return self.until(lambda: self.driver.find_element(By.CSS_SELECTOR, selector), selector)

    def clicks(self, selector: str) -> None:
        """Press what is there as soon as it stays there."""

        def look() -> bool:
            found = self.driver.find_element(By.CSS_SELECTOR, selector)
            if self._stands_still(found):
                found.click()
                return True
            return False

        self.until(look, selector)

    def field(self, label: str) -> WebElement:
        path = f"//label[contains(normalize-space(.), {label!r})]"

        def look() -> WebElement | None:
            found = self.driver.find_element(By.XPATH, path)
            key = found.get_attribute("for")
            if key:
                return self.driver.find_element(By.ID, key)
            return found.find_element(By.CSS_SELECTOR, "input, textarea")

        return self.until(look, f"field {label!r}")

    def types(self, label: str, text: str) -> None:
        field = self.field(label)
        field.send_keys(Keys.CONTROL + "a")
        field.send_keys(text)

    def dates(self, label: str, day: str) -> None:
        """Choose a day by its year, month and day; how one is typed differs by the system."""
        field = self.field(label)
        self.driver.execute_script(_CHOOSE, field, day)

    def presses(self, name: str) -> None:
        # A space that no line parts is a space to whoever reads it.
        said = "normalize-space(translate(., '\u00a0', ' '))"
        path = f"//*[self::button or self::a][contains({said}, {name!r})]"

        def look() -> bool:
            for found in self.driver.find_elements(By.XPATH, path):
                if found.is_displayed() and found.is_enabled() and self._stands_still(found):
                    found.click()
                    return True
            return False

        self.until(look, f"button {name!r}")

    def answers(self, word: str) -> None:
        """Answer the question that stands above the page."""

        def look() -> bool:
            for found in self.driver.find_elements(By.CSS_SELECTOR, "dialog[open] .answers button"):
                if found.text.strip() == word and self._stands_still(found):
                    found.click()
                    return True
            return False

        self.until(look, f"the answer {word!r}")

    def _stands_still(self, element: WebElement) -> bool:
        """Whether a press would meet it: a person presses nothing that moves."""
        before = element.rect
        time.sleep(_STILL_FOR_S)
        return bool(element.rect == before)

    def figure(self, name: str) -> str:
        """What a figure of the sheet shows."""
        return self.one(f"[data-figure={name}]").text

    def _has_heading(self) -> bool:
        return bool(self.driver.find_elements(By.CSS_SELECTOR, "h1"))

    def complaints(self, least: str = "serious", only: str = "") -> list[str]:
        """What the accessibility scan finds on the page as it is, of an impact at least."""
        # What is fetched when somebody goes to it is there before it is judged.
        self.until(
            lambda: (
                not self.driver.find_elements(By.CSS_SELECTOR, ".state .spinner")
                or ("Loading the page" not in self.text() and self._has_heading())
            ),
            "the page itself",
        )
        self.driver.execute_script(AXE.read_text("utf-8"))
        found = self.driver.execute_async_script(
            "const done = arguments[1], only = arguments[0] && {runOnly: [arguments[0]]};"
            "axe.run(document, {resultTypes: ['violations'], ...only})"
            ".then(r => done(r.violations));",
            only,
        )
        return [
            f"{one['id']}: {node['target']} {node['failureSummary']}"
            for one in found
            if _IMPACTS.index(one["impact"]) >= _IMPACTS.index(least)
            for node in one["nodes"]
        ]

    def small_targets(self, within: str) -> list[str]:
        """What can be pressed of a part of the page and is smaller than a gloved finger: 44 px."""
        return list(self.driver.execute_script(_SMALL, within))

    def console_errors(self) -> list[str]:
        return [
            entry["message"]
            for entry in self.driver.get_log("browser")
            if entry["level"] == "SEVERE"
        ]
