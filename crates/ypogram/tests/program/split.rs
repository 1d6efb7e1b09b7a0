//! `ypogram split`, and the options that choose columns, try a few records, and name records, in every command.

use crate::{Place, table};

const MEMBERS: &[u8] = "no,NAME,email,loan\n\
    7,\"MCINTYRE, shona\",Shona.McIntyre+news@www.Fernhollow.co.uk,OBS/0117/b\n\
    8,van der berg,v.van-der-berg@lens-works.org,OBS-0118-a\n\
    9,Ada LOVELL,info@lens-works.org,OBS/0119/c\n\
    10,Bea Ashgrove,lars.nightingale@gmail.com; \"Q\" <bea@münchen.de>,\n\
    11,,ada..b@lens-works.org,?\n\
    12,Zoë,,OBS/0003/a\n"
    .as_bytes();

fn place() -> Place {
    Place::with(&[("members.csv", MEMBERS)])
}

#[test]
fn every_column_is_what_explain_shows() {
    let place = place();
    let parts = "local-part,base,tag,domain,labels,sub-domain,registrable,domain-name,suffix,tld,unicode-domain,\
                 ascii-domain,first-name,middle-name,last-name,name-confidence";
    let run = place.run(&format!("split members.csv --parts {parts} --row-per-address -o out.csv"));
    assert_eq!(run.code, 0, "{}", run.stderr);
    assert!(
        run.stdout.contains("7 rows written to out.csv (6 records + 1 further address)"),
        "{}",
        run.stdout
    );
    let rows = table(&place.read("out.csv"));
    assert_eq!(rows.len(), 7);
    for (row, address) in rows.iter().zip([
        "Shona.McIntyre+news@www.Fernhollow.co.uk",
        "v.van-der-berg@lens-works.org",
        "info@lens-works.org",
        "lars.nightingale@gmail.com",
        "bea@münchen.de",
    ]) {
        let json = place.run_words(&["explain", address, "--json"], "").stdout;
        let json: serde_json::Value = serde_json::from_str(&json).unwrap();
        for part in parts.split(',') {
            let name = part.trim().replace('-', "_");
            assert_eq!(json[0]["parts"][&name], row[&format!("yp_{name}")], "{name} of {address}");
        }
    }
    let cells = |row: usize| {
        ["yp_first_name", "yp_last_name", "yp_domain_name", "yp_tag"].map(|name| &*rows[row][name])
    };
    assert_eq!(cells(0), ["Shona", "McIntyre", "fernhollow", "news"]);
    assert_eq!(cells(1), ["V.", "van der Berg", "lens-works", ""]);
    assert_eq!((&*rows[2]["yp_name_confidence"], &*rows[4]["yp_unicode_domain"]), ("none", "münchen.de"));
    assert_eq!(rows[3]["yp_findings"], "name-differs free-provider");
    let is_filled = |(name, cell): &(&String, &String)| name.starts_with("yp_") && !cell.is_empty();
    for row in &rows[5..] {
        let filled: Vec<_> = row.iter().filter(is_filled).collect();
        assert!(filled.iter().all(|(name, _)| *name == "yp_findings"), "{filled:?}");
    }
    assert!(run.stdout.contains("· 1 rejected ·"), "{}", run.stdout);
    let run = place.run_words(
        &[
            "split",
            "members.csv",
            "--parts",
            "first-name",
            "--row-per-address",
            "--cut",
            "loan at /: 2 as a, last as b",
            "-o",
            "more.csv",
            "--json",
        ],
        "",
    );
    let told: serde_json::Value = serde_json::from_str(&run.stdout).unwrap();
    assert_eq!((&told["command"], &told["counts"]["records"]), (&"split".into(), &6.into()));
    assert_eq!((&told["counts"]["rows_added"], &told["counts"]["names"]["none"]), (&1.into(), &1.into()));
    let names: u64 =
        told["counts"]["names"].as_object().unwrap().values().map(|count| count.as_u64().unwrap()).sum();
    assert_eq!(names, 5, "each usable address has one of the confidences");
    assert_eq!(told["cuts"], serde_json::json!([{"field": "loan", "columns": ["a", "b"], "did_not_fit": 2}]));
}

#[test]
fn cuts_capitals_order_and_places() {
    let place = place();
    let run = place.run_words(
        &[
            "split",
            "members.csv",
            "--cut",
            "loan at /: 2 as loan no, last as copy",
            "--title-case",
            "name",
            "--sort-by",
            "loan nr",
            "--columns",
            "loan no=Loan,copy,NAME=Name,no",
            "--sort-by",
            "no",
            "-o",
            "out.csv",
        ],
        "",
    );
    assert_eq!(run.code, 2, "the sort names a column: {}", run.stdout);
    assert!(run.stderr.contains("no column ‘loan nr’ in the output"), "{}", run.stderr);
    let run = place.run_words(
        &[
            "split",
            "members.csv",
            "--cut",
            "loan at /: 2 as loan no, last as copy",
            "--title-case",
            "name",
            "--sort-by",
            "Loan",
            "--columns",
            "loan no=Loan,copy,NAME=Name,no",
            "-o",
            "out.csv",
        ],
        "",
    );
    assert_eq!(run.code, 0, "{}", run.stderr);
    assert_eq!(
        place.read("out.csv"),
        "Loan,copy,Name,no\n0003,a,Zoë,12\n0117,b,\"McIntyre, Shona\",7\n0119,c,Ada Lovell,9\n,,Van der Berg,8\n,,Bea Ashgrove,10\n,,,11\n"
    );
    assert!(run.stdout.contains("loan  2  left empty; line 3: OBS-0118-a"), "{}", run.stdout);
    let rules = "[patterns]\nloan = 'OBS[-/](?P<number>\\d{4})[-/]([a-z])'\n[names]\norder = 'family-first'\n[names.domains]\n'lens-works.org' = 'first-name-first'\n";
    std::fs::write(place.path("ypogram.toml"), rules).unwrap();
    let run = place.run_words(
        &[
            "split",
            "members.csv",
            "--cut",
            "loan by loan: number as n, 2 as c",
            "--parts",
            "first-name=First",
            "--replace",
        ],
        "",
    );
    let rows = table(&run.stdout);
    assert_eq!(
        rows.iter().map(|row| format!("{}{}", row["n"], row["c"])).collect::<Vec<_>>(),
        ["0117b", "0118a", "0119c", "", "", "0003a"]
    );
    assert!(
        run.stdout.starts_with("no,NAME,First,"),
        "the parts stand where the field stood: {}",
        run.stdout
    );
    assert!(!run.stdout.lines().next().unwrap().contains("email"));
    assert_eq!(
        [&*rows[0]["First"], &*rows[1]["First"], &*rows[3]["First"]],
        ["McIntyre", "V.", "Nightingale"]
    );
}

#[test]
fn what_cannot_be_is_told() {
    let place = place();
    for (call, told) in [
        ("split members.csv --parts localpart", "did you mean ‘local-part’?"),
        ("split members.csv --parts surname", "The parts are: local-part, base"),
        ("split members.csv --parts domain=NAME", "has a field ‘NAME’ already"),
        ("split members.csv --parts domain=x,tag=x", "two columns ‘x’"),
        ("split members.csv --cut lone␣at␣/:␣2␣as␣x", "did you mean --cut loan?"),
        ("split members.csv --cut loan␣at␣/:␣2␣as␣NAME", "has a field ‘NAME’ already"),
        ("split members.csv --cut loan␣/", "there is no colon"),
        ("split members.csv --title-case nam", "there is no column ‘nam’"),
        ("split members.csv --title-case lown", "did you mean ‘loan’?"),
        ("split members.csv --cut local-prt␣at␣.:␣1␣as␣x", "did you mean ‘local-part’?"),
        ("split members.csv --cut loan␣at␣/:␣1␣as␣first --cut frist␣at␣-:␣1␣as␣x", "did you mean ‘first’?"),
        ("split members.csv --cut loan␣at␣or:␣1␣as␣x", "a separator is missing"),
        ("split members.csv --cut loan,␣at␣/:␣1␣as␣x", "a comma stands there"),
        ("split members.csv --compose whole␣=␣nmae", "did you mean"),
        ("split members.csv --compose whole␣=␣\"-\"", "names nothing to put together"),
        ("split members.csv --compose loan", "no column with an equals sign"),
        (
            "split members.csv --columns no,nope",
            "did you mean ‘no’? Its columns are: no, NAME, email, loan, yp_local_part, yp_domain",
        ),
        ("split members.csv --replace --title-case name", "no parts are named"),
        ("check members.csv --columns no=", "names no column"),
        ("extract members.csv --columns address --to plain", "the output has none"),
        ("clean members.csv --id nope", "there is no field ‘nope’"),
        ("extract members.csv --id nope", "there is no field ‘nope’"),
        ("dedupe members.csv --columns nope", "no column ‘nope’ in the output"),
        ("survey members.csv --columns nope --show finding=placeholder", "no column ‘nope’"),
        ("check members.csv --to plain --columns no", "leave one of them out"),
    ] {
        let run = place.run(&format!("{call} -o out"));
        assert_eq!(run.code, 2, "{call}: {}", run.stdout);
        assert!(run.stderr.contains(told), "{call}: {}", run.stderr);
        assert!(!place.path("out").exists(), "{call}");
    }
}

#[test]
fn columns_a_trial_and_an_identifier_in_every_command() {
    let place = Place::with_demo();
    let before = place.tree(".").len();
    for call in [
        "clean",
        "check",
        "split",
        "dedupe",
        "survey --show finding=double-dot",
        "extract",
        "extract --row-per-address",
        "survey",
    ] {
        let place_of = if call == "clean" { "out" } else { "out.csv" };
        let columns = if call == "extract" { "address,line" } else { "member_no=No,email" };
        let columns =
            if call == "survey" { String::new() } else { format!("--columns {columns} -o {place_of}") };
        let run = place.run(&format!("{call} members.csv --first 7 --id member_no {columns}"));
        assert_eq!(run.code, 0, "{call}: {}", run.stderr);
        assert_eq!(place.tree(".").len(), before, "{call}: nothing is written");
        let shown = if call == "extract" { "address  " } else { "No" };
        assert!(call == "survey" || run.stdout.contains(shown), "{call}: {}", run.stdout);
        assert!(call == "survey" || run.stdout.contains("nothing was written"), "{call}: {}", run.stdout);
    }
    let run = place.run("check members.csv --columns yp_verdict=Verdict,member_no --id member_no -o out.csv");
    assert!(run.stdout.contains("(FH-1003): @hillside-optics.example"), "{}", run.stdout);
    let out = place.read("out.csv");
    let rows = table(&out);
    assert_eq!([&*rows[0]["Verdict"], &*rows[1]["member_no"]], ["reject", "FH-1002"]);
    assert_eq!(out.lines().count(), 507);
    let run = place.run("clean members.csv --columns member_no,yp_same_as --id member_no -o cleaned --full");
    assert!(run.stdout.contains("(FH-1003): @hillside"), "{}", run.stdout);
    for row in table(&place.read("cleaned/duplicates.csv")) {
        assert!(row["yp_same_as"].starts_with("FH-"), "a record is named by what tells it apart: {row:?}");
    }
    let run = place.run("dedupe members.csv --id member_no --groups groups.csv --columns member_no,yp_same_as -o unique.csv --dropped dropped.csv");
    assert!(run.stdout.contains(" FH-"), "{}", run.stdout);
    assert!(table(&place.read("dropped.csv")).iter().all(|row| row["yp_same_as"].starts_with("FH-")));
    assert!(table(&place.read("groups.csv")).iter().all(|row| row["id"].starts_with("FH-")));
    assert!(place.read("unique.csv").replace('\r', "").starts_with("member_no\nFH-1001\n"));
    place.run("extract members.csv --id member_no --columns address=Address,id -o found.csv");
    assert!(place.read("found.csv").starts_with("Address,id\nstarg.azerobservatory83@gmail.com,FH-1001\n"));
}

#[test]
fn the_demo_becomes_a_mail_merge() {
    let place = Place::with_demo();
    let run = place.run(
        "split members.csv --title-case name --parts first-name=First,last-name=Last,name-confidence --id member_no -o merge.csv",
    );
    insta::assert_snapshot!("mail_merge", run.stdout);
    let run = place.run("split loans.csv --cut loan␣at␣/:␣2␣as␣number,␣last␣as␣copy --title-case borrower --sort-by number --first 64");
    insta::assert_snapshot!("loans", run.stdout);
    for threads in ["1", "3"] {
        let run = place.run(&format!(
            "split members.csv --parts domain,last-name --threads {threads} --chunk-bytes 300"
        ));
        assert_eq!(run.stdout, place.run("split members.csv --parts domain,last-name").stdout);
    }
}

/// Cuts take parts of the address and columns of earlier cuts, several fields at once; what is put together leaves out texts beside what is
/// empty, and sees proper capitals.
#[test]
fn cuts_of_cuts_and_columns_put_together() {
    let list = "given,middle,family,email,home,work\n\
        ada,M.,lovell,ada.lovell+news@fernhollow.org,030-11,040-22\n\
        zoë,,o'neil,none,\"01 2\t3\",x\n\
        ,,frost,wren-frost@marshmill.org,,\n";
    let place = Place::with(&[("list.csv", list.as_bytes())]);
    let words = [
        "split",
        "list.csv",
        "--field",
        "email",
        "-q",
        "--cut",
        "local-part at + or .: 1 as first part, last as tag part",
        "--cut",
        "\"first part\" at -: 1 as \"before hyphen\"",
        "--cut",
        "home, work at -: 1 as area, 2 as number",
        "--cut",
        "home at space or tab: last as last",
        "--compose",
        "Whole name = given \" \" middle \" \" family",
        "--compose",
        "Label=\"M: \"field \"Whole name\" \" (\" domain \")\"",
        "--title-case",
        "given",
        "--title-case",
        "Whole name",
        "--columns",
        "given,first part,before hyphen,tag part,home area,work number,last,Whole name,Label",
    ];
    let run = place.run_words(&words, Vec::new());
    assert_eq!(run.code, 0, "{}", run.stderr);
    assert_eq!(
        run.stdout,
        "given,first part,before hyphen,tag part,home area,work number,last,Whole name,Label\n\
         Ada,ada,,news,030,22,,Ada M. Lovell,M: Ada M. Lovell (fernhollow.org)\n\
         Zoë,,,,,,3,Zoë O'Neil,M: Zoë O'Neil\n\
         ,,,,,,,Frost,M: Frost (marshmill.org)\n"
    );
    let told =
        place.run_words(&[&words[..4], &["--json", "-o", "out.csv"], &words[5..13]].concat(), Vec::new());
    let told: serde_json::Value = serde_json::from_str(&told.stdout).unwrap();
    let misses: Vec<(String, u64)> = told["cuts"]
        .as_array()
        .unwrap()
        .iter()
        .map(|cut| (cut["field"].as_str().unwrap().to_owned(), cut["did_not_fit"].as_u64().unwrap()))
        .collect();
    let expected = [("local-part", 1), ("first part", 1), ("home", 1), ("work", 1), ("home", 1)];
    assert_eq!(misses, expected.map(|(field, misses)| (field.to_owned(), misses)));
}
