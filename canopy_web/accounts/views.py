"""Sign up, the demo's door, preferences, and the pages for what went wrong."""

from __future__ import annotations

import sys
from typing import Any, cast
from urllib.parse import urlsplit

from django.conf import settings
from django.contrib.auth import get_user_model, login, logout
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.models import User
from django.contrib.auth.views import LoginView
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import redirect, render
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_POST

from canopy_web.accounts.context import preference_of, remember_zone
from canopy_web.accounts.forms import FarewellForm, MailForm, SignUpForm, ZoneForm
from canopy_web.accounts.models import Preference
from canopy_web.accounts.room import no_room
from canopy_web.drawing.example import example_if_drawn
from canopy_web.planning.actions import delete_account, open_demo

BACKEND = "django.contrib.auth.backends.ModelBackend"


class SignIn(LoginView):
    """Sign in, beside an example of what one gets."""

    template_name = "accounts/sign_in.html"
    redirect_authenticated_user = True

    def get_redirect_url(self, request: HttpRequest | None = None) -> str:
        """Go where one came from, but not back to this page, and nowhere that is no address of ours."""
        url = str(super().get_redirect_url())
        return url if url.startswith("/") and urlsplit(url).path != self.request.path else ""

    def form_valid(self, form: Any) -> HttpResponse:
        """Learn the time zone from the browser where it is not known yet."""
        remember_zone(form.get_user(), self.request.POST.get("time_zone", ""))
        return super().form_valid(form)

    def get_context_data(self, **more: Any) -> dict[str, Any]:
        """Add the example's drawing."""
        return {**super().get_context_data(**more), "example": example_if_drawn()}


@login_not_required
def sign_up(request: HttpRequest) -> HttpResponse:
    """Make an account and go straight to the first space."""
    if request.user.is_authenticated:
        return redirect("household:home")
    form = SignUpForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        user = form.save()
        remember_zone(user, request.POST.get("time_zone", ""))
        login(request, user, backend=BACKEND)
        return redirect("household:home")
    return render(request, "accounts/sign_up.html", {"form": form})


@login_not_required
@require_POST
def demo(request: HttpRequest) -> HttpResponse:
    """Open a demo household of the visitor's own; only where this is a demo."""
    if not settings.DEMO:
        raise Http404
    user = open_demo()
    remember_zone(user, request.POST.get("time_zone", ""))
    login(request, user, backend=BACKEND)
    return redirect("household:home")


def account(request: HttpRequest) -> HttpResponse:
    """Show and change what belongs to the person: time zone, mail, password, the account itself."""
    chosen, what = preference_of(request), request.POST.get("what", "")
    forms = _forms(request, what)
    if what in forms and forms[what].is_valid():
        for key, value in forms[what].cleaned_data.items():
            setattr(chosen, key, value)
        chosen.save()
        return redirect("accounts:account")
    return account_page(request, forms=forms)


def _forms(request: HttpRequest, what: str = "") -> dict[str, Any]:
    """The forms of the page, one of them as it was sent."""
    chosen = preference_of(request)
    return {
        "zone": ZoneForm(request.POST if what == "zone" else None, initial={"time_zone": chosen.time_zone}),
        "mail": MailForm(request.POST if what == "mail" else None, initial={"mail": chosen.mail}),
    }


def account_page(request: HttpRequest, *, forms: dict[str, Any] | None = None, **more: Any) -> HttpResponse:
    """The page Account, with what else is to be shown on it."""
    found = forms or _forms(request)
    given = {"form": found["zone"], "mail_form": found["mail"], "mails": settings.MAILS}
    return render(request, "accounts/account.html", {**given, "farewell": _farewell(request, None), **more})


def _farewell(request: HttpRequest, data: Any) -> FarewellForm:
    return FarewellForm(data, username=request.user.get_username(), prefix="farewell")


@require_POST
def leave(request: HttpRequest) -> HttpResponse:
    """Remove the account with all that is in it, once its name was typed."""
    form = _farewell(request, request.POST)
    if not form.is_valid():
        return account_page(request, farewell=form)
    user = get_user_model().objects.get(username=request.user.get_username())
    logout(request)
    delete_account(user)
    return redirect("accounts:login")


@require_POST
def preferences(request: HttpRequest) -> HttpResponse:
    """Remember units or theme, and go back to where the person was."""
    chosen, _ = Preference.objects.get_or_create(user=cast(User, request.user))
    for key, choices in (("units", Preference.UNITS), ("light", Preference.LIGHTS), ("theme", Preference.THEMES)):
        if request.POST.get(key) in dict(choices):
            setattr(chosen, key, request.POST[key])
    chosen.save()
    back = request.POST.get("next", "")
    if not back.startswith("/") or not url_has_allowed_host_and_scheme(back, allowed_hosts={request.get_host()}):
        back = "/"
    return HttpResponseRedirect(back)


@login_not_required
def not_found(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """Say that there is no such page."""
    return render(
        request,
        "trouble.html",
        {"title": "Not here", "words": "There is no such page, or it is not yours."},
        status=404,
    )


@login_not_required
def server_error(request: HttpRequest) -> HttpResponse:
    """Say that something broke on our side, or that there is no room left to store anything."""
    if no_room(sys.exc_info()[1]):
        words = (
            "The disk of this server is full: nothing more can be stored, and your last change was not. All that was "
            "stored before is whole and can be looked at. Whoever runs the server has to make room; then it works "
            "again."
        )
        return render(request, "trouble.html", {"title": "No room left", "words": words}, status=507)
    words = (
        "Something broke on our side, and the page could not be shown. What was stored before is still there; whether "
        "your last change was kept, the page of your spaces tells. Undo there takes it back."
    )
    return render(request, "trouble.html", {"title": "That went wrong", "words": words}, status=500)


@login_not_required
def csrf_failure(request: HttpRequest, reason: str = "") -> HttpResponse:
    """Say that the page was too old to be trusted."""
    words = "This page had grown too old to be trusted. Go back, reload it, and try again. Nothing was changed."
    return render(request, "trouble.html", {"title": "Reload and try again", "words": words}, status=403)
