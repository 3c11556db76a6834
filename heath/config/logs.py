"""Logs: what is written, how, and what of it is sent to those who look after the server.

A line names the request by its number and the page by its name; an error by its type and where it
happened. Addresses, which may hold a link's secret, and an error's own words, which may hold a
name, are left out.
"""

from __future__ import annotations

import json
import logging
import threading
import time
import urllib.request
from contextvars import ContextVar
from pathlib import Path
from traceback import FrameSummary, extract_tb
from typing import Any

from pythonjsonlogger.json import JsonFormatter

REQUEST: ContextVar[str] = ContextVar("request", default="")
PAUSE = 600.0  # seconds until an error of the same kind is sent again
SEND_SECONDS = 5.0  # for the other side to take an error
ROOT = Path(__file__).resolve().parents[2]


def _place(frame: FrameSummary) -> str:
    path = Path(frame.filename)
    shown = path.relative_to(ROOT) if path.is_relative_to(ROOT) else path.name
    return f"{shown}:{frame.lineno} {frame.name}"


def described(record: logging.LogRecord) -> dict[str, Any]:
    """What may be said of a record: its request's number, page and status, or the error's type
    with the places it came through.
    """
    told: dict[str, Any] = {}
    if REQUEST.get():
        told["request"] = REQUEST.get()
    asked = getattr(record, "request", None)
    if asked is not None:
        match = getattr(asked, "resolver_match", None)
        told["route"] = match.view_name if match else "none"
        told["method"] = asked.method
    if getattr(record, "status_code", None):
        told["status"] = record.status_code  # type: ignore[attr-defined]
    if record.exc_info and record.exc_info[0]:
        told["error"] = record.exc_info[0].__name__
        told["places"] = [_place(f) for f in extract_tb(record.exc_info[2])]
    return told


def said(record: logging.LogRecord) -> str:
    """The record's words. Django's own hold the address: the page's name takes its place."""
    if getattr(record, "request", None) is not None or record.name.startswith("django.security"):
        return f"{record.levelname.lower()} of {record.name}"
    return record.getMessage()


class Lines(JsonFormatter):
    """A line of JSON for each record."""

    def format(self, record: logging.LogRecord) -> str:
        plain = logging.LogRecord(
            record.name, record.levelno, record.pathname, record.lineno, said(record), None, None
        )
        plain.created, plain.msecs = record.created, record.msecs
        plain.__dict__.update(getattr(record, "told", {}), **described(record))
        return super().format(plain)


class Plain(logging.Formatter):
    """A line to be read by a person."""

    def format(self, record: logging.LogRecord) -> str:
        told = getattr(record, "told", {}) | described(record)
        places = told.pop("places", [])
        words = " ".join(f"{name}={value}" for name, value in told.items())
        stamp = self.formatTime(record, "%Y-%m-%d %H:%M:%S")
        lines = [f"{stamp} {record.levelname} {said(record)} {words}".rstrip()]
        return "\n".join([*lines, *(f"  {place}" for place in places)])


class Errors(logging.Handler):
    """Errors, sent to an e-mail address or posted as JSON; one of a kind in ten minutes, and never
    by the process's own time: whoever waits for a page does not wait for this.
    """

    def __init__(self, to: str = "", url: str = "") -> None:
        super().__init__(logging.ERROR)
        self.to, self.url = to, url
        self._sent: dict[tuple, float] = {}

    def emit(self, record: logging.LogRecord) -> None:
        told = {
            "time": time.strftime("%Y-%m-%dT%H:%M:%SZ", time.gmtime(record.created)),
            "message": said(record),
            **described(record),
        }
        kind = (told.get("error"), tuple(told.get("places", [])[-1:]), told["message"])
        now = time.monotonic()
        if now - self._sent.get(kind, -PAUSE) < PAUSE:
            return
        self._sent[kind] = now
        threading.Thread(target=self._send, args=(told,), daemon=True).start()

    def _send(self, told: dict[str, Any]) -> None:
        try:
            if self.url:
                body = json.dumps(told).encode()
                asked = urllib.request.Request(  # noqa: S310  the address is the technician's own
                    self.url, body, {"Content-Type": "application/json"}
                )
                urllib.request.urlopen(asked, timeout=SEND_SECONDS).close()  # noqa: S310
            if self.to:
                from django.core.mail import send_mail

                lines = [f"{name}: {value}" for name, value in told.items() if name != "places"]
                text = "\n".join([*lines, *told.get("places", [])])
                send_mail(f"Juniper Heath: {told.get('error', 'error')}", text, None, [self.to])
        except OSError as error:
            # Said once, and not as an error: that would be sent again.
            logging.getLogger("heath").warning("an error could not be sent: %s", error)


def logging_for(form: str, errors_to: str = "", errors_url: str = "") -> dict[str, Any]:
    """Django's LOGGING: lines `plain` or as `json` on the standard error, errors sent on."""
    handlers: dict[str, Any] = {"console": {"class": "logging.StreamHandler", "formatter": form}}
    if errors_to or errors_url:
        handlers["errors"] = {"()": Errors, "to": errors_to, "url": errors_url}
    return {
        "version": 1,
        "disable_existing_loggers": False,
        "formatters": {
            "plain": {"()": Plain},
            "json": {
                "()": Lines,
                "fmt": "%(asctime)s %(levelname)s %(name)s %(message)s",
                "datefmt": "%Y-%m-%dT%H:%M:%S%z",
                "rename_fields": {"asctime": "time", "levelname": "level", "name": "logger"},
            },
        },
        "handlers": handlers,
        "loggers": {
            "weasyprint": {"level": "ERROR"},
            # Its words hold names and addresses of visitors; the attempts are in the database.
            "axes": {"level": "CRITICAL"},
            "heath": {"level": "INFO" if form == "json" else "WARNING"},
        },
        "root": {"handlers": list(handlers), "level": "WARNING"},
    }
