"""Addresses of accounts."""

from django.contrib.auth import views as auth
from django.contrib.auth.decorators import login_not_required
from django.urls import path, reverse_lazy

from canopy_web.accounts import views

app_name = "accounts"
urlpatterns = [
    path(
        "sign-in/",
        login_not_required(views.SignIn.as_view()),
        name="login",
    ),
    path("sign-out/", auth.LogoutView.as_view(), name="logout"),
    path("sign-up/", views.sign_up, name="sign-up"),
    path("demo/", views.demo, name="demo"),
    path("", views.account, name="account"),
    path("leave/", views.leave, name="leave"),
    path("preferences/", views.preferences, name="preferences"),
    path(
        "password/",
        auth.PasswordChangeView.as_view(
            template_name="accounts/password.html", success_url=reverse_lazy("accounts:password-done")
        ),
        name="password",
    ),
    path(
        "password/done/",
        auth.PasswordChangeDoneView.as_view(template_name="accounts/password_done.html"),
        name="password-done",
    ),
]
