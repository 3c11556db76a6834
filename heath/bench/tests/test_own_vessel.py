from heath.assessment.photographs import add_photograph, see_photograph
from heath.assessment.reading import read
from heath.planner.models import Plan
from heath.planner.planned import stem_plan
from heath.returns.sheet import planned
from heath.shelf.models import Container
from heath.testing import SchoolTestCase, picture
from juniper.camera.capture import beside_card


class OwnVessel(SchoolTestCase):
    """A student's own vessel is as high as the reference card beside it tells, whatever height the
    brief names.
    """

    def made(self, named):
        self.brief.container_height_cm = named
        self.brief.save()
        piece = self.brief.pieces.order_by("student__sorting").first()
        if piece.photograph is None:
            photograph, _ = add_photograph(
                piece, beside_card(0, piece.code), "piece.jpg", self.user
            )
            see_photograph(photograph)
        return type(piece).objects.get(pk=piece.pk)

    def test_centimetres_follow_the_card(self):
        truth = picture(0).truth
        high, tall = truth["container"]["height_cm"], truth["plant"]["height_above_rim_cm"]
        piece = self.made(16)
        reading = read(piece)
        self.assertAlmostEqual(
            reading.brief.container_height_cm, high, delta=0.06 * high
        )  # a card reads long by its distance before the piece
        self.assertAlmostEqual(
            reading.findings["height_ratio"].value * reading.brief.container_height_cm,
            tall,
            delta=0.08 * tall,
        )
        Plan.objects.create(brief=piece.brief)
        self.assertIn("In this container, ", planned(piece, reading))
        plan, container = stem_plan(piece.brief, reading.brief)
        self.assertEqual(container.height, reading.brief.container_height_cm)
        self.assertGreater(plan.height, 1.2 * container.height)

    def test_one_as_high_as_the_brief_has_it_or_from_the_shelf_keeps_the_briefs_height(self):
        high = picture(0).truth["container"]["height_cm"]
        self.assertEqual(read(self.made(high)).brief.container_height_cm, high)
        self.brief.shelf_container = Container.objects.create(
            school=self.user.school, name="Tall cylinder", height_cm=16, width_cm=10
        )
        self.assertEqual(read(self.made(16)).brief.container_height_cm, 16)
