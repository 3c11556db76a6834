"""The key of a form that makes something."""

import secrets

from django import template
from django.utils.html import format_html

register = template.Library()


@register.simple_tag
def once():
    """A hidden field with a key by chance; see heath.people.once."""
    return format_html('<input type="hidden" name="once" value="{}">', secrets.token_urlsafe(16))
