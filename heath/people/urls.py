from django.contrib.auth import views
from django.contrib.auth.decorators import login_not_required
from django.urls import path, reverse_lazy

from heath.people.settings import own_settings, school_settings
from heath.people.views import SignIn, people, person, school_change, sign_out_everywhere

reset = {
    "template_name": "people/reset.html",
    "email_template_name": "people/letter.txt",
    "subject_template_name": "people/letter_subject.txt",
}
urlpatterns = [
    path("sign-in/", SignIn.as_view(), name="sign-in"),
    path("settings/", own_settings, name="settings"),
    path("settings/school/", school_settings, name="school-settings"),
    path("settings/school/change/", school_change, name="school-change"),
    path("sign-out/", views.LogoutView.as_view(), name="sign-out"),
    path("sign-out-everywhere/", sign_out_everywhere, name="sign-out-everywhere"),
    path(
        "password/",
        views.PasswordChangeView.as_view(
            template_name="people/password.html", success_url=reverse_lazy("password-changed")
        ),
        name="password",
    ),
    path(
        "password/changed/",
        views.PasswordChangeDoneView.as_view(template_name="people/changed.html"),
        name="password-changed",
    ),
    path("people/", people, name="people"),
    path("people/<int:pk>/", person, name="person"),
    path(
        "forgotten/", login_not_required(views.PasswordResetView.as_view(**reset)), name="forgotten"
    ),
    path(
        "forgotten/sent/",
        login_not_required(
            views.PasswordResetDoneView.as_view(template_name="people/reset_sent.html")
        ),
        name="password_reset_done",
    ),
    path(
        "forgotten/<uidb64>/<token>/",
        login_not_required(
            views.PasswordResetConfirmView.as_view(template_name="people/reset_set.html")
        ),
        name="password_reset_confirm",
    ),
    path(
        "forgotten/done/",
        login_not_required(
            views.PasswordResetCompleteView.as_view(template_name="people/reset_done.html")
        ),
        name="password_reset_complete",
    ),
]
