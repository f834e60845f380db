"""The worker that keeps Today and the log open in a browser without reach."""

from __future__ import annotations

from importlib.metadata import version

from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_safe


@login_not_required
@require_safe
def worker(request: HttpRequest) -> HttpResponse:
    """Give the worker's script. It may serve any page here; each page that wants it registers for itself alone."""
    answer = render(request, "household/reach.js", {"version": version("mild-canopy")}, content_type="text/javascript")
    answer["Service-Worker-Allowed"] = "/"
    answer["Cache-Control"] = "no-cache"
    return answer
