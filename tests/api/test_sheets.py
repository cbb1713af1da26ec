"""Cast sheets through the API: previewed, kept, printed, exported, refused."""

import csv
import io
import json

import pytest
from pypdf import PdfReader

from api.conftest import API, WISH, assert_problem
from mildhusk.core.wording import in_minutes


@pytest.fixture
def ask(client, piece, resin):
    def send(key="pu-fast-rigid", **wish):
        body = {
            "piece_id": piece["id"],
            "material_id": resin(key)["id"],
            "wish": {**WISH, **wish},
        }
        return client.post(f"{API}/sheets/preview", json=body)

    return send


def test_a_preview_is_what_a_kept_sheet_shows(ask, sheet):
    assert ask().json == sheet["plan"]


def test_a_resin_by_volume_comes_in_millilitres_with_cup_marks(ask):
    coat = ask("pu-medium-rigid").json["coats"][0]
    assert coat["parts_m3"]["A"] == coat["parts_m3"]["B"]
    assert coat["parts_kg"]["A"] != coat["parts_kg"]["B"]
    assert 0 < coat["cup_marks_m"]["A"] < coat["cup_marks_m"]["A+B"]


def test_a_preview_keeps_nothing(ask, client):
    ask()
    assert client.get(f"{API}/sheets").json["sheets"] == []


@pytest.mark.parametrize(
    ("wish", "field", "said"),
    [
        ({"wall_m": 0}, "wall_m", "more than 0 mm"),
        ({"wall_m": -0.003}, "wall_m", "more than 0 mm"),
        ({"wall_m": 0.2}, "wall_m", "thicker than"),
        ({"wall_m": 1e6}, "wall_m", "thicker than"),
        ({"wall_m": "thick"}, "wall_m", "'thick', which is not a number"),
        ({"wall_m": "NaN"}, "wall_m", "finite"),
        ({"room_temperature_k": 21}, "room_temperature_k", "give 5 °C to 45 °C"),
        ({"loss": 0.9}, "loss", "The loss is 90 %; give 0 % to 50 %"),
        ({"allowance": -1}, "allowance", "allowance"),
        ({"scale_step_kg": 0}, "scale_step_kg", "last digit of the scale"),
    ],
)
def test_bad_wishes_are_refused_by_field_and_sentence(ask, wish, field, said):
    assert_problem(ask(**wish), 422, said, field)


def test_a_sheet_that_cannot_be_planned_is_not_kept(client, piece, resin):
    body = {
        "name": "Impossible",
        "piece_id": piece["id"],
        "material_id": resin("polyester")["id"],
        "wish": {**WISH, "wall_m": 9.0},
    }
    assert_problem(client.post(f"{API}/sheets", json=body), 422, "thicker")
    assert client.get(f"{API}/sheets").json["sheets"] == []


def test_a_sheet_is_edited_once_per_version(client, sheet):
    body = {key: sheet[key] for key in ("name", "piece_id", "material_id", "version")}
    thicker = {**body, "wish": {**WISH, "wall_m": 0.004}}
    address = f"{API}/sheets/{sheet['id']}"
    edited = client.put(address, json=thicker)
    assert edited.json["plan"]["total_charge_kg"] > sheet["plan"]["total_charge_kg"]
    assert_problem(client.put(address, json=thicker), 409, "another window")


def test_a_sheet_never_poured_can_be_deleted(client, sheet):
    assert client.delete(f"{API}/sheets/{sheet['id']}").json["deleted"] is True
    assert_problem(client.get(f"{API}/sheets/{sheet['id']}"), 404, "no such cast sheet")


def test_json_export_is_the_whole_sheet(client, sheet):
    sent = client.get(f"{API}/sheets/{sheet['id']}/sheet.json")
    content = json.loads(sent.data)
    assert content["plan"] == sheet["plan"]
    assert content["wish"] == sheet["wish"]
    assert "attachment" in sent.headers["Content-Disposition"]


def test_csv_export_adds_up_as_written(client, sheet):
    text = client.get(f"{API}/sheets/{sheet['id']}/sheet.csv").data.decode("utf-8-sig")
    rows = list(csv.DictReader(io.StringIO(text)))
    assert len(rows) == len(sheet["plan"]["coats"])
    for row in rows:
        assert float(row["A_g"]) + float(row["B_g"]) == pytest.approx(float(row["charge_g"]))
    assert sum(float(row["charge_g"]) for row in rows) == pytest.approx(
        sheet["plan"]["total_charge_kg"] * 1e3
    )
    assert rows[-1]["next_from_s"] == ""


def test_a_name_cannot_run_as_a_formula(client, sheet):
    body = {key: sheet[key] for key in ("piece_id", "material_id", "version", "wish")}
    address = f"{API}/sheets/{sheet['id']}"
    client.put(address, json={**body, "name": "=1+1"})
    assert "\r\n'=1+1," in client.get(f"{address}/sheet.csv").data.decode("utf-8-sig")


def test_the_bench_card_has_the_numbers_of_the_sheet_and_its_cautions(client, sheet):
    sent = client.get(f"{API}/sheets/{sheet['id']}/bench-card.pdf")
    assert sent.content_type == "application/pdf"
    pages = PdfReader(io.BytesIO(sent.data)).pages
    text = " ".join(" ".join(page.extract_text().split()) for page in pages)
    coat = sheet["plan"]["coats"][0]
    for part in "AB":
        assert f"{coat['parts_kg'][part] * 1e3:.1f}" in text
    for key in ("pour_by_s", "roll_until_s", "next_from_s", "next_until_s"):
        assert in_minutes(coat[key]) in text
    assert sheet["name"] in text
    assert "safety data sheet" in text
    assert "estimates" in text


def test_the_bench_card_is_set_in_the_shipped_type(client, sheet):
    sent = client.get(f"{API}/sheets/{sheet['id']}/bench-card.pdf")
    fonts = {
        str(font.get_object()["/BaseFont"])
        for page in PdfReader(io.BytesIO(sent.data)).pages
        for font in page["/Resources"]["/Font"].values()
    }
    assert fonts
    assert all("Bench" in font for font in fonts), fonts


def test_a_name_that_is_markup_is_printed_as_it_is(client, sheet):
    body = {key: sheet[key] for key in ("piece_id", "material_id", "version", "wish")}
    address = f"{API}/sheets/{sheet['id']}"
    client.put(address, json={**body, "name": "<b>bold</b> & brave"})
    pdf = client.get(f"{address}/bench-card.pdf").data
    assert "<b>bold</b> & brave" in PdfReader(io.BytesIO(pdf)).pages[0].extract_text()
