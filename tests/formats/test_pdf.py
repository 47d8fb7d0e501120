"""A page made into PDF reads the shipped fonts, and nothing else whatever it asks for."""

from pathlib import Path
from typing import Any
from urllib import request

import pytest

import backsquat
from backsquat.formats.pdf import Paper, laid_out

STATIC = Path(backsquat.__file__).parent / "ui/static"


def test_nothing_is_read_but_the_fonts(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    secret = tmp_path / "secret.svg"
    secret.write_text('<svg xmlns="http://www.w3.org/2000/svg"/>')
    opened: list[str] = []
    real = request.OpenerDirector.open

    def spy(self: Any, asked: Any, *rest: Any, **more: Any) -> Any:
        opened.append(asked.full_url if isinstance(asked, request.Request) else asked)
        return real(self, asked, *rest, **more)

    monkeypatch.setattr(request.OpenerDirector, "open", spy)
    asks = (secret.as_uri(), "http://127.0.0.1:9/x.png", f"file://{STATIC}/mark.svg", "file:///etc/hostname")
    pictures = "".join(f'<img src="{one}"><p style="background:url({one})">x</p>' for one in asks)
    sheet = f'<link rel="stylesheet" href="{secret.as_uri()}"><style>@import url({asks[1]});</style>'
    made = laid_out(f"<html><head>{sheet}</head><body>{pictures}<b>Text</b></body></html>", Paper.A5, STATIC)
    assert made.startswith(b"%PDF")
    assert opened and all("backsquat-fonts-" in address for address in opened), opened
