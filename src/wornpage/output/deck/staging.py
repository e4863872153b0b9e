"""What comes in which step of a slide."""

from __future__ import annotations

from msgspec.structs import replace

from wornpage.output.deck.model import Slide
from wornpage.tree import nodes as n


def staged(slide: Slide, by_steps: bool) -> Slide:
    """`slide` with the step of everything that comes in one; `by_steps`: lists do unless they say otherwise."""
    wanted = slide.look.steps if slide.look.steps is not None else by_steps
    staging = _Staging(wanted)
    blocks = staging.blocks(slide.blocks)
    return replace(slide, blocks=blocks, steps=staging.count)


def parts_of_view(view: n.ChunkView) -> tuple[n.Blocks, n.Blocks]:
    """The code of a chunk, and what it shows."""
    is_code = bool(view.blocks) and isinstance(view.blocks[0], n.CodeBlock)
    return view.blocks[: int(is_code)], view.blocks[int(is_code) :]


class _Staging:
    """Counts steps in the order in which readers meet them."""

    def __init__(self, by_steps: bool) -> None:
        self.by_steps, self.count = by_steps, 0

    def next(self) -> int:
        self.count += 1
        return self.count

    def blocks(self, blocks: n.Blocks) -> n.Blocks:
        return tuple(self.block(block) for block in blocks)

    def block(self, block: n.Block) -> n.Block:
        match block:
            case n.Container(kind="step") as it:
                step = self.next()
                return replace(it, step=step, blocks=self.blocks(it.blocks))
            case n.Container(kind="steps") as it:
                return self.in_steps(it) if it.attributes.get("steps") != "no" else n.ChunkView(it.span, "", it.blocks)
            case n.Container(kind="column") as it:
                return n.ChunkView(it.span, "", self.blocks(it.blocks))
            case n.List() as it if self.by_steps:
                return self.items(it)
            case n.List() as it:
                return replace(it, items=tuple(replace(one, blocks=self.blocks(one.blocks)) for one in it.items))
            case n.Quote(blocks=inner) | n.Container(blocks=inner):
                return replace(block, blocks=self.blocks(inner))
            case n.ChunkView() as it:
                return self.view(it)
            case n.CodeBlock() as it if it.turns > 1:
                step = self.count
                self.count += it.turns - 1
                return replace(it, step=step)
        return block

    def items(self, it: n.List) -> n.List:
        """A list, item by item."""
        made = []
        for item in it.items:
            step = self.next()
            made.append(replace(item, step=step, blocks=self.blocks(item.blocks)))
        return replace(it, items=tuple(made))

    def in_steps(self, it: n.Container) -> n.Block:
        """Lists item by item, what holds blocks together block by block, all else as one step."""
        made = [self.stepped(block) for block in it.blocks]
        return made[0] if len(made) == 1 else n.ChunkView(it.span, "", tuple(made))

    def stepped(self, block: n.Block) -> n.Block:
        match block:
            case n.List() as it:
                return self.items(it)
            case n.Container() as it if it.kind not in {"step", "steps"}:
                return replace(it, blocks=tuple(self.stepped(inner) for inner in it.blocks))
            case n.Container() as it:
                return self.block(it)
        return n.Container(block.span, "step", n.NO_ATTRIBUTES, (self.block(block),), step=self.next())

    def view(self, view: n.ChunkView) -> n.Block:
        """A chunk: its code, and where what it shows stands."""
        code, shown = parts_of_view(view)
        made = self.blocks(code)
        if not code or not shown or view.output_goes not in {"next-step", "beside"}:
            return replace(view, blocks=(*made, *self.blocks(shown)))
        if view.output_goes == "beside":
            columns = (replace(view, blocks=made), replace(view, blocks=self.blocks(shown)))
            return n.Container(view.span, "side-by-side", n.NO_ATTRIBUTES, columns)
        step = self.next()
        later = n.Container(view.span, "step", n.NO_ATTRIBUTES, self.blocks(shown), step=step)
        return replace(view, blocks=(*made, later))
