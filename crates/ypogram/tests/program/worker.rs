//! `ypogram worker`: batches of an Arrow stream in, the same rows with Ypogram's columns out.

use crate::{Place, Run, table};

/// Sends a file of the folder through a worker; its answer lies in `answer.arrows`.
fn answered(place: &Place, source: &str, options: &[&str]) -> Run {
    let input = std::fs::read(place.path(source)).unwrap();
    let output = assert_cmd::Command::cargo_bin("ypogram")
        .unwrap()
        .current_dir(place.path("."))
        .arg("worker")
        .args(options)
        .write_stdin(input)
        .output()
        .unwrap();
    std::fs::write(place.path("answer.arrows"), &output.stdout).unwrap();
    let stderr = String::from_utf8(output.stderr).unwrap();
    Run { code: output.status.code().unwrap_or(-1), stdout: String::new(), stderr }
}

/// The demo's members many times over, so that they are several batches.
fn with_many_members() -> Place {
    let place = Place::with_demo();
    let members = place.read("members.csv");
    let (header, rows) = members.split_once('\n').unwrap();
    let rows: String =
        rows.lines().filter(|line| !line.trim().is_empty()).map(|line| format!("{line}\n")).collect();
    std::fs::write(place.path("members.csv"), format!("{header}\n{}", rows.repeat(MANY))).unwrap();
    place
}

const MANY: usize = 40;

/// An answer has what `check` says of each row, in order, beside the stream's own columns where they are asked for.
#[test]
fn answers_say_what_check_says() {
    let place = with_many_members();
    let own = "member_no,name,email,phone,membership,joined,notes";
    let run = place.run(&format!("check members.csv --columns {own} -q -o members.arrows"));
    assert_eq!(run.code, 0, "{}", run.stderr);
    let rules = ["--rules", "ypogram.toml"];
    for (also, added) in [
        (&[][..], "yp_address,yp_verdict,yp_findings,yp_repairs,yp_key,yp_form,yp_well_formed,yp_lists"),
        (&["--also", "notes"], "yp_address,yp_suggestion,yp_more,yp_remark,yp_class,yp_operator"),
    ] {
        for threads in ["1", "3"] {
            let columns = format!("member_no,{added},notes=remarks");
            let options =
                [&["--field", "email", "--columns", &columns, "--threads", threads], also, &rules].concat();
            let run = answered(&place, "members.arrows", &options);
            assert_eq!(run.code, 0, "{}", run.stderr);
            let to_csv = "check answer.arrows --no-rules --field yp_address --prefix z_ -q --columns";
            let shown = place.run(&format!("{to_csv} {columns}").replace("notes=remarks", "remarks"));
            let words = ["check", "members.csv", "--field", "email", "-q", "--columns", &columns];
            let checked = place.run_words(&[&words[..], also].concat(), Vec::new());
            let (shown, mut checked) = (table(&shown.stdout), table(&checked.stdout));
            assert_eq!(shown.len(), 506 * MANY);
            // Blank lines are no rows.
            checked.iter_mut().for_each(|row| {
                let empty = row.get_mut("yp_well_formed").filter(|cell| cell.is_empty());
                if let Some(cell) = empty {
                    *cell = "false".into()
                }
            });
            assert_eq!(shown, checked);
        }
    }
    // By default it has all of Ypogram's columns, and no other; --schema says the same before.
    let schema = place.run("worker --field email --schema --rules ypogram.toml");
    assert!(
        schema.stdout.starts_with("yp_address\tUtf8\nyp_well_formed\tBoolean\nyp_verdict\tUtf8\n"),
        "{}",
        schema.stdout
    );
    let run = answered(&place, "members.arrows", &[&["--field", "email"][..], &rules].concat());
    let told = place.run("check answer.arrows --no-rules --field yp_address --prefix z_ --json -o x.csv");
    let told: serde_json::Value =
        serde_json::from_str(&told.stdout).unwrap_or_else(|_| panic!("{} {}", run.stderr, told.stderr));
    let names: Vec<&str> = schema.stdout.lines().map(|line| line.split('\t').next().unwrap()).collect();
    assert_eq!(told["sources"][0]["fields"], serde_json::json!(names));
}

/// Brought together by group and greatest rank, rows are those that `dedupe` keeps.
#[test]
fn ranks_say_what_dedupe_keeps() {
    let place = Place::with_demo();
    assert_eq!(
        place.run("check members.csv --columns member_no,name,email,joined,notes -q -o members.arrows").code,
        0
    );
    for survivor in ["first", "fullest", "best", "where:notes=board,friend"] {
        let run = answered(
            &place,
            "members.arrows",
            &["--field", "email", "--duplicates", survivor, "--group-key", "7", "--no-rules"],
        );
        assert_eq!(run.code, 0, "{}", run.stderr);
        let ranks = place
            .run("check answer.arrows --no-rules --field yp_group --prefix z_ -q --columns yp_group,yp_rank");
        let ranks = table(&ranks.stdout);
        let mut best: std::collections::BTreeMap<&str, usize> = std::collections::BTreeMap::new();
        for (row, rank) in ranks.iter().enumerate().filter(|(_, rank)| !rank["yp_group"].is_empty()) {
            let stays = best.entry(&rank["yp_group"]).or_insert(row);
            if rank["yp_rank"] > ranks[*stays]["yp_rank"] {
                *stays = row;
            }
        }
        let mut expected: Vec<usize> = best.into_values().collect();
        expected.sort_unstable();
        let call = format!(
            "dedupe members.arrows --field email --no-rules --shared drop --survivor {survivor} -o kept.csv --no-address none.csv --force -q"
        );
        assert_eq!(place.run(&call).code, 0);
        let all = table(&place.run("check members.arrows --no-rules -q --columns member_no").stdout);
        let numbers: Vec<&String> = expected.iter().map(|row| &all[*row]["member_no"]).collect();
        let kept = table(&place.read("kept.csv"));
        assert_eq!(numbers, kept.iter().map(|row| &row["member_no"]).collect::<Vec<_>>(), "{survivor}");
    }
}

/// The rulebook's selection, patterns, lists and words hold in a worker, and what is remembered of decisions.
#[test]
fn the_rulebook_holds() {
    let place = Place::with_demo();
    assert_eq!(place.run("check members.csv --columns member_no,email,notes -q -o members.arrows").code, 0);
    let rules = "version = 2\n[fields]\naddress = [\"email\"]\ntext = [\"notes\"]\n[selection]\nwithout = [\"free\"]\n\
                 [output]\nprefix = \"our_\"\n[judging]\ngrammar = \"html\"\n[decisions]\nfile = \"decided.csv\"\n\
                 [lists.known]\nfile = \"partners.csv\"\nof = \"domains\"\n";
    std::fs::write(place.path("rules.toml"), rules).unwrap();
    let columns = "member_no,our_address,our_verdict,our_findings,our_set_aside,our_lists,our_well_formed";
    let run = answered(&place, "members.arrows", &["--rules", "rules.toml", "--columns", columns]);
    assert_eq!(run.code, 0, "{}", run.stderr);
    let shown = place.run(&format!(
        "check answer.arrows --no-rules --field our_address --prefix z_ -q --columns {columns}"
    ));
    let checked = place.run(&format!("check members.arrows --rules rules.toml -q --columns {columns}"));
    let (shown, checked) = (table(&shown.stdout), table(&checked.stdout));
    assert_eq!(shown, checked);
    assert!(shown.iter().any(|row| row["our_set_aside"].contains("free")));
    // What is named on the command line takes the place of the rulebook's, as in every command.
    let run = answered(
        &place,
        "members.arrows",
        &["--rules", "rules.toml", "--field", "notes", "--without", "role-account", "--columns", columns],
    );
    assert_eq!(run.code, 0, "{}", run.stderr);
    let words = [
        "check",
        "members.arrows",
        "--rules",
        "rules.toml",
        "--field",
        "notes",
        "--without",
        "role-account",
        "-q",
        "--columns",
        columns,
    ];
    let checked = place.run_words(&words, Vec::new());
    let shown = place.run(&format!(
        "check answer.arrows --no-rules --field our_address --prefix z_ -q --columns {columns}"
    ));
    assert_eq!(table(&shown.stdout), table(&checked.stdout), "{}", checked.stderr);
}

/// What cannot be told of a part of the rows is refused, and a stream that breaks off names its batch.
#[test]
fn clear_errors() {
    let place = Place::with_demo();
    assert_eq!(place.run("check members.csv --columns name,email,joined -q -o members.arrows").code, 0);
    let whole = std::fs::read(place.path("members.arrows")).unwrap();
    std::fs::write(place.path("cut.arrows"), &whole[..whole.len() - 900]).unwrap();
    std::fs::write(place.path("unique.toml"), "version = 2\n[field-rules.name]\nunique = true\n").unwrap();
    for (source, options, told) in [
        ("members.csv", &["--field", "email"][..], "no Arrow IPC stream"),
        ("cut.arrows", &["--field", "email"], "batch 1:"),
        ("members.arrows", &[], "name it with --field"),
        ("members.arrows", &["--field", "mail"], "did you mean --field email"),
        ("members.arrows", &["--field", "email", "--columns", "adress"], "no column ‘adress’"),
        ("members.arrows", &["--field", "email", "--columns", "name"], "none of Ypogram's columns"),
        ("members.arrows", &["--field", "email", "--rules", "unique.toml"], "values that are unique"),
        ("members.arrows", &["--field", "email", "--duplicates", "newest:joined"], "may mean several dates"),
        ("members.arrows", &["--field", "email", "--duplicates", "biggest"], "which record stays"),
    ] {
        let run = answered(&place, source, options);
        assert!(run.code == 2 && run.stderr.contains(told), "{options:?}: {} {}", run.code, run.stderr);
    }
}
