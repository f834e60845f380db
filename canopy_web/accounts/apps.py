"""What happens with every sign-in."""

from django.apps import AppConfig
from django.contrib.auth.signals import user_logged_in


class AccountsConfig(AppConfig):
    """Accounts; with each sign-in, what has run out is cleared away."""

    name = "canopy_web.accounts"

    def ready(self) -> None:
        """Listen to sign-ins."""
        from canopy_web.accounts.sweeping import sweep

        user_logged_in.connect(sweep, dispatch_uid="accounts.sweep")
