from django.urls import path

from heath.jobs import views

urlpatterns = [
    path("made/<str:secret>/", views.job, name="job"),
    path("made/<str:secret>/file/", views.job_file, name="job-file"),
]
