"""A page is served to this machine alone, by an address that nobody can guess, and says when it would be another."""

from __future__ import annotations

import http.client
import signal
import socket
import struct
import subprocess
from collections.abc import Iterator
from pathlib import Path
from urllib.parse import urlsplit

import pytest

from program import PROGRAM, art, in_process, write


@pytest.fixture
def served(tmp_path: Path) -> Iterator[tuple[subprocess.Popen[str], str]]:
    for number in range(3):
        write(tmp_path / f"owl/owl_{number}.png", art(number))
    words = [str(PROGRAM), "preview", "owl", "--serve"]
    running = subprocess.Popen(words, cwd=tmp_path, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    assert running.stdout is not None
    yield running, running.stdout.readline().split()[0]
    running.kill()
    running.communicate()


def answer(address: str, path: str = "", host: str | None = None) -> tuple[int, str]:
    parts = urlsplit(address)
    connection = http.client.HTTPConnection("127.0.0.1", parts.port, timeout=20)
    connection.request("GET", path or parts.path, headers={"Host": host or parts.netloc})
    got = connection.getresponse()
    return got.status, got.read().decode()


def test_the_page_is_served_and_made_anew_when_a_source_changes(
    tmp_path: Path, served: tuple[subprocess.Popen[str], str]
) -> None:
    running, address = served
    stamp = urlsplit(address).path + "stamp"
    status, page = answer(address)
    assert (status, "connect-src 'self'" in page, '"reload":"stamp"' in page) == (200, True, True)
    before = answer(address, stamp)
    assert before == answer(address, stamp)
    write(tmp_path / "owl/owl_3.png", art(9))
    assert answer(address, stamp) != before
    assert answer(address)[1].count('"name":"owl_') == page.count('"name":"owl_') + 1
    (tmp_path / "owl/owl_3.png").write_bytes(b"no picture")
    status, page = answer(address)
    assert (status, "owl_3.png" in page, "<script" in page) == (500, True, False)
    running.send_signal(signal.SIGINT)
    assert (running.wait(20), running.stderr.read() if running.stderr else "") == (0, "")


def test_nothing_else_is_served_and_nobody_else_is_answered(served: tuple[subprocess.Popen[str], str]) -> None:
    _, address = served
    own = urlsplit(address).path
    assert len(own) > 20
    for path in ("/", "/stamp", "/owl/owl_0.png", f"{own}../owl/owl_0.png", f"{own}owl_0.png", f"{own}?x"):
        assert answer(address, path)[0] == 404
    assert answer(address, host="evil.example")[0] == 404


def test_what_cannot_be_served_says_why(tmp_path: Path) -> None:
    write(tmp_path / "owl/owl_0.png", art(0))
    for words, told in (
        (["--serve", "-o", "x.html"], "writes no file"),
        (["--serve", "--view", "timing"], "writes no file"),
        (["--port", "8000", "-o", "x.png"], "--port needs --serve"),
    ):
        done = in_process(["preview", "owl", *words], tmp_path)
        assert (done.code, told in done.err) == (2, True), done.err
    assert "no such file" in in_process(["preview", "nowhere", "--serve"], tmp_path).err


@pytest.mark.slow
def test_browsers_that_leave_and_slow_ones_are_no_hindrance(served: tuple[subprocess.Popen[str], str]) -> None:
    running, address = served
    port = urlsplit(address).port
    slow = [socket.create_connection(("127.0.0.1", port)) for _ in range(250)]
    for connection in slow[::2]:
        connection.sendall(b"GET /")
    status, page = answer(address)
    assert (status, '"name":"owl_' in page) == (200, True)
    for connection in slow:
        connection.close()
    for _ in range(20):
        with socket.create_connection(("127.0.0.1", port)) as leaving:
            request = f"GET {urlsplit(address).path} HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n"
            leaving.setsockopt(socket.SOL_SOCKET, socket.SO_LINGER, struct.pack("ii", 1, 0))
            leaving.sendall(request.encode())
    assert answer(address)[0] == 200
    running.send_signal(signal.SIGINT)
    assert "Traceback" not in running.communicate()[1]
