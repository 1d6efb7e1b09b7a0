//! `ypogram check`: annotations, records behind a figure, plain answers, one address at a time.

use std::io::{BufRead as _, BufReader, Write as _};
use std::process::{Command, Stdio};

use crate::{Place, table};

const LIST: &[u8] =
    b"id,email\n1,Ada@h-works.org\n2,ada..b@h-works.org\n3,\n4,owl@gmial.com\n5,www.bea@h-works.org\n";

#[test]
fn annotates_every_record_in_order() {
    let place = Place::with(&[("list.csv", LIST)]);
    let run = place.run("check list.csv --field email -o out.csv");
    assert_eq!(run.code, 0, "{}", run.stderr);
    let told: Vec<_> = table(&place.read("out.csv"))
        .iter()
        .map(|r| {
            [&r["id"], &r["yp_well_formed"], &r["yp_verdict"], &r["yp_suggestion"]]
                .map(|s| s.to_owned())
                .join("|")
        })
        .collect();
    let expected = [
        "1|true|accept|",
        "2|false|reject|ada.b@h-works.org",
        "3|false||",
        "4|true|review|owl@gmail.com",
        "5|true|review|bea@h-works.org",
    ];
    assert_eq!(told, expected);
    assert!(
        run.stdout.contains("double-dot  1  line 3: ada..b@h-works.org  --show finding=double-dot"),
        "{}",
        run.stdout
    );

    let piped = place.run("check list.csv --field email");
    assert_eq!(piped.stdout, place.read("out.csv"), "standard output carries the data");
    assert!(
        piped.stderr.starts_with("1 accepted · 2 review · 1 rejected · 1 no-address — 5 records\n"),
        "and standard error the talk: {}",
        piped.stderr
    );
    let again = place.run("check list.csv -o out.csv");
    assert_eq!((again.code, again.stderr.contains("--force")), (3, true));
    assert_eq!(place.run("check list.csv -o out.csv --force --fail-on reject -q").code, 1);
    for (threads, bytes) in [(1, 64), (7, 64), (2, 1 << 20)] {
        let run =
            place.run(&format!("check list.csv --field email -q --threads {threads} --chunk-bytes {bytes}"));
        assert_eq!(run.stdout, place.read("out.csv"));
    }
}

/// Rows of plain addresses are put together of words made before, and their domains looked up in groups: both must not show.
/// Where a bar separates the cells, every cell is written by itself.
#[test]
fn rows_put_together_at_once_are_those_put_together_cell_by_cell() {
    let cells = [
        "Ada@H-Works.org",
        "owl.night+club@gmail.com",
        "OWL@googlemail.com",
        "info@h-works.org",
        "none@none.com",
        "<bea@h-works.org>",
        "mailto:bea@gmail.com",
        "bea @ h-works.org",
        "ada@h-works.org;bea@h-works.org",
        "ada..b@h-works.org",
        "a@b@h-works.org",
        "owl@gmial.com",
        "jörg@h-works.org",
        "\"night owl\"@h-works.org",
        "",
    ];
    let list = |delimiter: char| {
        let record = |number: usize| format!("{number}{delimiter}{}\n", cells[number * 7 % cells.len()]);
        format!("id{delimiter}email\n{}", (0..200).map(record).collect::<String>())
    };
    let place = Place::with(&[("comma.csv", list(',').as_bytes()), ("bar.csv", list('|').as_bytes())]);
    for bytes in [64, 1 << 20] {
        for (times, records) in [(1, 200), (2, 400)] {
            let rows = |source: &str| {
                let sources = format!("{source} ").repeat(times).replacen(source, &format!("./{source}"), 1);
                let run = place.run(&format!("check {sources} --field email -q --chunk-bytes {bytes}"));
                assert_eq!(run.code, 0, "{}", run.stderr);
                run.stdout
            };
            let (at_once, by_cell) = (rows("comma.csv"), rows("bar.csv"));
            assert_eq!(at_once.lines().count(), records + 1);
            assert_eq!(at_once, by_cell.replace('|', ",").replace("bar.csv", "comma.csv"));
        }
    }
}

#[test]
fn shows_the_records_behind_a_figure() {
    let place = Place::with(&[("list.csv", LIST)]);
    for (condition, ids) in [
        ("finding=typing-slip", vec![("4", "5"), ("5", "6")]),
        ("verdict=reject", vec![("2", "3")]),
        ("address=no", vec![("2", "3"), ("3", "4")]),
        ("class=business,verdict=accept", vec![("1", "2")]),
        ("repair=local-part-case", vec![("1", "2")]),
        ("form=mailto", vec![]),
    ] {
        let run = place.run(&format!("check list.csv -q --show {condition}"));
        let rows = table(&run.stdout);
        let told: Vec<_> = rows.iter().map(|r| (&*r["id"], &*r["yp_line"])).collect();
        assert_eq!(told, ids, "{condition}: {}", run.stderr);
    }
    for (condition, told) in [
        ("finding=dots", "there is no finding ‘dots’"),
        ("colour=red", "the keys are finding, repair, verdict"),
        ("verdict=bad", "known are: accept, review, reject"),
        ("typing-slip", "write key=value"),
    ] {
        let run = place.run(&format!("check list.csv --show {condition}"));
        assert!(run.code == 2 && run.stderr.contains(told), "{condition}: {}", run.stderr);
    }
}

#[test]
fn plain_answers_and_patterns() {
    let rules = b"[patterns]\nfirst-last = '[a-z]+\\.[a-z]+@.*'\nword = { pattern = 'ADA|owl', whole = false, ignore-case = true }\n";
    let place = Place::with(&[
        ("list.txt", b"ada@h-works.org\n\"x,y\"@h-works.org\nnot one\n"),
        ("list.csv", LIST),
        ("ypogram.toml", rules),
    ]);
    let run = place.run("check list.txt --to plain -q");
    assert_eq!(run.stdout, "ada@h-works.org,true\n\"\"\"x,y\"\"@h-works.org\",true\nnot one,false\n");

    let run = place.run("check list.csv --pattern first-last --pattern word -q");
    let told: Vec<_> = table(&run.stdout)
        .iter()
        .map(|r| (r["yp_pattern"].clone(), r["yp_findings"].contains("pattern")))
        .collect();
    let fits = |name: &str| (name.to_owned(), name.is_empty());
    assert_eq!(told, [fits("word"), fits("word"), ("".into(), false), fits("word"), fits("first-last")]);
    let run = place.run("check list.csv --pattern wrd");
    assert!(run.stderr.contains("did you mean ‘word’?"), "{}", run.stderr);

    let run = place.run("rules try --pattern first-last ada.b@x ada_b@x ada.");
    assert_eq!(run.code, 1);
    assert!(
        run.stdout
            .contains("first-last: fits up to ‘ada’, then ‘.’ or one of a to z was expected, not ‘_b@x’"),
        "{}",
        run.stdout
    );
    assert!(run.stdout.contains("fits as far as it goes, then one of a to z was expected"), "{}", run.stdout);
}

#[test]
fn each_answers_at_once_for_as_long_as_asked() {
    let mut child = Command::new(assert_cmd::cargo::cargo_bin!("ypogram"))
        .args(["check", "--each", "--no-rules"])
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .spawn()
        .unwrap();
    let (mut input, mut output) = (child.stdin.take().unwrap(), BufReader::new(child.stdout.take().unwrap()));
    let mut ask = |line: &[u8]| {
        input.write_all(line).unwrap();
        let mut answer = String::new();
        output.read_line(&mut answer).unwrap();
        serde_json::from_str::<serde_json::Value>(&answer).unwrap()
    };
    let answer = ask(b"Night.Owl+x@Gmail.com\r\n");
    assert_eq!(answer["keys"]["provider"], "nightowl@gmail.com");
    assert_eq!(answer["keys"]["exact"], "Night.Owl+x@gmail.com");
    let answer = ask(b" <ada\xFF@h.org>\n");
    assert_eq!(answer["findings"][0]["code"], "not-utf-8");
    assert_eq!((&answer["findings"][0]["start"], &answer["findings"][0]["end"]), (&4.into(), &5.into()));
    assert_eq!(answer["as_found_hex"], "3c616461ff40682e6f72673e");
    let answer = ask(b"\n");
    assert_eq!((&answer["outcome"], &answer["verdict"]), (&"no-address".into(), &serde_json::Value::Null));
    let answer = ask(b"test@h-works.org, b1@h-works.org\n");
    assert_eq!((&answer["address"], &answer["outcome"]), (&"b1@h-works.org".into(), &"kept".into()));
    assert_eq!(answer["addresses"].as_array().unwrap().len(), 2);
    drop(input);
    assert!(child.wait().unwrap().success());

    // Keys pass through as they are written, those that have a name of ours in `input`; a line that cannot be used stops nothing.
    let rules = b"version = 2\n[patterns]\nshort = '.{1,15}'\n";
    let place = Place::with(&[("ypogram.toml", rules), ("partners.csv", b"domain,owner\nh-works.org,Bea\n")]);
    let lines = "{\"id\":1.10,\"mail\":\"owl@gmial.com\",\"domain\":[\"x\"]}\n{\"male\":1}\nno\n{\"mail\":null}\n{\"mail\":\" ada@h-works.org\"}\n";
    let run = place.run_with(
        "check --each --from jsonl --field mail --as-typed --pattern short --list partners=partners.csv,columns=owner",
        lines,
    );
    assert_eq!(run.code, 1, "{}", run.stderr);
    let answers: Vec<serde_json::Value> =
        run.stdout.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    assert!(
        run.stdout.starts_with(
            "{\"id\":1.10,\"mail\":\"owl@gmial.com\",\"input\":{\"domain\":[\"x\"]},\"address\":"
        ),
        "{}",
        run.stdout
    );
    assert_eq!(answers[0]["suggestion"]["address"], "owl@gmail.com");
    assert_eq!((&answers[0]["pattern"], &answers[0]["lists"]), (&"short".into(), &serde_json::json!([])));
    assert_eq!((&answers[1]["error"]["line"], &answers[2]["error"]["line"]), (&2.into(), &3.into()));
    assert_eq!(answers[3]["outcome"], "no-address");
    let codes: Vec<_> =
        answers[4]["findings"].as_array().unwrap().iter().map(|finding| &finding["code"]).collect();
    assert_eq!(codes, ["as-typed-trimmed", "pattern"]);
    assert_eq!(
        (&answers[4]["outcome"], &answers[4]["columns"]["owner"]),
        (&"rejected".into(), &"Bea".into())
    );
}

/// Columns that nobody chose are not worked out, and where lines stay in front, or no own field comes out, the others are written at
/// once: what comes out is what the whole table has in these columns.
#[test]
fn chosen_columns_say_what_they_say_among_all() {
    let lines = "ada@h-works.org\n\"Lovell, Ada\" <Ada@Gmail.com>\nmailto:owl.night@gmail.com\n bea@h-works.org\t\n\
        ada..b@h-works.org\nowl@gmial.com\nada.gmail.com\n@h-works.org\na@h.org, b@h.org\nno \"address\", here\n\nx,\n";
    let place = Place::with(&[
        ("list.txt", lines.as_bytes()),
        ("list.csv", &[b"line\n", lines.replace('"', "").as_bytes()].concat()),
    ]);
    for file in ["list.txt", "list.csv"] {
        let whole = table(&place.run(&format!("check {file} --field line -q")).stdout);
        assert!(whole.len() > 8, "{file}");
        for columns in [
            "line,yp_verdict,yp_key,yp_address",
            "line,yp_findings=why,yp_suggestion=meant,yp_repairs,yp_form",
            "line",
            "yp_address,line",
            "line=Line,yp_class,yp_class=kind",
            "yp_key=Key,yp_address",
            "yp_suggestion,yp_findings,yp_form,yp_class,yp_more",
        ] {
            let run = place.run(&format!("check {file} --field line -q --columns {columns}"));
            assert_eq!(run.code, 0, "{}", run.stderr);
            let names: Vec<_> =
                columns.split(',').map(|name| name.split_once('=').unwrap_or((name, name))).collect();
            let shown: Vec<_> = names.iter().map(|(_, shown)| *shown).collect();
            assert_eq!(run.stdout.lines().next().unwrap(), shown.join(","));
            let chosen = table(&run.stdout);
            assert_eq!(chosen.len(), whole.len());
            for (row, all) in chosen.iter().zip(&whole) {
                for (name, shown) in &names {
                    assert_eq!(row[*shown], all[*name], "{file} {columns}");
                }
            }
        }
    }
}

/// An output of some megabytes is written in blocks, by a thread of its own.
#[test]
fn a_large_output_is_the_same_in_a_file_and_in_a_pipe() {
    let lines: String = (0..30_000).map(|i| format!("ada.{i}@h{}-works.org\n", i % 977)).collect();
    let place = Place::with(&[("list.txt", lines.as_bytes())]);
    let piped = place.run("check list.txt -q").stdout;
    assert!(piped.len() > 3 << 20);
    assert_eq!(place.run("check list.txt -q -o out.csv").code, 0);
    assert!(place.read("out.csv") == piped);
    assert_eq!(place.run("clean list.txt -q -o cleaned").code, 0);
    let kept = place.read("cleaned/kept.csv");
    assert_eq!((kept.lines().count(), kept.ends_with('\n')), (30_001, true));
    let left = |folder: &str| std::fs::read_dir(place.path(folder)).unwrap().count();
    assert_eq!((left("."), left("cleaned")), (3, 2), "nothing else is left");
}

/// Characters that nobody means are faults as typed even where the grammar takes them, and nothing else that it takes is.
#[test]
fn as_typed_looks_at_characters() {
    let place = Place::with(&[]);
    for (value, grammar, findings) in [
        ("ada\u{200B}@quarryfarm.org", "smtp", "as-typed-invisible"),
        ("ａｄａ@quarryfarm.org", "smtp", "as-typed-full-width"),
        ("jo\u{308}rg@quarryfarm.org", "smtp", "as-typed-unicode-form"),
        ("jörg@quarryfarm.org", "smtp", ""),
        ("Ada@QuarryFarm.org", "smtp", ""),
        ("\"ada\"@quarryfarm.org", "smtp", ""),
        ("Ada <ada@quarryfarm.org>", "header", ""),
        ("Ada <ada@quarryfarm.org>", "smtp", "as-typed-angle-brackets as-typed-name"),
        ("Ada <a\u{200B}da@quarryfarm.org>", "header", "as-typed-invisible"),
    ] {
        for each in [true, false] {
            let run = match each {
                true => place
                    .run_with(&format!("check --each --as-typed --grammar {grammar}"), format!("{value}\n")),
                false => place.run_with(
                    &format!("check - --from text --as-typed --grammar {grammar} --to jsonl -q"),
                    format!("{value}\n"),
                ),
            };
            let answer: serde_json::Value = serde_json::from_str(run.stdout.lines().next().unwrap()).unwrap();
            let codes: Vec<String> = match answer["findings"].as_array() {
                Some(findings) => {
                    findings.iter().map(|finding| finding["code"].as_str().unwrap().to_owned()).collect()
                }
                None => {
                    answer["yp_findings"].as_str().unwrap_or_default().split(' ').map(str::to_owned).collect()
                }
            };
            let mut as_typed: Vec<&str> =
                codes.iter().map(|code| &**code).filter(|code| code.starts_with("as-typed")).collect();
            as_typed.sort_unstable();
            assert_eq!(as_typed.join(" "), findings, "{value:?} by {grammar}, each {each}");
        }
    }
}
