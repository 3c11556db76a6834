"""Teaching the network that tells parts and keypoints, from lessons drawn ahead by another
process.
"""

from __future__ import annotations

import copy
import time
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import cv2
import numpy as np
import torch
from torch import nn

from juniper.training.lessons import CANVASES, Lesson, Teacher, masked_source, traced_source
from juniper.training.network import PartsNetwork, loss_of, slopes_of
from juniper.training.pictures import picture_at

BATCH = 8
ENCODER, DECODER = 4e-4, 2e-3  # fastest learning rates (AdamW; Loshchilov & Hutter 2019)
POINTS_WEIGHT = 0.12  # of the keypoints' loss beside that of the parts
AVERAGED = 0.995  # how much of the running mean of the weights each step keeps
RELOADED = 40  # batches after which the sources are read anew, since more may have been traced

_teacher: Teacher | None = None
_drawn = 0


def sources_in(folders: list[Path]) -> list:
    """All sources of some folders: masked pictures (NAME.mask.png) and traced examples (NAME.json
    with NAME.png).
    """
    out = []
    for folder in folders:
        for path in sorted(folder.glob("*.json")):
            mask = Path(f"{str(path)[: -len('.json')]}.mask.png")
            if mask.exists():
                if "-empty" not in path.name:
                    out.append(masked_source(mask))
            elif path.with_suffix(".png").exists():
                out.append(traced_source(path))
    return [s for s in out if s is not None]


def _batch(
    folders: list[Path], rooms: Path, number: int, seed: int, count: int
) -> list[np.ndarray]:
    global _teacher, _drawn  # noqa: PLW0603 - a worker process keeps its sources
    if _teacher is None or _drawn % RELOADED == 0:
        cv2.setNumThreads(1)
        pictures = [
            picture_at(p)[..., ::-1]
            for p in sorted(rooms.iterdir())
            if p.suffix in (".jpg", ".png")
        ]
        known = (
            sources_in(folders)
            if _teacher is None or any(p.suffix == ".json" for p in folders[0].iterdir())
            else _teacher.sources
        )
        _teacher = Teacher(known, pictures, seed)
    _drawn += 1
    _teacher.rng = np.random.default_rng([seed, number])
    canvas = CANVASES[number % len(CANVASES)]
    lessons: list[Lesson] = [_teacher.lesson(canvas) for _ in range(count)]
    names = ("picture", "hints", "sets", "points", "size")
    return [np.stack([getattr(one, n) for one in lessons]) for n in names]


def teach(
    folders: list[Path],
    rooms: Path,
    out: Path,
    steps: int,
    seed: int = 0,
    start: Path | None = None,
    speed: float = 1.0,
) -> None:
    """Teach for so many steps of BATCH lessons and write the averaged weights to `out`; `start` are
    weights to go on from.
    """
    torch.manual_seed(seed)
    network = PartsNetwork()
    if start:
        network.load_state_dict(torch.load(start))
    network.train().to(memory_format=torch.channels_last)
    averaged = copy.deepcopy(network)
    groups = slopes_of(network, ENCODER * speed, DECODER * speed)
    optimiser = torch.optim.AdamW(groups, weight_decay=1e-3)
    pace = torch.optim.lr_scheduler.OneCycleLR(
        optimiser, [ENCODER * speed, DECODER * speed], total_steps=steps, pct_start=0.08
    )
    began, run = time.time(), np.zeros(2)
    with ProcessPoolExecutor(1) as ahead:
        waiting = [ahead.submit(_batch, folders, rooms, n, seed, BATCH) for n in range(4)]
        for step in range(1, steps + 1):
            picture, hints, sets, points, size = (
                torch.from_numpy(a) for a in waiting.pop(0).result()
            )
            waiting.append(ahead.submit(_batch, folders, rooms, step + 3, seed, BATCH))
            picture = (
                picture.permute(0, 3, 1, 2).float().contiguous(memory_format=torch.channels_last)
            )
            with torch.autocast("cpu", torch.bfloat16):
                parts, places, _ = network(picture, hints.float())
            seen, pointed = loss_of(parts.float(), places.float(), sets, points, size)
            optimiser.zero_grad()
            (seen + POINTS_WEIGHT * pointed).backward()
            nn.utils.clip_grad_norm_(network.parameters(), 3)
            optimiser.step()
            pace.step()
            with torch.no_grad():
                keep = min(AVERAGED, step / (step + 10))
                for a, b in zip(
                    averaged.state_dict().values(), network.state_dict().values(), strict=True
                ):
                    a.copy_(keep * a + (1 - keep) * b if a.is_floating_point() else b)
            run += (0.03 if step > 1 else 1.0) * (np.array([seen.item(), pointed.item()]) - run)
            if step % 25 == 0 or step < 4:
                print(
                    f"{step} parts {run[0]:.4f} keypoints {run[1]:.3f},"
                    f" {(time.time() - began) / step:.2f} s a step",
                    flush=True,
                )
            if step % 200 == 0 or step == steps:
                torch.save(averaged.state_dict(), out)


def averaged(earlier: Path, later: Path, share: float, out: Path) -> None:
    """Write the mean of two teachings' weights, `share` 0..1 of the later (Wortsman et al. 2022,
    "Model soups"): what the later teaching forgot of earlier pictures comes back in part. Raises
    ValueError where the two are not of one network.
    """
    one, two = torch.load(earlier), torch.load(later)
    if one.keys() != two.keys():
        raise ValueError("These are not weights of one network.")
    torch.save(
        {
            k: (1 - share) * one[k] + share * two[k] if one[k].is_floating_point() else two[k]
            for k in one
        },
        out,
    )
