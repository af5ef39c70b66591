"""The front: a slow or hostile client holds a socket of nginx and never the application; its words are the API's."""

import json
import os
import shutil
import socket
import ssl
import subprocess
import threading
import urllib.error
import urllib.request
from http.server import BaseHTTPRequestHandler
from pathlib import Path
from socketserver import ThreadingMixIn, UnixStreamServer

import pytest

from tests.browser.conftest import wait
from wolfsbane.server.core.config import SettingError, from_environment
from wolfsbane.server.run import front
from wolfsbane.server.run.postgres import free_port

pytestmark = pytest.mark.skipif(front.program() is None, reason="nginx is not installed; set-up installs it for root")


class Application(ThreadingMixIn, UnixStreamServer):
    """Something behind the front that tells what came; ``most`` is how many it ever served at once."""

    daemon_threads = True
    now = most = 0
    lock = threading.Lock()


class Answer(BaseHTTPRequestHandler):
    protocol_version = "HTTP/1.1"

    def address_string(self):
        return "front"

    def _answer(self):
        size = int(self.headers.get("Content-Length") or 0)
        with self.server.lock:
            self.server.now += 1
            self.server.most = max(self.server.most, self.server.now)
        got = len(self.rfile.read(size))
        with self.server.lock:
            self.server.now -= 1
        seen = {"path": self.path, "bytes": got, "for": self.headers.get("X-Forwarded-For")}
        data = json.dumps(seen | {"host": self.headers.get("Host"), "proto": self.headers.get("X-Forwarded-Proto")})
        self.send_response(200)
        self.send_header("Content-Length", str(len(data)))
        self.end_headers()
        self.wfile.write(data.encode())

    do_GET = do_POST = _answer  # noqa: N815

    def log_message(self, *_):
        pass


def begun(folder, port, settings=None, pages=None):
    config = from_environment({"WOLFSBANE_HOST": "127.0.0.1", **(settings or {})})
    command = front.written(config, port, folder / "app.sock", folder, pages or folder)
    with open(folder / "front.log", "wb") as log:
        process = subprocess.Popen(command, stderr=log)
    wait(lambda: answers(port) or process.poll() is not None)
    assert process.poll() is None, (folder / "front.log").read_text()
    return process


def answers(port):
    with socket.socket() as probe:
        return probe.connect_ex(("127.0.0.1", port)) == 0


@pytest.fixture
def folder(tmp_path_factory):
    made = Path(tmp_path_factory.mktemp("f"))
    yield made
    shutil.rmtree(made, ignore_errors=True)


@pytest.fixture
def application(folder):
    server = Application(str(folder / "app.sock"), Answer)
    os.chmod(folder / "app.sock", 0o777)
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    yield server
    server.shutdown()
    server.server_close()


@pytest.fixture
def port(folder, application):
    number = free_port()
    pages = folder / "pages"
    (pages / "assets").mkdir(parents=True)
    (pages / "assets" / "a-1.js").write_text("let a = 1\n" * 300)
    process = begun(folder, number, pages=pages)
    yield number
    process.terminate()
    process.wait(60)


def fetched(port, path="/", **more):
    request = urllib.request.Request(f"http://127.0.0.1:{port}{path}", **more)
    try:
        with urllib.request.urlopen(request, timeout=60) as reply:
            return reply.status, dict(reply.headers), reply.read()
    except urllib.error.HTTPError as error:
        return error.code, dict(error.headers), error.read()


def half(port, text):
    """A socket that sends the beginning of a request and waits."""
    made = socket.create_connection(("127.0.0.1", port), timeout=60)
    made.sendall(text.encode())
    return made


def test_a_request_goes_through_with_its_own_address_and_host(port):
    status, _, body = fetched(port, "/api/v1/x?y=1", headers={"X-Forwarded-For": "10.0.0.9", "Host": "school.example"})
    assert status == 200
    # what a client says of its own address is not believed
    seen = json.loads(body)
    assert (seen["path"], seen["for"], seen["host"], seen["proto"]) == (
        "/api/v1/x?y=1",
        "127.0.0.1",
        "school.example",
        "http",
    )


def test_sixty_unfinished_headers_hold_nothing_up_and_are_closed(port, application):
    stuck = [half(port, f"GET /{i} HTTP/1.1\r\nHost: x\r\nX-Slow: ") for i in range(60)]
    assert [fetched(port, f"/{i}")[0] for i in range(20)] == [200] * 20
    assert application.most == 1
    for one in stuck:
        one.close()


def test_unfinished_headers_are_closed_by_the_front(port):
    one = half(port, "GET / HTTP/1.1\r\nHost: x\r\nX-Slow: ")
    one.settimeout(10 * front.HEADER_S)
    try:
        got = one.recv(1000)
    except ConnectionResetError:
        got = b""
    assert got == b""


def test_slow_bodies_never_reach_the_application(port, application):
    stuck = [half(port, "POST /slow HTTP/1.1\r\nHost: x\r\nContent-Length: 100000\r\n\r\nabc") for _ in range(40)]
    assert fetched(port, "/quick", data=b"x" * 2_000_000, method="POST")[0] == 200
    assert application.most == 1
    for one in stuck:
        one.close()


def test_a_body_that_is_too_large_is_refused_in_the_apis_words(port):
    status, headers, body = fetched(
        port, "/x", data=b"", headers={"Content-Length": str((front.BODY_MB + 1) * 1_048_576)}, method="POST"
    )
    assert status == 413 and headers["Content-Type"] == "application/json"
    assert json.loads(body)["error"]["code"] == "too_large"


def test_an_application_that_is_away_is_told_as_such(port, application):
    application.shutdown()
    application.server_close()
    status, _, body = fetched(port)
    assert status == 503 and json.loads(body)["error"]["code"] == "starting"


def test_pages_are_sent_by_the_front_packed_and_kept(port):
    status, headers, body = fetched(port, "/assets/a-1.js", headers={"Accept-Encoding": "gzip"})
    assert status == 200 and headers["Content-Encoding"] == "gzip" and "immutable" in headers["Cache-Control"]
    assert len(body) < 300 and headers["X-Content-Type-Options"] == "nosniff"
    for path in ("/assets/../app.sock", "/assets/%2e%2e/front.log", "/assets/none.js"):
        status, _, body = fetched(port, path)
        assert status != 200 or json.loads(body)["path"], path


def test_with_a_certificate_it_speaks_tls_and_says_so(folder, application):
    number = free_port()
    key, certificate = folder / "key.pem", folder / "cert.pem"
    subprocess.run(
        ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-keyout", key, "-out", certificate, "-days", "1",
         "-subj", "/CN=localhost", "-addext", "subjectAltName=DNS:localhost,IP:127.0.0.1"],
        check=True, capture_output=True,
    )  # fmt: skip
    given = {"WOLFSBANE_TLS_CERTIFICATE": str(certificate), "WOLFSBANE_TLS_KEY": str(key)}
    process = begun(folder, number, given)
    try:
        context = ssl.create_default_context(cafile=str(certificate))
        with urllib.request.urlopen(f"https://127.0.0.1:{number}/", context=context, timeout=60) as reply:
            assert "max-age" in reply.headers["Strict-Transport-Security"] and json.load(reply)["proto"] == "https"
        old = ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT)
        old.check_hostname, old.verify_mode = False, ssl.CERT_NONE
        with pytest.warns(DeprecationWarning):
            old.maximum_version = ssl.TLSVersion.TLSv1_1
        with pytest.raises((OSError, ssl.SSLError)):
            urllib.request.urlopen(f"https://127.0.0.1:{number}/", context=old, timeout=60)
    finally:
        process.terminate()
        process.wait(60)


def test_half_a_pair_of_tls_files_is_refused():
    with pytest.raises(SettingError, match="together"):
        from_environment({"WOLFSBANE_TLS_CERTIFICATE": "x"})


@pytest.mark.parametrize("bad", ['/a"b', "/a;b", "/a{b", "/a\nb", "/a$b", "/a\\b"])
def test_a_path_that_would_change_the_configuration_is_refused(folder, bad):
    with pytest.raises(ValueError, match="cannot stand"):
        front.configuration(from_environment({}), 8040, Path(bad), folder, folder)


@pytest.mark.parametrize(
    ("host", "here"),
    [("127.0.0.1", True), ("localhost", True), ("::1", True), ("0.0.0.0", False), ("10.1.1.1", False), ("lab", False)],
)
def test_it_is_known_what_reaches_beyond_this_machine(host, here):
    assert front.is_loopback(host) == here


def test_a_deep_folder_gets_a_socket_elsewhere(tmp_path):
    deep = tmp_path / ("x" * 120)
    assert len(str(front.socket_in(deep))) < 108
