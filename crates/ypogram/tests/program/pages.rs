//! Pages that are sent around: their figures are those of everything else, and they tell nobody's address.

use std::collections::BTreeMap;

use serde_json::Value;

use crate::{Place, table};

/// The figures of a page by name; one that is there twice says the same twice.
fn figures(page: &str) -> BTreeMap<String, u64> {
    let mut figures = BTreeMap::new();
    for data in page.split("<data value=\"").skip(1) {
        let (count, rest) = data.split_once('"').unwrap();
        let shown = rest.split('>').nth(1).unwrap().split('<').next().unwrap();
        let count: u64 = count.parse().unwrap();
        let digits: String = shown.chars().filter(char::is_ascii_digit).collect();
        assert_eq!(digits, count.to_string(), "what is shown is what it says");
        let Some(name) = rest.strip_prefix(" data-figure=\"") else { continue };
        let name = name.split('"').next().unwrap().to_owned();
        let before = figures.insert(name.clone(), count);
        assert!(before.is_none_or(|before| before == count), "{name}: {before:?} and {count}");
    }
    figures
}

/// The figures of a summary of `clean` in JSON, by the names that they have in a page.
fn told(summary: &Value) -> BTreeMap<String, u64> {
    let counts = &summary["counts"];
    let mut told = BTreeMap::new();
    let kinds = [
        ("outcomes", ""),
        ("repairs", "repair."),
        ("rejected", "rejected."),
        ("review", "review."),
        ("findings", "finding."),
        ("forms", "form."),
        ("classes", "class."),
        ("classes_handed_over", "handed-over."),
        ("set_aside", "set-aside."),
    ];
    for (kind, prefix) in kinds {
        for (name, count) in counts[kind].as_object().into_iter().flatten() {
            told.insert(format!("{prefix}{name}"), count.as_u64().unwrap());
        }
    }
    for (name, count) in summary["since"].as_object().into_iter().flatten() {
        told.insert(format!("since.{name}"), count.as_u64().unwrap());
    }
    let mut add =
        |name: &str, count: &Value| told.insert(name.to_owned(), count.as_u64().unwrap_or_default());
    for (name, key) in [
        ("records", "records"),
        ("mailboxes", "mailboxes"),
        ("shared-mailbox", "shared_mailbox"),
        ("further-addresses", "further_addresses"),
        ("rows-added", "rows_added"),
    ] {
        add(name, &counts[key]);
    }
    let usable = &counts["usable"];
    for (name, key) in [
        ("-as-it-stood", "as_it_stood"),
        ("-after-repair", "after_repair"),
        ("-from-text", "from_text"),
        ("", "total"),
    ] {
        add(&format!("usable{name}"), &usable[key]);
    }
    add("merged-cells", &summary["merged"]["cells"]);
    told
}

/// The page, `--json`, the receipt, the first line of the summary and the workbook say the same.
fn agree(place: &Place, options: &str) {
    let call = format!("clean list.csv {options} --force");
    let run = place.run(&format!("{call} -o out --html page.html --json"));
    assert_eq!(run.code, 0, "{call}: {}", run.stderr);
    let said: Value = serde_json::from_str(&run.stdout).unwrap();
    let receipt: Value = serde_json::from_str(&place.read("out/receipt.json")).unwrap();
    assert_eq!(receipt["counts"], said["counts"], "{call}");
    let (told, page) = (told(&said), figures(&place.read("page.html")));
    for (name, count) in &page {
        if let Some(told) = told.get(name) {
            assert_eq!(count, told, "{call}: {name}");
        }
    }
    for (name, count) in told.iter().filter(|(_, count)| **count > 0) {
        assert_eq!(page.get(name), Some(count), "{call}: {name} is in the page");
    }
    let summary = place.run(&format!("{call} -o out"));
    let outcomes = ["kept", "review", "rejected", "duplicate", "no-address"]
        .map(|word| format!("{} {word}", told[word]));
    assert!(summary.stdout.starts_with(&outcomes.join(" · ")), "{call}: {}", summary.stdout);
    assert_eq!(place.run(&format!("{call} -o book.xlsx -q")).code, 0);
    let rows =
        place.run("check book.xlsx --sheet summary --no-header --columns field1,field2 --to csv -q").stdout;
    for row in rows.lines().filter_map(|row| row.split_once(',')) {
        if let Some(told) = told.get(row.0) {
            assert_eq!(row.1, told.to_string(), "{call}: {} in the workbook", row.0);
        }
    }
}

#[test]
fn every_figure_is_the_same_everywhere() {
    let demo = Place::with_demo();
    std::fs::copy(demo.path("members.csv"), demo.path("list.csv")).unwrap();
    for options in [
        "--field email --also notes",
        "--field email --without free,role-account --row-per-address",
        "--field email --survivor newest:joined --merge --shared keep",
    ] {
        agree(&demo, options);
    }
    let run = demo.run("clean list.csv --field email -o out --force --since out --html page.html --json");
    let said: Value = serde_json::from_str(&run.stdout).unwrap();
    assert_eq!(figures(&demo.read("page.html"))["since.moved"], said["since"]["moved"].as_u64().unwrap());

    // Random lists, from the demo's cells in any order.
    let rows: Vec<String> = demo.read("members.csv").lines().skip(1).map(str::to_owned).collect();
    let mut drawn = 7_u64;
    for _ in 0..6 {
        let mut list = "member_no,name,email,phone,membership,joined,notes\n".to_owned();
        for _ in 0..40 {
            drawn = drawn.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
            list.push_str(&rows[(drawn >> 33) as usize % rows.len()]);
            list.push('\n');
        }
        std::fs::write(demo.path("list.csv"), list).unwrap();
        agree(&demo, "--field email --also notes");
    }

    // And in the page of a job.
    let run = demo.run("run monthly --force --html job.html --workbook job.xlsx --json");
    assert_eq!(run.code, 0, "{}", run.stderr);
    let said: Value = serde_json::from_str(&run.stdout).unwrap();
    let (told, page) = (told(&said["steps"][0]["summary"]), figures(&demo.read("job.html")));
    assert!(
        page.len() > 50 && page.iter().all(|(name, count)| told.get(name).is_none_or(|told| told == count))
    );
    for (sheet, output) in
        [("kept", "cleaned/kept.csv"), ("merge", "merge.csv"), ("dedupe", "newsletter.csv")]
    {
        let records = |source: &str| demo.run(&format!("survey {source} --figure records")).stdout;
        assert_eq!(records(&format!("job.xlsx --sheet {sheet}")), records(output), "{sheet}");
    }
}

#[test]
fn a_page_tells_no_address_and_no_record_unless_it_is_to() {
    let demo = Place::with_demo();
    for call in [
        "clean members.csv --field email --also notes -o out --html page.html",
        "survey members.csv --field email --html page.html",
        "run monthly --html page.html",
    ] {
        assert_eq!(demo.run(&format!("{call} --force -q")).code, 0, "{call}");
        let page = demo.read("page.html");
        for record in table(&demo.read("members.csv")) {
            let email = record["email"].trim().to_lowercase();
            let is_whole = email.contains('@') && !email.starts_with('@');
            assert!(!is_whole || !page.to_lowercase().contains(&email), "{call}: {email}");
            for field in ["name", "phone", "member_no"] {
                assert!(
                    record[field].is_empty() || !page.contains(&record[field]),
                    "{call}: {}",
                    record[field]
                );
            }
        }
        assert!(page.contains("…") && !page.contains("<script"), "{call}: examples are masked");
        assert_eq!(demo.run(&format!("{call} --force -q --with-records")).code, 0, "{call}");
        let page = demo.read("page.html");
        assert!(page.contains("<td>FH-1002</td>") && page.contains("the first 50 of "), "{call}");
        let longest = page
            .split("class=\"records\"")
            .skip(1)
            .map(|records| records.split("</table>").next().unwrap().matches("<tr>").count() - 1);
        assert_eq!(longest.max(), Some(50), "{call}");
    }
    for (call, told) in [
        ("clean members.csv --with-records -o a", "name one with --html FILE"),
        ("clean members.csv --html members.csv -o a --force", "members.csv"),
        ("clean members.csv --html a.html --first 3", "a trial writes nothing"),
        ("run monthly --workbook a.csv", "the name of a workbook ends with .xlsx"),
    ] {
        let run = demo.run(call);
        assert!(run.code > 1 && run.stderr.contains(told), "{call}: {}", run.stderr);
    }
}

#[test]
fn own_words_are_read_wherever_people_read() {
    let rules = "version = 2\n[patterns]\nloan = 'OBS/\\d+'\n[words]\nkept = \"ready to <use>\"\nfree = \"privé\"\n\
                 several-at-signs = \"Deux @.\"\nloan = \"OBS/12\"\n[words.outcome]\nduplicate = \"doublon\"\n[words.kind]\nhouse = \"chez nous\"\n";
    let list = "id,email\n1,ada@gmail.com\n2,Ada@gmail.com\n3,x@@y.org\n4,bea@yopmail.com\n";
    let place = Place::with(&[("ypogram.toml", rules.as_bytes()), ("list.csv", list.as_bytes())]);
    let summary = place.run("clean list.csv --field email -o out --html page.html").stdout;
    assert!(summary.starts_with("1 ready to <use> · 1 review · 1 rejected · 1 doublon · "), "{summary}");
    assert!(summary.contains("  privé "), "{summary}");
    let page = place.read("page.html");
    for told in ["1 of 4 records ready to &#60;use&#62;", "doublon", "privé", "Deux @."] {
        assert!(page.contains(told), "{told}: {page}");
    }
    // Codes in files stay.
    let rejected = table(&place.read("out/rejected.csv")).remove(0);
    assert_eq!(["yp_why", "yp_findings"].map(|name| &*rejected[name]), ["Deux @.", "several-at-signs"]);
    let kept = table(&place.read("out/kept.csv")).remove(0);
    assert_eq!(kept["yp_class"], "free");
    assert_eq!(place.run("clean list.csv --field email --figure kept").stdout, "1\n");
    assert_eq!(place.run("clean list.csv -o book.xlsx -q").code, 0);
    let rows = place.run("check book.xlsx --sheet summary --no-header --columns field1 --to csv -q").stdout;
    assert!(rows.contains("doublon"), "{rows}");
    let answer = place.run_with("check --each --pattern loan -", "x@@y.org\n").stdout;
    let answer: Value = serde_json::from_str(&answer).unwrap();
    let messages: Vec<&str> =
        answer["findings"].as_array().unwrap().iter().map(|f| f["message"].as_str().unwrap()).collect();
    assert_eq!((messages[0], messages[messages.len() - 1]), ("Deux @.", "OBS/12"));
    assert!(place.run("explain x@@y.org").stdout.contains("Deux @."));
    assert!(place.run("rules").stdout.contains("chez nous"));
    assert!(place.run("rules try loan OB").stdout.contains("OBS/12"));
    for (words, told) in [
        ("kpt = 'x'", "ypogram.toml: line 2: [words]: nothing is called ‘kpt’\n  → did you mean ‘kept’?"),
        ("kept = ' '", "ypogram.toml: line 2: [words] kept says nothing"),
        ("class = { kept = 'x' }", "no class is called ‘kept’"),
        ("outcomes = { kept = 'x' }", "did you mean ‘outcome’?"),
    ] {
        std::fs::write(place.path("ypogram.toml"), format!("[words]\n{words}\n")).unwrap();
        let run = place.run("clean list.csv -o a");
        assert!(run.code == 2 && run.stderr.contains(told), "{words}: {}", run.stderr);
    }
}

/// Names and cells that would move in a terminal, or turn the direction of reading, are written out in pages as they are in a terminal.
#[test]
fn no_page_holds_a_control_character() {
    let codes = "\u{1b}]0;owned\u{7}\u{1b}[2J\u{9b}31m\u{8}\u{202e}";
    let list = format!(
        "email{codes},na{codes}me,phone\nada@h-works.org,a{codes}b,1\n{codes}bea@h-works.org,x,1\ncleo@{codes}gmial.com,y,2\nada@h-works.org,{codes},2\n"
    );
    let source = format!("li{codes}st.csv");
    let place = Place::with(&[(&source, list.as_bytes())]);
    for words in [
        &["survey", &source, "--html", "page.html", "--force"][..],
        &["clean", &source, "-o", "out", "--html", "page.html", "--with-records", "--force"],
        &["links", &source, "--by", "phone", "--html", "page.html", "--force"],
    ] {
        let run = place.run_words(&[words, &["--no-rules", "-q"]].concat(), "");
        assert!(run.code < 2, "{words:?}: {}", run.stderr);
        let page = place.read("page.html");
        let bad = page.chars().find(|c| (c.is_control() && !matches!(c, '\n' | '\t')) || *c == '\u{202e}');
        assert_eq!(bad, None, "{words:?}");
        assert!(page.contains("\\u{1b}"), "{words:?}: it is said what stands there");
    }
}
