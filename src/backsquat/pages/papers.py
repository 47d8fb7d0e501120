"""Pages for paper handed out: as PDF, or as one file that works without anything else."""

from pathlib import Path

from flask import Response, current_app, make_response

from backsquat.formats.pdf import DRAWINGS, STYLES, Paper, as_pdf


def sent_pdf(page: str, paper: Paper, name: str) -> Response:
    """The page as PDF to keep."""
    return sent(as_pdf(page, paper, _static()), f"{name}.pdf", "application/pdf")


def sent_file(page: str, name: str) -> Response:
    """The page with its styles in it, to keep."""
    return sent(in_one_file(page), f"{name}.html", "text/html; charset=utf-8")


def in_one_file(page: str) -> str:
    """The page with its styles in it: it needs nothing else."""
    style = "".join((_static() / name).read_text("utf-8") for name in (STYLES, DRAWINGS))
    return page.replace("</head>", f"<style>{style}</style></head>", 1)


def sent(content: str | bytes, name: str, kind: str) -> Response:
    """Something to keep under a name."""
    answer = make_response(content)
    answer.headers["Content-Type"] = kind
    answer.headers["Content-Disposition"] = f"attachment; filename={name}"
    return answer


def _static() -> Path:
    return Path(str(current_app.static_folder))
