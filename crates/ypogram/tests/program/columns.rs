//! Which columns come out and in which order the rows: names with commas, columns left out, sorting in every command.

use crate::{Place, table};

const LIST: &str = "id,\"last, first\",joined,email\n\
    1,Ärger,12/31/2020,ada@h-works.org\n\
    2,Zeno,03/04/2021,bea@h-works.org\n\
    3,Arger,,ada@h-works.org\n\
    4,ash,01/02/2019,cleo@h-works.org\n\
    5,Asche,11/30/2018,dara..x@h-works.org\n";

fn ids(text: &str) -> String {
    table(text).iter().map(|row| row["id"].clone()).collect::<Vec<_>>().join(" ")
}

#[test]
fn every_writing_command_sorts() {
    let place = Place::with(&[("list.csv", LIST.as_bytes())]);
    let sort = |by: &'static str| ["--sort-by", by, "--field", "email", "-q", "-o"];
    for (by, order) in [
        ("\"last, first\"", "3 1 5 4 2"),
        ("-\"last, first\"", "2 4 5 1 3"),
        ("joined", "5 4 1 2 3"),
        ("-joined,id", "2 1 4 5 3"),
        ("id", "1 2 3 4 5"),
    ] {
        for command in
            [&["check"][..], &["split"], &["dedupe", "--mark"], &["survey", "--show", "field=id,filled=yes"]]
        {
            for memory in ["1G", "1"] {
                let words = [
                    &command[..1],
                    &["list.csv"],
                    &command[1..],
                    &["--memory", memory],
                    &sort(by),
                    &["out.csv", "--force"],
                ];
                let run = place.run_words(&words.concat(), "");
                assert_eq!(run.code, 0, "{words:?}: {}", run.stderr);
                assert_eq!(ids(&place.read("out.csv")), order, "{words:?}");
            }
        }
    }
    // Each file of its own is sorted.
    let words = [&["clean", "list.csv", "--memory", "1"], &sort("-id")[..], &["out"]].concat();
    assert_eq!(place.run_words(&words, "").code, 0);
    assert_eq!(ids(&place.read("out/kept.csv")), "4 2 1");
    let extracted = place.run("extract list.csv --sort-by -address -q").stdout;
    let addresses: Vec<String> = table(&extracted).iter().map(|row| row["address"].clone()).collect();
    assert!(addresses.is_sorted_by(|one, next| one >= next) && addresses.len() == 4, "{addresses:?}");
    let run = place.run("check list.csv --sort-by no-such -o -");
    assert_eq!((run.code, run.stderr.contains("no column ‘no-such’")), (2, true), "{}", run.stderr);
}

#[test]
fn dates_are_read_as_they_are_meant() {
    let list = |dates: [&str; 3]| {
        let rows = dates.iter().enumerate().map(|(nr, date)| format!("{nr},ada@h-works.org,{date}\n"));
        format!("id,email,joined\n{}", rows.collect::<String>())
    };
    for (dates, newest, told) in [
        (
            ["03/04/2021", "02/05/2021", "12/31/2020"],
            "0",
            "dates in joined have the month first: some of them allow nothing else",
        ),
        (["03/04/2021", "02/05/2021", "31/12/2020"], "1", ""),
        (["03/04/2021", "02/05/2021", "01/01/2020"], "1", "2 dates could be read with day or month first"),
        (["12/31/2020", "02/05/2021", "31/12/2019"], "1", "dates in joined come in both orders"),
    ] {
        let place = Place::with(&[("list.csv", list(dates).as_bytes())]);
        let run = place.run("dedupe list.csv --survivor newest:joined -o out.csv");
        assert_eq!(
            (run.code, ids(&place.read("out.csv"))),
            (0, newest.to_owned()),
            "{dates:?}: {}",
            run.stderr
        );
        let noted = run.stdout.replace("\n    ", " ");
        assert!(noted.contains(told), "{dates:?}: {told}: {noted}");
        assert_eq!(noted.contains("dates"), !told.is_empty(), "{dates:?}: {noted}");
        let sorted = place.run("check list.csv --sort-by -joined -o out.csv --force");
        assert!(ids(&place.read("out.csv")).starts_with(newest), "{dates:?}");
        let undecided = told.starts_with("2 dates");
        let told = if undecided { "none of them tells: the day was taken to come first" } else { told };
        assert!(sorted.stdout.replace("\n    ", " ").contains(told), "{dates:?}: {}", sorted.stdout);
    }
}

#[test]
fn columns_are_named_as_in_csv_and_left_out() {
    let place = Place::with(&[("list.csv", LIST.as_bytes())]);
    for (columns, header) in [
        ("\"last, first\",id=\"No, short\"", "\"last, first\",\"No, short\""),
        ("\"last, first\"=Name,yp_verdict", "Name,yp_verdict"),
    ] {
        let run = place.run_words(&["check", "list.csv", "--columns", columns, "-o", "-", "-q"], "");
        assert_eq!(run.stdout.lines().next(), Some(header), "{columns}: {}", run.stderr);
    }
    let all = place.run("check list.csv -o - -q").stdout;
    let names = |text: &str| -> Vec<String> {
        let mut reader = csv::Reader::from_reader(text.as_bytes());
        reader.headers().unwrap().iter().map(str::to_owned).collect()
    };
    let left = ["last, first", "joined", "yp_key"];
    let run = place.run_words(
        &["check", "list.csv", "--columns", "-\"last, first\",-joined,-yp_key", "-o", "-", "-q"],
        "",
    );
    let expected: Vec<String> = names(&all).into_iter().filter(|name| !left.contains(&&**name)).collect();
    assert_eq!(names(&run.stdout), expected, "{}", run.stderr);
    for (columns, told) in
        [("id,-joined", "others to be left out"), ("-", "names no column"), ("-joind", "no column ‘joind’")]
    {
        let run = place.run_words(&["check", "list.csv", "--columns", columns], "");
        assert_eq!((run.code, run.stderr.contains(told)), (2, true), "{columns}: {}", run.stderr);
    }
}
