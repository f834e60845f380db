"""Sign-up, and what a person chose for themselves."""

from __future__ import annotations

from typing import Any

from django import forms
from django.contrib.auth import get_user_model
from django.contrib.auth.forms import UserCreationForm

from canopy.plan.site import known_zones


class SignUpForm(UserCreationForm):  # type: ignore[type-arg]
    """A name and a password; nothing else is asked."""

    class Meta:
        model = get_user_model()
        fields = ("username",)


class ZoneForm(forms.Form):
    """The time zone by which days and clocks count."""

    time_zone = forms.ChoiceField(required=False, label="Time zone")

    def __init__(self, data: Any = None, **more: Any) -> None:
        super().__init__(data, **more)
        field = self.fields["time_zone"]
        assert isinstance(field, forms.ChoiceField)
        names = sorted(name for name in known_zones() if "/" in name and not name.startswith("Etc/"))
        field.choices = [("", "as the server has it"), *((name, name.replace("_", " ")) for name in names)]


class MailForm(forms.Form):
    """Where alerts are mailed to."""

    mail = forms.EmailField(required=False, label="Alerts by mail to", widget=forms.EmailInput(attrs={"size": 30}))


class FarewellForm(forms.Form):
    """One's own name, typed, before an account goes for good."""

    name = forms.CharField(label="Your name here, to be sure", max_length=150)

    def __init__(self, data: Any = None, *, username: str, **more: Any) -> None:
        super().__init__(data, **more)
        self.username = username

    def clean_name(self) -> str:
        """It must be the name of the account."""
        name = str(self.cleaned_data["name"]).strip()
        if name != self.username:
            raise forms.ValidationError(f"To remove the account, type its name: {self.username}")
        return name
