"""Serves one page to this machine's own browser, made again when its sources change."""

from __future__ import annotations

import contextlib
import html
import secrets
import socket
import threading
from collections.abc import Callable
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any

from kivel.core.errors import KivelError, UsageError, option

__all__ = ["PageServer"]

_FAILED = (
    '<!doctype html><meta charset="utf-8"><meta http-equiv="refresh" content="1"><title>Kivel</title>'
    '<body style="font: 16px system-ui; margin: 3em; background: #16181d; color: #e6e8ec"><p>{}</p>'
)


_PATIENCE_S = 10
_MOST_OPEN = 100


class _Server(ThreadingHTTPServer):
    """Where more are connected than anybody needs, the one that has been so for the longest time is let go."""

    daemon_threads = True
    request_queue_size = 128

    def __init__(self, address: tuple[str, int], handler: type[BaseHTTPRequestHandler]) -> None:
        self._open: dict[socket.socket, None] = {}
        self._lock = threading.Lock()
        super().__init__(address, handler)

    def process_request(self, request: Any, client_address: Any) -> None:
        with self._lock:
            self._open[request] = None
            if len(self._open) > _MOST_OPEN:
                oldest = next(iter(self._open))
                del self._open[oldest]
                with contextlib.suppress(OSError):
                    oldest.shutdown(socket.SHUT_RDWR)
        super().process_request(request, client_address)

    def shutdown_request(self, request: Any) -> None:
        with self._lock:
            self._open.pop(request, None)
        super().shutdown_request(request)

    def handle_error(self, request: Any, client_address: Any) -> None:
        """A browser that leaves is no error; what else goes wrong is shown in the page's place."""


class PageServer:
    """At 127.0.0.1 alone, under a path that nobody can guess; every other path is unknown.

    Parameters
    ----------
    port : int
        0 for any that is free.
    page, stamp : callable
        Give the page, and a text that changes when it would be another; what they raise is shown in its place.
    """

    def __init__(self, port: int, page: Callable[[], str], stamp: Callable[[], str]) -> None:
        self._page, self._stamp = page, stamp
        self._path = f"/{secrets.token_urlsafe(16)}/"
        try:
            self._server = _Server(("127.0.0.1", port), self._handler())
        except OSError as error:
            raise UsageError(f"{option('port', port)} is taken or not allowed; choose another, or remove it") from error

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self._server.server_address[1]}{self._path}"

    def run(self) -> None:
        """Serve until somebody interrupts."""
        with self._server:
            self._server.serve_forever(poll_interval=0.2)

    def stop(self) -> None:
        self._server.shutdown()

    def _handler(self) -> type[BaseHTTPRequestHandler]:
        server = self

        class Handler(BaseHTTPRequestHandler):
            """Knows two paths, and answers those who came by the address that was printed."""

            timeout = _PATIENCE_S

            def do_GET(self) -> None:
                host = self.headers.get("Host", "").partition(":")[0]
                texts = {server._path: server._page, f"{server._path}stamp": server._stamp}
                if host not in ("127.0.0.1", "localhost") or self.path not in texts:
                    self.send_error(404)
                    return
                try:
                    status, text = 200, texts[self.path]()
                except KivelError as error:
                    status, text = 500, _FAILED.format(html.escape(str(error)))
                except Exception as error:
                    bug = f"a bug in Kivel, please report it: {type(error).__name__}: {error}"
                    status, text = 500, _FAILED.format(html.escape(bug))
                self._send(status, text)

            def _send(self, status: int, text: str) -> None:
                data = text.encode()
                self.send_response(status)
                self.send_header("Content-Type", "text/html; charset=utf-8")
                self.send_header("Content-Length", str(len(data)))
                self.send_header("Cache-Control", "no-store")
                self.send_header("X-Content-Type-Options", "nosniff")
                self.end_headers()
                self.wfile.write(data)

            def log_message(self, *_: object) -> None:
                """Nobody wants to read each request."""

        return Handler
