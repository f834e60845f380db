"""Behind a real proxy with HTTPS: the example configuration, as it ships."""

from __future__ import annotations

import http.cookiejar
import os
import re
import shutil
import socket
import ssl
import subprocess
import sys
import time
import urllib.error
import urllib.parse
import urllib.request

import pytest

from tests.conftest import ROOT, not_laid_out

CERTIFY = ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2", "-subj", "/CN=localhost"]
NGINX = shutil.which("nginx") or "/usr/sbin/nginx"


def _free_port():
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        return free.getsockname()[1]


def _wait(port):
    end = time.monotonic() + 40
    while time.monotonic() < end:
        try:
            socket.create_connection(("127.0.0.1", port), timeout=1).close()
        except OSError:
            time.sleep(0.05)
        else:
            return
    raise AssertionError(f"nobody listens at {port}")


def _token(answer):
    return re.search(r'name="csrfmiddlewaretoken" value="(\w+)"', answer.read().decode())[1]


class Reached:
    """The ports of the proxy and of the server behind it, and a browser's part."""

    def __init__(self, plain, secure, behind):
        self.plain, self.secure, self.behind = plain, secure, behind
        self.jar = http.cookiejar.CookieJar()
        # The certificate is our own of a minute ago.
        trusting = ssl._create_unverified_context()
        self.opener = urllib.request.build_opener(
            urllib.request.HTTPSHandler(context=trusting), urllib.request.HTTPCookieProcessor(self.jar)
        )
        self.site = f"https://localhost:{secure}"

    def open(self, path, fields=None, **headers):
        body = urllib.parse.urlencode(fields).encode() if fields else None
        return self.opener.open(urllib.request.Request(self.site + path, body, headers), timeout=30)


@pytest.fixture(scope="module")
def reached(tmp_path_factory):
    folder = tmp_path_factory.mktemp("proxy")
    plain, secure, behind = _free_port(), _free_port(), _free_port()
    subprocess.run(
        [*CERTIFY, "-keyout", str(folder / "key.pem"), "-out", str(folder / "fullchain.pem")],
        check=True,
        capture_output=True,
    )
    # The file that ships, with names and ports put in.
    text = (ROOT / "docs/examples/nginx.conf").read_text()
    for old, new in (
        ("listen 80;", f"listen 127.0.0.1:{plain};"),
        ("listen 443 ssl;", f"listen 127.0.0.1:{secure} ssl;"),
        ("https://$http_host$request_uri", f"https://localhost:{secure}$request_uri"),
        ("http://127.0.0.1:8000", f"http://127.0.0.1:{behind}"),
        ("/etc/ssl/my.name/", f"{folder}/"),
        ("/run/nginx-mild-canopy.pid", f"{folder}/nginx.pid"),
        ("server_name my.name;", "server_name localhost;"),
        ("access_log off;", f"access_log off; client_body_temp_path {folder}/b; proxy_temp_path {folder}/p;"),
    ):
        assert old in text, old
        text = text.replace(old, new)
    if os.getuid() == 0:
        text = f"user root;\n{text}"
    # Without root it must not ask for paths of the system.
    text = text.replace("proxy_temp_path", f"fastcgi_temp_path {folder}/f; uwsgi_temp_path {folder}/u; proxy_temp_path")
    text = text.replace("proxy_temp_path", f"scgi_temp_path {folder}/s; proxy_temp_path", 1)
    (folder / "nginx.conf").write_text(text)
    env = {
        **os.environ,
        "MILD_CANOPY_DATA": str(folder / "data"),
        "MILD_CANOPY_HTTPS": "1",
        "DJANGO_SETTINGS_MODULE": "canopy_web.settings",
    }
    subprocess.run([sys.executable, "manage.py", "migrate", "-v0", "--skip-checks"], cwd=ROOT, env=env, check=True)
    if not_laid_out():
        lay_out = [sys.executable, "manage.py", "collectstatic", "--noinput", "-v0", "--skip-checks"]
        subprocess.run(lay_out, cwd=ROOT, env=env, check=True)
    serve = [sys.executable, "-m", "canopy_web.serve", "--port", str(behind), "--proxy", "127.0.0.1"]
    server = subprocess.Popen(serve, cwd=ROOT, env=env)
    proxy = subprocess.Popen(
        [NGINX, "-c", str(folder / "nginx.conf"), "-e", str(folder / "errors"), "-g", "daemon off;"]
    )
    try:
        _wait(behind)
        _wait(secure)
        yield Reached(plain, secure, behind)
    finally:
        for process in (proxy, server):
            process.terminate()
            process.wait()


def test_plain_http_is_sent_to_https(reached):
    class Stay(urllib.request.HTTPRedirectHandler):
        def redirect_request(self, *args, **more):
            return None

    with pytest.raises(urllib.error.HTTPError) as sent:
        urllib.request.build_opener(Stay).open(f"http://localhost:{reached.plain}/account/sign-in/", timeout=30)
    assert (sent.value.code, sent.value.headers["Location"]) == (301, f"{reached.site}/account/sign-in/")


def test_one_signs_up_and_edits_over_https(reached):
    answer = reached.open("/account/sign-up/")
    assert "max-age=31536000" in answer.headers["Strict-Transport-Security"]
    token = _token(answer)
    fields = {
        "username": "grower",
        "password1": "tall-lamp-77",
        "password2": "tall-lamp-77",
        "csrfmiddlewaretoken": token,
    }
    page = reached.open("/account/sign-up/", fields, Origin=reached.site, Referer=f"{reached.site}/account/sign-up/")
    assert page.url == f"{reached.site}/start/"
    assert {cookie.name: cookie.secure for cookie in reached.jar} == {"csrftoken": True, "sessionid": True}
    # Somebody else's page gets nowhere.
    with pytest.raises(urllib.error.HTTPError) as refused:
        reached.open("/account/preferences/", {"units": "us", "csrfmiddlewaretoken": token}, Origin="https://evil.test")
    assert refused.value.code == 403


def test_half_sent_requests_stop_nobody(reached):
    held = []
    for _ in range(8):
        raw = socket.create_connection(("127.0.0.1", reached.secure))
        context = ssl._create_unverified_context()
        line = context.wrap_socket(raw, server_hostname="localhost")
        line.sendall(b"POST /account/sign-in/ HTTP/1.1\r\nHost: localhost\r\nContent-Length: 90000\r\n\r\nusername=")
        held.append(line)
    begin = time.monotonic()
    assert reached.open("/account/sign-in/").status == 200
    assert time.monotonic() - begin < 10
    for line in held:
        line.close()


def test_a_picture_s_size_comes_through_and_no_more(reached):
    for size, code in ((15_000_000, 403), (25_000_000, 413)):
        request = urllib.request.Request(
            f"{reached.site}/account/sign-in/", b"x" * size, {"Content-Type": "text/plain"}
        )
        with pytest.raises(urllib.error.HTTPError) as refused:
            reached.opener.open(request, timeout=60)
        assert refused.value.code == code


def test_the_address_that_is_throttled_is_the_visitor_s(reached):
    """What a visitor claims of themselves does not go through."""
    stranger, codes = Reached(reached.plain, reached.secure, reached.behind), []
    token = _token(stranger.open("/account/sign-in/"))
    for number in range(6):
        fields = {"username": "nobody-here", "password": "x", "csrfmiddlewaretoken": token}
        more = {"Origin": reached.site, "Referer": f"{reached.site}/account/sign-in/"}
        more["X-Forwarded-For"] = f"10.9.8.{number}"
        try:
            codes.append(stranger.open("/account/sign-in/", fields, **more).status)
        except urllib.error.HTTPError as error:
            codes.append(error.code)
    assert codes[-1] == 429, codes
