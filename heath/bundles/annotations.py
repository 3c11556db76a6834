"""What people said of a piece, as W3C Web Annotations (W3C Recommendation of 23 February 2017)."""

from __future__ import annotations

from typing import Any

from heath.bundles.schema import PhotographOf, PieceOf

CONTEXT = "http://www.w3.org/ns/anno.jsonld"
FRAGMENT = "http://www.w3.org/TR/media-frags/"


def annotations_of(piece: PieceOf) -> dict[str, Any] | None:
    """Remarks, marks set by hand and handles put by hand as one AnnotationPage; None where nobody
    said anything.
    """
    photographs = {p.id: p for p in piece.photographs}
    front = next((p for p in piece.photographs if p.current and p.view == "front"), None)
    items = [
        _annotation(
            f"remark-{r.id}",
            "commenting",
            r.words,
            _spot(photographs.get(r.photograph_id or -1), r),
        )
        for r in piece.remarks
        if not r.taken_back
    ]
    items += [
        _annotation(
            f"override-{o.id}",
            "assessing",
            f"{o.rule}: {'waived' if o.score is None else f'{o.score:g} of 10'}. {o.reason}",
            _whole(front),
        )
        for o in piece.overrides
        if not o.taken_back
    ]
    for photograph in piece.photographs:
        items += [
            _annotation(f"handle-{c.id}", "identifying", c.handle, _spot(photograph, c))
            for c in photograph.corrections
            if c.kind == "handle" and not c.undone
        ]
    if not items:
        return None
    return {
        "@context": CONTEXT,
        "id": _urn(f"piece-{piece.id}"),
        "type": "AnnotationPage",
        "items": items,
    }


def _urn(name: str) -> str:
    return f"urn:juniper-heath:{name}"


def _annotation(name: str, motivation: str, words: str, target: Any) -> dict[str, Any]:
    return {
        "id": _urn(name),
        "type": "Annotation",
        "motivation": motivation,
        "body": {"type": "TextualBody", "value": words, "format": "text/plain"},
        "target": target,
    }


def _whole(photograph: PhotographOf | None) -> str:
    """The address of a photograph within the bundle."""
    return f"../{photograph.files['full']}" if photograph and "full" in photograph.files else ""


def _spot(photograph: PhotographOf | None, at) -> Any:
    """A spot of a photograph, or the whole where none is told."""
    source = _whole(photograph)
    if photograph is None or at.x is None or at.y is None:
        return source
    return {
        "source": source,
        "selector": {
            "type": "FragmentSelector",
            "conformsTo": FRAGMENT,
            "value": f"xywh=pixel:{at.x:.0f},{at.y:.0f},1,1",
        },
    }
