from django.contrib.auth import views
from django.urls import path

from heath.people.views import unit

urlpatterns = [
    path(
        "sign-in/", views.LoginView.as_view(template_name="people/sign_in.html", redirect_authenticated_user=True), name="sign-in"
    ),
    path("unit/", unit, name="unit"),
    path("sign-out/", views.LogoutView.as_view(), name="sign-out"),
]
