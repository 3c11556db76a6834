import django.db.models.deletion
import heath.assessment.models.photographs
import juniper.photograph.code
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ("bench", "0011_marks_to_assessment_tables"),
        ("briefs", "0011_rule_set_and_shelf_container_named"),
        ('classes', '0002_class_of_a_school'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        # The tables are there already, renamed by intake 0009 and bench 0011.
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.CreateModel(
                    name="Piece",
                    fields=[
                        (
                            "id",
                            models.BigAutoField(
                                auto_created=True,
                                primary_key=True,
                                serialize=False,
                                verbose_name="ID",
                            ),
                        ),
                        (
                            "state",
                            models.CharField(
                                choices=[
                                    ("waiting", "waits for a photograph"),
                                    ("measuring", "being measured"),
                                    ("failed", "photograph cannot be used"),
                                    ("marking", "to be marked"),
                                    ("marked", "marked"),
                                    ("returned", "returned"),
                                ],
                                default="waiting",
                                max_length=12,
                            ),
                        ),
                        (
                            "code",
                            models.CharField(
                                default=juniper.photograph.code.new_code, max_length=8, unique=True
                            ),
                        ),
                        (
                            "dominant",
                            models.CharField(
                                blank=True,
                                choices=[
                                    ("", "none declared"),
                                    ("line", "line"),
                                    ("focal", "focal"),
                                    ("mass", "mass"),
                                    ("colour", "colour"),
                                    ("texture", "texture"),
                                ],
                                max_length=12,
                            ),
                        ),
                        ("reopened", models.BooleanField(default=False)),
                        ("revision", models.PositiveIntegerField(default=0)),
                        ("changed_at", models.DateTimeField(null=True)),
                        (
                            "brief",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.CASCADE,
                                related_name="pieces",
                                to="briefs.brief",
                            ),
                        ),
                        (
                            "changed_by",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.SET_NULL,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "student",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.CASCADE,
                                related_name="pieces",
                                to="classes.student",
                            ),
                        ),
                    ],
                ),
                migrations.CreateModel(
                    name="Photograph",
                    fields=[
                        (
                            "id",
                            models.BigAutoField(
                                auto_created=True,
                                primary_key=True,
                                serialize=False,
                                verbose_name="ID",
                            ),
                        ),
                        (
                            "view",
                            models.CharField(
                                choices=[
                                    ("front", "front"),
                                    ("side", "side"),
                                    ("back", "back"),
                                    ("top", "top"),
                                    ("seated", "seated eye"),
                                ],
                                default="front",
                                max_length=8,
                            ),
                        ),
                        ("current", models.BooleanField(default=True)),
                        (
                            "full",
                            models.FileField(
                                upload_to=heath.assessment.models.photographs.full_path
                            ),
                        ),
                        (
                            "screen",
                            models.FileField(
                                upload_to=heath.assessment.models.photographs.screen_path
                            ),
                        ),
                        (
                            "thumb",
                            models.FileField(
                                blank=True, upload_to=heath.assessment.models.photographs.thumb_path
                            ),
                        ),
                        (
                            "raster",
                            models.FileField(
                                blank=True,
                                upload_to=heath.assessment.models.photographs.raster_path,
                            ),
                        ),
                        ("raster_scale", models.FloatField(default=1.0)),
                        ("width", models.PositiveIntegerField()),
                        ("height", models.PositiveIntegerField()),
                        ("digest", models.CharField(db_index=True, max_length=64)),
                        ("size", models.PositiveBigIntegerField(default=0)),
                        ("taken", models.CharField(blank=True, max_length=60)),
                        ("camera", models.CharField(blank=True, max_length=60)),
                        ("focal", models.FloatField(default=0.9)),
                        ("card", models.JSONField(null=True)),
                        ("advice", models.JSONField(default=list)),
                        ("scene", models.JSONField(null=True)),
                        ("core_version", models.CharField(blank=True, max_length=20)),
                        ("fault", models.TextField(blank=True)),
                        ("added_at", models.DateTimeField(auto_now_add=True)),
                        (
                            "added_by",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.SET_NULL,
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "piece",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.CASCADE,
                                related_name="photographs",
                                to="assessment.piece",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ("-pk",),
                    },
                ),
                migrations.CreateModel(
                    name="Override",
                    fields=[
                        (
                            "id",
                            models.BigAutoField(
                                auto_created=True,
                                primary_key=True,
                                serialize=False,
                                verbose_name="ID",
                            ),
                        ),
                        ("rule", models.CharField(max_length=60)),
                        ("score", models.FloatField(null=True)),
                        ("old_score", models.FloatField(null=True)),
                        ("reason", models.CharField(max_length=300)),
                        ("taken_back", models.BooleanField(default=False)),
                        ("made_at", models.DateTimeField(auto_now_add=True)),
                        (
                            "made_by",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.SET_NULL,
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "replaces",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.SET_NULL,
                                related_name="+",
                                to="assessment.override",
                            ),
                        ),
                        (
                            "piece",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.CASCADE,
                                related_name="overrides",
                                to="assessment.piece",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ("pk",),
                    },
                ),
                migrations.CreateModel(
                    name="MarkChange",
                    fields=[
                        (
                            "id",
                            models.BigAutoField(
                                auto_created=True,
                                primary_key=True,
                                serialize=False,
                                verbose_name="ID",
                            ),
                        ),
                        ("old", models.FloatField(null=True)),
                        ("new", models.FloatField(null=True)),
                        ("why", models.TextField(blank=True)),
                        ("made_at", models.DateTimeField(auto_now_add=True)),
                        (
                            "made_by",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.SET_NULL,
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "piece",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.CASCADE,
                                related_name="mark_changes",
                                to="assessment.piece",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ("pk",),
                    },
                ),
                migrations.CreateModel(
                    name="Mark",
                    fields=[
                        (
                            "id",
                            models.BigAutoField(
                                auto_created=True,
                                primary_key=True,
                                serialize=False,
                                verbose_name="ID",
                            ),
                        ),
                        ("rule_set", models.CharField(max_length=60)),
                        ("rule_set_version", models.CharField(max_length=20)),
                        ("core_version", models.CharField(max_length=20)),
                        ("score", models.FloatField(null=True)),
                        ("verdict", models.JSONField()),
                        ("in_force", models.JSONField(null=True)),
                        ("accepted_at", models.DateTimeField(auto_now=True)),
                        (
                            "accepted_by",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.SET_NULL,
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "photograph",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.CASCADE,
                                to="assessment.photograph",
                            ),
                        ),
                        (
                            "piece",
                            models.OneToOneField(
                                on_delete=django.db.models.deletion.CASCADE,
                                related_name="mark",
                                to="assessment.piece",
                            ),
                        ),
                    ],
                ),
                migrations.CreateModel(
                    name="Cap",
                    fields=[
                        (
                            "id",
                            models.BigAutoField(
                                auto_created=True,
                                primary_key=True,
                                serialize=False,
                                verbose_name="ID",
                            ),
                        ),
                        (
                            "family",
                            models.CharField(
                                blank=True,
                                choices=[
                                    ("", "the whole"),
                                    ("proportion", "proportion"),
                                    ("balance", "balance"),
                                    ("focal", "focal"),
                                    ("colour", "colour"),
                                    ("line", "line"),
                                    ("finish", "finish"),
                                ],
                                max_length=12,
                            ),
                        ),
                        ("at", models.FloatField()),
                        ("reason", models.CharField(max_length=300)),
                        ("taken_back", models.BooleanField(default=False)),
                        ("made_at", models.DateTimeField(auto_now_add=True)),
                        (
                            "made_by",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.SET_NULL,
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "replaces",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.SET_NULL,
                                related_name="+",
                                to="assessment.cap",
                            ),
                        ),
                        (
                            "piece",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.CASCADE,
                                related_name="caps",
                                to="assessment.piece",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ("pk",),
                    },
                ),
                migrations.CreateModel(
                    name="Answer",
                    fields=[
                        (
                            "id",
                            models.BigAutoField(
                                auto_created=True,
                                primary_key=True,
                                serialize=False,
                                verbose_name="ID",
                            ),
                        ),
                        ("rule", models.CharField(max_length=60)),
                        ("value", models.FloatField()),
                        ("made_at", models.DateTimeField(auto_now=True)),
                        (
                            "made_by",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.SET_NULL,
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "piece",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.CASCADE,
                                related_name="answers",
                                to="assessment.piece",
                            ),
                        ),
                    ],
                ),
                migrations.CreateModel(
                    name="PieceSnapshot",
                    fields=[
                        (
                            "id",
                            models.BigAutoField(
                                auto_created=True,
                                primary_key=True,
                                serialize=False,
                                verbose_name="ID",
                            ),
                        ),
                        ("key", models.CharField(max_length=120)),
                        ("score", models.FloatField(null=True)),
                        ("measures", models.JSONField(default=dict)),
                        ("plant", models.TextField(blank=True)),
                        ("vessel", models.TextField(blank=True)),
                        ("container_cm", models.FloatField()),
                        ("left", models.FloatField()),
                        ("right", models.FloatField()),
                        ("top", models.FloatField()),
                        ("bottom", models.FloatField()),
                        ("upright", models.CharField(max_length=120)),
                        (
                            "photograph",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.CASCADE,
                                to="assessment.photograph",
                            ),
                        ),
                        (
                            "piece",
                            models.OneToOneField(
                                on_delete=django.db.models.deletion.CASCADE,
                                related_name="snapshot",
                                to="assessment.piece",
                            ),
                        ),
                    ],
                ),
                migrations.CreateModel(
                    name="Remark",
                    fields=[
                        (
                            "id",
                            models.BigAutoField(
                                auto_created=True,
                                primary_key=True,
                                serialize=False,
                                verbose_name="ID",
                            ),
                        ),
                        ("x", models.FloatField(null=True)),
                        ("y", models.FloatField(null=True)),
                        ("words", models.CharField(max_length=300)),
                        ("taken_back", models.BooleanField(default=False)),
                        ("made_at", models.DateTimeField(auto_now_add=True)),
                        (
                            "made_by",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.SET_NULL,
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "photograph",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.CASCADE,
                                related_name="remarks",
                                to="assessment.photograph",
                            ),
                        ),
                        (
                            "piece",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.CASCADE,
                                related_name="remarks",
                                to="assessment.piece",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ("pk",),
                    },
                ),
                migrations.CreateModel(
                    name="Correction",
                    fields=[
                        (
                            "id",
                            models.BigAutoField(
                                auto_created=True,
                                primary_key=True,
                                serialize=False,
                                verbose_name="ID",
                            ),
                        ),
                        ("gesture", models.CharField(max_length=40)),
                        (
                            "kind",
                            models.CharField(
                                choices=[
                                    ("handle", "handle"),
                                    ("brush", "brush"),
                                    ("bloom", "bloom"),
                                    ("stem", "stem"),
                                    ("colour", "colour"),
                                    ("container", "container"),
                                ],
                                default="handle",
                                max_length=9,
                            ),
                        ),
                        (
                            "handle",
                            models.CharField(
                                blank=True,
                                choices=[
                                    ("rim", "rim"),
                                    ("base", "base"),
                                    ("rim_left", "left end of the rim"),
                                    ("rim_right", "right end of the rim"),
                                    ("focal", "focal point"),
                                ],
                                max_length=12,
                            ),
                        ),
                        ("x", models.FloatField(null=True)),
                        ("y", models.FloatField(null=True)),
                        ("what", models.JSONField(null=True)),
                        ("undone", models.BooleanField(default=False)),
                        ("made_at", models.DateTimeField(auto_now_add=True)),
                        (
                            "made_by",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.SET_NULL,
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "photograph",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.CASCADE,
                                related_name="corrections",
                                to="assessment.photograph",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ("pk",),
                        "constraints": [
                            models.UniqueConstraint(
                                fields=("photograph", "gesture"), name="one_correction_a_gesture"
                            )
                        ],
                    },
                ),
                migrations.AddIndex(
                    model_name="piece",
                    index=models.Index(fields=["brief", "state"], name="pieces_by_brief_and_state"),
                ),
                migrations.AddIndex(
                    model_name="piece",
                    index=models.Index(
                        condition=models.Q(("state", "returned"), _negated=True),
                        fields=["state"],
                        name="open_pieces",
                    ),
                ),
                migrations.AddConstraint(
                    model_name="piece",
                    constraint=models.UniqueConstraint(
                        fields=("brief", "student"), name="one_piece_each"
                    ),
                ),
                migrations.AddConstraint(
                    model_name="answer",
                    constraint=models.UniqueConstraint(
                        fields=("piece", "rule"), name="one_answer_a_check"
                    ),
                ),
            ],
        ),
    ]
