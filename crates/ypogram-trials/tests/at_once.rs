//! Eight runs at once: no entry is lost, and no result is a mixture.

use std::collections::BTreeSet;
use std::path::Path;
use std::process::{Child, Command, Stdio};

use ypogram_trials::{Draw, cases, files, program, run, said};

const RUNS: usize = 8;

fn start(folder: &Path, call: &str) -> Child {
    let mut command = Command::new(program());
    command.args(call.split_whitespace()).current_dir(folder);
    command.stdin(Stdio::null()).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap()
}

fn all_done(children: Vec<Child>, call: &str) {
    for child in children {
        let output = child.wait_with_output().unwrap();
        assert!(matches!(output.status.code(), Some(0 | 1)), "{call}: {}", said(&output));
    }
}

#[test]
fn no_entry_is_lost() {
    for round in 0..cases(4) {
        let folder = tempfile::tempdir().unwrap();
        std::fs::write(folder.path().join("own.txt"), "kept.example\ngone.example\n").unwrap();
        let adds = (0..RUNS).map(|nth| {
            let entries: Vec<String> = (0..10).map(|entry| format!("d{nth}x{entry}.example")).collect();
            start(folder.path(), &format!("lists add own.txt {}", entries.join(" ")))
        });
        let mut children: Vec<Child> = adds.collect();
        children.push(start(folder.path(), "lists remove own.txt gone.example"));
        all_done(children, "lists add");
        let text = std::fs::read_to_string(folder.path().join("own.txt")).unwrap();
        let entries: BTreeSet<&str> = text.lines().collect();
        let added = (0..RUNS).flat_map(|nth| (0..10).map(move |entry| format!("d{nth}x{entry}.example")));
        let missing: Vec<String> = added.filter(|entry| !entries.contains(&**entry)).collect();
        assert!(missing.is_empty() && entries.contains("kept.example"), "{round}: {missing:?}");
        assert!(!entries.contains("gone.example"), "{round}");
    }
}

#[test]
fn no_result_is_a_mixture() {
    for round in 0..cases(12) {
        let mut draw = Draw::new(round);
        // Runs over short lists end in the same moment, so that each finds the folder that another just made.
        let most = if round % 3 == 0 { 3000 } else { 30 };
        let folder = tempfile::tempdir().unwrap();
        // Each list is distinguished by its note.
        for nth in 0..RUNS {
            let rows: String = (0..20 + draw.below(most))
                .map(|row| match row % 5 {
                    0 => format!("broken@@{row},{nth}\n"),
                    1 => format!(",{nth}\n"),
                    _ => format!("ada{}@h-works.org,{nth}\n", row / 2),
                })
                .collect();
            std::fs::write(folder.path().join(format!("list{nth}.csv")), format!("email,note\n{rows}"))
                .unwrap();
        }
        for call in ["clean LIST -o out --force", "check LIST -o rows.csv --force"] {
            let runs =
                (0..RUNS).map(|nth| start(folder.path(), &call.replace("LIST", &format!("list{nth}.csv"))));
            all_done(runs.collect(), call);
        }
        let whole = files(folder.path());
        let notes = |bytes: &[u8]| -> BTreeSet<String> {
            let mut reader = csv::ReaderBuilder::new().flexible(true).from_reader(bytes);
            reader.records().map(|row| row.unwrap()[1].to_owned()).collect()
        };
        let written: BTreeSet<String> = whole
            .iter()
            .filter(|(path, _)| {
                path.starts_with(folder.path().join("out")) && path.extension().is_some_and(|e| e == "csv")
            })
            .flat_map(|(_, bytes)| notes(bytes))
            .collect();
        assert_eq!(written.len(), 1, "{round}: out is of {written:?}");
        assert_eq!(notes(&whole[&folder.path().join("rows.csv")]).len(), 1, "{round}");
        assert!(
            !whole.keys().any(|path| path.to_string_lossy().contains("partial")),
            "{round}: {:?}",
            whole.keys()
        );
        // And it is that of a run alone.
        let nth = written.first().unwrap();
        let alone = run(folder.path(), &format!("clean list{nth}.csv -o alone"));
        assert!(matches!(alone.status.code(), Some(0 | 1)), "{}", said(&alone));
        for name in ["kept.csv", "rejected.csv", "no-address.csv", "duplicates.csv"] {
            let read = |folder_name: &str| whole.get(&folder.path().join(folder_name).join(name)).cloned();
            let alone = std::fs::read(folder.path().join("alone").join(name)).ok();
            assert_eq!(read("out"), alone, "{round}: {name}");
        }
    }
}

#[test]
fn every_mailbox_is_admitted_exactly_once() {
    for round in 0..cases(3) {
        let mut draw = Draw::new(round);
        let folder = tempfile::tempdir().unwrap();
        let mut all = BTreeSet::new();
        for nth in 0..RUNS {
            let addresses: Vec<String> =
                (0..300).map(|_| format!("guest{}@h-works.org", draw.below(900))).collect();
            std::fs::write(folder.path().join(format!("list{nth}.txt")), addresses.join("\n") + "\n")
                .unwrap();
            all.extend(addresses);
        }
        let made = run(folder.path(), "register new all.register");
        assert_eq!(made.status.code(), Some(0), "{}", said(&made));
        let adds = (0..RUNS)
            .map(|nth| start(folder.path(), &format!("register add all.register list{nth}.txt --json")));
        let mut admitted = 0;
        for child in adds.collect::<Vec<_>>() {
            let output = child.wait_with_output().unwrap();
            assert_eq!(output.status.code(), Some(0), "{round}: {}", said(&output));
            let report: serde_json::Value = serde_json::from_slice(&output.stdout).unwrap();
            admitted += report["counts"]["answers"]["admitted"].as_u64().unwrap();
        }
        assert_eq!(admitted, all.len() as u64, "{round}");
        let list = run(folder.path(), "register list all.register");
        let listed: BTreeSet<String> = String::from_utf8(list.stdout)
            .unwrap()
            .lines()
            .skip(1)
            .map(|row| row.split(',').next().unwrap().to_owned())
            .collect();
        assert_eq!(listed, all, "{round}");
        let verified = run(folder.path(), "register verify all.register");
        assert_eq!(verified.status.code(), Some(0), "{}", said(&verified));
    }
}
