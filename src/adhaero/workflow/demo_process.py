"""The demo workshop beside one's own: a program of its own, which ends with this one."""

from __future__ import annotations

import re
import subprocess
import sys
import threading
from collections import deque
from dataclasses import dataclass, field

from adhaero.core.refusal import refuse

_ADDRESS = re.compile(r"Open (http://127\.0\.0\.1:\S+)")


@dataclass
class Beside:
    """The demo that was started, if any."""

    process: subprocess.Popen[str] | None = None
    address: str = ""
    lock: threading.Lock = field(default_factory=threading.Lock)

    def start(self) -> str:
        """Its address; started when it does not run. ``Refusal`` where it ends at once."""
        with self.lock:
            if self.process is not None and self.process.poll() is None:
                return self.address
            command = [sys.executable, "-m", "adhaero", "demo", "--no-browser", "--with-parent", "--port", "8237"]
            self.process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)
            assert self.process.stdout is not None
            told = []
            for line in self.process.stdout:
                found = _ADDRESS.search(line)
                if found:
                    self.address = found[1]
                    # What it says later is read and let go, so that it never waits for a reader.
                    threading.Thread(target=deque, args=(self.process.stdout, 0), daemon=True).start()
                    return self.address
                told.append(line.strip())
            said = " ".join(t for t in told if t)[-200:]
            raise refuse("demo", f"did not start ({said or 'it ended at once'})", "Start it with: adhaero demo.")

    def end(self) -> None:
        """End it, if it runs."""
        with self.lock:
            if self.process is not None and self.process.poll() is None:
                self.process.terminate()
                self.process.wait(10)
            self.process = None


DEMO = Beside()
