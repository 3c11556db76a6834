"""Teaches the networks. Of petals: `draw` traces invented pieces, `teach` learns from them,
`export` writes what the core runs; `parts draw`, `parts teach` and `parts export` do the same for
the network that tells parts and keypoints, `vessels draw` and `vessels teach` for its head that
tells every vessel of a composition.
"""

from __future__ import annotations

import argparse
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

import cv2
import numpy as np
import onnx
import torch
from onnx import numpy_helper
from torch import nn
from torch.nn import functional as F

from juniper.camera.random_pieces import Lesson, lesson
from juniper.scene.petals import BLOCK, DEVIATION, MEAN, PETAL, WEIGHTS
from juniper.training.petal_lessons import Book

ROOT = Path(__file__).resolve().parent.parent
FOLDER, SCENES = ROOT / "data" / "lessons", ROOT / "data" / "scenes"
GROUPS = ROOT / "data" / "groups"
WIDTHS = (16, 32, 48, 80, 112)  # channels by level
BATCH, FASTEST = 8, 3e-3


def _block(before: int, after: int) -> nn.Sequential:
    layers = []
    for count in (before, after):
        layers += [
            nn.Conv2d(count, after, 3, padding=1, bias=False),
            nn.BatchNorm2d(after),
            nn.ReLU(True),
        ]
    return nn.Sequential(*layers)


class Network(nn.Module):
    """A U-Net at half the picture's size: 6 parts, a middle, and two steps (Ronneberger, Fischer &
    Brox 2015; Cheng et al. 2020).
    """

    def __init__(self):
        super().__init__()
        w = WIDTHS
        self.stem = nn.Sequential(
            nn.Conv2d(3, w[0], 3, stride=2, padding=1, bias=False),
            nn.BatchNorm2d(w[0]),
            nn.ReLU(True),
        )
        self.down = nn.ModuleList(
            [_block(w[0], w[0]), *(_block(w[i - 1], w[i]) for i in range(1, len(w)))]
        )
        self.up = nn.ModuleList([_block(w[i] + w[i + 1], w[i]) for i in range(len(w) - 1)])
        self.out = nn.Conv2d(w[0], 9, 1)
        self.out.bias.data[6] = -4.5  # middles are rare

    def forward(self, x):
        x, kept = self.stem(x), []
        for i, block in enumerate(self.down):
            x = block(F.max_pool2d(x, 2) if i else x)
            kept.append(x)
        for i in reversed(range(len(self.up))):
            x = self.up[i](
                torch.cat([F.interpolate(x, scale_factor=2.0, mode="nearest"), kept[i]], 1)
            )
        return self.out(x)


def shipped(pictures: torch.Tensor) -> Network:
    """The network as it ships, to be taught further.

    What ships has its normalisations folded into the convolutions. They are unfolded about the
    means and variances that some `pictures` (n, 3, h, w) show, so that it sees just what it saw.
    """
    graph = onnx.load(WEIGHTS).graph
    held = {i.name: torch.tensor(numpy_helper.to_array(i)) for i in graph.initializer}
    folded = iter([[held[name] for name in n.input[1:]] for n in graph.node if n.op_type == "Conv"])
    network, offset = Network().eval(), []

    def filled(conv, _):
        weight, offset[:] = (part := next(folded))[0], part[1:]
        conv.weight.data = weight
        if conv.bias is not None:
            conv.bias.data = offset[0]

    def unfolded(normal, given):
        variance, mean = torch.var_mean(given[0], (0, 2, 3), correction=0)
        normal.running_mean, normal.running_var = mean, variance
        normal.weight.data, normal.bias.data = torch.sqrt(variance + normal.eps), offset[0] + mean

    hooks = [
        module.register_forward_pre_hook(filled if isinstance(module, nn.Conv2d) else unfolded)
        for module in network.modules()
        if isinstance(module, nn.Conv2d | nn.BatchNorm2d)
    ]
    with torch.no_grad():
        network(pictures)
    for hook in hooks:
        hook.remove()
    return network


def loss_of(seen, parts, middle, toward, weight):
    """Cross-entropy of the parts, focal loss of the middles (Zhou, Wang & Kraehenbuehl 2019),
    absolute error of the steps.
    """
    scale = torch.ones(6)
    scale[PETAL] = 1.5
    likely = torch.sigmoid(seen[:, 6]).clamp(1e-4, 1 - 1e-4)
    there = (middle > 0.97).float()
    hit = there * (1 - likely) ** 2 * torch.log(likely) + (1 - there) * (
        1 - middle
    ) ** 4 * likely**2 * torch.log(1 - likely)
    missed = ((seen[:, 7:] - toward).abs().sum(1) * weight).sum() / weight.sum().clamp(min=1)
    return (
        F.cross_entropy(seen[:, :6], parts, scale)
        - 0.15 * hit.sum() / there.sum().clamp(min=8)
        + 0.5 * missed
    )


def draw(first: int, count: int) -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    for number in range(first, first + count):
        path = FOLDER / f"{number:04d}.npz"
        if not path.exists():
            began = time.time()
            lesson(number).keep(path)
            print(f"{number} {time.time() - began:.0f} s", flush=True)


def teach(steps: int, start: Path | None, go_on: bool, seed: int) -> None:
    rng = np.random.default_rng(seed)
    torch.manual_seed(seed)
    cv2.setNumThreads(1)
    lessons = [Lesson.kept(p) for p in sorted(FOLDER.glob("*.npz"))]
    if not lessons:
        raise SystemExit("There are no lessons yet: run bin/teach draw first.")
    book, network = Book(lessons, rng), Network()
    if start:
        network.load_state_dict(torch.load(start))
    elif go_on:
        network = shipped(
            torch.from_numpy(
                np.stack([(book.page().picture - MEAN) / DEVIATION for _ in range(4 * BATCH)])
            )
        )
    network.train().to(memory_format=torch.channels_last)
    fastest = FASTEST / 2 if start or go_on else FASTEST
    slope = torch.optim.AdamW(network.parameters(), fastest, weight_decay=1e-3)
    pace = torch.optim.lr_scheduler.OneCycleLR(slope, fastest, total_steps=steps, pct_start=0.1)

    def batch():
        pages = [book.page() for _ in range(BATCH)]
        names = ("picture", "parts", "middle", "toward", "weight")
        return [torch.from_numpy(np.stack([getattr(p, n) for p in pages])) for n in names]

    began, run = time.time(), 0.0
    with ThreadPoolExecutor(1) as ahead:
        following = ahead.submit(batch)
        for step in range(1, steps + 1):
            picture, *wanted = following.result()
            following = ahead.submit(batch)
            loss = loss_of(
                network(
                    ((picture - MEAN) / DEVIATION).contiguous(memory_format=torch.channels_last)
                ),
                *wanted,
            )
            slope.zero_grad()
            loss.backward()
            nn.utils.clip_grad_norm_(network.parameters(), 5)
            slope.step()
            pace.step()
            run += 0.02 * (loss.item() - run)
            if step % 100 == 0 or step == steps:
                print(
                    f"{step} loss {run:.3f}, {(time.time() - began) / step:.2f} s a step",
                    flush=True,
                )
                torch.save(network.state_dict(), FOLDER / "learnt.pt")


def export(learnt: Path) -> None:
    network = Network()
    network.load_state_dict(torch.load(learnt))
    network.eval()
    sides = {2: "high", 3: "wide"}
    torch.onnx.export(
        network,
        torch.zeros(1, 3, 8 * BLOCK, 8 * BLOCK),
        WEIGHTS,
        input_names=["picture"],
        output_names=["seen"],
        dynamic_axes={"picture": sides, "seen": sides},
        opset_version=13,
        dynamo=False,
    )
    again = cv2.dnn.readNetFromONNX(str(WEIGHTS))
    trial = np.random.default_rng(0).normal(0, 1, (1, 3, 5 * BLOCK, 7 * BLOCK)).astype(np.float32)
    again.setInput(trial)
    with torch.no_grad():
        apart = np.abs(network(torch.from_numpy(trial)).numpy() - again.forward()).max()
    print(
        f"{WEIGHTS.name} written, {WEIGHTS.stat().st_size / 1e6:.1f} MB; run by OpenCV it differs"
        f" by {apart:.1e} at most"
    )


def parts(said: argparse.Namespace) -> None:
    """What is asked of the network that tells parts and keypoints."""
    from juniper.scene.segment.probabilities import WEIGHTS as PARTS
    from juniper.training import export as out
    from juniper.training.light import fetched
    from juniper.training.scenes import Scenery, example
    from juniper.training.teaching import averaged
    from juniper.training.teaching import teach as taught

    learnt = SCENES / "parts.pt"
    if said.act == "export":
        print(
            f"{PARTS.name} written, {out.export(said.learnt or learnt, PARTS):.2f} apart at most"
            " when run by the core"
        )
    elif said.act == "average":
        averaged(said.earlier, said.later, said.share, learnt)
        print(f"{learnt} written")
    elif said.act == "teach":
        torch.set_num_threads(2)
        taught(
            [SCENES, ROOT / "roll", *said.more],
            said.rooms,
            learnt,
            said.steps,
            said.seed,
            said.start,
            said.speed,
        )
    else:
        scenery = Scenery.of(said.rooms, fetched(ROOT / "data" / "light"))
        SCENES.mkdir(parents=True, exist_ok=True)
        for number in range(said.first, said.first + said.count, said.every):
            path = SCENES / f"{number:05d}.json"
            if not path.exists():
                began = time.time()
                example(number, scenery).keep(path)
                print(f"{number} {time.time() - began:.0f} s", flush=True)


def vessels(said: argparse.Namespace) -> None:
    """Trace compositions, or teach the head that tells every vessel of one."""
    from juniper.training.groups import teach_vessels, trace_group

    GROUPS.mkdir(parents=True, exist_ok=True)
    if said.act == "draw":
        for number in range(said.first, said.first + said.count):
            if not (GROUPS / f"{number:05d}.json").exists():
                trace_group(number, GROUPS / f"{number:05d}")
                print(number, flush=True)
        return
    torch.set_num_threads(2)
    learnt = SCENES / "learnt.pt"
    folders = [GROUPS, GROUPS, ROOT / "roll"]
    teach_vessels(said.start, folders, said.rooms, learnt, said.steps, said.seed)
    print(f"{learnt} written: bin/teach parts export {learnt}")


def main() -> None:
    parser = argparse.ArgumentParser(prog="bin/teach", description=__doc__)
    commands = parser.add_subparsers(required=True, dest="what")
    drawing = commands.add_parser("draw")
    drawing.add_argument("--first", type=int, default=0, help="the first piece's number")
    drawing.add_argument("--count", type=int, default=240)
    learn = commands.add_parser("teach")
    learn.add_argument("--steps", type=int, default=5000)
    learn.add_argument("--start", type=Path, help="go on from what was learnt before")
    learn.add_argument("--go-on", action="store_true", help="go on from the network as it ships")
    learn.add_argument("--seed", type=int, default=1)
    commands.add_parser("export").add_argument(
        "learnt", type=Path, nargs="?", default=FOLDER / "learnt.pt"
    )
    acts = commands.add_parser("parts").add_subparsers(required=True, dest="act")
    drawing = acts.add_parser("draw")
    drawing.add_argument(
        "--rooms", type=Path, required=True, help="a folder of photographs of rooms"
    )
    drawing.add_argument("--first", type=int, default=0)
    drawing.add_argument("--count", type=int, default=900)
    drawing.add_argument(
        "--every", type=int, default=1, help="only each so many: several may draw at once"
    )
    learn = acts.add_parser("teach")
    learn.add_argument("--rooms", type=Path, required=True)
    learn.add_argument(
        "--more", type=Path, nargs="*", default=[], help="more folders of pictures with masks"
    )
    learn.add_argument("--steps", type=int, default=2300)
    learn.add_argument("--seed", type=int, default=0)
    learn.add_argument("--start", type=Path, help="go on from weights")
    learn.add_argument("--speed", type=float, default=1.0, help="of learning, beside the usual")
    acts.add_parser("export").add_argument("learnt", type=Path, nargs="?")
    mixing = acts.add_parser("average", help="weights of two teachings averaged")
    mixing.add_argument("earlier", type=Path)
    mixing.add_argument("later", type=Path)
    mixing.add_argument("--share", type=float, default=0.75, help="of the later in the average")
    acts = commands.add_parser("vessels").add_subparsers(required=True, dest="act")
    drawing = acts.add_parser("draw", help="trace compositions of several vessels")
    drawing.add_argument("--first", type=int, default=2000)
    drawing.add_argument("--count", type=int, default=150)
    learn = acts.add_parser("teach", help="the vessels' head, on the weights of the other parts")
    learn.add_argument("--start", type=Path, required=True, help="weights to begin from")
    learn.add_argument("--rooms", type=Path, required=True)
    learn.add_argument("--steps", type=int, default=1300)
    learn.add_argument("--seed", type=int, default=3)
    said = parser.parse_args()
    if said.what == "parts":
        parts(said)
    elif said.what == "vessels":
        vessels(said)
    elif said.what == "draw":
        draw(said.first, said.count)
    elif said.what == "teach":
        teach(said.steps, said.start, said.go_on, said.seed)
    else:
        export(said.learnt)


if __name__ == "__main__":
    main()
