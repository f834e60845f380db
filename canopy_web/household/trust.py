"""How a phone comes to trust this server at home, so that the log works without reach there."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from django.conf import settings
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_safe

if TYPE_CHECKING:
    from canopy_web.secure.certificates import Papers

_HERE = ("localhost", "127.0.0.1", "[::1]")


def secure_address(request: HttpRequest) -> str:
    """Where this page's server is found encrypted; empty where it is so already, needs not be, or offers nothing."""
    host = request.get_host().rpartition(":")[0] if request.get_host().count(":") == 1 else request.get_host()
    if not settings.SECURE_PORT or request.is_secure() or host in _HERE:
        return ""
    return f"https://{host}:{settings.SECURE_PORT}"


def _papers() -> Papers:
    from canopy_web.secure.certificates import papers

    found = papers(Path(settings.DATA))
    if not settings.SECURE_PORT or not found.authority.exists():
        raise Http404
    return found


@login_not_required
@require_safe
def trust(request: HttpRequest) -> HttpResponse:
    """Show how, with the authority's fingerprint."""
    from canopy_web.secure.certificates import fingerprint

    found = _papers()
    host = request.get_host().rpartition(":")[0] or request.get_host()
    shown = {"fingerprint": fingerprint(found), "secure": f"https://{host}:{settings.SECURE_PORT}/today/"}
    return render(request, "household/trust.html", shown)


@login_not_required
@require_safe
def authority(request: HttpRequest) -> HttpResponse:
    """Give the authority's certificate: what a phone is to trust. There is nothing secret in it."""
    answer = HttpResponse(_papers().authority.read_bytes(), content_type="application/x-x509-ca-cert")
    answer["Content-Disposition"] = 'attachment; filename="mild-canopy-at-home.crt"'
    return answer
