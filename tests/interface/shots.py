"""Renew docs/screenshots from the demo data: each main view once, at 1280×800."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

from PIL import Image

from tests.interface.desk import Desk
from tests.interface.serve import ROOT, application, browser

__all__ = ["main"]

FOLDER = ROOT / "docs" / "screenshots"


def main() -> None:
    """Write every picture."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as data, application(Path(data)) as address, browser() as driver:
        desk = Desk(driver, address)

        def shot(name: str) -> None:
            driver.execute_script("document.activeElement?.blur()")
            time.sleep(1.2)
            driver.save_screenshot(str(FOLDER / f".{name}.png"))
            with Image.open(FOLDER / f".{name}.png") as picture:
                picture.convert("RGB").save(FOLDER / f"{name}.png", optimize=True)
            (FOLDER / f".{name}.png").unlink()
            print(name)

        desk.open()
        desk.picture()
        desk.wait(lambda: len(driver.find_elements("xpath", "//aside//li//img")) >= 6, "the views have no pictures", 120)
        shot("view")
        desk.press("Set up in the model")
        time.sleep(3)
        shot("view-in-the-model")
        desk.bench("Model")
        time.sleep(3)
        shot("model")
        desk.bench("Ink")
        desk.picture()
        shot("ink")
        desk.bench("Collage")
        shot("collage")
        desk.bench("View")
        desk.press("The drawing")
        for mark, name in (
            ("Cross section", "sheet"),
            ("From the pond", "plate-pond"),
            ("Cutaway", "plate-axonometric"),
            ("Plan", "plate-plan"),
            ("Street", "plate-street"),
        ):
            desk.bench("View")
            desk.find(f"//aside//li//button[contains(., '{mark}')]").click()
            desk.picture()
            desk.bench("Sheet")
            shot(name)
        desk.open("/")
        time.sleep(2)
        shot("studies")


if __name__ == "__main__":
    main()
