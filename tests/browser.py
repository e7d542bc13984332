"""A real browser without a window, driven through its pipe: for pages that are handed out."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

CHROMIUM = shutil.which("chromium") or shutil.which("chromium-browser")
_PATIENCE = 40.0  # seconds


class Browser:
    """One tab, offline. `messages` are those of its console, and faults of scripts; `asked` what it tried to fetch."""

    def __init__(self, to: int, back: int) -> None:
        self._to, self._back, self._number, self._rest = to, back, 0, b""
        self.messages: list[str] = []
        self.asked: list[str] = []
        target = self._send("Target.createTarget", {"url": "about:blank"}, None)["targetId"]
        self._session = self._send("Target.attachToTarget", {"targetId": target, "flatten": True}, None)["sessionId"]
        for each in ("Page", "Runtime", "Network", "Log"):
            self.call(f"{each}.enable")
        offline = {"offline": True, "latency": 0, "downloadThroughput": 0, "uploadThroughput": 0}
        self.call("Network.emulateNetworkConditions", **offline)

    def call(self, method: str, **values: Any) -> dict[str, Any]:
        return self._send(method, values, self._session)

    def run(self, script: str) -> Any:
        """What an expression comes to; a promise is waited for."""
        found = self.call("Runtime.evaluate", expression=script, awaitPromise=True, returnByValue=True)
        assert "exceptionDetails" not in found, found
        return found["result"].get("value")

    def open(self, page: Path, after: str = "") -> None:
        self.call("Page.navigate", url=page.as_uri() + after)
        self.wait("document.readyState === 'complete' && !!document.body.dataset.state")

    def wait(self, script: str) -> None:
        end = time.monotonic() + _PATIENCE
        while not self.run(script):
            assert time.monotonic() < end, script
            time.sleep(0.03)

    def click(self, selector: str) -> None:
        """A click of the mouse in the middle of an element."""
        at = self.run(
            f"(() => {{ const e = document.querySelector({json.dumps(selector)}); e.scrollIntoView({{block: 'center'}});"
            "const r = e.getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2] })()"
        )
        for kind in ("mouseMoved", "mousePressed", "mouseReleased"):
            button = {} if kind == "mouseMoved" else {"button": "left", "clickCount": 1}
            self.call("Input.dispatchMouseEvent", type=kind, x=at[0], y=at[1], **button)

    def key(self, name: str, code: int) -> None:
        for kind in ("rawKeyDown", "keyUp"):
            self.call("Input.dispatchKeyEvent", type=kind, key=name, code=name, windowsVirtualKeyCode=code)

    def _send(self, method: str, values: dict[str, Any], session: str | None) -> dict[str, Any]:
        self._number += 1
        sent = {"id": self._number, "method": method, "params": values} | ({"sessionId": session} if session else {})
        os.write(self._to, json.dumps(sent).encode() + b"\0")
        while True:
            came = self._receive()
            if came.get("id") == self._number:
                assert "error" not in came, came
                return came["result"]  # type: ignore[no-any-return]
            self._note(came)

    def _note(self, came: dict[str, Any]) -> None:
        values = came.get("params", {})
        match came.get("method"):
            case "Runtime.consoleAPICalled" | "Runtime.exceptionThrown" | "Log.entryAdded":
                self.messages.append(json.dumps(values))
            case "Network.requestWillBeSent":
                self.asked.append(values["request"]["url"])

    def _receive(self) -> dict[str, Any]:
        while b"\0" not in self._rest:
            part = os.read(self._back, 1 << 20)
            assert part, "the browser has gone"
            self._rest += part
        one, _, self._rest = self._rest.partition(b"\0")
        return json.loads(one)  # type: ignore[no-any-return]


@contextmanager
def browser(folder: Path) -> Iterator[Browser]:
    """A browser of its own, with its files in `folder`."""
    assert CHROMIUM is not None
    theirs, to = os.pipe()
    back, ours = os.pipe()
    line = (
        f'exec "{CHROMIUM}" --headless --no-sandbox --disable-gpu --disable-dev-shm-usage --no-first-run '
        f'--remote-debugging-pipe --user-data-dir="{folder / "profile"}" about:blank 3<&{theirs} 4>&{ours} 2>/dev/null'
    )
    running = subprocess.Popen(["bash", "-c", line], pass_fds=(theirs, ours))
    os.close(theirs)
    os.close(ours)
    try:
        yield Browser(to, back)
    finally:
        running.kill()
        running.wait()
        os.close(to)
        os.close(back)
