from django.urls import path

from heath.moderation import views

urlpatterns = [
    path("classes/<int:pk>/agreement/", views.agreement, name="agreement"),
    path("classes/<int:pk>/second-marking/", views.set_before, name="second-marking"),
    path("second-marks/<int:pk>/", views.second, name="second-mark"),
]
