"""What a person does at the desk, in words that tests read as."""

from __future__ import annotations

import json
import time
import urllib.parse
import urllib.request
from base64 import b64decode
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from selenium import webdriver
from selenium.common.exceptions import StaleElementReferenceException
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait

__all__ = ["Desk", "Picture"]

AXE = Path(__file__).resolve().parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"

#: Levels of 255 by which the same layers may differ, laid one by one or several at once, and written with a loss.
SAME = 5


class Picture:
    """A drawing as it is seen, small: the same as another where nobody can tell them apart."""

    def __init__(self, levels: bytes) -> None:
        self.levels = np.frombuffer(levels, np.uint8).astype(int)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Picture) and int(np.abs(self.levels - other.levels).max()) <= SAME

    __hash__ = None  # type: ignore[assignment]


class Desk:
    """One window of the application, upon one study."""

    def __init__(
        self, driver: webdriver.Chrome, address: str, slug: str = "alder-weir-kiln-house", handle: str = ""
    ) -> None:
        self.driver, self.address, self.slug, self.handle = driver, address, slug, handle

    def open(self, path: str | None = None) -> None:
        """Go to a page; to the study's own when none is named."""
        self.driver.get(self.address + (f"/study/{self.slug}" if path is None else path))

    def ask(self, path: str = "", **query: object) -> Any:
        """What the application says of the study; nothing where it has no answer yet."""
        with urllib.request.urlopen(
            f"{self.address}/api/studies/{self.slug}{path}?{urllib.parse.urlencode(query)}"
        ) as answer:
            return json.load(answer) if answer.status == 200 else None

    def tell(self, path: str, body: dict) -> Any:
        """Have the application do something with the study, beside this window."""
        headers = {"Content-Type": "application/json"}
        request = urllib.request.Request(
            f"{self.address}/api/studies/{self.slug}{path}", json.dumps(body).encode(), headers
        )
        with urllib.request.urlopen(request) as answer:
            return json.load(answer) if answer.status == 200 else None

    def get(self, path: str) -> Any:
        with urllib.request.urlopen(self.address + path) as answer:
            return json.load(answer)

    def job(self, number: int) -> dict:
        return self.get(f"/api/jobs/{number}")

    def sized(self, width: int, height: int) -> None:
        """Make the page so large."""
        self.driver.execute_cdp_cmd(
            "Emulation.setDeviceMetricsOverride",
            {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False},
        )

    def room(self) -> WebElement:
        """The model in three dimensions, once it is there."""
        self.wait(
            lambda: self.driver.execute_script("return !!document.querySelector('[role=application]')?.stage"),
            "no model",
            60,
        )
        return self.find("//main//*[@role='application' and .//canvas]")

    def study(self) -> dict:
        return self.ask()

    def view(self) -> dict:
        """The view on the desk."""
        return self.ask()["document"]["desk"]["view"]

    def parts(self) -> dict:
        return self.ask("/parts")

    def lay_out(self, name: str) -> None:
        """Lay a saved view on the desk."""
        self.find(f"//aside//li//button[@aria-pressed and contains(., '{name}')]").click()
        self.wait(lambda: self.view()["name"] == name, "the view does not open")

    def find(self, xpath: str, seconds: float = 15) -> WebElement:
        return WebDriverWait(self.driver, seconds, 0.1).until(
            lambda d: d.find_element(By.XPATH, xpath), f"nothing is at {xpath}"
        )

    def press(self, words: str, seconds: float = 15) -> None:
        """Press the button, tab or link that says these words."""
        same = f"normalize-space()='{words}' or @aria-label='{words}'"
        for _ in range(20):
            try:
                self.find(f"(//button|//a)[({same}) and not(@disabled)]", seconds).click()
                return
            except Exception as error:
                last = error
                time.sleep(0.2)
        raise last

    def bench(self, name: str) -> None:
        self.find(f"//button[@role='tab' and starts-with(normalize-space(), '{name}')]").click()

    def trace(self, name: str) -> None:
        """Choose a trace on the shelf."""
        self.find(f"//section[@aria-label='Trace shelf']//button[starts-with(@aria-label, '{name},')]").click()

    def take(self, group: str, item: str) -> None:
        """Take something from the stock into the hand."""
        self.find(f"//section[@aria-label='Stock']//button[@role='radio' and normalize-space()='{group}']").click()
        self.press(f"{item} from stock")

    def steadily(self, act: Callable[[], None]) -> None:
        """Do something to a control, once more where the page was drawn anew between finding and touching it."""
        for _ in range(20):
            try:
                return act()
            except StaleElementReferenceException as error:
                last = error
                time.sleep(0.2)
        raise last

    def type_into(self, label: str, words: str) -> None:
        """Type into the field with this label and press Enter."""

        def typed() -> None:
            identity = self.find(f"//label[normalize-space()='{label}']").get_attribute("for")
            field = self.driver.find_element(By.ID, identity or "")
            field.send_keys(Keys.CONTROL, "a")
            field.send_keys(words, Keys.ENTER)

        self.steadily(typed)

    def choose(self, label: str, value: str) -> None:
        """Choose a value from the list with this label."""

        def chosen() -> None:
            identity = self.find(f"//span[normalize-space()='{label}' and @id]").get_attribute("id")
            self.find(f"//button[@role='combobox' and @aria-labelledby='{identity}']").click()
            option = self.find(f"//*[@role='option' and normalize-space()='{value}']")
            self.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", option)  # of a long list
            option.click()

        self.steadily(chosen)

    def picture(self, seconds: float = 120) -> Picture:
        """The drawing on the desk, once it shows the study as it is now."""

        def settled(d: webdriver.Chrome) -> str | bool:
            # The page is asked first, and drawn last: a look at the whole study, twenty times a second, is work that
            # others wait for.
            revision = d.execute_script(
                """const sheet = document.querySelector('main [aria-busy=false][data-revision]');
                return sheet?.querySelector('img') && !document.querySelector('main [role=status]') ? sheet.dataset.revision : null;"""
            )
            if revision is None or int(revision) != self.study()["revision"]:
                return False
            return d.execute_script(
                """const image = document.querySelector('main [aria-busy=false][data-revision="' + arguments[0] + '"] img');
                if (!image) return false;
                const canvas = Object.assign(document.createElement('canvas'), {width: 120, height: 85});
                const pen = canvas.getContext('2d'); pen.drawImage(image, 0, 0, 120, 85);
                // As text: a list would be looked through number by number on its way.
                return btoa(String.fromCharCode(...pen.getImageData(0, 0, 120, 85).data.filter((_, i) => i % 4 < 3)));""",
                revision,
            )

        return Picture(
            b64decode(WebDriverWait(self.driver, seconds, 0.1).until(settled, "the drawing does not settle"))
        )

    def changed(self, before: Picture, seconds: float = 120) -> str:
        """The drawing once it is settled and no longer the one before."""
        self.wait(lambda: self.picture(seconds) != before, "the drawing did not change", seconds)
        return self.picture()

    def shows(self, picture: Picture, seconds: float = 120) -> bool:
        """Wait until the drawing is this one again."""
        return self.wait(lambda: self.picture(seconds) == picture, "the drawing did not come back", seconds)

    def wait(self, test, what: str, seconds: float = 20):  # type: ignore[no-untyped-def]
        """Wait until a question about page or study is answered by yes.

        A study between two edits may not have the entry yet that the question goes through; that is "not yet" too.
        """
        not_there_yet = (TypeError, KeyError, IndexError)
        return WebDriverWait(self.driver, seconds, 0.1, ignored_exceptions=not_there_yet).until(lambda _: test(), what)

    def click_drawing(self, x: float, y: float) -> None:
        """Click the drawing at shares of its width and height."""
        image = self.find("//main//img[starts-with(@alt, 'The drawing')]")
        place = round((x - 0.5) * image.size["width"]), round((y - 0.5) * image.size["height"])
        ActionChains(self.driver).move_to_element_with_offset(image, *place).click().perform()

    def drag(self, element: WebElement, start: tuple[int, int], end: tuple[int, int]) -> None:
        """Drag within an element, from and to offsets from its middle."""
        steps = ActionChains(self.driver, duration=40).move_to_element_with_offset(element, *start).click_and_hold()
        for i in range(1, 6):
            at = [round(a + (b - a) * i / 5) for a, b in zip(start, end)]
            steps.move_to_element_with_offset(element, *at)
        steps.release().perform()

    def pull(self, element: WebElement, across: int, down: int) -> None:
        """Drag a handle by so many pixels, wherever it goes meanwhile."""
        steps = ActionChains(self.driver, duration=40).move_to_element(element).click_and_hold()
        for k in range(5):
            steps.move_by_offset(*(round(v * (k + 1) / 5) - round(v * k / 5) for v in (across, down)))
        steps.release().perform()

    def serious_findings(self) -> list[str]:
        """What axe-core calls serious or critical on the page as it is."""
        self.driver.execute_script(AXE.read_text())
        found = self.driver.execute_async_script(
            "const done = arguments[arguments.length - 1]; axe.run(document, {resultTypes: ['violations']}).then(r => "
            "done(r.violations))"
        )
        return [
            f"{v['id']}: {v['nodes'][0]['html'][:160]} ({v['nodes'][0]['failureSummary'][:200]})"
            for v in found
            if v["impact"] in ("serious", "critical")
        ]

    def faults(self) -> list[str]:
        """Errors that the page wrote to the browser's console."""
        return [e["message"] for e in self.driver.get_log("browser") if e["level"] == "SEVERE"]
