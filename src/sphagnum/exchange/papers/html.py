"""A document as one HTML page that needs nothing else: no script, its pictures, sounds and fonts within it."""

from __future__ import annotations

import base64
import io
from html import escape
from pathlib import Path

from PIL import Image as Picture

from ...core.papers import blocks as b
from . import charts
from .drawing import svg
from .kept import Photograph, Sound

FONTS = Path(__file__).parent.parent / "fonts"
LARGEST, QUALITY = 1000, 75
JPEG, WAV = "image/jpeg", "audio/wav"
STYLE = """
:root{color-scheme:light}
*{box-sizing:border-box}
body{margin:0;background:#fbf8ef;color:#2b211a;font:16px/1.5 "Atkinson",system-ui,sans-serif}
main{max-width:820px;margin:0 auto;padding:24px 18px 48px}
h1{font-size:1.75rem;line-height:1.2;margin:.2rem 0 1rem}
h2{font-size:1.25rem;margin:2rem 0 .5rem;border-top:1px solid #d9cfb9;padding-top:1rem}
h3{font-size:1rem;margin:1.2rem 0 .3rem}
p{margin:.5rem 0}.lead{font-weight:700;font-size:1.125rem}.small,.sub,figcaption,footer{color:#5f4f3f;font-size:.875rem}
svg{width:100%;height:auto;max-height:60vh;font-family:"Atkinson",system-ui,sans-serif}
.mark{float:right;max-width:160px;max-height:64px;margin:0 0 8px 16px}
figure{margin:.8rem 0}figure img{max-width:100%;height:auto;display:block}
.pictures{display:grid;grid-template-columns:repeat(auto-fill,minmax(240px,1fr));gap:14px}
.table{overflow-x:auto}table{border-collapse:collapse;width:100%;font-size:.9375rem}
th{text-align:left;border-bottom:2px solid #2b211a}td,th{padding:.3rem .5rem .3rem 0;vertical-align:top}
td{border-bottom:1px solid #d9cfb9}.right{text-align:right;font-variant-numeric:tabular-nums}
.sum td,.sum th{font-weight:700;border-top:2px solid #55732a}
audio{width:100%}
@media print{body{background:#fff;font-size:11pt}main{max-width:none;padding:0}h2,h3{break-after:avoid}
figure,tr{break-inside:avoid}
.page{break-before:page}}
"""


def html(paper: b.Paper, photograph: Photograph, sound: Sound = lambda _name, _from, _to: None, language: str = "en") -> bytes:
    """A document as a page of its own."""
    sections = "".join(
        f"<section{' class=page' if s.page else ''}><h2>{escape(s.title)}</h2>"
        + "".join(_block(b, photograph, sound) for b in s.blocks)
        + "</section>"
        for s in paper.sections
        if s.blocks
    )
    faces = "".join(
        f'@font-face{{font-family:"Atkinson";font-weight:{weight};src:url({_data("font/ttf", (FONTS / name).read_bytes())})}}'
        for name, weight in (("AtkinsonHyperlegibleNext-Regular.ttf", 400), ("AtkinsonHyperlegibleNext-Bold.ttf", 700))
    )
    return (
        f'<!doctype html><html lang="{language}"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, '
        f'initial-scale=1"><title>{escape(paper.title)}</title><style>{faces}{STYLE}</style></head><body><main>'
        f"{_mark(paper, photograph)}"
        f'<p class="sub" dir="auto">{escape(paper.sub)}</p><h1 dir="auto">{escape(paper.title)}</h1>{sections}'
        f'<footer dir="auto"><p>{escape(paper.foot)}</p></footer></main></body></html>'
    ).encode()


def _mark(paper: b.Paper, photograph: Photograph) -> str:
    data = photograph(paper.mark) if paper.mark else None
    return "" if data is None else f'<img class="mark" alt="" src="{_data("image/png", data)}">'


def _data(kind: str, data: bytes) -> str:
    return f"data:{kind};base64,{base64.b64encode(data).decode()}"


def _block(block: b.Block, photograph: Photograph, sound: Sound) -> str:
    if (seen := charts.picture(block)) is not None:
        under = "".join(f"<p>{escape(x)}</p>" for x in seen.under)
        return f"<figure>{_titled(seen.title, svg(seen.drawing))}</figure>{under}"
    match block:
        case b.Sentence():
            kind = "" if block.weight == "plain" else f' class="{block.weight}"'
            return f'<p{kind} dir="auto">{"· " * (block.weight == "point")}{escape(block.text)}</p>' if block.text else ""
        case b.TableBlock():
            return _titled(block.title, _table(block))
        case b.SoundBlock():
            data = sound(block.file, block.from_s, block.to_s)
            return (
                ""
                if data is None
                else (
                    f"<figure><figcaption>{escape(block.title)}</figcaption>"
                    f'<audio controls aria-label="{escape(block.title, True)}" '
                    f'src="{_data(WAV, data)}"></audio></figure>'
                )
            )
        case b.PhotographsBlock():
            shown = [(p, data) for p in block.pictures if (data := photograph(p.file)) is not None]
            return (
                _titled(
                    block.title,
                    '<div class="pictures">'
                    + "".join(
                        f'<figure><img alt="{escape(p.caption or "photograph", True)}" src="{_data(JPEG, smaller(data))}">'
                        f'<figcaption dir="auto">{escape(p.caption)}</figcaption></figure>'
                        for p, data in shown
                    )
                    + "</div>",
                )
                if shown
                else ""
            )
        case _:
            return ""


def _titled(title: str, below: str) -> str:
    return (f"<h3>{escape(title)}</h3>" if title else "") + below


def _table(block: b.TableBlock) -> str:
    def row(cells: tuple[str, ...], head: bool) -> str:
        out = []
        for k, text in enumerate(cells):
            heads = text and (head or k == 0)  # a cell with nothing in it is the head of nothing
            tag, scope = ("th", ' scope="col"' if head else ' scope="row"') if heads else ("td", "")
            out.append(f'<{tag}{scope}{" class=right" if k in block.right else ""} dir="auto">{escape(text)}</{tag}>')
        return "".join(out)

    body = "".join(
        f"<tr{' class=sum' if block.last_is_sum and k == len(block.rows) - 1 else ''}>{row(r, False)}</tr>"
        for k, r in enumerate(block.rows)
    )
    head = row(block.head, True)
    opens = '<div class="table" tabindex="0" role="group" aria-label="Table"><table><thead>'
    return f"{opens}<tr>{head}</tr></thead><tbody>{body}</tbody></table></div>"



def smaller(data: bytes, largest: int = LARGEST) -> bytes:
    """A photograph for a page that is sent by mail."""
    with Picture.open(io.BytesIO(data)) as picture:
        small = picture.convert("RGB")
    small.thumbnail((largest, largest))
    out = io.BytesIO()
    small.save(out, "JPEG", quality=QUALITY, optimize=True)
    return out.getvalue()
