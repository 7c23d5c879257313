"""What is lost when the server is killed, and when its disk is full.

``python -m benchmarks.faults [kills]``. Prints the seconds of a trace that were received and not yet on disk when the
server was killed, over so many kills; and, where a small file system may be mounted, whether a pull over a full disk
came through whole.
"""

from __future__ import annotations

import random
import subprocess
import sys
import tempfile
from itertools import pairwise
from pathlib import Path

from tests.e2e.server import Rig
from tests.protects.killing import Workshop
from tests.rig.harness import wait_for


def killed(times: int) -> None:
    """Kill a server so often in the middle of a pull; print what was lost of the traces."""
    with tempfile.TemporaryDirectory() as folder:
        shop = Workshop(Path(folder), Rig(pump=1.0))
        try:
            kills = [shop.kill_in_a_pull(random.Random(n)) for n in range(times)]
        finally:
            shop.close()
    lost = sorted(max(0.0, k.received_s - k.stored_s) for k in kills)
    twice = sum(k.readings != 1 for k in kills)
    print(f"{times} kills: lost of a trace at most {lost[-1]:.3f} s, in the middle {lost[len(lost) // 2]:.3f} s; "
          f"readings lost or doubled: {twice}; reader alive afterwards: {sum(k.alive for k in kills)}")  # fmt: skip


def full() -> None:
    """A pull while a small file system is full, which is then freed."""
    with tempfile.TemporaryDirectory() as folder:
        if subprocess.run(["mount", "-t", "tmpfs", "-o", "size=24m", "tmpfs", folder], check=False).returncode:
            print("a small file system cannot be mounted here: not tried")
            return
        try:
            _over_a_full_disk(Path(folder))
        finally:
            subprocess.run(["umount", "-l", folder], check=False)


def _over_a_full_disk(folder: Path) -> None:
    shop = Workshop(folder, Rig(pump=1.0))
    try:
        wait_for(lambda: len(shop.live()["points"]) > 70, "the rig")
        code = shop.left.pop()
        body = {"code": code, "confirmed": ["early"]}
        number = shop.call("POST", f"/batches/{shop.batch}/pulls", body)["id"]
        ballast = folder / "ballast"
        with ballast.open("wb", buffering=0) as out:
            try:
                while True:
                    out.write(bytes(4096))
            except OSError:
                pass
        shop.call("POST", f"/batches/{shop.batch}/hand", {"do": "pull", "code": code, "seconds": 1.0})
        wait_for(lambda: shop.live()["pull"]["broke"], "the break on a full disk")
        said = wait_for(lambda: (m := shop.live()["message"]) and "full" in m and m, "it is said")
        ballast.unlink()
        wait_for(lambda: shop.live()["pull"]["state"] == "ended", "the end, once there is room")
        points = shop.call("GET", f"/pulls/{number}")["points"]
        hole = max(b[0] - a[0] for a, b in pairwise(points))
        print(f"full disk: said “{said}”; afterwards {len(points)} points, longest step {hole:.3f} s")
    finally:
        shop.close()


if __name__ == "__main__":
    killed(int(sys.argv[1]) if len(sys.argv) > 1 else 50)
    full()
