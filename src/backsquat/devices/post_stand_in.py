"""A stand-in for a post service: takes messages by HTTP on this machine, delivers nothing, and shows what came."""

import json
import sys
import threading
from html import escape
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

from backsquat.devices.post import MOST_BYTES, Letter

PAGE = """<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Post, stand-in</title></head><body>
<h1>What was sent</h1><p>A stand-in: nobody got any of this. Newest first; forgotten when it is stopped.</p>
<table border="1" cellpadding="6"><thead><tr><th>to</th><th>subject</th><th>text</th><th>with it</th></tr></thead>
<tbody>{rows}</tbody></table></body></html>"""


class PostOffice(ThreadingHTTPServer):
    """Listens on 127.0.0.1; `taken` is what came, by key, and `refusing` how many it still sends away."""

    daemon_threads = True

    def __init__(self, port: int = 0) -> None:
        super().__init__(("127.0.0.1", port), _Counter)
        self.port = int(self.server_address[1])
        self.taken: dict[str, Letter] = {}
        self.asked = 0
        self.refusing = 0
        self.lock = threading.Lock()

    def start(self) -> None:
        threading.Thread(target=self.serve_forever, daemon=True).start()


class _Counter(BaseHTTPRequestHandler):
    server: PostOffice
    timeout = 20

    def do_PUT(self) -> None:
        where, _, key = self.path.rpartition("/")
        length = self.headers.get("Content-Length", "")
        if where != "/messages" or not key or not length.isdecimal() or int(length) > MOST_BYTES:
            return self._say(400, "no message")
        raw = self.rfile.read(int(length))
        try:
            letter = Letter(**{name: str(value) for name, value in json.loads(raw).items()})
        except (ValueError, TypeError, AttributeError):
            return self._say(400, "no message")
        with self.server.lock:
            self.server.asked += 1
            if self.server.refusing:
                self.server.refusing -= 1
                return self._say(503, "not now")
            new = key not in self.server.taken
            self.server.taken.setdefault(key, letter)
        return self._say(201 if new else 200, "taken")

    def do_GET(self) -> None:
        taken, (_, _, key) = self.server.taken, self.path.rpartition("/")
        if self.path == "/":
            rows = "".join(_row(key, letter) for key, letter in reversed(taken.items()))
            return self._say(200, PAGE.format(rows=rows), "text/html; charset=utf-8")
        if key in taken and taken[key].file:
            return self._say(200, taken[key].file, "text/html; charset=utf-8")
        return self._say(404, "nothing here")

    def _say(self, status: int, text: str, kind: str = "text/plain; charset=utf-8") -> None:
        body = text.encode()
        self.send_response(status)
        self.send_header("Content-Type", kind)
        self.send_header("Content-Length", str(len(body)))
        self.send_header("Content-Security-Policy", "sandbox; default-src 'none'; style-src 'unsafe-inline'")
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, format: str, *args: object) -> None:
        """Says nothing: what it was sent is on its page."""


def _row(key: str, letter: Letter) -> str:
    file = f'<a href="/messages/{escape(key)}">{escape(letter.file_name)}</a>' if letter.file else ""
    said = "".join(f"<td>{escape(text)}</td>" for text in (letter.address, letter.subject, letter.text))
    return f"<tr>{said}<td>{file}</td></tr>"


def main() -> None:
    """Be one until stopped."""
    office = PostOffice(int(sys.argv[1]))
    print(f"post on 127.0.0.1:{office.port}", flush=True)
    office.serve_forever()


if __name__ == "__main__":
    main()
