from django.urls import reverse

from heath.planner.models import Plan, Workshop
from heath.testing import SchoolTestCase


def lines(*rows):
    """A form's columns of (material, role, colour, stems)."""
    return dict(
        zip(
            ("material", "role", "colour", "stems"), map(list, zip(*rows, strict=True)), strict=True
        )
    )


class Recipe(SchoolTestCase):
    def setUp(self):
        super().setUp()
        self.url = reverse("recipe", args=[self.brief.pk])

    def test_what_is_typed_is_kept_counted_and_priced(self):
        rows = (
            ("Snapdragon", "", "", ""),
            ("carnation", "mass", "red", "7"),
            ("Eucalyptus", "", "", ""),
            ("", "", "", ""),
        )
        sent = lines(*rows) | {"variant": "lavish", "pieces": "16", "prices": "Carnation, 20, £9"}
        self.client.post(self.url, sent)
        plan = Plan.objects.get()
        self.assertEqual([i["stems"] for i in plan.items], [None, 7, None])
        self.assertEqual((plan.variant, plan.pieces, plan.changed_by), ("lavish", 16, self.user))
        page = self.client.get(self.url)
        # Sixteen of seven are 112, with the reserve 124: seven bunches of twenty, 63.00 (by hand).
        for words in ("112 used", "£63.00", "no price", "The flowers make", "kinds of main flower"):
            self.assertContains(page, words)
        self.assertContains(
            self.client.get(reverse("plan", args=[self.brief.pk])), "7 Carnation, red"
        )

    def test_faults_are_told_and_the_rest_stands(self):
        sent = lines(("moonflower", "", "", ""), ("Carnation", "", "", "many")) | {
            "pieces": "a few",
            "prices": "Carnation, 20, 9\nnonsense",
        }
        page = self.client.post(self.url, sent, headers={"HX-Request": "true"})
        for words in (
            "No material is called “moonflower”",
            "How many stems of carnation",
            "How many pieces?",
            "Line 2:",
            "moonflower",
            "many",
        ):
            self.assertContains(page, words)
        # All of it is there after a reload, told of until it is mended; what can be read counts.
        again = self.client.get(self.url)
        for words in (
            "No material is called “moonflower”",
            'value="moonflower"',
            'value="many"',
            "How many stems of carnation",
            "Line 2:",
        ):
            self.assertContains(again, words)
        self.assertEqual([i["slug"] for i in Plan.objects.get().items], ["", "carnation"])
        self.assertIn("nonsense", Workshop.objects.get().prices)

    def test_poison_near_food_is_held_back_until_it_is_answered(self):
        self.brief.near = ["food"]
        self.brief.save()
        self.client.post(
            self.url,
            lines(("Carnation", "", "", "5"), ("Lily of the valley", "filler", "white", "3")),
        )
        page = self.client.get(self.url)
        self.assertContains(page, "Lily of the valley near food or drink: poisonous")
        self.assertNotContains(
            self.client.get(reverse("plan", args=[self.brief.pk])), "3 Lily of the valley"
        )
        answer, key = reverse("recipe-answer", args=[self.brief.pk]), "food:convallaria"
        self.assertContains(
            self.client.post(answer, {"key": key, "do": "stays", "words": "so"}, follow=True),
            "Write in a few words why you keep it",
        )
        self.assertEqual(Plan.objects.get().answers, {})
        self.client.post(
            answer,
            {
                "key": key,
                "do": "stays",
                "words": "It stands on the sill, two metres from the table.",
            },
        )
        self.assertEqual(Plan.objects.get().answers[key]["by"], self.user.shown_name)
        self.assertContains(
            self.client.get(reverse("plan", args=[self.brief.pk])), "3 Lily of the valley"
        )
        self.client.post(answer, {"key": key, "do": "again"})
        self.client.post(answer, {"key": key, "do": "out"})
        self.assertEqual([i["slug"] for i in Plan.objects.get().items], ["carnation"])

    def test_an_edible_bunch_asks_by_itself(self):
        self.brief.rule_set = "edible-and-herb-bunch"
        self.brief.save()
        self.client.post(self.url, lines(("Mint", "", "", ""), ("Foxglove", "", "", "1")))
        self.assertContains(self.client.get(self.url), "Foxglove in an edible bunch: poisonous")

    def test_the_brief_asks_where_it_will_stand(self):
        page = self.client.get(reverse("brief-change", args=[self.brief.pk]))
        for words in (
            "Near food or drink",
            "Where children reach it",
            "Where animals reach it",
            "Near candles or open flame",
            "Near lights or other electrics",
        ):
            self.assertContains(page, words)
