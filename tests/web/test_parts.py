"""A print larger than its printer takes, from the refusal at Sheet to the printed parts."""

from tests.web.conftest import Counter

DRAWING = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100" width="260mm" height="260mm"><circle cx="50" cy="50" r="50" fill="#c83c28"/></svg>'


def sheet(job: dict) -> dict:
    return next(s for s in job["line"]["stations"] if s["station"] == "sheet")


def test_a_large_print_is_offered_in_parts_and_counted_whole(counter: Counter):
    job = counter.order(title="Banner aprons", lines=[{"blank": "apron-navy", "counts": {"one": 2}}])
    file = counter.upload(DRAWING, "sun.svg").json()["file"]
    assert counter.decide(job, "place", file=file, width_um=210_000, below_collar_um=60_000).status_code == 200
    toner = counter.get(f"/api/jobs/{job}/advice").json()["ways"]["toner-two-sheet"]
    way = counter.decide(job, "method", **toner).json()
    refused = next(f for f in sheet(way)["findings"] if f["code"] == "does-not-fit")
    assert (refused["patch"]["changes"], refused["fix_text"]) == ({"in_parts": True}, "Print it in 2 parts")
    before = counter.job(job)["line"]["readings"]
    parted = counter.decide(job, "sheet", in_parts=True, overlap_um=5_000, spares=0).json()
    found = sheet(parted)
    assert {f["code"] for f in found["findings"]} == {"in-parts"}
    assert found["findings"][0]["message"].endswith("1 seam from top to bottom")
    assert found["verdict"] == "2 prints in 2 parts each, on 4 sheets"
    assert "overlap by 5 mm" in found["findings"][0]["message"]
    hands = {r["key"]: r["value"] for r in parted["line"]["readings"]}["hands"]
    assert hands > {r["key"]: r["value"] for r in before}.get("hands", 0)
    counter.plates(job)
    released = counter.release(job)
    assert released.status_code == 201, released.text
    run = released.json()["runs"][-1]
    assert (run["copies"], run["lengths"], run["copies_per_cut"], run["is_cut"]) == (2, 4, [1, 1], False)
    assert counter.act(job, kind="printed", run=run["id"], count=1).status_code == 200
    after = counter.job(job)
    assert after["ledger"]["printed"] == 1
    # What is still to print is laid in parts again.
    assert (
        sheet(after)["verdict"] == "one print in 2 parts each, on 2 sheets"
        or "1 print in 2 parts" in sheet(after)["verdict"]
    )
    counter.act(job, kind="printed", run=run["id"], count=1)
    # At the press the clock runs for every part; the piece counts once, with all that it went through.
    card = counter.get(f"/api/jobs/{job}/press-card").json()
    assert (card["parts"], card["beside"]) == (2, "5 mm over the one that is on")
    assert counter.get(f"/api/jobs/{job}/heat").json()["parts"] == 2
    stages = card["stages"]
    of_part = {n: [s["id"] for s in stages if s["nth_part"] == n] for n in (0, 1, 2)}
    assert of_part[0] == [s["id"] for s in stages if s["first_only"]]
    assert of_part[1] == of_part[2]
    assert "transfer" in of_part[1]
    assert stages[-1]["name"].endswith(", 2 of 2 parts")
    ran = [
        {"stage": s["id"], "temperature_c": s["temperature_c"], "planned_s": s["time_s"], "ran_s": s["time_s"]}
        for s in stages
    ]
    pressed = counter.act(
        job, kind="pressed", run=run["id"], size="one", print=card["print"], press=card["press"], stages=ran
    )
    assert pressed.status_code == 200, pressed.text
    assert counter.job(job)["ledger"]["books"]["pieces"][0]["complete"] == 1
