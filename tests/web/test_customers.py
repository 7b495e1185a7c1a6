"""Customers: whoever orders is one; their orders by one name however it is spelt; forgotten on request."""


def closed_job(counter, **order) -> str:
    """One piece, printed, pressed, looked at and closed."""
    job = counter.order({"S": 1}, **order)
    run = counter.printed(job)
    for stage in ("powder", "cure-oven"):
        counter.act(job, kind="prepared", run=run, stage=stage, count=1)
    counter.act(job, kind="pressed", run=run, size="S", press="gannet", stages=[])
    counter.act(job, kind="good", size="S", count=1)
    assert counter.act(job, kind="closed", short=False, note="").status_code == 200
    return job


def test_two_spellings_of_a_name_are_one_customer_with_all_their_orders(counter):
    for customer in ("Ida's Café", "  ida's   CAFÉ "):
        counter.order(title="Cups", customer=customer)
    (row,) = counter.get("/api/customers", params={"words": "ida's"}).json()["customers"]
    assert (row["name"], row["open"], row["ended"]) == ("Ida's Café", 2, 0)
    path = f"/api/customers/{row['id']}"
    given = {"contact": "ida@cafe.example", "notes": "collects on Fridays"}
    seen = counter.client.put(path, json=given, headers=counter.headers).json()
    assert (seen["contact"], seen["notes"], len(seen["orders"])) == ("ida@cafe.example", "collects on Fridays", 2)
    assert (
        counter.as_person("Visitor")
        .client.put(path, json=given, headers=counter.as_person("Visitor").headers)
        .status_code
        == 403
    )
    assert counter.get("/api/customers/none").json()["code"] == "no-such-customer"


def test_lists_go_on_in_pages_by_name(counter):
    names = {f"Zz page {n:03}" for n in range(43)}
    for name in names:
        counter.order(customer=name)
    seen, after = [], ""
    while after is not None:
        page = counter.get("/api/customers", params={"words": "zz page", "after": after}).json()
        seen += [c["name"] for c in page["customers"]]
        after = page["following"]
    assert seen == sorted(names)


def test_forgetting_takes_what_is_kept_and_the_name_from_the_books_where_the_shop_says_so(app, counter):
    job = closed_job(counter, customer="Rolf Ahlgren")
    open_one = counter.order(title="Another", customer="Rolf Ahlgren")
    brand = {"customer": "rolf ahlgren", "name": "His blue", "lab": [30, 5, -40], "within_delta_e": 3}
    assert counter.client.put("/api/colour/brands/his-blue", json=brand, headers=counter.headers).status_code == 200
    (row,) = counter.get("/api/customers", params={"words": "rolf"}).json()["customers"]
    path = f"/api/customers/{row['id']}"
    counter.client.put(path, json={"contact": "0700 000", "notes": "left-handed"}, headers=counter.headers)
    seen = counter.get(path).json()
    assert (seen["closed_seen"], [b["name"] for b in seen["brands"]]) == (1, ["His blue"])
    assert counter.as_person("Noor").post(f"{path}/forget", json={"from_books": True}).status_code == 403
    assert counter.post(f"{path}/forget", json={"from_books": False}).json()["called"] == "Rolf Ahlgren"
    seen = counter.get(path).json()
    assert (seen["contact"], seen["notes"], seen["brands"]) == ("", "", [])
    called = counter.post(f"{path}/forget", json={"from_books": True}).json()["called"]
    assert counter.get("/api/customers", params={"words": "rolf"}).json()["customers"] == []
    for one in (job, open_one):
        assert counter.job(one)["line"]["decisions"]["order"]["customer"] == called
        for path in (f"/api/jobs/{one}", "/api/jobs?which=all&words=rolf", "/api/logbook?words=rolf"):
            assert "Rolf" not in counter.get(path).text
    assert not [d for d in app.state.services.standings.refold() if job in d.what or open_one in d.what]


def test_what_a_customer_brought_before_is_offered_to_nobody_else(counter):
    first = counter.order(title="Cups", customer="Tin Whistle Band")
    file = counter.place(first, 60)["line"]["decisions"]["place"]["file"]
    again = counter.order(title="More cups", customer="tin whistle  band")
    other = counter.order(title="Cups", customer="Brass Band")
    (offered,) = counter.get(f"/api/jobs/{again}/their-pictures").json()
    assert (offered["file"], offered["name"]) == (file, "art.png")
    assert counter.get(offered["picture"]).status_code == 200
    assert counter.get(f"/api/jobs/{other}/their-pictures").json() == []
    assert counter.decide(again, "place", file=offered["file"]).status_code == 200


def test_a_quotation_that_is_accepted_is_the_order(counter):
    job = counter.order({"S": 2, "M": 4}, quoted=None)
    counter.place(job, 60)
    path = f"/api/jobs/{job}/agreed"
    said = {"pieces": 24, "price": 8.4, "by": "R. Okafor, by mail"}
    assert (
        counter.as_person("Visitor")
        .client.post(path, json=said, headers=counter.as_person("Visitor").headers)
        .status_code
        == 403
    )
    seen = counter.post(path, json=said).json()
    order = seen["line"]["decisions"]["order"]
    assert order["lines"][0]["counts"] == {"S": 8, "M": 16}
    assert (order["quoted"], order["settled"]) == (8.4, True)
    assert order["agreed"] == "24 pieces at 8.40 EUR each: R. Okafor, by mail"
    again = counter.post(f"/api/jobs/{job}/again", json={"due": order["due"]}).json()["id"]
    assert counter.job(again)["line"]["decisions"]["order"]["agreed"] == ""
    assert counter.post(path, json={**said, "price": -1}).status_code == 422
