import contextlib
import io
import struct
import tracemalloc
import unittest
import zlib

import numpy as np
import pillow_heif
from PIL import Image, ImageCms

from juniper.camera import frame, take
from juniper.photograph import UnusablePhotograph, read_photograph, renditions

TURNS = {
    1: None,
    2: Image.Transpose.FLIP_LEFT_RIGHT,
    3: Image.Transpose.ROTATE_180,
    4: Image.Transpose.FLIP_TOP_BOTTOM,
    5: Image.Transpose.TRANSPOSE,
    6: Image.Transpose.ROTATE_90,
    7: Image.Transpose.TRANSVERSE,
    8: Image.Transpose.ROTATE_270,
}


def scene(width=400, height=600) -> Image.Image:
    """Four coloured quarters: which is where tells the way up."""
    pixels = np.zeros((height, width, 3), np.uint8)
    pixels[: height // 2, : width // 2] = (200, 40, 40)
    pixels[: height // 2, width // 2 :] = (40, 180, 60)
    pixels[height // 2 :, : width // 2] = (50, 60, 200)
    pixels[height // 2 :, width // 2 :] = (220, 210, 60)
    return Image.fromarray(pixels)


def packed(image, kind, **options) -> bytes:
    out = io.BytesIO()
    image.save(out, kind, **options)
    return out.getvalue()


def corner(photograph):
    return photograph.pixels[10, 10].astype(int)


class Formats(unittest.TestCase):
    def test_each_format_is_read(self):
        pillow_heif.register_heif_opener()
        for kind, name in (("JPEG", "JPEG"), ("PNG", "PNG"), ("WEBP", "WEBP"), ("HEIF", "HEIC")):
            with self.subTest(kind):
                photo = read_photograph(packed(scene(), kind))
                self.assertEqual((photo.format, photo.width, photo.height), (name, 400, 600))
                self.assertLess(np.abs(corner(photo) - (200, 40, 40)).max(), 14)

    def test_upright_whatever_the_exif_says(self):
        # CIPA DC-008 (EXIF 2.32), tag 0x0112: the eight orientations.
        for orientation, turn in TURNS.items():
            stored = scene() if turn is None else scene().transpose(turn)
            exif = Image.Exif()
            exif[0x0112] = orientation
            for kind in ("JPEG", "PNG", "WEBP"):
                with self.subTest(orientation=orientation, kind=kind):
                    photo = read_photograph(packed(stored, kind, exif=exif))
                    self.assertEqual((photo.width, photo.height), (400, 600))
                    self.assertLess(np.abs(corner(photo) - (200, 40, 40)).max(), 20)

    def test_changed_bytes_in_a_jpeg_are_noticed(self):
        # ITU-T T.81: a changed byte throws the entropy coding out of step until the next restart;
        # some changes cannot be told.
        whole = take(frame(30)).data
        read_photograph(whole)
        noticed = 0
        for place in np.linspace(0.1, 0.9, 20):
            changed = bytearray(whole)
            changed[int(place * len(whole))] ^= 0x55
            with contextlib.suppress(UnusablePhotograph):
                read_photograph(bytes(changed))
                continue
            noticed += 1
        self.assertGreaterEqual(noticed, 8)

    def test_location_and_the_rest_of_the_metadata_are_left_behind(self):
        exif = Image.Exif()
        exif[0x0110] = "A camera"
        exif.get_ifd(0x8825).update({1: "N", 2: (51.0, 30.0, 0.0)})
        exif.get_ifd(0x8769)[0x9003] = "2026:11:20 19:30:00"
        data = packed(
            scene(),
            "JPEG",
            exif=exif,
            comment=b"my home",
            xmp=b"<x:xmpmeta>my home</x:xmpmeta>",
            dpi=(240, 240),
        )
        for told in (b"A camera", b"my home"):
            self.assertIn(told, data)
        photo = read_photograph(data)
        self.assertEqual((photo.camera, photo.taken), ("A camera", "2026:11:20 19:30:00"))
        copy = renditions(data, only="thumb")["thumb"]
        self.assertNotIn(b"Exif", copy)
        self.assertNotIn(b"A camera", copy)
        for copy in renditions(data).values():
            self.assertNotIn(b"my home", copy)
            self.assertEqual(
                set(Image.open(io.BytesIO(copy)).info),
                {"jfif", "jfif_version", "jfif_unit", "jfif_density"},
            )
        self.assertEqual(max(Image.open(io.BytesIO(copy)).size), 360)

    def test_odd_modes(self):
        grey16 = Image.fromarray(np.asarray(scene().convert("L")).astype(np.uint16) * 257)
        clear = scene().convert("RGBA")
        clear.putalpha(Image.new("L", clear.size, 0))
        for name, data, first in (
            ("CMYK", packed(scene().convert("CMYK"), "JPEG"), (200, 40, 40)),
            ("16-bit", packed(grey16, "PNG"), None),
            ("greyscale", packed(scene().convert("L"), "JPEG"), None),
            ("palette", packed(scene().convert("P"), "PNG"), (200, 40, 40)),
            ("transparent", packed(clear, "PNG"), (255, 255, 255)),
        ):
            with self.subTest(name):
                photo = read_photograph(data)
                self.assertEqual(photo.pixels.shape[2], 3)
                self.assertEqual(Image.open(io.BytesIO(renditions(data)["thumb"])).size, (240, 360))
                if first is None:
                    self.assertFalse(photo.has_colour)
                    self.assertIn("no-colour", [a.code for a in photo.advice])
                else:
                    self.assertLess(np.abs(corner(photo) - first).max(), 32)

    def test_animated_uses_the_first_picture_and_says_so(self):
        frames = [scene(), Image.new("RGB", (400, 600), "black")]
        photo = read_photograph(
            packed(frames[0], "WEBP", save_all=True, append_images=frames[1:], duration=80)
        )
        self.assertIn("animated", [a.code for a in photo.advice])
        self.assertLess(np.abs(corner(photo) - (200, 40, 40)).max(), 20)

    def test_wrong_ending_is_read_and_remarked_on(self):
        photo = read_photograph(packed(scene(), "PNG"), "piece.jpg")
        self.assertIn("ending", [a.code for a in photo.advice])

    def test_embedded_profile_is_brought_to_srgb(self):
        srgb = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
        photo = read_photograph(packed(scene(), "PNG", icc_profile=srgb))
        self.assertLess(np.abs(corner(photo) - (200, 40, 40)).max(), 3)
        broken = read_photograph(packed(scene(), "PNG", icc_profile=b"not a profile"))
        self.assertLess(np.abs(corner(broken) - (200, 40, 40)).max(), 3)


class Refused(unittest.TestCase):
    def refused(self, data, words):
        with self.assertRaisesRegex(UnusablePhotograph, words):
            read_photograph(data)

    def test_clear_sentences(self):
        whole = packed(scene(900, 1200), "JPEG")
        self.refused(b"", "empty")
        self.refused(b"%PDF-1.7 not a picture" * 40, "not a photograph")
        self.refused(whole[: len(whole) // 2], "cut short")
        self.refused(packed(scene(), "GIF"), "not a photograph")
        self.refused(packed(scene(100, 100), "PNG"), "only 100 by 100")
        self.refused(packed(scene(240, 4800), "PNG"), "a strip of 240 by 4800 pixels")
        self.refused(b"\xff" * 40_000_001, "40 MB is the most")

    def test_a_decompression_bomb_is_refused_before_it_is_decoded(self):
        def chunk(kind, body):
            return (
                struct.pack(">I", len(body))
                + kind
                + body
                + struct.pack(">I", zlib.crc32(kind + body))
            )

        head = struct.pack(">IIBBBBB", 50_000, 50_000, 8, 2, 0, 0, 0)
        bomb = (
            b"\x89PNG\r\n\x1a\n"
            + chunk(b"IHDR", head)
            + chunk(b"IDAT", zlib.compress(bytes(1_000_000)))
            + chunk(b"IEND", b"")
        )
        tracemalloc.start()
        self.refused(bomb, "2500 megapixels")
        self.assertLess(tracemalloc.get_traced_memory()[1], 20_000_000)
        tracemalloc.stop()
