//! What holds for every command that reads a table, however the table is dressed.

use serde_json::Value;

use crate::extract::{gzip, utf16};
use crate::{Place, Run};

const LIST: &str = "id,email,notes,joined\n\
    1,Ada@H-Works.org,\"said \"\"yes\"\", twice\",2024-01-02\n\
    2,ada@h-works.org,,2025-01-02\n\
    3,\"Bea <bea@h-works.org>\",\"two\nlines\",2023-05-06\n\
    4,cleo@@h-works.org,,\n\
    5,,dara@h-works.org,2022-02-02\n\
    6,josé@gmail.com,ü,2021-01-01\n";

const COMMANDS: [(&str, &str); 6] = [
    ("survey", "survey SOURCE --field email --json"),
    ("extract", "extract SOURCE --row-per-address --json -o rows.csv --force"),
    ("check", "check SOURCE --field email --json -o rows.csv --force"),
    ("dedupe", "dedupe SOURCE --field email --json -o rows.csv --force"),
    ("clean", "clean SOURCE --field email --also notes --json -o out --force"),
    ("split", "split SOURCE --field email --parts domain,last-name --json -o rows.csv --force"),
];

fn json(run: &Run) -> Value {
    serde_json::from_str(&run.stdout).unwrap_or_else(|error| panic!("{error}: {}{}", run.stdout, run.stderr))
}

/// Leaves out what has to differ between two dresses of a table: names, hashes and how the format is called.
fn bare(mut told: Value) -> Value {
    for name in ["sources", "folder", "how", "outputs"] {
        told.as_object_mut().unwrap().remove(name);
    }
    told
}

#[test]
fn a_table_counts_the_same_however_it_is_dressed() {
    let separated_by = |delimiter: u8| {
        let mut writer = csv::WriterBuilder::new().delimiter(delimiter).from_writer(Vec::new());
        let mut reader = csv::ReaderBuilder::new().has_headers(false).from_reader(LIST.as_bytes());
        reader.records().for_each(|record| writer.write_record(&record.unwrap()).unwrap());
        writer.into_inner().unwrap()
    };
    let (first, second) = LIST.as_bytes().split_at(LIST.len() / 2);
    let dresses: [(&str, Vec<u8>); 9] = [
        ("plain.csv", LIST.into()),
        ("marked.csv", [b"\xEF\xBB\xBF", LIST.as_bytes()].concat()),
        ("dos.csv", LIST.replace('\n', "\r\n").into()),
        ("cut-short.csv", LIST.trim_end().into()),
        ("semicolons.csv", separated_by(b';')),
        ("tabs.tsv", separated_by(b'\t')),
        ("wide.csv", utf16(LIST)),
        ("packed.csv.gz", gzip(LIST.as_bytes())),
        ("two-members.csv.gz", [gzip(first), gzip(second)].concat()),
    ];
    let place = Place::with(&[]);
    for (name, bytes) in &dresses {
        std::fs::write(place.path(name), bytes).unwrap();
    }
    for (command, call) in COMMANDS {
        let mut plain = None;
        for (name, _) in &dresses {
            let run = place.run(&call.replace("SOURCE", name));
            assert_eq!(run.code, 0, "{command} {name}: {}", run.stderr);
            let told = json(&run);
            let source = &told["sources"][0];
            assert_eq!(source["name"], *name, "{command}");
            assert_eq!(source["bytes"], place.bytes(name).len() as u64, "{command} {name}: as it lies there");
            let mut told = bare(told);
            // Line ends inside of cells count as characters.
            for field in told.get_mut("fields").and_then(Value::as_array_mut).into_iter().flatten() {
                field
                    .as_object_mut()
                    .unwrap()
                    .retain(|name, _| ["name", "filled", "distinct"].contains(&&**name));
            }
            assert_eq!(plain.get_or_insert_with(|| told.clone()), &told, "{command} {name}");
        }
    }
}

#[test]
fn quiet_says_nothing_and_threads_change_nothing() {
    let place = Place::with(&[("list.csv", LIST.repeat(40).as_bytes())]);
    for (command, call) in COMMANDS {
        let call = call.replace("SOURCE", "list.csv");
        if command != "survey" {
            let run = place.run(&call.replace("--json", "-q"));
            assert_eq!((run.code, &*run.stdout, &*run.stderr), (0, "", ""), "{command}");
        }
        let one = place.run(&format!("{call} --threads 1"));
        let outputs = || (std::fs::read(place.path("rows.csv")).ok(), place.tree("out"));
        let written = outputs();
        let many = place.run(&format!("{call} --threads 5"));
        assert_eq!(one.stdout, many.stdout, "{command}");
        assert!(written == outputs(), "{command}: the same bytes");
    }
}

/// Standard input stays open until the program is told to stop, so that it is in the midst of its work.
#[cfg(unix)]
#[test]
fn a_run_that_is_stopped_leaves_nothing_under_a_final_name() {
    use std::io::Write as _;
    use std::os::unix::process::ExitStatusExt as _;
    use std::process::{Command, Stdio};

    for (command, call) in COMMANDS.iter().filter(|(command, _)| *command != "survey") {
        for signal in ["INT", "TERM", "KILL"] {
            let place = Place::with(&[]);
            let call = format!("{} --from csv --chunk-bytes 4096", call.replace("SOURCE", "-"));
            let mut program = Command::new(assert_cmd::cargo::cargo_bin!("ypogram"))
                .args(call.split(' '))
                .current_dir(place.path(""))
                .env("TMPDIR", place.path(""))
                .stdin(Stdio::piped())
                .stdout(Stdio::null())
                .stderr(Stdio::null())
                .spawn()
                .unwrap();
            let mut input = program.stdin.take().unwrap();
            input.write_all(b"id,email,notes\n").unwrap();
            // More than a pipe holds: it has been read for the most part once this is through.
            (0..20_000).for_each(|i| writeln!(input, "{i},reader{i}@h-works.org,").unwrap());
            let sent = Command::new("kill").args(["-s", signal, &program.id().to_string()]).status().unwrap();
            assert!(sent.success());
            let status = program.wait().unwrap();
            assert!(!status.success(), "{command} {signal}: {status}");
            assert!(status.signal().is_some() || status.code() > Some(1), "{command} {signal}: {status}");
            let left: Vec<_> =
                std::fs::read_dir(place.path("")).unwrap().map(|entry| entry.unwrap().file_name()).collect();
            let finals = ["rows.csv", "kept.csv", "receipt.json"];
            let is_final = |name: &std::ffi::OsString| finals.iter().any(|final_name| name == final_name);
            assert!(
                !left.iter().any(is_final) && !place.path("out/kept.csv").exists(),
                "{command} {signal}: {left:?}"
            );
            if signal != "KILL" {
                assert!(left.is_empty(), "{command} {signal}: {left:?}");
            }
        }
    }
}
