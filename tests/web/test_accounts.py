import pytest
from django.contrib.auth import get_user_model

from canopy_web.accounts.models import Preference

pytestmark = pytest.mark.django_db


def test_sign_up_leads_to_the_first_space(client):
    data = {"username": "fern", "password1": "tall-lamp-77", "password2": "tall-lamp-77"}
    answer = client.post("/account/sign-up/", data, follow=True)
    assert answer.redirect_chain[-1][0] == "/start/"
    assert "Your first space" in answer.text
    # A password that is too common is refused at its field, the name is kept.
    client.logout()
    answer = client.post("/account/sign-up/", {"username": "moss", "password1": "password", "password2": "password"})
    assert 'value="moss"' in answer.text
    assert "too common" in answer.text
    assert not get_user_model().objects.filter(username="moss").exists()


def test_signing_in_and_out_and_changing_the_password(client, grower):
    assert client.post("/account/sign-in/", {"username": "grower", "password": "wrong"}).status_code == 200
    answer = client.post("/account/sign-in/", {"username": "grower", "password": "tall-lamp-77"})
    assert answer.url == "/"
    new = {"old_password": "tall-lamp-77", "new_password1": "short-lamp-88", "new_password2": "short-lamp-88"}
    assert client.post("/account/password/", new).url == "/account/password/done/"
    client.post("/account/sign-out/")
    assert client.get("/").url == "/account/sign-in/?next=/"


def test_the_demo_has_a_door_and_a_normal_start_has_none(client, settings):
    assert "Open the demo" in client.get("/account/sign-in/").text
    answer = client.post("/account/demo/", follow=True)
    assert "Larkspur Lane" in answer.text
    client.logout()
    settings.DEMO = False
    assert "Open the demo" not in client.get("/account/sign-in/").text
    assert client.post("/account/demo/").status_code == 404


def test_units_are_remembered_and_used(mine, grower, row):
    answer = mine.post("/account/preferences/", {"units": "us", "next": "/plans/"})
    assert answer.url == "/plans/"
    assert Preference.objects.get(user=grower).units == "us"
    page = mine.get(f"/plans/{row.pk}/spaces/box/light/").text
    assert "31.5 in" in page.replace("\u00a0", " ")
    assert mine.post("/account/preferences/", {"theme": "dark", "next": "https://evil.invalid/"}).url == "/"
    assert 'data-theme="dark"' in mine.get("/").text


def test_pages_are_locked_down(mine, row):
    answer = mine.get(f"/plans/{row.pk}/spaces/box/light/")
    policy = answer.headers["Content-Security-Policy"]
    assert "script-src 'self'" in policy
    assert "unsafe" not in policy
    assert "default-src 'none'" in policy
    assert answer.headers["X-Frame-Options"] == "DENY"
    assert answer.headers["X-Content-Type-Options"] == "nosniff"
    assert "<script>" not in answer.text
    assert " style=" not in answer.text
    mine.logout()
    mine.post("/account/sign-in/", {"username": "grower", "password": "tall-lamp-77"})
    session = mine.cookies["sessionid"]
    assert (session["httponly"], session["samesite"]) == (True, "Lax")


def test_a_change_without_a_token_is_refused(grower, row):
    from django.test import Client

    strict = Client(enforce_csrf_checks=True)
    strict.force_login(grower)
    answer = strict.post(f"/plans/{row.pk}/spaces/box/light/undo/", headers={"HX-Request": "true"})
    assert answer.status_code == 403
    assert "too old to be trusted" in answer.text


def test_an_unknown_page_says_so(mine):
    answer = mine.get("/nowhere/")
    assert answer.status_code == 404
    assert "no such page, or it is not yours" in answer.text
