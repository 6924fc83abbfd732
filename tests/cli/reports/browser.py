"""A browser without a screen, and what is asked of every page in it."""

from __future__ import annotations

import base64
import json
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from itertools import pairwise
from pathlib import Path
from typing import Any

SIZES = ((1280, 800), (390, 844))
FLAGS = (
    *("--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run"),
    *("--disable-background-networking", "--disable-component-update", "--disable-sync", "--hide-scrollbars"),
)
PLACES = ("chromium", "chromium-browser", "google-chrome")
CONTRAST = """
const seen = [];
const channel = v => (v /= 255) <= 0.03928 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4;
const parse = text => (text.match(/[\\d.]+/g) || []).map(Number);
const light = c => 0.2126 * channel(c[0]) + 0.7152 * channel(c[1]) + 0.0722 * channel(c[2]);
function ground(node) {
  for (; node && node.nodeType === 1; node = node.parentNode) {
    const colour = parse(getComputedStyle(node).backgroundColor);
    if (colour.length === 3 || colour[3] === 1) return colour;
  }
  return [255, 255, 255];
}
for (const node of document.querySelectorAll('body *')) {
  const own = [...node.childNodes].some(child => child.nodeType === 3 && child.textContent.trim());
  if (!own || !node.getClientRects().length) continue;
  const style = getComputedStyle(node), drawn = node.namespaceURI.endsWith('svg');
  const text = parse(drawn ? style.fill : style.color), under = ground(node);
  const [a, b] = [light(text), light(under)].sort((x, y) => y - x);
  seen.push([(a + 0.05) / (b + 0.05), node.tagName, node.textContent.slice(0, 40)]);
}
return seen.sort((x, y) => x[0] - y[0]).slice(0, 3).concat([[seen.length, '', '']]);
"""


def is_there() -> bool:
    return bool(shutil.which("chromedriver")) and any(map(shutil.which, PLACES))


@contextmanager
def browser() -> Iterator[Any]:
    from selenium import webdriver
    from selenium.webdriver.chrome.service import Service

    options = webdriver.ChromeOptions()
    options.binary_location = str(next(found for name in PLACES if (found := shutil.which(name))))
    for flag in FLAGS:
        options.add_argument(flag)
    options.set_capability("goog:loggingPrefs", {"performance": "ALL"})
    driver = webdriver.Chrome(options=options, service=Service(shutil.which("chromedriver")))
    try:
        yield driver
    finally:
        driver.quit()


def show(driver: Any, page: Path, width: int = 1280, height: int = 800, dark: bool = False) -> None:
    """Opens a page in a window of this size; a phone's is narrower than 500."""
    driver.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": width < 500},
    )
    scheme = {"name": "prefers-color-scheme", "value": "dark" if dark else "light"}
    driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": [scheme]})
    driver.get(page.absolute().as_uri())


def requests(driver: Any) -> list[str]:
    """Addresses that the browser asked for since this was called last."""
    events = [json.loads(entry["message"])["message"] for entry in driver.get_log("performance")]
    sent = [one["params"]["request"]["url"] for one in events if one["method"] == "Network.requestWillBeSent"]
    return [address for address in sent if not address.startswith("data:")]


def require_good(driver: Any, page: Path) -> None:
    """What holds of every page: it is alone, without a script, as wide as the window, and can be read and heard."""
    for width, height in SIZES:
        for dark in (False, True):
            requests(driver)
            show(driver, page, width, height, dark)
            assert requests(driver) == [page.absolute().as_uri()]
            ask = driver.execute_script
            assert ask("return document.documentElement.scrollWidth") <= width, (width, dark)
            *worst, (texts, _, _) = ask(CONTRAST)
            assert texts > 5 and worst[0][0] >= 4.5, (worst, width, dark)
    assert ask("return document.scripts.length") == 0
    handlers = "return [...document.querySelectorAll('*')].flatMap(n => [...n.attributes]).map(a => a.name)"
    assert not [name for name in ask(handlers) if name.startswith("on")]
    levels = ask("return [...document.querySelectorAll('h1,h2,h3,h4,h5,h6')].map(h => +h.tagName[1])")
    assert levels[0] == 1 and levels.count(1) == 1
    assert all(after <= before + 1 for before, after in pairwise(levels)), levels
    told = "return [...document.querySelectorAll('figure')].map(f => [f.querySelector('[role=img]')"
    told += "?.getAttribute('aria-label') || '', f.querySelectorAll('table tbody td').length])"
    assert all(alternative and cells for alternative, cells in ask(told))
    names = ask("return [...document.querySelectorAll('[id]')].map(n => n.id)")
    assert len(names) == len(set(names))


def printed(driver: Any) -> bytes:
    """The page that is shown, as a PDF."""
    return base64.b64decode(driver.print_page())
