from django.urls import path

from heath.planner import views

urlpatterns = [
    path("briefs/<int:pk>/plan/", views.plan, name="plan"),
    path("briefs/<int:pk>/plan.pdf", views.plan_pdf, name="plan-pdf"),
]
