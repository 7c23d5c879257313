"""How the screens feel with 1,280 pieces: until a page is ready, and how evenly a table scrolls, in a real browser."""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from benchmarks.big_batch import PIECES, big_batch

READY = {
    "plan": "What differs",
    "cut": "Write on the halves",
    "glue": "Out of the clamp",
    "break": "to go",
    "compare": "Against",
}
_FLAGS = ["--no-sandbox", "--disable-gpu"]
_SCROLL = """() => new Promise(done => {
  const table = [...document.querySelectorAll('[role=table]')].at(-1), gaps = [];
  let last = performance.now(), top = 0;
  const step = now => {
    gaps.push(now - last); last = now;
    top += 120; table.scrollTop = top;
    gaps.length < 120 ? requestAnimationFrame(step) : done(gaps.slice(2));
  };
  requestAnimationFrame(step);
})"""


def _port() -> int:
    import socket

    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def _shown(page: Page, url: str, text: str) -> float:
    """Milliseconds from asking for the page to its content being there."""
    start = time.perf_counter()
    page.goto(url, wait_until="commit")
    page.wait_for_function("t => document.body && document.body.innerText.includes(t)", arg=text)
    return 1000 * (time.perf_counter() - start)


def screens(folder: Path) -> None:
    """Page-ready times of each stage, as multiples of the empty shop page, and frame times while scrolling."""
    _, batch = big_batch(folder)
    port = _port()
    command = [sys.executable, "-m", "adhaero", "serve", "--data", str(folder), "--port", str(port)]
    server = subprocess.Popen(command, stdout=subprocess.DEVNULL, env=dict(os.environ))
    base = f"http://127.0.0.1:{port}"
    try:
        while True:
            try:
                urllib.request.urlopen(f"{base}/api/today", timeout=2).close()
                break
            except OSError:
                time.sleep(0.1)
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(
                executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
            )
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            bare = statistics.median(_shown(page, f"{base}/shop", "Load rig") for _ in range(5))
            print(f"\nScreens of {PIECES} pieces in Chromium (shop page ready in {bare:.0f} ms)")
            for stage, text in READY.items():
                times = sorted(_shown(page, f"{base}/batch/{batch}/{stage}", text) for _ in range(8))
                middle = statistics.median(times)
                line = f"  {stage:10} ready {middle:6.0f} ms, worst {times[-1]:6.0f} ms, x {middle / bare:.1f}"
                if stage in ("cut", "glue", "break"):
                    gaps = sorted(page.evaluate(_SCROLL))
                    usual, slow = statistics.median(gaps), gaps[int(0.95 * len(gaps))]
                    line += f"; scrolling, frame median {usual:.0f} ms, 95 % under {slow:.0f} ms"
                print(line)
            browser.close()
    finally:
        server.terminate()
        server.wait(timeout=5)
