//! `ypogram survey`: the view on the demo data, the records behind every figure, pages, surveys kept and held against one
//! another.

use serde_json::Value;

use crate::{Place, table};

#[test]
fn the_demo_list() {
    let place = Place::with_demo();
    insta::assert_snapshot!("survey_demo", place.run("survey members.csv").stdout);
    for call in ["--threads 1 --chunk-bytes 64", "--threads 7 --chunk-bytes 1000"] {
        assert_eq!(
            place.run(&format!("survey members.csv {call}")).stdout,
            place.run("survey members.csv").stdout
        );
    }
}

#[test]
fn every_figure_opens_its_records() {
    let place = Place::with_demo();
    let survey: Value = serde_json::from_str(&place.run("survey members.csv --json").stdout).unwrap();
    let mut opened = 0;
    let mut opens = |condition: String, count: &Value| {
        let run = place.run_words(&["survey", "members.csv", "--show", &condition], "");
        assert_eq!(run.code, 0, "{condition}: {}", run.stderr);
        assert_eq!(table(&run.stdout).len() as u64, count.as_u64().unwrap(), "{condition}");
        opened += 1;
    };
    let text = |value: &Value| value.as_str().unwrap().to_owned();
    let quoted = |value: &Value| format!("\"{}\"", text(value).replace('"', "\"\""));
    // The others are opened as they are printed, in another test.
    for (list, key) in [("verdicts", "verdict"), ("repairs", "repair")] {
        for (name, count) in survey["counts"][list].as_object().unwrap() {
            let usable = if list == "repairs" { ",address=yes" } else { "" };
            opens(format!("{key}={name}{usable}"), count);
        }
    }
    for shape in survey["shapes"].as_array().unwrap().iter().chain(survey["rare_shapes"].as_array().unwrap())
    {
        match &*text(&shape["shape"]) {
            "" => {}
            _ => opens(format!("shape={}", quoted(&shape["shape"])), &shape["count"]),
        }
    }
    for field in survey["fields"].as_array().unwrap() {
        let name = text(&field["name"]);
        opens(format!("field={name},filled=no"), &field["empty"]);
        for kind in field["kinds"].as_array().unwrap() {
            opens(format!("field={name},kind={}", text(&kind["name"])), &kind["count"]);
        }
        for value in field["values"].as_array().unwrap().iter().take(3) {
            opens(format!("field={name},value={}", quoted(&value["value"])), &value["count"]);
        }
    }
    opens("usable=as-it-stands".into(), &survey["counts"]["usable"]["as_it_stood"]);
    opens("usable=after-repair".into(), &survey["counts"]["usable"]["after_repair"]);
    opens("verdict=none".into(), &survey["counts"]["no_address"]);
    opens("at-sign=yes,address=no".into(), &survey["elsewhere"]["at_sign_left"]);
    assert!(opened > 60, "{opened}");

    let run = place.run("survey members.csv --show field=notes,address=yes,finding=no-at-sign -q");
    assert_eq!(
        run.stdout.lines().next().unwrap(),
        "member_no,name,email,phone,membership,joined,notes,yp_line"
    );
    let short = place.run("survey members.csv --where field=email,address=no --json");
    let short: Value = serde_json::from_str(&short.stdout).unwrap();
    assert_eq!(short["counts"]["records"], survey["elsewhere"]["lacking"]);
}

#[test]
fn labels_a_mixed_field() {
    let place = Place::with(&[(
        "list.csv",
        b"contact\nada@h-works.org\n01632 960413\nBea Lovell\n\"a@b.org, c@d.org\"\n\"\"\n",
    )]);
    let run = place.run("survey list.csv --label contact");
    assert_eq!(
        run.stdout,
        "contact,yp_kind\nada@h-works.org,address\n01632 960413,telephone\nBea Lovell,name\n\"a@b.org, c@d.org\",several-addresses\n\"\",empty\n"
    );
    assert!(place.run("survey list.csv --label contcat").stderr.contains("did you mean --label contact"));
}

#[test]
fn a_page_shows_data_as_data() {
    let hostile = "\"<script>alert(1)</script>\",email,\"a&b\"\n<b>x</b>,a@h-works.org,\"<img src=x>\"\n\"\"\"</style>\",<i>@h-works.org,b\n";
    let place = Place::with(&[("list.csv", hostile.as_bytes())]);
    assert_eq!(place.run("survey list.csv --html page.html -q").code, 0);
    let page = place.read("page.html");
    for markup in ["<script>", "<b>x", "<img", "<i>@", "\"</style>", "http://", "https://"] {
        let told = page.replace("http://www.w3.org/2000/svg", "");
        assert!(!told.contains(markup), "{markup} is in the page");
    }
    assert!(page.contains("&#60;script&#62;") || page.contains("&lt;script&gt;"));
    let again = place.run("survey list.csv --html page.html");
    assert_eq!((again.code, again.stderr.contains("--force")), (3, true));
}

#[test]
fn before_and_after() {
    let place = Place::with_demo();
    assert_eq!(place.run("survey members.csv --save before.json -q").code, 0);
    assert_eq!(place.run("clean members.csv -o cleaned -q").code, 0);
    let by_file = place.run("survey cleaned/kept.csv --field email --against members.csv").stdout;
    let by_kept = place.run("survey cleaned/kept.csv --field email --against before.json").stdout;
    assert_eq!(by_file, by_kept);
    insta::assert_snapshot!("survey_against", by_file);
    for (text, told) in [
        ("{\"layout\": 3}", "other.json: this is not a saved survey"),
        ("[1, 2", "other.json: this is not a saved survey"),
        (
            "{\"layout\": 1, \"job\": \"survey\"}",
            "other.json: another version saved this survey, in layout 1; this one reads 3",
        ),
    ] {
        std::fs::write(place.path("other.json"), text).unwrap();
        let run = place.run("survey members.csv --against other.json");
        assert!(
            run.code == 2 && run.stderr.contains(told) && run.stderr.contains("--save"),
            "{text}: {}",
            run.stderr
        );
    }
    // What is kept is all of it, in its order.
    let both: Value =
        serde_json::from_str(&place.run("survey members.csv --against before.json --json").stdout).unwrap();
    assert_eq!(both["before"], both["now"]);
    assert_eq!(place.run("survey members.csv --against before.json --save again.json -q").code, 0);
    assert_eq!(place.read("again.json"), place.read("before.json"));
}

#[test]
fn what_cannot_be_is_told() {
    let place = Place::with(&[("list.csv", b"id,email\n1,a@h-works.org\n"), ("empty.csv", b"id,email\n")]);
    for (call, told) in [
        ("survey list.csv --show form=plian", "there is no form ‘plian’"),
        ("survey list.csv --show colour=red", "the keys are finding, repair"),
        ("survey list.csv --show field=emial,address=no", "did you mean field email"),
        ("survey list.csv --where oddly", "write key=value"),
        ("survey list.csv -o out.csv", "--save FILE"),
        ("survey list.csv --field nmae", "there is no field ‘nmae’"),
        ("survey ada@h-works.org", "ypogram explain"),
    ] {
        let run = place.run(call);
        assert_eq!(run.code, 2, "{call}");
        assert!(run.stderr.contains(told), "{call}: {}", run.stderr);
    }
    let empty = place.run("survey empty.csv");
    assert_eq!(empty.code, 0);
    assert!(
        empty.stdout.starts_with("0 accepted · 0 review · 0 rejected · 0 no-address — 0 records\n"),
        "{}",
        empty.stdout
    );
}
