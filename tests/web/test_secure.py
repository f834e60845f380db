"""HTTPS at home: an authority that vouches for nothing else, a relay that says who came, how to trust it."""

from __future__ import annotations

import datetime as dt
import os
import re
import ssl
import subprocess
import sys
import urllib.error
import urllib.request
from http.cookiejar import CookieJar
from urllib.parse import urlencode

import pytest
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec

from canopy_web.command import secure_port
from canopy_web.secure import certificates
from canopy_web.secure.certificates import fingerprint, make_sure, own_names, papers, runs_out
from canopy_web.serve import parser
from tests.conftest import ROOT
from tests.web.test_behind_a_proxy import _free_port, _wait

NAMES = ("192.168.7.5", "shed.local", "shed", "localhost", "127.0.0.1")


@pytest.fixture
def found(tmp_path):
    made = papers(tmp_path)
    assert make_sure(made, NAMES)
    return made


def verified(found, path, name="192.168.7.5", kind="-verify_ip"):
    """What another program says of a certificate."""
    asked = ["openssl", "verify", "-CAfile", str(found.authority), "-purpose", "sslserver", kind, name, str(path)]
    return subprocess.run(asked, capture_output=True, text=True, check=False)


def test_another_program_takes_the_certificate_for_its_names_alone(found):
    assert verified(found, found.server).returncode == 0
    assert verified(found, found.server, "shed.local", "-verify_hostname").returncode == 0
    assert verified(found, found.server, "192.168.7.6").returncode != 0
    assert verified(found, found.server, "bank.example", "-verify_hostname").returncode != 0


def test_the_authority_can_vouch_for_nothing_beyond_a_home(found, tmp_path):
    key = serialization.load_pem_private_key(found.authority_key.read_bytes(), None)
    authority = x509.load_pem_x509_certificate(found.authority.read_bytes())
    own = ec.generate_private_key(ec.SECP256R1())
    now = dt.datetime.now(dt.UTC)
    for name in ("bank.example", "shed.local"):
        stolen = (
            x509.CertificateBuilder()
            .subject_name(x509.Name([x509.NameAttribute(x509.NameOID.COMMON_NAME, name)]))
            .issuer_name(authority.subject)
            .public_key(own.public_key())
            .serial_number(5)
            .not_valid_before(now - dt.timedelta(days=1))
            .not_valid_after(now + dt.timedelta(days=5))
            .add_extension(x509.SubjectAlternativeName([x509.DNSName(name)]), critical=False)
            .sign(key, hashes.SHA256())
        )
        path = tmp_path / f"{name}.crt"
        path.write_bytes(stolen.public_bytes(serialization.Encoding.PEM))
        said = verified(found, path, name, "-verify_hostname")
        assert (said.returncode == 0) == (name == "shed.local"), said.stderr
    said = verified(found, tmp_path / "bank.example.crt", "bank.example", "-verify_hostname")
    assert "permitted subtree violation" in said.stderr


def test_keys_are_read_by_nobody_else_and_the_papers_stay(found):
    assert {path.stat().st_mode & 0o777 for path in found.folder.iterdir()} == {0o600}
    before = found.server.read_bytes()
    assert not make_sure(found, NAMES)
    assert found.server.read_bytes() == before
    assert re.fullmatch(r"([0-9A-F]{2}:){31}[0-9A-F]{2}", fingerprint(found))


def test_a_new_name_or_an_old_paper_makes_a_new_one_by_the_same_authority(found):
    authority = found.authority.read_bytes()
    assert make_sure(found, (*NAMES, "192.168.7.9"))
    assert verified(found, found.server, "192.168.7.9").returncode == 0
    late = dt.datetime.now(dt.UTC) + dt.timedelta(days=370)
    assert runs_out(found, late)
    assert make_sure(found, NAMES, late)
    assert found.authority.read_bytes() == authority
    # Browsers take none that lasts longer.
    held = x509.load_pem_x509_certificate(found.server.read_bytes())
    assert held.not_valid_after_utc - held.not_valid_before_utc < dt.timedelta(days=398)


def test_it_names_this_machine(monkeypatch):
    names = own_names()
    assert "localhost" in names
    assert "127.0.0.1" in names
    monkeypatch.setattr(certificates.socket, "gethostname", lambda: "My Shed.example.org")
    assert "my-shed.local" in own_names()


@pytest.mark.parametrize(
    ("said", "port"),
    [
        ([], 0),
        (["--host", "0.0.0.0"], 8443),
        (["--host", "0.0.0.0", "--https", "0"], 0),
        (["--host", "0.0.0.0", "--proxy", "10.0.0.1"], 0),
        (["--https", "9443"], 9443),
    ],
)
def test_it_is_offered_where_the_server_listens_to_the_network(said, port):
    assert secure_port(parser().parse_args(said)) == port


# The relay before a real server


class Served:
    """A server with its relay, and a browser's part that trusts its authority."""

    def __init__(self, folder, plain, secure):
        self.folder, self.plain, self.secure = folder, plain, secure
        self.begin_anew()

    def begin_anew(self):
        """Another browser, which nobody has signed in with."""
        trusting = ssl.create_default_context(cafile=str(papers(self.folder).authority))
        self.jar = CookieJar()
        self.opener = urllib.request.build_opener(
            urllib.request.HTTPSHandler(context=trusting), urllib.request.HTTPCookieProcessor(self.jar)
        )

    def open(self, path, fields=None, host="localhost", **headers):
        site = f"https://{host}:{self.secure}"
        body = urlencode(fields).encode() if fields else None
        return self.opener.open(urllib.request.Request(site + path, body, {"Origin": site, **headers}), timeout=30)


@pytest.fixture(scope="module")
def served(tmp_path_factory):
    folder = tmp_path_factory.mktemp("secure")
    plain, secure = _free_port(), _free_port()
    environment = {key: value for key, value in os.environ.items() if not key.startswith(("MILD_CANOPY", "DJANGO"))}
    environment |= {"MILD_CANOPY_DATA": str(folder)}
    command = [sys.executable, "-m", "canopy_web.command", "serve", "--host", "0.0.0.0"]
    ports = ["--port", str(plain), "--https", str(secure), "--no-worker"]
    server = subprocess.Popen([*command, *ports], cwd=ROOT, env=environment)
    try:
        _wait(plain)
        _wait(secure)
        yield Served(folder, plain, secure)
    finally:
        server.terminate()
        server.wait(20)


def test_one_signs_up_through_it_with_the_site_that_was_asked_for(served):
    served.begin_anew()
    page = served.open("/account/sign-up/").read().decode()
    token = re.search(r'name="csrfmiddlewaretoken" value="(\w+)"', page)[1]
    fields = {
        "csrfmiddlewaretoken": token,
        "username": "shed",
        "password1": "tall-lamp-77",
        "password2": "tall-lamp-77",
    }
    answer = served.open("/account/sign-up/", fields)
    assert answer.status == 200
    assert answer.url.startswith(f"https://localhost:{served.secure}/")
    assert "sessionid" in {cookie.name for cookie in served.jar}


def test_a_large_answer_and_a_static_file_come_whole(served):
    with urllib.request.urlopen(f"http://127.0.0.1:{served.plain}/account/sign-in/", timeout=30) as plain:
        style = re.search(r'href="(/static/[^"]+\.css)"', plain.read().decode())[1]
    with urllib.request.urlopen(f"http://127.0.0.1:{served.plain}{style}", timeout=30) as plain:
        assert served.open(style).read() == plain.read()


def test_nobody_can_say_that_they_are_somebody_else(served):
    """Wrong passwords are counted by who sent them, whatever a header says."""
    served.begin_anew()

    def guess(number):
        page = served.open("/account/sign-in/").read().decode()
        token = re.search(r'name="csrfmiddlewaretoken" value="(\w+)"', page)[1]
        fields = {"csrfmiddlewaretoken": token, "username": "guess", "password": "wrong"}
        served.open("/account/sign-in/", fields, **{"X-Forwarded-For": f"10.9.8.{number}"})

    def guess_often():
        for number in range(7):
            guess(number)

    with pytest.raises(urllib.error.HTTPError) as refused:
        guess_often()
    assert refused.value.code == 429


def test_another_sites_forms_are_refused(served):
    served.begin_anew()
    page = served.open("/account/sign-in/").read().decode()
    token = re.search(r'name="csrfmiddlewaretoken" value="(\w+)"', page)[1]
    with pytest.raises(urllib.error.HTTPError) as refused:
        served.open("/account/sign-up/", {"csrfmiddlewaretoken": token, "username": "x"}, Origin="https://else.example")
    assert refused.value.code == 403


def test_the_page_says_how_a_phone_comes_to_trust_it(served):
    page = served.open("/trust/").read().decode()
    assert fingerprint(papers(served.folder)) in page
    given = served.open("/trust/authority.crt")
    assert given.headers["Content-Type"] == "application/x-x509-ca-cert"
    assert given.read() == papers(served.folder).authority.read_bytes()
    # Without encryption, too: that is where one comes from.
    with urllib.request.urlopen(f"http://localhost:{served.plain}/trust/", timeout=30) as plain:
        assert f"https://localhost:{served.secure}/today/" in plain.read().decode()


@pytest.mark.django_db
def test_without_it_there_is_no_such_page(client, settings):
    settings.SECURE_PORT = 0
    assert client.get("/trust/").status_code == 404
    assert client.get("/trust/authority.crt").status_code == 404


@pytest.mark.django_db
def test_today_points_to_it_where_it_would_help(mine, small_plan, grower, settings):
    from canopy_web.planning import actions

    actions.create_plan(grower, small_plan)
    settings.SECURE_PORT, settings.ALLOWED_HOSTS = 8443, ["*"]
    assert "https://192.168.7.5:8443/today/" in mine.get("/today/", headers={"host": "192.168.7.5:8000"}).text
    assert ":8443" not in mine.get("/today/", headers={"host": "localhost:8000"}).text
    assert ":8443" not in mine.get("/today/", headers={"host": "192.168.7.5:8443"}, secure=True).text
