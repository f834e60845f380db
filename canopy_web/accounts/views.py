"""Sign up, the demo's door, preferences, and the pages for what went wrong."""

from __future__ import annotations

from typing import Any, cast

from django.conf import settings
from django.contrib.auth import get_user_model, login
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.models import User
from django.contrib.auth.views import LoginView
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_POST

from canopy_web.accounts.forms import SignUpForm
from canopy_web.accounts.models import Preference
from canopy_web.drawing.example import example_view
from canopy_web.planning.actions import DEMO_USER, open_demo


class SignIn(LoginView):
    """Sign in, beside an example of what one gets."""

    template_name = "accounts/sign_in.html"
    redirect_authenticated_user = True

    def get_context_data(self, **more: Any) -> dict[str, Any]:
        """Add the example's drawing."""
        return {**super().get_context_data(**more), "example": example_view()}


@login_not_required
def sign_up(request: HttpRequest) -> HttpResponse:
    """Make an account and go straight to the first space."""
    if request.user.is_authenticated:
        return redirect("planning:home")
    form = SignUpForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        login(request, form.save())
        return redirect("planning:home")
    return render(request, "accounts/sign_up.html", {"form": form})


@login_not_required
@require_POST
def demo(request: HttpRequest) -> HttpResponse:
    """Open the demo household; only where this is a demo."""
    if not settings.DEMO:
        raise Http404
    user, _ = get_user_model().objects.get_or_create(username=DEMO_USER)
    open_demo(user)
    login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    return redirect("planning:home")


@require_POST
def preferences(request: HttpRequest) -> HttpResponse:
    """Remember units or theme, and go back to where the person was."""
    chosen, _ = Preference.objects.get_or_create(user=cast(User, request.user))
    for key, choices in (("units", Preference.UNITS), ("theme", Preference.THEMES)):
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
    words = "Something broke on our side. Nothing you stored was changed. Go back and try again."
    return render(request, "trouble.html", {"title": "That went wrong", "words": words}, status=500)


@login_not_required
def csrf_failure(request: HttpRequest, reason: str = "") -> HttpResponse:
    """Say that the page was too old to be trusted."""
    words = "This page had grown too old to be trusted. Go back, reload it, and try again. Nothing was changed."
    return render(request, "trouble.html", {"title": "Reload and try again", "words": words}, status=403)
