from django.urls import path, re_path

from heath.planner import views

urlpatterns = [
    path("briefs/<int:pk>/plan/", views.plan, name="plan"),
    path("briefs/<int:pk>/plan.pdf", views.plan_pdf, name="plan-pdf"),
    path("briefs/<int:pk>/conditioning/", views.conditioning, name="conditioning"),
    path("briefs/<int:pk>/conditioning.ics", views.conditioning_ics, name="conditioning-ics"),
    path("materials/", views.materials, name="materials"),
    re_path(r"^materials\.(?P<suffix>csv|json)$", views.materials_file, name="materials-file"),
]
