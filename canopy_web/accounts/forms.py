"""Sign-up."""

from __future__ import annotations

from django.contrib.auth import get_user_model
from django.contrib.auth.forms import UserCreationForm


class SignUpForm(UserCreationForm):  # type: ignore[type-arg]
    """A name and a password; nothing else is asked."""

    class Meta:
        model = get_user_model()
        fields = ("username",)
