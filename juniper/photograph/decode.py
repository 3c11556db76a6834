"""Photograph bytes to pixels: limits before decoding, upright, sRGB, metadata left behind."""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass

import cv2
import numpy as np
import pillow_heif
import simplejpeg
from PIL import ExifTags, Image, ImageCms, ImageOps

from juniper.background import in_background
from juniper.photograph.card import CARD_SIDE, USUAL_FOCAL, Card, find_card
from juniper.photograph.correction import balanced, without_card
from juniper.photograph.quality import Advice, figures, picture_advice

pillow_heif.register_heif_opener()

LARGEST_BYTES = 40_000_000  # bytes; phones write up to a quarter of it
LARGEST_PIXELS = 60_000_000  # pixels; phones take up to 50 million
SMALLEST_SIDE = 240  # pixels; under it handles cannot be put to a hundredth
# longer side over shorter: beyond it are strips and panoramas, no pictures of a piece (common
# practice)
LONGEST_SHAPE = 5
WORKING_SIDE = 960  # pixels of the longer side
FORMATS = ("JPEG", "PNG", "WEBP", "HEIF")
NAMES = {"HEIF": "HEIC", "MPO": "JPEG"}
ENDINGS = {
    "JPEG": {"jpg", "jpeg", "jpe"},
    "PNG": {"png"},
    "WEBP": {"webp"},
    "HEIC": {"heic", "heif"},
}

# Sizes are checked by read_photograph itself, by a plainer sentence than Pillow's warning.
Image.MAX_IMAGE_PIXELS = None


class UnusablePhotograph(ValueError):
    """The bytes cannot be used as a photograph; the message tells the person what to do."""


@dataclass(frozen=True)
class Photograph:
    """An upright photograph, made ready to be seen.

    `pixels` is uint8 (h, w, 3) sRGB at working size, its light set right by the reference card's
    greys and the card painted out when one stands in it; `width` and `height` are those of the full
    upright picture, and `scale` is working size over full size. `taken` and `camera` are all that
    is kept of the metadata; the place is not. `focal` is the focal length over the longer side,
    told by the camera or the usual one.
    """

    pixels: np.ndarray
    width: int
    height: int
    scale: float
    format: str
    taken: str | None = None
    camera: str | None = None
    advice: tuple[Advice, ...] = ()
    has_colour: bool = True
    card: Card | None = None
    focal: float = USUAL_FOCAL

    @property
    def knows_focal(self) -> bool:
        """Whether the camera told its focal length."""
        return self.focal != USUAL_FOCAL


def _open(data: bytes) -> Image.Image:
    """Header only: kind and size are checked before anything is decoded."""
    if not data:
        raise UnusablePhotograph("The file is empty. Choose the photograph again.")
    if len(data) > LARGEST_BYTES:
        raise UnusablePhotograph(
            f"The file has {len(data) / 1e6:.0f} MB; {LARGEST_BYTES // 1_000_000} MB is the most. "
            "Save the photograph at a lower quality and add it again."
        )
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            image = Image.open(io.BytesIO(data), formats=FORMATS)
    except Exception as error:
        raise UnusablePhotograph(
            "This is not a photograph that can be read. Use JPEG, PNG, WebP or HEIC."
        ) from error
    width, height = image.size
    if width * height > LARGEST_PIXELS:
        raise UnusablePhotograph(
            f"The picture has {width * height / 1e6:.0f} megapixels; {LARGEST_PIXELS // 1_000_000}"
            " is the most. Make it smaller and add it again."
        )
    if min(width, height) < SMALLEST_SIDE:
        raise UnusablePhotograph(
            f"The picture is only {width} by {height} pixels; each side needs {SMALLEST_SIDE} at"
            " least. Add the photograph as the camera made it."
        )
    if max(width, height) > LONGEST_SHAPE * min(width, height):
        raise UnusablePhotograph(
            f"The picture is a strip of {width} by {height} pixels. Add the photograph as the"
            " camera made it, with the whole piece in it."
        )
    return image


DAMAGED = (
    "The file is damaged or cut short: the picture in it is not whole. Copy it from the camera"
    " again."
)


def _check_whole(data: bytes) -> None:
    """Raises UnusablePhotograph for a JPEG whose changed bytes a lenient decoder would pass over,
    and shift or stain the picture.
    """
    try:
        simplejpeg.decode_jpeg(
            data,
            "GRAY",
            fastdct=True,
            min_width=SMALLEST_SIDE,
            min_height=SMALLEST_SIDE,
            strict=True,
        )
    except ValueError as error:
        if str(error).startswith("Corrupt JPEG data"):
            # anything else is left for the real decoder to judge
            raise UnusablePhotograph(DAMAGED) from error


def _load(image: Image.Image, smallest: int | None) -> Image.Image:
    if smallest and image.format == "JPEG":
        # Lets the JPEG decoder skip detail that the working size would throw away.
        scale = smallest / max(image.size)
        image.draft(None, (int(image.width * scale), int(image.height * scale)))
    try:
        image.load()
    except Exception as error:
        raise UnusablePhotograph(DAMAGED) from error
    return image


def _eight_bit(image: Image.Image) -> Image.Image:
    """A picture of wide grey values as one of 8 bits, upright; any other as it is. Wide ones cannot
    be made smaller by every filter.
    """
    if image.mode not in ("I;16", "I;16B", "I;16L", "I", "F"):
        return image
    wide = np.nan_to_num(np.asarray(_upright(image), dtype=np.float64))
    top = 65535.0 if wide.max() > 255 else 255.0
    return Image.fromarray(np.clip(wide * (255.0 / top), 0, 255).astype(np.uint8), "L")


def _srgb(image: Image.Image) -> Image.Image:
    """8-bit sRGB, whatever mode and embedded profile came in; transparency is laid on white."""
    profile = image.info.get("icc_profile")
    if image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info:
        image = image.convert("RGBA")
        image = Image.alpha_composite(Image.new("RGBA", image.size, "white"), image)
    if profile and image.mode in ("RGB", "RGBA", "CMYK", "L"):
        try:
            source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
            if image.mode == "RGBA":
                image = image.convert("RGB")
            made = ImageCms.profileToProfile(
                image, source, ImageCms.createProfile("sRGB"), outputMode="RGB"
            )
            image = made or image
        except (ImageCms.PyCMSError, OSError, ValueError):
            pass  # a broken profile is as good as none
    return image.convert("RGB")


@dataclass(frozen=True)
class _Metadata:
    """What is taken from a file's metadata; the rest is left behind."""

    taken: str | None = None
    camera: str | None = None
    turned: bool = False
    focal: float = USUAL_FOCAL


def _metadata(image: Image.Image) -> _Metadata:
    try:
        exif = image.getexif()
        more = exif.get_ifd(ExifTags.IFD.Exif)
        focal = more.get(ExifTags.Base.FocalLengthIn35mmFilm)
        return _Metadata(
            taken=_plain(
                more.get(ExifTags.Base.DateTimeOriginal) or exif.get(ExifTags.Base.DateTime)
            ),
            camera=_plain(exif.get(ExifTags.Base.Model)),
            turned=exif.get(ExifTags.Base.Orientation, 1) in (5, 6, 7, 8)
            and image.format != "HEIF",
            focal=focal / 36 if isinstance(focal, int) and 10 <= focal <= 300 else USUAL_FOCAL,
        )
    except Exception:
        # metadata may hold anything, and nothing in it is worth losing the picture for
        return _Metadata()


def _upright(image: Image.Image) -> Image.Image:
    """Turned as its metadata says, when that can be read."""
    try:
        return ImageOps.exif_transpose(image)
    except Exception:
        return image


@dataclass(frozen=True, eq=False)
class _Decoded:
    """A file's picture, upright, sRGB and no larger than was asked for; `full` the size (width,
    height) of the upright whole.
    """

    image: Image.Image
    full: tuple[int, int]
    metadata: _Metadata
    mode: str
    kind: str
    advice: tuple[Advice, ...]


def _decoded(data: bytes, name: str, most: int, judge: bool) -> _Decoded:
    """Decode a file once, its longer side at most `most` pixels. Raises UnusablePhotograph with a
    sentence for the user.
    """
    image = _open(data)
    width, height = image.size
    advice = []
    kind = NAMES.get(image.format or "", image.format or "")
    ending = name.rsplit(".", 1)[-1].lower() if "." in name else ""
    if ending and ending not in ENDINGS[kind]:
        advice.append(
            Advice(
                "ending",
                f"The file is called .{ending} but holds a {kind} picture; it was read as {kind}.",
            )
        )
    if getattr(image, "n_frames", 1) > 1 and image.format in ("PNG", "WEBP"):
        advice.append(Advice("animated", "The file moves; its first picture was used."))
    mode = image.mode
    if image.format == "JPEG" and judge:
        whole = in_background(_check_whole, data)
        image = _load(image, most)
        whole.result()
    else:
        image = _load(image, most)
    metadata = _metadata(image)
    image = _eight_bit(image)
    image.thumbnail((most, most), Image.Resampling.BOX, reducing_gap=None)
    image = _srgb(_upright(image))
    full = (height, width) if metadata.turned else (width, height)
    return _Decoded(image, full, metadata, mode, kind, tuple(advice))


def read_photograph(
    data: bytes,
    name: str = "",
    side: int = WORKING_SIDE,
    judge: bool = True,
    card: Card | None = None,
) -> Photograph:
    """Read photograph bytes at working size (longer side at most `side` pixels), judge them and
    correct them by their card.

    `name` is the file's name, used only to remark on a wrong ending. Without `judge` light and
    sharpness are not measured, as for a copy made of a picture that was judged when it came, and
    the card is the one given, as it was found then. Raises UnusablePhotograph with a sentence for
    the user. EXIF orientation (CIPA DC-008) is applied to JPEG, PNG and WebP; the HEIC reader turns
    pictures itself.
    """
    return _photograph(_decoded(data, name, CARD_SIDE, judge), side, judge, card)


def _photograph(
    decoded: _Decoded, side: int = WORKING_SIDE, judge: bool = True, known: Card | None = None
) -> Photograph:
    """The photograph of a decoded file, whose card is searched for where it is judged."""
    image, (width, height), metadata = decoded.image, decoded.full, decoded.metadata
    if max(image.size) > CARD_SIDE:
        image = image.copy()
        image.thumbnail((CARD_SIDE, CARD_SIDE), Image.Resampling.BOX, reducing_gap=None)
    large, advice = np.asarray(image), list(decoded.advice)
    searched = (
        in_background(find_card, large, large.shape[1] / width, metadata.focal) if judge else None
    )
    judged = figures(large) if judge else None
    shrink = min(1.0, side / max(large.shape[:2]))
    pixels = (
        cv2.resize(large, None, fx=shrink, fy=shrink, interpolation=cv2.INTER_AREA)
        if shrink < 1
        else large
    )
    scale = pixels.shape[1] / width
    grey = (
        decoded.mode in ("1", "L", "LA", "I", "I;16", "I;16B", "I;16L", "F") or _spread(pixels) <= 6
    )
    if grey:
        advice.append(
            Advice("no-colour", "The picture has no colour: colours are not judged from it.")
        )
    if min(width, height) < 700:
        advice.append(
            Advice(
                "pixels",
                f"The picture is only {width} by {height} pixels: fine stems may be missed.",
            )
        )
    card = known if searched is None else searched.result()
    if judged is not None:
        advice += picture_advice(judged.by_card(card))
    if card is not None and card.markers:
        pixels = without_card(pixels, card, scale)
        if card.white is not None and not grey:
            pixels = balanced(pixels, card.white)
    return Photograph(
        pixels=pixels,
        width=width,
        height=height,
        scale=scale,
        format=decoded.kind,
        taken=metadata.taken,
        camera=metadata.camera,
        advice=tuple(advice),
        has_colour=not grey,
        card=card,
        focal=metadata.focal,
    )


def _spread(pixels: np.ndarray) -> int:
    """Largest difference between a pixel's channels, on every third row and column."""
    few = pixels[::3, ::3].astype(np.int16)
    red, green, blue = few[..., 0], few[..., 1], few[..., 2]
    return int(max(np.abs(red - green).max(), np.abs(green - blue).max(), np.abs(red - blue).max()))


def _plain(value) -> str | None:
    """A metadata text fit for a page: printable, short, or nothing."""
    if not isinstance(value, str):
        return None
    text = "".join(c for c in value if c.isprintable()).strip()[:60]
    return text or None


# Copies made of each photograph: longer side at most, JPEG quality.
RENDITIONS = {"full": (4800, 92), "screen": (1600, 88), "wall": (1000, 84), "thumb": (360, 84)}


def read_with_copies(data: bytes, name: str = "") -> tuple[Photograph, Copies]:
    """A photograph that has come in, and the copies that can be kept of it: decoded once, its card
    searched once. Raises UnusablePhotograph.
    """
    decoded = _decoded(data, name, RENDITIONS["full"][0], judge=True)
    return _photograph(decoded), Copies(decoded.image)


@dataclass(frozen=True, eq=False)
class Copies:
    """A decoded picture, of which copies are made as they are needed: upright sRGB JPEGs without
    metadata.
    """

    image: Image.Image

    def made(self, only: str = "") -> dict[str, bytes]:
        """A copy for each step of RENDITIONS, or `only` one of them."""
        # Made of its pixels alone: comments, profiles and whatever else a file carries stay behind.
        image, out = Image.fromarray(np.asarray(self.image)), {}
        for name, (side, quality) in RENDITIONS.items():
            if only not in ("", name):
                continue
            image.thumbnail((side, side), Image.Resampling.HAMMING)
            file = io.BytesIO()
            Image.Image.save(image, file, "JPEG", quality=quality, exif=b"", icc_profile=None)
            out[name] = file.getvalue()
        return out


def renditions(data: bytes, only: str = "") -> dict[str, bytes]:
    """The copies of a file, one for each step of RENDITIONS or `only` one of them. Raises
    UnusablePhotograph with a sentence for the user.
    """
    return Copies(_decoded(data, "", RENDITIONS[only or "full"][0], judge=False).image).made(only)
