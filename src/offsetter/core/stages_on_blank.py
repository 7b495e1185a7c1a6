"""A recipe's stages as they go on one blank: what it has, what stands up on it, which way is up."""

from offsetter.core.compute.placement import obstacles_under, place_on
from offsetter.core.decisions import PlaceDoc
from offsetter.core.facts import Blank, GarmentSize, Layer, Method, Stage, TubeSize
from offsetter.core.places import box_of, side_of
from offsetter.core.sentences import listed, say


def stages_for(stages: tuple[Stage, ...], blank: Blank) -> tuple[Stage, ...]:
    """Those that this blank goes through: a foil comes off what has one, a hanger is looked at where there is one."""
    has = {"": True, "foil": blank.has_foil, "up": bool(blank.up_by)}
    return tuple(_naming(s, blank) for s in stages if has[s.only_if])


def _naming(stage: Stage, blank: Blank) -> Stage:
    if stage.only_if != "up":
        return stage
    words = {f: getattr(stage, f).replace("{up}", blank.up_by) for f in ("name", "say", "then")}
    stack = tuple(x.model_copy(update={"note": x.note.replace("{up}", blank.up_by)}) for x in stage.stack)
    return stage.model_copy(update={**words, "stack": stack})


COLOURED = "Coloured sheet"


PADDED = "Foam pad under the print"


def stages_on(
    stages: tuple[Stage, ...], place: PlaceDoc, blank: Blank, *, pad: str = "", sheet: str = ""
) -> tuple[Stage, ...]:
    """The recipe's stages on this blank: recipes tell of a garment's front, a pad comes under the print where something stands up.

    pad: what stands up under the print; empty: nothing. sheet: the coloured sheet chosen; empty: none gives the colour.
    """
    is_garment = any(isinstance(s, GarmentSize) for s in blank.sizes.values())
    is_tube = any(isinstance(s, TubeSize) for s in blank.sizes.values())
    thing = "Garment" if is_garment else blank.name
    side = side_of(place)
    named = f"{thing}, {side}" if is_garment else say("{thing}, other side", thing=thing) if side == "back" else thing

    def on_it(layer: Layer) -> Layer:
        if sheet and layer.what == COLOURED:
            return layer.model_copy(update={"what": f"{COLOURED}: {sheet}"})
        if layer.kind != "blank":
            return layer
        what = {"Garment, front": named, "Garment with print": say("{thing} with print", thing=thing), "Blank": thing, "Blank with print": say("{thing} with print", thing=thing),
                "Garment, folded": say("{thing}, folded", thing=thing)}.get(layer.what, layer.what)  # fmt: skip
        note = (
            layer.note
            if is_garment
            else layer.note.replace("collar off the edge, one layer", "one layer").replace("collar off the edge", "")
        )
        return layer.model_copy(update={"what": what, "note": note})

    def padded(stage: Stage) -> tuple[Layer, ...]:
        stack = tuple(on_it(x) for x in stage.stack)
        at = next((i for i, x in enumerate(stack) if x.kind == "blank"), None)
        if at is not None and is_tube and stack[0].kind == "platen":
            stack = (
                *stack[: at + 1],
                Layer(what="Jig", kind="tray", note=say("inside it, smooth, its seams at the edges")),
                *stack[at + 1 :],
            )
        if not pad or at is None or stack[0].kind != "platen" or any(x.kind == "pad" for x in stack):
            return stack
        return (
            *stack[: at + 1],
            Layer(what=PADDED, kind="pad", note=say("clears the {pad}", pad=pad)),
            *stack[at + 1 :],
        )

    return tuple(s.model_copy(update={"stack": padded(s)}) for s in stages)


def pad_for(method: Method, blank: Blank, place: PlaceDoc, size: str, height_um: int) -> str:
    """What stands up under the print and is cleared with a pad: its name; empty when nothing does."""
    if method.uneven != "pad":
        return ""
    cut = blank.sizes[size]
    under = obstacles_under(blank, place_on(blank, cut, place.place), box_of(place, place.width_for(size), height_um))
    return listed(dict.fromkeys(o.kind for o in under))
