"""What a person sets for themselves."""

from django.shortcuts import redirect
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_POST


@require_POST
def unit(request):
    """Show lengths in inches, or again in centimetres."""
    request.user.inches = not request.user.inches
    request.user.save(update_fields=["inches"])
    to = request.POST.get("next", "")
    return redirect(to if url_has_allowed_host_and_scheme(to, {request.get_host()}, request.is_secure()) else "term")
