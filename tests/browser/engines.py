"""The other engines people hold in their hands: WebKit through its driver, Firefox by the protocol it listens to itself."""

import itertools
import json
import os
import re
import shutil
import subprocess
import tempfile
import time
from contextlib import suppress
from pathlib import Path
from typing import Any

import websocket
from selenium import webdriver
from selenium.common.exceptions import WebDriverException
from selenium.webdriver.webkitgtk.options import Options
from selenium.webdriver.webkitgtk.service import Service

WEBKIT = next(iter(Path("/usr/lib").glob("*/webkit2gtk-4.*/MiniBrowser")), None)
WATCH = """if (!window.wrong) { window.wrong = [];
  addEventListener("error", (e) => wrong.push(String(e.message)));
  addEventListener("unhandledrejection", (e) => wrong.push("rejected: " + String(e.reason)));
  document.addEventListener("securitypolicyviolation", (e) => wrong.push("policy: " + e.violatedDirective + " " + e.blockedURI)); }"""


class Engine:
    """A browser with one page: goes somewhere, runs a script there, tells what went wrong."""

    def go(self, address: str) -> None:
        self.visit(address)
        self.run(WATCH)

    def visit(self, address: str) -> None:
        raise NotImplementedError

    def run(self, script: str) -> Any:
        """The value of an expression in the page, or of a script that returns."""
        raise NotImplementedError

    def until(self, expression: str, seconds: float = 30) -> Any:
        """Wait until an expression holds in the page."""
        end, value = time.monotonic() + seconds, None
        while time.monotonic() < end:
            with suppress(WebDriverException, RuntimeError):
                if value := self.run(f"return Boolean({expression})"):
                    return value
            time.sleep(0.2)
        raise AssertionError(f"{expression} never held; {self.run('return document.body.innerText.slice(0, 600)')}")

    def tap(self, selector: str, words: str = "") -> None:
        """Tap what is there: the first that holds the words."""
        found = f"[...document.querySelectorAll({json.dumps(selector)})].find((one) => one.textContent.includes({json.dumps(words)}))"
        self.until(found)
        self.run(f"{found}.click()")

    def wrong(self) -> list[str]:
        """What failed in the page since it was opened."""
        return list(self.run("return window.wrong || []"))

    def close(self) -> None:
        raise NotImplementedError


class WebKit(Engine):
    """GTK's WebKit, the engine of every iPhone and iPad, on a screen of its own."""

    def __init__(self) -> None:
        self.screen = subprocess.Popen(
            ["Xvfb", "-displayfd", "1", "-screen", "0", "1280x1024x24"],
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
        )
        assert self.screen.stdout
        display = f":{self.screen.stdout.readline().decode().strip()}"
        unboxed = {"WEBKIT_DISABLE_SANDBOX_THIS_IS_DANGEROUS": "1", "WEBKIT_DISABLE_COMPOSITING_MODE": "1"}
        options = Options()
        options.binary_location = str(WEBKIT)
        options.add_argument("--automation")
        service = Service(shutil.which("WebKitWebDriver"), env={**os.environ, **unboxed, "DISPLAY": display})
        self.driver = webdriver.WebKitGTK(options=options, service=service)

    def visit(self, address: str) -> None:
        self.driver.get(address)

    def run(self, script: str) -> Any:
        return self.driver.execute_script(script)

    def close(self) -> None:
        with suppress(WebDriverException):
            self.driver.quit()
        self.screen.kill()


class Firefox(Engine):
    """Debian's Firefox, spoken to in WebDriver BiDi without a driver between."""

    def __init__(self) -> None:
        self.profile = tempfile.mkdtemp(prefix="backsquat-firefox-")
        command = [
            "firefox-esr",
            "--headless",
            "--no-remote",
            "--profile",
            self.profile,
            "--remote-debugging-port",
            "0",
        ]
        self.process = subprocess.Popen(command, stderr=subprocess.PIPE, text=True)
        assert self.process.stderr
        line = next(line for line in self.process.stderr if "WebDriver BiDi listening on" in line)
        found = re.search(r"ws://\S+", line)
        assert found
        self.socket = websocket.create_connection(f"{found.group()}/session", timeout=60, suppress_origin=True)
        self.numbers = itertools.count(1)
        self.said("session.new", {"capabilities": {}})
        self.page = self.said("browsingContext.getTree", {})["contexts"][0]["context"]

    def said(self, method: str, about: dict[str, Any]) -> Any:
        number = next(self.numbers)
        self.socket.send(json.dumps({"id": number, "method": method, "params": about}))
        while True:
            answer = json.loads(self.socket.recv())
            if answer.get("id") == number:
                if answer["type"] == "error":
                    raise RuntimeError(f"{answer['error']}: {answer['message']}")
                return answer["result"]

    def visit(self, address: str) -> None:
        with suppress(RuntimeError):  # a page that is not there is the service worker's to show
            self.said("browsingContext.navigate", {"context": self.page, "url": address, "wait": "complete"})

    def run(self, script: str) -> Any:
        about = {"functionDeclaration": f"() => {{ {script} }}", "awaitPromise": True, "target": {"context": self.page}}
        found = self.said("script.callFunction", about)
        if found["type"] == "exception":
            raise RuntimeError(found["exceptionDetails"]["text"])
        return _plain(found["result"])

    def close(self) -> None:
        self.socket.close()
        self.process.kill()
        self.process.wait()
        shutil.rmtree(self.profile, ignore_errors=True)


def _plain(value: dict[str, Any]) -> Any:
    if value["type"] == "array":
        return [_plain(one) for one in value.get("value", [])]
    return value.get("value")


ENGINES: dict[str, type[Engine]] = {"webkit": WebKit, "firefox": Firefox}
