"""The shop's colour over the wire: profiles, conditions, charts, measurements, customers' colours, and what came out off."""

from typing import Annotated, Any

from fastapi import APIRouter, Depends, File, Form, Query, Response, UploadFile
from pydantic import Field

from offsetter.core.compute.chart import Chart
from offsetter.core.compute.cielab import hex_of_lab
from offsetter.core.compute.correction import OffColour
from offsetter.core.compute.tone import DRIFT_LIMIT
from offsetter.core.facts import BrandColour, Condition, GivenLab, Lab, Measurement, Profile
from offsetter.core.values import Frozen
from offsetter.desk.conditions import ConditionView
from offsetter.desk.measuring import MeasurementView
from offsetter.desk.scenes import PointView
from offsetter.formats.cgats import MOST_BYTES as MOST_TEXT_BYTES
from offsetter.intake.icc import MOST_BYTES
from offsetter.web.guard import ColourKeeper, Person, signed_in
from offsetter.web.limits import FORM_BYTES, FactId
from offsetter.web.services import Desk, Services

router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])
Share = Annotated[float, Query(ge=0, le=1)]


class ProbeTold(Frozen):
    id: str
    name: str


class ColourOut(Frozen):
    profiles: tuple[Profile, ...]
    own_profile: str
    """Stands in where none is assigned."""
    conditions: tuple[ConditionView, ...]
    brands: tuple[BrandColour, ...]
    shown_brands: dict[str, str]
    """How a screen shows each."""
    probes: tuple[ProbeTold, ...]
    """That measure charts on the network."""
    drift_limit: float


class Where(Frozen):
    printer: str
    media: str
    mode: str


class AssignIn(Where):
    profile: str


class ProbeIn(Frozen):
    probe: FactId


class ChartOut(Frozen):
    chart: Chart
    shown: dict[str, str]
    """Label to how a screen shows what the patch should look like."""
    places_mm: tuple[tuple[float, float], ...]
    """Left and top of each patch on the sheet as it is read."""


class OffIn(Frozen):
    print: str = ""
    colour: str = Field(pattern=r"^#[0-9A-Fa-f]{6}$")
    """The artwork's."""
    seen: GivenLab
    wanted: GivenLab | None = None
    """As it should look; None: as the artwork has it, or the customer's colour that it is meant to be."""


@router.get("/colour")
def read_colour(desk: Desk) -> ColourOut:
    """All that the shop knows of its colour."""
    shop, _ = desk.jobs.shop()
    return ColourOut(
        profiles=tuple(sorted(shop.profiles.values(), key=lambda p: p.name)), own_profile=desk.jobs.profile, conditions=desk.conditions.all(desk.measuring.measurements()),
        shown_brands={b.id: hex_of_lab(b.lab) for b in shop.brand_colours.values()},
        brands=tuple(sorted(shop.brand_colours.values(), key=lambda b: (b.customer, b.name))), probes=tuple(ProbeTold(id=p.id, name=p.name) for p in desk.probes.of("colour")), drift_limit=DRIFT_LIMIT,
    )  # fmt: skip


@router.post("/colour/profiles", status_code=201, max_body_size=MOST_BYTES + FORM_BYTES)
def add_profile(file: Annotated[UploadFile, File()], desk: Desk, person: Person) -> Profile:
    """Keep an ICC profile, or refuse it with the reason."""
    return desk.conditions.add_profile(file.filename or "profile", file.file.read(MOST_BYTES + 1), person)


@router.delete("/colour/profiles/{profile}", status_code=204)
def remove_profile(profile: FactId, desk: Desk, person: Person) -> None:
    desk.conditions.remove_profile(profile)


@router.put("/colour/conditions")
def assign_profile(given: AssignIn, desk: Desk, person: Person) -> Condition:
    """A profile for one printer, medium and mode."""
    return desk.conditions.assign(given.printer, given.media, given.mode, given.profile, person)


@router.post("/colour/charts", status_code=201)
def make_chart(where: Where, desk: Desk, person: Person) -> ChartOut:
    """The chart that tells a whole condition."""
    return _chart(desk, desk.measuring.make_chart(where.printer, where.media, where.mode))


@router.get("/colour/charts/{chart}")
def read_chart(chart: FactId, desk: Desk) -> ChartOut:
    return _chart(desk, desk.measuring.chart(chart))


@router.get("/colour/charts/{chart}/chart.pdf", response_class=Response)
def chart_pdf(chart: FactId, desk: Desk) -> Response:
    """To print at 100 %, with no profile in between."""
    return Response(
        desk.measuring.chart_pdf(chart),
        media_type="application/pdf",
        headers={"content-disposition": 'inline; filename="chart.pdf"'},
    )


@router.get("/colour/charts/{chart}/chart.txt", response_class=Response)
def chart_text(chart: FactId, desk: Desk) -> Response:
    """The patches as CGATS text, for a measuring program."""
    return Response(
        desk.measuring.chart_text(chart),
        media_type="text/plain",
        headers={"content-disposition": 'attachment; filename="chart.txt"'},
    )


@router.post("/colour/charts/{chart}/measurements", status_code=201, max_body_size=MOST_TEXT_BYTES + FORM_BYTES)
def measure_by_hand(chart: FactId, file: Annotated[UploadFile, File()], desk: Desk, person: Person) -> Measurement:
    """A file of measurements: CGATS text or CSV."""
    return desk.measuring.measured_by_hand(
        chart, file.filename or "measurements", file.file.read(MOST_TEXT_BYTES + 1), person
    )


@router.post("/colour/charts/{chart}/probe", status_code=201)
def measure_by_probe(chart: FactId, given: ProbeIn, desk: Desk, person: Person) -> Measurement:
    """Have a probe on the network read the printed chart."""
    return desk.measuring.measured_by_probe(chart, given.probe, person)


@router.get("/colour/measurements/{measurement}")
def read_measurement(measurement: FactId, desk: Desk) -> MeasurementView:
    """Patch by patch, beside the measurement before it."""
    return desk.measuring.look(measurement)


@router.post("/colour/measurements/{measurement}/correction", status_code=201)
def correct(measurement: FactId, desk: Desk, person: Person) -> Condition:
    """Correct the condition's tones and ink limit from this measurement."""
    return desk.measuring.correct(measurement, person)


@router.put("/colour/brands/{brand}")
def put_brand(brand: FactId, body: dict[str, Any], desk: Desk, person: Person) -> BrandColour:
    """A customer's colour, new or changed."""
    return desk.brands.put(brand, body, person)


@router.delete("/colour/brands/{brand}", status_code=204)
def remove_brand(brand: FactId, desk: Desk, who: ColourKeeper) -> None:
    """A customer's colour is the owner's to take away."""
    desk.brands.remove(brand, who.user.name)


@router.post("/colour/pick", max_body_size=MOST_BYTES + FORM_BYTES)
def pick(
    file: Annotated[UploadFile, File()], x: Annotated[float, Form(ge=0, le=1)], y: Annotated[float, Form(ge=0, le=1)],
    white_x: Annotated[float, Form(ge=0, le=1)], white_y: Annotated[float, Form(ge=0, le=1)], desk: Desk, person: Person,
) -> Lab:  # fmt: skip
    """The colour of a spot on a photograph, against a white sheet in the same light."""
    return desk.brands.pick(file.filename or "photo", file.file.read(MOST_BYTES + 1), (x, y, white_x, white_y))


@router.get("/pictures/{key}/point")
def look_at_point(key: str, x: Share, y: Share, desk: Desk) -> PointView:
    """One point of a print: asked, inks, printed, on the cloth."""
    return desk.jobs.point(key if key.isalnum() else "none", x, y)


@router.post("/jobs/{job_id}/off-colour/try")
def off_colour(job_id: str, given: OffIn, desk: Desk) -> OffColour:
    """What to ask of the inks instead, where a pressed colour came out off; nothing is saved."""
    return desk.off_colours.answer(job_id, given.print, given.colour, given.seen, given.wanted)


@router.post("/jobs/{job_id}/off-colour/strip", status_code=201)
def off_colour_strip(job_id: str, given: OffIn, desk: Desk, person: Person) -> ChartOut:
    """The next test strip: what to ask for instead, and its neighbours."""
    return _chart(desk, desk.off_colours.strip(job_id, given.print, given.colour, given.seen, given.wanted))


def _chart(desk: Services, chart: Chart) -> ChartOut:
    return ChartOut(
        chart=chart,
        shown=desk.measuring.shown(chart),
        places_mm=tuple(chart.at_mm(i) for i in range(len(chart.patches))),
    )
