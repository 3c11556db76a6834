import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np

from juniper.camera.arranging import COLOURS, FORMS, Piece, arrange, surfaces
from juniper.camera.containers import SHELF, built
from juniper.camera.flowers import GOLDEN, HEADS, MORE_HEADS, MORE_SPIKES
from juniper.camera.greenery import MORE_FILLERS
from juniper.camera.mesh import about_z, ball, box, frame, joined, tube, tube_upright, write_ply
from juniper.camera.random_pieces import AIRY, HARDER, random_piece

PLAIN = Piece(
    container="tall cylinder",
    glaze="#2f5d74",
    form="symmetrical triangle",
    height=1.7,
    spread=0.9,
    scheme="analogous",
    focal=("dahlia", "red"),
    mass=(("rose", "orange"), ("daisy", "amber")),
    line=("delphinium", "apricot"),
)


def volume(mesh) -> float:
    """Volume of a closed mesh by the divergence theorem (common practice)."""
    a, b, c = (mesh.corners[mesh.faces[:, i]] for i in range(3))
    return abs(float((a * np.cross(b, c)).sum() / 6))


class Meshes(unittest.TestCase):
    def test_a_ball_and_a_box_hold_what_geometry_says(self):
        self.assertAlmostEqual(
            volume(ball((1, 2, 3), 2.0, (0.5, 0.5, 0.5), rows=60)), 4 / 3 * np.pi * 8, delta=0.2
        )
        self.assertAlmostEqual(volume(box((0, 0, 0), (2, 3, 4), (0.5, 0.5, 0.5))), 24.0, places=6)

    def test_a_turned_cylinder(self):
        # By the divergence theorem the side alone carries two thirds of the volume, the open lid
        # the rest.
        z = np.linspace(0, 6, 40)
        side = tube_upright(
            np.column_stack([0 * z, 0 * z, z]), np.full(40, 2.0), (0.5, 0.5, 0.5), 180
        )
        self.assertAlmostEqual(volume(side), 2 / 3 * np.pi * 2**2 * 6, delta=0.05)

    def test_turns_are_turns(self):
        for way in ((0, 0, 1), (1, 0, 0), (0.3, -0.8, 0.2)):
            turn = frame(way)
            np.testing.assert_allclose(turn @ turn.T, np.eye(3), atol=1e-12)
            np.testing.assert_allclose(
                turn @ [0, 0, 1], np.array(way) / np.linalg.norm(way), atol=1e-12
            )
            self.assertAlmostEqual(np.linalg.det(turn), 1.0)
        np.testing.assert_allclose(about_z(90) @ [1, 0, 0], [0, 1, 0], atol=1e-12)

    def test_a_tube_keeps_its_radius(self):
        path = np.column_stack([np.linspace(0, 5, 20), np.sin(np.linspace(0, 5, 20)), np.zeros(20)])
        mesh = tube(path, 0.3, (0.2, 0.4, 0.1), sides=9)
        far = np.linalg.norm(mesh.corners.reshape(20, 9, 3) - path[:, None], axis=2)
        np.testing.assert_allclose(far, 0.3, atol=1e-9)

    def test_ply_as_turk_wrote_it_down(self):
        # Turk 1994, "The PLY polygon file format": a text head, then the elements in its order.
        mesh = joined(
            [ball((0, 0, 0), 1.0, (0.2, 0.3, 0.4)), box((0, 0, 0), (1, 1, 1), (0.5, 0.5, 0.5))]
        )
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "a.ply"
            write_ply(mesh, path)
            data = path.read_bytes()
        head, _, body = data.partition(b"end_header\n")
        self.assertTrue(head.startswith(b"ply\nformat binary_little_endian 1.0\n"))
        self.assertIn(f"element vertex {len(mesh.corners)}\n".encode(), head)
        self.assertEqual(len(body), 24 * len(mesh.corners) + 13 * len(mesh.faces))
        np.testing.assert_allclose(
            np.frombuffer(body[:24], "<f4"), [*mesh.corners[0], *mesh.colours[0]], rtol=1e-6
        )


class Shelf(unittest.TestCase):
    def test_containers_stand_on_the_table_at_their_size(self):
        for name, container in SHELF.items():
            corners = np.vstack(
                [
                    m.corners
                    for kind, m in built(container, "#808080", np.random.default_rng(1))
                    if kind != "water"
                ]
            )
            with self.subTest(name):
                self.assertAlmostEqual(corners[:, 2].min(), 0.0, delta=0.05)
                self.assertAlmostEqual(corners[:, 2].max(), container.height_cm, delta=0.2)
                rim = corners[corners[:, 2] > container.height_cm - 0.05]
                self.assertAlmostEqual(np.abs(rim[:, 0]).max(), container.rim_cm, delta=0.25)

    def test_water_stays_inside_the_glass_and_below_its_rim(self):
        glass = SHELF["clear glass cylinder"]
        parts = dict(built(glass, "#dde6e2", np.random.default_rng(1)))
        water = parts["water"].corners
        self.assertLess(np.hypot(water[:, 0], water[:, 1]).max(), glass.rim_cm)
        # Handbook of the trade, 5: about three quarters full.
        self.assertAlmostEqual(water[:, 2].max() / glass.height_cm, 0.75, delta=0.06)


class Arranging(unittest.TestCase):
    def test_the_golden_angle(self):
        self.assertAlmostEqual(np.degrees(GOLDEN), 137.508, places=3)  # Vogel 1979

    def test_heads_have_their_size(self):
        for kind, make in (HEADS | MORE_HEADS).items():
            corners = np.vstack(
                [m.corners for _, m in make(np.random.default_rng(3), 4.0, "#b5202a")]
            )
            with self.subTest(kind):
                self.assertTrue(
                    (2.2 if kind == "tulip" else 3.6)
                    < np.hypot(corners[:, 0], corners[:, 1]).max()
                    < 5.4
                )

    def test_harder_lessons_have_the_kinds_that_are_not_on_the_roll(self):
        pieces = [random_piece(HARDER + n) for n in range(60)]
        grown = {
            kind
            for p in pieces
            for kind, _ in (p.focal, *p.mass, *filter(None, (p.line, p.filler)))
        }
        self.assertLessEqual({*MORE_HEADS, *MORE_SPIKES, *MORE_FILLERS}, grown)
        plain = {
            kind for n in range(60) for kind, _ in (random_piece(n).focal, *random_piece(n).mass)
        }
        self.assertFalse(plain & {*MORE_HEADS})
        one = next(
            p
            for p in pieces
            if p.form not in ("three-stem", "grouped vessels")
            and p.filler
            and p.filler[0] in MORE_FILLERS
        )
        self.assertIn(one.filler[0], {i.kind for i in arrange(one, 3).items})

    def test_airy_lessons_have_filler_white_more_often_than_not_and_green_flowers(self):
        pieces = [random_piece(AIRY + n) for n in range(60)]
        self.assertTrue(all(p.filler for p in pieces))
        self.assertGreater(sum(p.filler[1] == "white" for p in pieces), 30)
        self.assertGreater(sum(any(c in ("green", "lime") for _, c in p.mass) for p in pieces), 15)

    def test_every_form_reaches_about_its_height_and_width(self):
        for form in FORMS:
            if form == "grouped vessels":
                continue
            done = arrange(replace(PLAIN, form=form), 3)
            tips = np.array([i.tip for i in done.items]) - [0, 0, done.container.height_cm]
            with self.subTest(form):
                self.assertAlmostEqual(tips[:, 2].max() / done.plant_cm, 1.0, delta=0.16)
                self.assertLess(
                    np.abs(tips[:, 0]).max(), 1.2 * max(done.plant_cm, 0.9 * done.plant_cm)
                )

    def test_stems_start_inside_the_container_and_heads_do_not_overlap(self):
        done = arrange(PLAIN, 5)
        for item in done.items:
            self.assertLess(np.hypot(*item.foot[:2]), done.container.rim_cm)
            self.assertLess(item.foot[2], done.container.height_cm)
        heads = [i for i in done.items if i.kind == "rose"]
        self.assertGreater(len(heads), 5)
        for n, one in enumerate(heads):
            for other in heads[n + 1 :]:
                self.assertGreater(
                    np.linalg.norm(one.tip - other.tip), 0.8 * (one.size_cm + other.size_cm)
                )

    def test_faults_are_arranged(self):
        def items(fault):
            return arrange(replace(PLAIN, faults=(fault,)), 5).items

        self.assertEqual([i for i in items("no focal") if i.role == "focal"], [])
        self.assertIn("accent", [i.role for i in items("stray accent")])
        self.assertIn("holding", [i.label for i in items("visible mesh")])
        focal = [i.tip[2] for i in items("focal too high") if i.role == "focal"]
        self.assertGreater(np.mean(focal) - 24, 0.5 * 1.7 * 24)
        mass = np.array([i.tip[0] for i in items("off-balance") if i.role == "mass"])
        self.assertLess(mass.mean(), -0.1 * 0.9 * 1.7 * 24 / 2)

    def test_the_same_seed_is_the_same_piece_and_views_turn_it(self):
        one, again, other = arrange(PLAIN, 5), arrange(PLAIN, 5), arrange(PLAIN, 6)
        self.assertTrue(
            all((a.tip == b.tip).all() for a, b in zip(one.items, again.items, strict=True))
        )
        self.assertFalse(
            all((a.tip == b.tip).all() for a, b in zip(one.items, other.items, strict=False))
        )
        front, back = (
            np.vstack([m.corners for _, _, n, m in surfaces(one, turn) if n >= 0])
            for turn in (0, 180)
        )
        np.testing.assert_allclose(front * [-1, -1, 1], back, atol=1e-9)

    def test_colours_are_named_as_on_the_artists_circle(self):
        # Handbook of the trade, 3: twelve steps; white and cream stand outside.
        steps = {
            "yellow",
            "yellow-orange",
            "orange",
            "red-orange",
            "red",
            "red-violet",
            "violet",
            "blue-violet",
            "blue",
            "blue-green",
            "green",
            "yellow-green",
            "white",
            "cream",
        }
        self.assertLessEqual({hue for _, hue in COLOURS.values()}, steps)
