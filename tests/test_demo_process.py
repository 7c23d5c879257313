"""The demo workshop beside one's own: started once, and ended with the program that started it."""

from __future__ import annotations

import subprocess
import sys
import time
from typing import Any

import pytest

from adhaero.core.refusal import Refusal
from adhaero.workflow import demo_process
from adhaero.workflow.demo_process import Beside

REAL = subprocess.Popen


def stands_in(monkeypatch: pytest.MonkeyPatch, code: str) -> list[list[str]]:
    """A program of these lines in place of the demo; returns how it was asked for."""
    asked: list[list[str]] = []

    def started(command: list[str], **more: Any) -> Any:
        asked.append(command)
        return REAL([sys.executable, "-u", "-c", code], **more)

    monkeypatch.setattr(demo_process.subprocess, "Popen", started)
    return asked


TALKS = """
import time
print("loading")
print("  Open http://127.0.0.1:8237  (end with Ctrl+C)")
while True:
    print("x" * 2000)
    time.sleep(0.001)
"""


def test_it_is_started_once_and_never_waits_for_a_reader(monkeypatch: pytest.MonkeyPatch) -> None:
    asked = stands_in(monkeypatch, TALKS)
    demo = Beside()
    try:
        assert demo.start() == "http://127.0.0.1:8237"
        assert demo.start() == "http://127.0.0.1:8237"
        assert len(asked) == 1
        assert asked[0][1:4] == ["-m", "adhaero", "demo"]
        assert "--with-parent" in asked[0]
        process = demo.process
        assert process is not None
        time.sleep(0.5)
        assert process.poll() is None, "a full pipe holds nobody up"
    finally:
        demo.end()
    assert process.poll() is not None
    assert demo.process is None


def test_one_that_ended_is_started_again(monkeypatch: pytest.MonkeyPatch) -> None:
    asked = stands_in(monkeypatch, 'print("Open http://127.0.0.1:8238")')
    demo = Beside()
    demo.start()
    assert demo.process is not None
    demo.process.wait(10)
    demo.start()
    assert len(asked) == 2
    demo.end()


def test_why_it_did_not_start_is_said(monkeypatch: pytest.MonkeyPatch) -> None:
    stands_in(monkeypatch, 'print("No free port between 8237 and 8256")')
    with pytest.raises(Refusal, match="No free port between 8237 and 8256"):
        Beside().start()
    stands_in(monkeypatch, "")
    with pytest.raises(Refusal, match="it ended at once"):
        Beside().start()
