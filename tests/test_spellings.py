"""Some 300 spellings on the command line: read right, or refused with a hint.

Factors: NIST SP 811 (2008), appendix B.8 (inch, pound, ounce). How people write: common
practice, no source.
"""

import json

import pytest
import trimesh

from mildhusk.cli.main import main

POUND = 453.59237


def spelled(value, *lines):
    """Return every spelling between bars, with what it is."""
    return {text: value for line in lines for text in line.split("|")}


GRAMS = {
    **spelled(
        1500.0,
        "1500|1500g|1500 g|1500 G|1500 gr|1500 gm|1500 gms|1500 gram|1500 grams|1500 gramme",
        "1500 grammes|1,500g|1,500.0 g|1.500,0 g|1'500 g|1 500 g|1.5kg|1.5 kg|1,5 kg|1.5 KG|1.5 Kg",
        "1.5 kilo|1.5 kilos|1.50 kgs|1½ kg|1 1/2 kg|1-1/2 kg|3/2 kg|1kg 500g|1 kg 500 g|1.5e3 g",
        "15e2g|0.0015 t|0.0015 tonnes|1500000 mg|1.500 kg",
    ),
    **spelled(2.0 * POUND, "2lb|2 lb|2 lbs|2 pounds|2 LB|2.0 lb|2,0 lb|32 oz|32 ounces"),
    **spelled(0.75 * POUND, "3/4 lb|¾ lb|12oz|0.75 lb|.75 lb|12 ounces"),
}
NO_GRAMS = spelled(
    None,
    "1,500 kg|1,500kg|2,250 kg|15OOg|g|1500 ml|1500 mm|1,5,0 g|1.5.0 kg|12,34,56 g|--",
    "fifteen hundred g|1500 q|1/0 kg|3 g 2 kg|1500 m|nan g|inf kg|1e999 g|1:500 g|1 lb 16 oz",
)
CELSIUS = spelled(
    21.0,
    "21|21C|21 C|21c|21°C|21 °C|21 deg C|21 degC|21 celsius|21 Celsius|21 centigrade|294.15K",
    "294.15 K|294.15 kelvin|69.8F|69.8 F|69.8 °F|69,8 F|69.8 fahrenheit|21.0 C|21,0 C",
)
NO_CELSIUS = spelled(None, "21 g|warm|21 mm|C|2 1 C C|21%")
MILLIMETRES = {
    **spelled(
        3.0,
        "3|3mm|3 mm|3MM|3 Mm|3.0mm|3,0 mm|0.3cm|0,3 cm|.3 cm|0.003m|3000 µm|3000 microns",
        "3 millimetres|3 millimeters|3e0 mm",
    ),
    **spelled(
        3.175, '1/8in|1/8 in|1/8"|⅛ in|0.125in|0.125 inch|0.125 inches|.125 in|0,125 in|1/8 inch'
    ),
}
NO_MILLIMETRES = spelled(None, "3 g|3 M|three|mm|3 C|3 3|3//8 in|1/8 1/8 in|3 mil")
PERCENT = spelled(
    0.015,
    "1.5%|1.5 %|1,5%|1.5|1,5|1½ %|1 1/2 %|3/2 %|1.5 percent|1.5 per cent|1.5 pct|1.50%",
)
NO_PERCENT = spelled(None, "1.5 g|%|1.5 C|1..5%|15,00,0%")


def ran(capsys, *words):
    """Return the exit code, the answer, and what was said of it."""
    code = main([*words, "--json"])
    said = capsys.readouterr()
    return code, json.loads(said.out) if code == 0 else None, said.err


def refused(capsys, *words):
    code, answer, said = ran(capsys, *words)
    assert (code, answer) == (2, None), words
    assert len(said.strip().splitlines()) == 1
    # One sentence, with what to write instead.
    assert any(hint in said for hint in ("write", "give", "for instance")), said


@pytest.fixture(scope="module")
def ball(tmp_path_factory):
    file = tmp_path_factory.mktemp("spelled") / "ball.stl"
    trimesh.creation.icosphere(2, 60.0).export(file)
    return str(file)


@pytest.mark.parametrize(("text", "grams"), GRAMS.items())
def test_a_weight_is_read_by_mix_buy_and_cure(capsys, text, grams):
    _, mixed, _ = ran(capsys, "mix", "--resin", "pu-fast-rigid", f"--grams={text}")
    # Rounded up to a tenth of a gram of each part.
    assert 0.0 <= mixed["charge_kg"] * 1e3 - grams <= 0.2 + 1e-6
    _, cured, _ = ran(capsys, "cure", "--resin", "pu-fast-rigid", f"--grams={text}")
    _, same, _ = ran(capsys, "cure", "--resin", "pu-fast-rigid", f"--grams={grams!r}g")
    assert cured["peak_cup_C"] == pytest.approx(same["peak_cup_C"], abs=1e-6)
    # A bare number is kilograms where kits are bought.
    unit = " g" if text == "1500" else ""
    _, bought, _ = ran(capsys, "buy", f"--need=polyester={text}{unit}")
    assert bought["purchases"][0]["need_kg"] * 1e3 == pytest.approx(grams, rel=1e-7)


@pytest.mark.parametrize("text", NO_GRAMS)
def test_what_is_no_weight_is_refused_by_mix_buy_and_cure(capsys, text):
    refused(capsys, "mix", "--resin", "pu-fast-rigid", f"--grams={text}")
    refused(capsys, "cure", "--resin", "pu-fast-rigid", f"--grams={text}")
    refused(capsys, "buy", f"--need=polyester={text}")


@pytest.mark.parametrize(("text", "celsius"), CELSIUS.items())
def test_a_temperature_is_read_by_cure(capsys, text, celsius):
    _, cured, _ = ran(capsys, "cure", "--resin", "pu-fast-rigid", f"--temp={text}")
    _, same, _ = ran(capsys, "cure", "--resin", "pu-fast-rigid", f"--temp={celsius!r}C")
    assert cured["working_time_s"] == pytest.approx(same["working_time_s"], rel=1e-6)


@pytest.mark.parametrize("text", NO_CELSIUS)
def test_what_is_no_temperature_is_refused_by_cure_and_sheet(capsys, ball, text):
    refused(capsys, "cure", "--resin", "pu-fast-rigid", f"--temp={text}")
    refused(capsys, "sheet", ball, "--resin", "pu-fast-rigid", "--wall", "3mm", f"--temp={text}")


@pytest.mark.parametrize(("text", "millimetres"), MILLIMETRES.items())
def test_a_length_is_read_by_cure_and_sheet(capsys, ball, text, millimetres):
    _, cured, _ = ran(capsys, "cure", "--resin", "pu-fast-rigid", f"--film={text}")
    _, same, _ = ran(capsys, "cure", "--resin", "pu-fast-rigid", f"--film={millimetres!r}mm")
    assert cured["gel_film_s"] == pytest.approx(same["gel_film_s"], rel=1e-6)
    _, sheet, _ = ran(capsys, "sheet", ball, "--resin", "pu-fast-rigid", f"--wall={text}")
    assert sheet["planned_wall_m"] * 1e3 >= millimetres * (1.0 - 1e-9)
    assert sheet["planned_wall_m"] * 1e3 < 2.0 * millimetres


@pytest.mark.parametrize("text", NO_MILLIMETRES)
def test_what_is_no_length_is_refused_by_cure_and_sheet(capsys, ball, text):
    refused(capsys, "cure", "--resin", "pu-fast-rigid", f"--film={text}")
    refused(capsys, "sheet", ball, "--resin", "pu-fast-rigid", f"--wall={text}")


@pytest.mark.parametrize(("text", "share"), PERCENT.items())
def test_a_dose_is_read_by_mix_and_cure(capsys, text, share):
    _, mixed, _ = ran(
        capsys, "mix", "--resin", "polyester", "--grams", "400g", f"--catalyst={text}"
    )
    parts = mixed["parts_kg"]
    assert parts["B"] / parts["A"] == pytest.approx(share, rel=0.02)
    _, cured, _ = ran(capsys, "cure", "--resin", "polyester", f"--catalyst={text}")
    _, same, _ = ran(capsys, "cure", "--resin", "polyester", "--catalyst=1.5%")
    assert cured["working_time_s"] == pytest.approx(same["working_time_s"], rel=1e-9)


@pytest.mark.parametrize("text", NO_PERCENT)
def test_what_is_no_dose_is_refused_by_mix_and_cure(capsys, text):
    refused(capsys, "mix", "--resin", "polyester", "--grams", "400g", f"--catalyst={text}")
    refused(capsys, "cure", "--resin", "polyester", f"--catalyst={text}")


def test_there_are_three_hundred_of_them():
    right = 3 * len(GRAMS) + len(CELSIUS) + 2 * len(MILLIMETRES) + 2 * len(PERCENT)
    wrong = 3 * len(NO_GRAMS) + 2 * (len(NO_CELSIUS) + len(NO_MILLIMETRES) + len(NO_PERCENT))
    assert right + wrong >= 300


def test_what_is_printed_can_be_typed_again(capsys):
    """Round trip: the weights that a mix prints are read as what they are."""
    main(["mix", "--resin", "pu-fast-rigid", "--grams", "1.42kg", "--scale", "0.01g"])
    shown = capsys.readouterr().out.split("together ")[1].splitlines()[0]
    assert "," in shown
    _, again, _ = ran(
        capsys, "mix", "--resin", "pu-fast-rigid", f"--grams={shown}", "--scale=0.01g"
    )
    _, first, _ = ran(capsys, "mix", "--resin", "pu-fast-rigid", "--grams=1.42kg", "--scale=0.01g")
    assert again["charge_kg"] == pytest.approx(first["charge_kg"], abs=2e-5)


WEIRD = spelled(
    None,
    "| |nan|inf|-1|0|1e308|1e-320|1e999|🙂|1/0|²|½½ g|10**5|0x1F|1_000|5 g|5mm|-300C|1:nan|=|@|%",
    "a=b|pu-fast-rigid=1kg@2027-02-30|pu-fast-rigid=-1kg|machine:a,b|machine:1e9,1|100:-5|--",
)
OPTIONS = {
    "mix": {
        "--resin": "pu-fast-rigid",
        "--grams": "240g",
        "--ratio": "100:90",
        "--poured-a": "130g",
        "--drop": "30mg",
        "--mark": "1ml",
        "--scale": "0.1g",
        "--tint": "1%",
        "--thinner": "1%",
    },
    "mix ": {
        "--resin": "rubber-condensation",
        "--grams": "400g",
        "--ratio": "100:5:5",
        "--poured-a": "380g",
        "--temp": "23C",
        "--scale": "0.1g",
        "--thickener": "1%",
    },
    "buy": {
        "--need": "pu-fast-rigid=1kg",
        "--lot": "pu-fast-rigid=0.2kg@2099-01-01",
        "--minimum": "30",
    },
    "cure": {
        "--resin": "polyester",
        "--grams": "240g",
        "--temp": "20C",
        "--mould-temp": "20C",
        "--parts-temp": "20C",
        "--film": "1mm",
        "--catalyst": "1.5%",
    },
    "chain": {
        "--purpose": "worn",
        "--opening-girth": "330mm",
        "--widest-girth": "560mm",
        "--paint": "yes",
        "--spin": "no",
        "--area": "1500cm2",
        "--take": "mould=cut",
    },
}


@pytest.mark.parametrize(
    ("command", "option"), [(name, one) for name, options in OPTIONS.items() for one in options]
)
def test_nothing_that_can_be_typed_is_more_than_one_line(capsys, command, option):
    """Whatever stands behind an option is answered, or refused in one line; no traceback."""
    for weird in WEIRD:
        values = {**OPTIONS[command], option: weird}
        code = main([command.strip(), *(f"{name}={text}" for name, text in values.items())])
        said = capsys.readouterr().err
        assert (code, len(said.splitlines())) in ((0, 0), (2, 1)), (option, weird, said)
