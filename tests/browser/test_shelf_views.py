"""The shelf's views in the browser: deciding backwards, lots, what to buy."""

import pytest
from PIL import Image
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from browser.lookup import fetch, fetch_bytes, post, sheet_named

pytestmark = pytest.mark.browser


def _link(person, title):
    return person.one(f"section[aria-label='{title}']").text


def test_the_chain_follows_what_is_asked_and_what_is_taken(person):
    person.go("/shelf/chain")
    person.sees("The opening has to stretch by 69.7 %")
    assert "Soft addition-cure rubber" in _link(person, "Rubber")
    person.types("Girth of the opening", "100")
    person.sees("The opening has to stretch by 460 %")
    person.sees("It does not stretch over the widest girth: needed 460 %")
    person.types("Girth of the opening", "330")
    spun = "//label[contains(., 'Spun on a machine')]"
    person.driver.find_element(By.XPATH, spun).click()
    person.until(lambda: "Firm addition-cure" in _link(person, "Rubber").split("needed")[0], "firm")
    other = person.until(
        lambda: person.driver.find_element(
            By.XPATH, "//details[contains(., 'Condensation-cure rubber')]"
        ),
        "the condensation rubber",
    )
    other.find_element(By.TAG_NAME, "summary").click()
    other.find_element(By.TAG_NAME, "button").click()
    person.until(
        lambda: person.one("section[aria-label='Rubber'] h2").text == "Condensation-cure rubber",
        "the one that was taken",
    )


def test_a_bad_girth_is_told_at_its_field(person):
    person.go("/shelf/chain")
    person.sees("Casting resin")
    person.types("Girth of the opening", "0")
    person.sees("The opening girth is 0 mm; give 10 mm to 10,000 mm.")
    person.types("Girth of the opening", "wide")
    person.sees("“wide” is not a number")


def test_a_lot_is_put_on_the_shelf_drawn_down_by_a_pour_and_told_when_wrong(person, address):
    person.go("/shelf/lots")
    person.presses("Add a lot")
    _choose(person, "Material", "Fast rigid urethane")
    person.types("What it cost", "17.50")
    person.types("Label", "Under the bench")
    person.types("A and B together", "700")
    person.dates("Opened, if it is", "2027-06-01")
    person.dates("Good until", "2027-01-01")
    person.presses("Put it on the shelf")
    person.sees("before it was opened on 2027-06-01")
    person.dates("Good until", "2028-01-01")
    person.presses("Put it on the shelf")
    person.sees("Under the bench")
    made = next(one for one in fetch(address, "/lots")["lots"] if one["label"] == "Under the bench")
    assert (made["left_kg"], made["expires_on"], made["price"]) == (0.7, "2028-01-01", "17.50")

    def on_the_shelf() -> float:
        """Of this resin in all: which lot is open depends on what was poured before."""
        lots = fetch(address, "/lots")["lots"]
        return sum(one["left_kg"] for one in lots if one["material_name"] == "Fast rigid urethane")

    before = on_the_shelf()
    person.go(f"/sheets/{sheet_named(address, 'chorus')['id']}/pour")
    person.presses("Start a pour")
    for part, grams in (("A", "30"), ("B", "20")):
        field = person.one(f"input[aria-label^='Part {part}']")
        field.send_keys(Keys.CONTROL + "a")
        field.send_keys(grams)
    person.presses("Both are measured")
    person.sees("Pour B into A")
    # The press is shown at once; the server has it a moment later.
    person.until(lambda: before - on_the_shelf() == pytest.approx(0.05), "it is drawn")


def test_what_to_buy_follows_the_number_of_casts(person, address):
    sheet = sheet_named(address, "feather light")
    person.go("/shelf/buy")
    person.sees("Say beside a sheet how many casts you want.")
    field = person.until(
        lambda: person.driver.find_element(By.ID, f"casts-{sheet['id']}"), "the count"
    )
    field.send_keys(Keys.CONTROL + "a")
    field.send_keys("12")
    person.sees("10,710.0 g needed")
    # Of kits of 8, 1.6 and 0.8 kg: one of 8 and two of 1.6 kg, 237.80 + 2 x 58.00.
    assert person.figure("buy-cost") == "353.80 EUR"
    person.sees("What else it takes")
    person.sees("release")
    least = person.driver.find_element(By.ID, "minimum-order")
    least.send_keys(Keys.CONTROL + "a")
    least.send_keys("370", Keys.TAB)
    person.sees("only reach the shop’s smallest order")
    least.send_keys(Keys.CONTROL + "a")
    least.send_keys("9000", Keys.TAB)
    person.sees("short of the shop’s smallest order")
    assert person.figure("buy-cost") == "353.80 EUR"
    assert person.complaints() == []


def _choose(person, label, option):
    field = person.field(label)
    field.send_keys(option)

    def offered():
        found = person.driver.find_elements(By.CSS_SELECTOR, ".ant-select-item-option-content")
        return [one for one in found if option in one.text]

    # What is offered is asked for, and comes when it comes.
    person.until(offered, option)
    field.send_keys(Keys.ENTER)


def test_a_dab_test_is_started_judged_and_believed(person, address, tmp_path):
    person.go("/shelf/dabs")
    person.presses("Add a dab")
    _choose(person, "A dab of", "Firm addition-cure rubber")
    _choose(person, "on", "Print of light-cured resin")
    person.presses("Start its clock")
    person.sees("Firm addition-cure rubber on print of light-cured resin")
    picture = tmp_path / "dab.png"
    Image.new("RGB", (60, 40), "#c9bda6").save(picture)
    person.driver.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(picture))
    person.one("article img")
    assert person.complaints() == []
    person.presses("It is cured")
    person.sees("cured, judged")
    body = {"keys": ["printed-resin", "rubber-addition-firm"]}
    (pair,) = post(address, "/compatibility", body)["pairs"]
    assert pair["verdict"] == "fine"


def test_materials_go_in_from_a_file_and_a_bad_row_is_told(person, address, tmp_path):
    text = fetch_bytes(address, "/shelf.csv?kind=clay").decode("utf-8-sig")
    header, first = text.splitlines()[:2]
    good = first.replace("clay-", "own-clay-", 1)
    path = tmp_path / "clays.csv"
    path.write_text(
        f"{header}\n{good.replace('own-clay', 'bad-clay')},one cell too many\n", "utf-8"
    )
    person.go("/shelf/supplies")
    person.sees("Firm addition-cure rubber")
    person.driver.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(path))
    person.sees("Row 2: It has more or fewer cells than there are columns.")
    path.write_text(f"{header}\n{good}\n", "utf-8")
    person.driver.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(path))
    person.sees("1 material imported.")
    assert person.complaints() == []


def test_an_own_consumable_is_filled_in_and_refused_until_it_fits(person, address):
    person.go("/shelf/supplies/new/consumable")
    person.types("Name", "Paper filter")
    person.types("Price", "-1")
    person.types("Used a coat", "1")
    person.presses("Save as your own sheet")
    person.sees("The price is -1; give 0 to 10,000.")
    person.types("Price", "0.15")
    person.presses("Save as your own sheet")
    person.sees("your sheet")
    listed = fetch(address, "/supplies?kind=consumable")["supplies"]
    made = next(one for one in listed if one["name"] == "Paper filter")
    assert (made["sheet"]["price"], made["sheet"]["per_coat"]) == (0.15, 1)


def test_kits_are_edited_where_the_material_is(person, address):
    (rubber,) = fetch(address, "/supplies?kind=rubber&search=Very%20soft")["supplies"]
    person.go(f"/shelf/supplies/{rubber['id']}")
    person.sees("Kits on offer")
    price = person.one("input[aria-label='price of kit 1']")
    price.send_keys(Keys.CONTROL + "a")
    price.send_keys("0")
    person.presses("Save these kits")
    person.sees("has no price; give one.")
    price.send_keys(Keys.CONTROL + "a")
    price.send_keys("33.30")
    person.clicks("[aria-label='Remove kit 2']")
    person.presses("Save these kits")

    def kept():
        return fetch(address, f"/materials/{rubber['id']}/kits")["kits"]

    person.until(lambda: [k["price"] for k in kept()][:1] == ["33.30"], "the kept price")
    assert len(kept()) == 2


def test_both_ways_of_each_disagreement_stand_side_by_side(person):
    person.go("/shelf/chain")
    person.sees("Where makers disagree")
    table = person.one("section[aria-label='Where makers disagree'] table")
    assert [row.text for row in table.find_elements(By.CSS_SELECTOR, "tbody th")] == [
        "Weigh",
        "Measure by volume",
    ]


def test_a_mould_is_estimated_kept_bought_and_shared_by_casts(person, address):
    person.go("/moulds/new")
    _choose(person, "Piece", "Marsh bird")
    _choose(person, "Rubber", "Firm addition-cure rubber")
    _choose(person, "Shell", "Epoxy dough")
    person.types("Wall of rubber", "90")
    person.sees("The wall of rubber is 90 mm; give 2 mm to 26 mm.")
    person.types("Wall of rubber", "9")
    person.sees("Estimate from area and bends")
    person.types("Name", "Marsh bird, firm")
    person.presses("Save this mould")
    person.until(
        lambda: any(m["name"] == "Marsh bird, firm" for m in fetch(address, "/moulds")["moulds"]),
        "the kept mould",
    )
    sheet = sheet_named(address, "chorus")
    person.go(f"/sheets/{sheet['id']}/cost")
    person.sees("Building the mould")
    with_mould = float(person.figure("cost-each").split()[0])
    _choose(person, "Out of the mould", "leave the mould out")
    person.until(lambda: "Building the mould" not in person.text(), "no mould")
    without = float(person.figure("cost-each").split()[0])
    assert without < with_mould
    lines = fetch(address, f"/sheets/{sheet['id']}/cost?casts=10")
    assert person.figure("cost-run").startswith(lines["run"])


def test_the_cost_of_an_hour_is_kept(person, address):
    person.go(f"/sheets/{sheet_named(address, 'chorus')['id']}/cost")
    person.types("An hour of work", "2000")
    person.presses("Save this rate")
    person.sees("An hour of work costs 0 to 1,000; give its rate.")
    person.types("An hour of work", "27")
    person.presses("Save this rate")
    person.sees("your workshop's rate")
    assert fetch(address, "/workshop")["hour_rate"] == "27.00"
