"""Teaching the vessels' head from traced compositions: pictures of groups, cut and changed, with
the places of every vessel in them.
"""

from __future__ import annotations

import json
import time
from dataclasses import dataclass, replace
from pathlib import Path

import cv2
import numpy as np
import torch

from juniper.camera.compositions import SINGLES, group
from juniper.camera.containers import Container
from juniper.training.network import PartsNetwork, vessels_loss
from juniper.training.pictures import picture_at
from juniper.training.vessels import any_vessel

BATCH = 6
FASTEST = 2e-3  # learning rate (AdamW; Loshchilov & Hutter 2019)
SIZES = ((384, 384), (352, 448), (288, 512), (448, 352))  # (height, width) of what is looked at
MOST = 11  # vessels in a lesson
CUT_IN = 0.12  # of a vessel's height: one that is cut by the frame by more is not taught
TALLEST, BROADEST = 30.0, 9.0  # cm: height and half width of vessels that are set in groups
BACKDROP = 0  # of the masks


@dataclass(frozen=True, eq=False)
class GroupPicture:
    """A picture (uint8 h x w x 3 sRGB), its labels (h, w), and a row for each vessel in it: foot
    x, y, rim x, y and half the rim's width, pixels.
    """

    picture: np.ndarray
    labels: np.ndarray
    vessels: np.ndarray


def drawn_group(number: int):
    """The arrangement of a lesson by its number: one vessel to MOST, a third from the shelf."""
    rng = np.random.default_rng(number)
    count = int(rng.integers(1, MOST + 1))
    return group(number, count, (), SINGLES if number % 3 == 0 else _any_vessels(rng)), count


def trace_group(number: int, path: Path) -> None:
    """Trace the arrangement of lesson `number` and write PATH.jpg, PATH.json and PATH.mask.png;
    needs what bin/roll installs.
    """
    from juniper.camera import tracing

    done, count = drawn_group(number)
    stage = tracing.staged_as(
        done, "front", np.random.default_rng(77_000 + number), 0.75, count > 3 or number % 2 == 0
    )
    picture = tracing.photograph(stage, 4)
    labels, truth = tracing.truth(stage, picture)
    cv2.imwrite(f"{path}.jpg", picture[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 92])
    cv2.imwrite(f"{path}.mask.png", labels)
    path.with_suffix(".json").write_text(json.dumps(truth))


def _any_vessels(rng: np.random.Generator, count: int = 14) -> tuple[Container, ...]:
    out = []
    for _ in range(count):
        shape = any_vessel(rng, glass=0.3).shape
        by = min(1.0, TALLEST / shape.height_cm, BROADEST / max(shape.profile))
        profile = tuple(max(0.8, v * by) for v in shape.profile)
        deep = shape.depth_cm and shape.depth_cm * by
        out.append(replace(shape, height_cm=shape.height_cm * by, profile=profile, depth_cm=deep))
    return tuple(out)


def group_pictures(folders: list[Path]) -> list[GroupPicture]:
    """All pictures of some folders (NAME.jpg, NAME.json, NAME.mask.png) that tell where their
    vessels stand: of compositions each, else the one container.
    """
    out = []
    for path in sorted(p for folder in folders for p in folder.glob("*.json")):
        truth = json.loads(path.read_text())
        mask = Path(f"{str(path)[: -len('.json')]}.mask.png")
        known = truth.get("vessels") or [truth.get("container")]
        if not mask.exists() or None in known or "rim_left" not in known[0]:
            continue
        rows = [
            [*v["base"], *v["rim"], np.hypot(*np.subtract(v["rim_right"], v["rim_left"])) / 2]
            for v in known
        ]
        picture = picture_at(path.with_suffix(".jpg"))[..., ::-1]
        out.append(GroupPicture(picture, picture_at(mask, 0), np.array(rows, float)))
    return out


def group_lesson(
    source: GroupPicture, size: tuple[int, int], rooms: list[np.ndarray], rng: np.random.Generator
) -> tuple[np.ndarray, np.ndarray]:
    """A cut of a picture at a `size` (height, width), changed in light and sharpness and now and
    then before another room: uint8 (h, w, 3), and the rows of its vessels with whether each is
    taught, as vessels_loss() takes them.
    """
    high, wide = size
    rows = source.vessels.copy()
    picture = source.picture
    if rooms and rng.random() < 0.4:
        picture = _before(source, rooms[int(rng.integers(len(rooms)))], rng)
    lows, tops = rows[:, [1, 3]].max(), rows[:, [1, 3]].min()
    left, right = rows[:, [0, 2]].min(), rows[:, [0, 2]].max()
    tallest = float(np.hypot(*(rows[:, 2:4] - rows[:, :2]).T).max())
    if rng.random() < 0.45:  # all of the group
        across = max(right - left + 0.7 * tallest, (lows - tops) * wide / high * 1.2)
        across *= rng.uniform(1.0, 1.9)
        middle = np.array([(left + right) / 2, (lows + tops) / 2])
    else:  # a part of it, as tiles are
        across = tallest * rng.uniform(0.8, 2.4)
        one = rows[int(rng.integers(len(rows)))]
        middle = (one[:2] + one[2:4]) / 2
    middle = middle + rng.uniform(-0.25, 0.25, 2) * across
    scale = wide / across
    turn = np.radians(rng.normal(0, 1.5))
    flip = -1.0 if rng.random() < 0.5 else 1.0
    move = scale * np.array(
        [[flip * np.cos(turn), -np.sin(turn)], [flip * np.sin(turn), np.cos(turn)]]
    )
    shift = np.array([wide, high]) / 2 - move @ middle
    lay = np.column_stack([move, shift])
    method = cv2.INTER_AREA if scale < 0.7 else cv2.INTER_LINEAR
    cut = cv2.warpAffine(picture, lay, (wide, high), flags=method, borderMode=cv2.BORDER_REFLECT)
    points = rows[:, :4].reshape(-1, 2) @ move.T + shift
    rows = np.column_stack([points.reshape(-1, 4), rows[:, 4] * scale])
    heights = np.hypot(*(rows[:, 2:4] - rows[:, :2]).T)
    room = CUT_IN * heights[:, None]
    inside = (
        (rows[:, [0, 2]] > -room).all(1) & (rows[:, [0, 2]] < wide + room).all(1)
        & (rows[:, [1, 3]] > -room).all(1) & (rows[:, [1, 3]] < high + room).all(1)
    )  # fmt: skip
    near = (rows[:, 0] > -heights) & (rows[:, 0] < wide + heights)
    taught = (inside & (heights > 14)).astype(float)
    return _as_taken(cut, rng), np.column_stack([rows, taught])[near]


def _before(source: GroupPicture, room: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """The picture with a cut of a room in the place of its wall."""
    h, w = source.labels.shape
    by = max(h / room.shape[0], w / room.shape[1]) * rng.uniform(1.0, 1.8)
    behind = cv2.resize(room, None, fx=by, fy=by, interpolation=cv2.INTER_AREA)
    y, x = (int(rng.integers(0, a - b + 1)) for a, b in zip(behind.shape[:2], (h, w), strict=True))
    wall = cv2.GaussianBlur((source.labels == BACKDROP).astype(np.float32), (0, 0), 0.8)[..., None]
    return (source.picture * (1 - wall) + behind[y : y + h, x : x + w] * wall).astype(np.uint8)


def _as_taken(picture: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """The picture in another light, softer or grainier, and through JPEG."""
    out = picture.astype(np.float32) / 255
    out = out ** float(np.exp(rng.normal(0, 0.25))) * np.exp(rng.normal(0, 0.08, 3))
    if rng.random() < 0.4:
        out = cv2.GaussianBlur(out, (0, 0), float(rng.uniform(0.4, 1.2)))
    out = out + rng.normal(0, rng.uniform(0, 0.02), out.shape)
    done = np.clip(out * 255, 0, 255).astype(np.uint8)
    _, data = cv2.imencode(".jpg", done, [cv2.IMWRITE_JPEG_QUALITY, int(rng.integers(55, 96))])
    back = cv2.imdecode(data, cv2.IMREAD_COLOR)
    assert back is not None
    return back


def teach_vessels(
    start: Path, folders: list[Path], rooms: Path, out: Path, steps: int, seed: int = 0
) -> None:
    """Teach the vessels' head for so many steps of BATCH lessons, on what the network of some
    weights (`start`) has learnt, of which nothing else is changed, and write all weights to `out`.
    """
    torch.manual_seed(seed)
    rng = np.random.default_rng(seed)
    network = PartsNetwork(pretrained=False)
    known = torch.load(start)
    network.load_state_dict(known, strict=False)
    if not any(name.startswith("own16") for name in known):
        network.begin_vessels()
    network.eval().to(memory_format=torch.channels_last)
    taught = torch.nn.ModuleList(network.of_vessels())
    walls = [
        picture_at(p)[..., ::-1] for p in sorted(rooms.iterdir()) if p.suffix in (".jpg", ".png")
    ]
    sources = group_pictures(folders)
    optimiser = torch.optim.AdamW(taught.parameters(), lr=FASTEST, weight_decay=1e-3)
    pace = torch.optim.lr_scheduler.OneCycleLR(optimiser, FASTEST, total_steps=steps)
    began, run = time.time(), 0.0
    for step in range(1, steps + 1):
        size = SIZES[step % len(SIZES)]
        lessons = [
            group_lesson(sources[int(rng.integers(len(sources)))], size, walls, rng)
            for _ in range(BATCH)
        ]
        picture = torch.from_numpy(np.stack([p for p, _ in lessons]).transpose(0, 3, 1, 2).copy())
        hints = torch.zeros(BATCH, 2, size[0] // 2, size[1] // 2)
        hints[:, 0] = 128
        with torch.no_grad(), torch.autocast("cpu", torch.bfloat16):
            seen = network.seen(picture.float(), hints)
        taught.train()
        with torch.autocast("cpu", torch.bfloat16):
            found = network.all_vessels(seen)
        loss = vessels_loss(found.float(), [rows for _, rows in lessons])
        optimiser.zero_grad()
        loss.backward()
        torch.nn.utils.clip_grad_norm_(taught.parameters(), 3)
        optimiser.step()
        pace.step()
        run += (0.03 if step > 1 else 1.0) * (loss.item() - run)
        if step % 25 == 0 or step < 4:
            print(f"{step} loss {run:.3f}, {(time.time() - began) / step:.2f} s a step", flush=True)
        if step % 200 == 0 or step == steps:
            network.eval()
            torch.save(network.state_dict(), out)
