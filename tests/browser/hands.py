"""The hands of a person at the map: ground coordinates become pointer moves, words become keys."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import TypeVar, cast

from selenium.common.exceptions import JavascriptException, StaleElementReferenceException, WebDriverException
from selenium.webdriver import ActionChains, Chrome, Keys
from selenium.webdriver.common.by import By
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import Select, WebDriverWait

T = TypeVar("T")
PX_PER_MM = 96 / 25.4


def until(driver: Chrome, ready: Callable[[Chrome], T], seconds: float = 150) -> T:
    """Wait for something to be so; while a page is replaced by another, nothing is."""

    def asked(there: Chrome) -> T | bool:
        try:
            return ready(there)
        except WebDriverException as error:
            if "aborted by navigation" not in str(error):
                raise
            return False

    return cast(T, WebDriverWait(driver, seconds, 0.05, [StaleElementReferenceException]).until(asked))


# The page counts what it asks for and what it has heard.
LOOK = """
const done = arguments[arguments.length - 1];
const page = document.documentElement.dataset;
function look() {
  const there = document.readyState === "complete" || page.asked !== undefined;
  if (there && page.asked === page.answered) done(true);
  else setTimeout(look, 5);
}
"""
# A pointer that moved asks at the next frame.
HEARD = LOOK + "requestAnimationFrame(() => requestAnimationFrame(look));"


def heard(driver: Chrome) -> None:
    """Wait until the page has heard all that it asked for; where it leads elsewhere, until that page has."""
    for _ in range(5):
        try:
            driver.execute_async_script(HEARD)
            return
        except JavascriptException as error:
            if "unloaded" not in str(error):
                raise
    raise AssertionError("the page leads on and on")


def find(driver: Chrome, css: str) -> WebElement:
    return driver.find_element(By.CSS_SELECTOR, css)


def text_of(driver: Chrome, css: str) -> str:
    return str(driver.execute_script("return document.querySelector(arguments[0])?.textContent ?? ''", css))


def value_of(driver: Chrome, css: str) -> str:
    return str(driver.execute_script("return document.querySelector(arguments[0])?.value ?? ''", css))


def typed(driver: Chrome, css: str, text: str) -> None:
    """A figure typed over the one that was there."""
    heard(driver)
    field = find(driver, css)
    field.click()
    field.send_keys(Keys.CONTROL, "a")
    find(driver, css).send_keys(text, Keys.TAB)
    heard(driver)


def downloaded(driver: Chrome, folder: Path, pattern: str) -> bytes:
    """A PDF that the browser has fetched: there at once by its name, and whole a moment later."""
    until(driver, lambda d: [one for one in folder.glob(pattern) if one.read_bytes().rstrip().endswith(b"%%EOF")])
    (target,) = folder.glob(pattern)
    return target.read_bytes()


@dataclass
class MapHand:
    """Works on a map whose middle and scale are known."""

    driver: Chrome
    x: float
    y: float
    denominator: float

    def wait(self) -> MapHand:
        until(self.driver, lambda d: find(d, "#map").get_dom_attribute("data-painted"))
        until(self.driver, lambda d: text_of(d, "#snap-words").strip())
        return self

    def chain(self) -> ActionChains:
        return ActionChains(self.driver, duration=60)

    def offset(self, x: float, y: float) -> tuple[int, int]:
        """Pixels from the middle of the map."""
        k = 1000 * PX_PER_MM / self.denominator
        return round((x - self.x) * k), round((self.y - y) * k)

    def move(self, x: float, y: float) -> None:
        self.chain().move_to_element_with_offset(find(self.driver, "#map-field"), *self.offset(x, y)).perform()
        heard(self.driver)

    def click(self, x: float, y: float) -> None:
        self.move(x, y)
        self.chain().click().perform()
        heard(self.driver)

    def keys(self, *keys: str) -> None:
        self.chain().send_keys(*keys).perform()
        heard(self.driver)

    def pen(self, key: str) -> None:
        """Choose a pen by its printed key, such as ``Shift+1``."""
        *held, digit = key.split("+")
        chain = self.chain()
        modifier = {"Shift": Keys.SHIFT, "Alt": Keys.ALT}.get(held[0]) if held else None
        if modifier:
            chain.key_down(modifier).send_keys(digit).key_up(modifier).perform()
        else:
            chain.send_keys(digit).perform()
        until(
            self.driver,
            lambda d: find(d, f'.pen[data-key="{key}"]').get_dom_attribute("aria-pressed") == "true",
        )
        until(self.driver, lambda d: "new" in text_of(d, "#slip .tray-head"))

    def ring(self) -> str:
        """What the ring says that it holds."""
        label = find(self.driver, "#ring-label")
        return label.text if label.is_displayed() else ""

    def revision(self) -> int:
        until(self.driver, lambda d: "rev " in text_of(d, "#save-state"))
        return int(text_of(self.driver, "#save-state").rpartition("rev ")[2])

    def kept(self, revision: int) -> None:
        """Wait until the save state says that this revision is kept."""
        until(self.driver, lambda d: text_of(d, "#save-state").endswith(f"rev {revision}"))

    def choose(self, css: str, value: str) -> None:
        Select(find(self.driver, css)).select_by_value(value)
