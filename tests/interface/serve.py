"""The application as it is started for a user, on a free port with a data folder of its own, and a browser to drive it."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from selenium import webdriver
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service

__all__ = ["application", "browser"]

ROOT = Path(__file__).resolve().parents[2]


def _free_port() -> int:
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        return found.getsockname()[1]


@contextmanager
def application(data: Path) -> Iterator[str]:
    """Prepare, start server and worker, wait until both are ready; yields the address."""
    environment = {**os.environ, "WARMGRAPHITE_DATA": str(data), "DJANGO_SETTINGS_MODULE": "studio.settings"}
    subprocess.run([sys.executable, "-m", "studio.prepare"], cwd=ROOT, env=environment, check=True)
    port = _free_port()
    server = ["-m", "studio.serve", f"127.0.0.1:{port}"]
    processes = [subprocess.Popen([sys.executable, *a], cwd=ROOT, env=environment) for a in (["-m", "studio.worker"], server)]
    address = f"http://127.0.0.1:{port}"
    try:
        for _ in range(600):
            try:
                with urllib.request.urlopen(f"{address}/api/ready", timeout=2) as answer:
                    if b"true" in answer.read():
                        break
            except OSError:
                pass
            time.sleep(0.1)
        else:
            raise RuntimeError("the application did not become ready")
        yield address
    finally:
        for process in processes:
            process.terminate()
        for process in processes:
            process.wait(20)


@contextmanager
def browser(downloads: Path | None = None, size: tuple[int, int] = (1280, 800)) -> Iterator[webdriver.Chrome]:
    """Headless Chromium whose page is ``size`` pixels."""
    options = Options()
    with tempfile.TemporaryDirectory(prefix="chromium-") as profile:
        for flag in (
            "--headless",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--disable-dev-shm-usage",
            "--use-angle=swiftshader",
            "--enable-unsafe-swiftshader",
            f"--user-data-dir={profile}",
        ):
            options.add_argument(flag)
        options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
        if downloads:
            options.add_experimental_option("prefs", {"download.default_directory": str(downloads)})
        driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
        try:
            driver.set_window_size(*size)
            inner = driver.execute_script("return [innerWidth, innerHeight]")
            driver.set_window_size(2 * size[0] - inner[0], 2 * size[1] - inner[1])
            yield driver
        finally:
            driver.quit()
