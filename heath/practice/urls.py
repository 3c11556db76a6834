from django.urls import path

from heath.practice import calibration_views, learner_views, views

urlpatterns = [
    path("practice/", views.practice, name="practice"),
    path("practice/start/", views.start_own, name="practice-start"),
    path("practice/settings/", views.settings, name="practice-settings"),
    path("classes/<int:pk>/practice/", views.of_class, name="class-practice"),
    path("practice/rounds/<int:pk>/", views.set_round, name="practice-round"),
    path("practice/calibrate/", calibration_views.begin, name="calibrate"),
    path("practice/calibrations/<int:pk>/", calibration_views.calibration, name="calibration"),
    path("eye/<str:key>/", learner_views.learner, name="eye"),
    path("eye/<str:key>/start/", learner_views.start_round, name="eye-start"),
    path("eye/<str:key>/<int:pk>/", learner_views.practice_round, name="eye-round"),
    path("eye/<str:key>/<int:pk>/<int:place>/", learner_views.answer, name="eye-answer"),
    path("eye/<str:key>/<int:pk>/<int:place>/others/", learner_views.others, name="eye-others"),
    path("eye/<str:key>/<int:pk>/ahead/", learner_views.ahead, name="eye-ahead"),
    path("eye/<str:key>/picture/<int:pk>.jpg", learner_views.picture, name="eye-picture"),
    path("look/<str:key>/", learner_views.take_part, name="eye-join"),
]
