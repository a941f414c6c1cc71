"""The application as it is started for a user, and a browser to drive it.
It stands on a free port with a data folder of its own.
"""

from __future__ import annotations

import os
import signal
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

__all__ = ["Application", "application", "browser", "window"]

KEPT_BY_PAGES = "cookies,file_systems,indexeddb,local_storage,service_workers,cache_storage"
ROOT = Path(__file__).resolve().parents[2]


def _free_port() -> int:
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        return found.getsockname()[1]


class Application:
    """A running application: its address, and studies to be had of it."""

    def __init__(self, address: str, studies: subprocess.Popen[str], worker: int, environment: dict[str, str]) -> None:
        self.address, self._studies, self._worker, self.environment = address, studies, worker, environment
        self._count = 0

    def study(self, kind: str) -> str:
        """The slug of a new study: a “house”, a “street” or a “sample”."""
        assert self._studies.stdin and self._studies.stdout
        self._count += 1
        self._studies.stdin.write(f"{kind} {kind.capitalize()} {self._count}\n")
        self._studies.stdin.flush()
        return self._studies.stdout.readline().strip()

    @contextmanager
    def resting(self) -> Iterator[None]:
        """Meanwhile nothing is worked at: what is begun waits for its turn."""
        os.kill(self._worker, signal.SIGSTOP)
        try:
            yield
        finally:
            os.kill(self._worker, signal.SIGCONT)

    def worker(self) -> subprocess.Popen[bytes]:
        """Another worker beside the one that runs."""
        return subprocess.Popen([sys.executable, "-m", "studio.worker"], cwd=ROOT, env=self.environment)


@contextmanager
def application(data: Path) -> Iterator[Application]:
    """Prepare, start server and worker, wait until both are ready."""
    environment = {
        **os.environ,
        "WARMGRAPHITE_DATA": str(data),
        "DJANGO_SETTINGS_MODULE": "studio.settings",
        "WARMGRAPHITE_STUDIES": "studio.lookup:find",
        "PYTHONPATH": str(ROOT),
        "WARMGRAPHITE_PARENT": str(os.getpid()),
    }
    environment.pop("WARMGRAPHITE_CORES", None)  # as a person has it
    studies = subprocess.Popen(
        [sys.executable, "-m", "tests.interface.studies"], cwd=ROOT, env=environment, stdin=subprocess.PIPE,
        stdout=subprocess.PIPE, text=True
    )  # fmt: skip
    assert studies.stdout
    if studies.stdout.readline().strip() != "ready":
        raise RuntimeError("the sample study could not be laid out")
    port = _free_port()
    commands = (["-m", "studio.worker"], ["-m", "studio.serve", f"127.0.0.1:{port}"])
    processes = [subprocess.Popen([sys.executable, *a], cwd=ROOT, env=environment) for a in commands]
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
        yield Application(address, studies, processes[0].pid, environment)
    finally:
        for process in processes:
            process.terminate()
        for process in (*processes, studies):
            if process.stdin:
                process.stdin.close()
            process.wait(20)


@contextmanager
def browser(size: tuple[int, int] = (1280, 800)) -> Iterator[webdriver.Chrome]:
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
            "--force-prefers-reduced-motion",
            "--use-angle=swiftshader",
            "--enable-unsafe-swiftshader",
            f"--user-data-dir={profile}",
        ):
            options.add_argument(flag)
        options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
        driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
        try:
            driver.set_window_size(*size)
            inner = driver.execute_script("return [innerWidth, innerHeight]")
            driver.set_window_size(2 * size[0] - inner[0], 2 * size[1] - inner[1])
            yield driver
        finally:
            driver.quit()


@contextmanager
def window(driver: webdriver.Chrome, downloads: Path | None = None) -> Iterator[str]:
    """A new window that knows nothing of those before it; it is the one that is driven while it is open.
    Only the scripts that were fetched once are kept for it, with what the browser compiled of them.
    """
    if len(driver.window_handles) == 1:
        driver.execute_cdp_cmd("Storage.clearDataForOrigin", {"origin": "*", "storageTypes": KEPT_BY_PAGES})
    driver.switch_to.new_window("tab")
    handle = driver.current_window_handle
    driver.get_log("browser")  # what others left
    if downloads:
        driver.execute_cdp_cmd("Browser.setDownloadBehavior", {"behavior": "allow", "downloadPath": str(downloads)})
    try:
        yield handle
    finally:
        driver.switch_to.window(handle)
        driver.close()
        driver.switch_to.window(driver.window_handles[0])
