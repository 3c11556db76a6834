from django.contrib.postgres.operations import TrigramExtension
from django.db import migrations


class Migration(migrations.Migration):
    """Names are found though they are misspelt: PostgreSQL compares their letter triples."""

    dependencies = [("classes", "0004_levels_and_school_numbers")]
    operations = [TrigramExtension()]
