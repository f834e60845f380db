"""Sign up, the demo's door, preferences, and the pages for what went wrong."""

from __future__ import annotations

from typing import Any, cast

from django.conf import settings
from django.contrib.auth import get_user_model, login, logout
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.models import User
from django.contrib.auth.views import LoginView
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_POST

from canopy_web.accounts.context import preference_of, remember_zone
from canopy_web.accounts.forms import FarewellForm, SignUpForm, ZoneForm
from canopy_web.accounts.models import Preference
from canopy_web.drawing.example import example_view
from canopy_web.planning.actions import DEMO_USER, delete_account, open_demo


class SignIn(LoginView):
    """Sign in, beside an example of what one gets."""

    template_name = "accounts/sign_in.html"
    redirect_authenticated_user = True

    def form_valid(self, form: Any) -> HttpResponse:
        """Learn the time zone from the browser where it is not known yet."""
        remember_zone(form.get_user(), self.request.POST.get("time_zone", ""))
        return super().form_valid(form)

    def get_context_data(self, **more: Any) -> dict[str, Any]:
        """Add the example's drawing."""
        return {**super().get_context_data(**more), "example": example_view()}


@login_not_required
def sign_up(request: HttpRequest) -> HttpResponse:
    """Make an account and go straight to the first space."""
    if request.user.is_authenticated:
        return redirect("household:home")
    form = SignUpForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        user = form.save()
        remember_zone(user, request.POST.get("time_zone", ""))
        login(request, user)
        return redirect("household:home")
    return render(request, "accounts/sign_up.html", {"form": form})


@login_not_required
@require_POST
def demo(request: HttpRequest) -> HttpResponse:
    """Open the demo household; only where this is a demo."""
    if not settings.DEMO:
        raise Http404
    user, _ = get_user_model().objects.get_or_create(username=DEMO_USER)
    remember_zone(user, request.POST.get("time_zone", ""))
    open_demo(user)
    login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    return redirect("household:home")


def account(request: HttpRequest) -> HttpResponse:
    """Show and change what belongs to the person: time zone, password, the account itself."""
    chosen = preference_of(request)
    posted = request.POST if request.POST.get("what") == "zone" else None
    form = ZoneForm(posted, initial={"time_zone": chosen.time_zone})
    if posted is not None and form.is_valid():
        chosen.time_zone = form.cleaned_data["time_zone"]
        chosen.save()
        return redirect("accounts:account")
    return render(request, "accounts/account.html", {"form": form, "farewell": _farewell(request, None)})


def _farewell(request: HttpRequest, data: Any) -> FarewellForm:
    return FarewellForm(data, username=request.user.get_username(), prefix="farewell")


@require_POST
def leave(request: HttpRequest) -> HttpResponse:
    """Remove the account with all that is in it, once its name was typed."""
    form = _farewell(request, request.POST)
    if not form.is_valid():
        zone = ZoneForm(initial={"time_zone": preference_of(request).time_zone})
        return render(request, "accounts/account.html", {"form": zone, "farewell": form})
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
    if not url_has_allowed_host_and_scheme(back, allowed_hosts={request.get_host()}):
        back = "/"
    return redirect(back)


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
    """Say that something broke on our side."""
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
